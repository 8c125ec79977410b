package server_test

import (
	"database/sql"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/places"
	"boundcrate/app/api/tracing"
	"boundcrate/demo"
	"boundcrate/store"
)

// These benchmarks ask the running application, over HTTP, for what pages ask.

// BenchmarkSearch looks for 4,000 missing files among 200,000, over an index
// that was made a moment before.
func BenchmarkSearch(b *testing.B) {
	names := make([]string, 4000)
	for i := range names {
		names[i] = fmt.Sprintf("lost/take %06d.wav", 50*i)
	}
	c := start(b, map[string]string{"p/cut.m3u": "#EXTM3U\n" + strings.Join(names, "\n")})
	for n := range 200_000 {
		dir := fmt.Sprintf("%s/tree/s%04d", c.dir, n/100)
		if n%100 == 0 {
			if err := os.MkdirAll(dir, 0o755); err != nil {
				b.Fatal(err)
			}
		}
		if err := os.WriteFile(fmt.Sprintf("%s/take %06d.wav", dir, n), nil, 0o644); err != nil {
			b.Fatal(err)
		}
	}
	id := c.open("p/cut.m3u").ID
	search := func() {
		c.wait(send[api.Started](c, "POST", fmt.Sprintf("/api/projects/%d/search", id), mending.Search{Folders: []string{filepath.Join(c.dir, "tree")}}).Job.ID)
	}
	search() // makes the index
	for b.Loop() {
		search()
	}
	if m := get[mending.Mend](c, fmt.Sprintf("/api/projects/%d/mend", id)); m.Searched != 200_000 || m.Looked != 4000 {
		b.Fatalf("%d searched, %d looked for", m.Searched, m.Looked)
	}
}

// BenchmarkSlip asks for the slip of a file 4,000 documents deep.
func BenchmarkSlip(b *testing.B) {
	files := map[string]string{}
	for i := range 4000 {
		files[fmt.Sprintf("p/d%04d.m3u", i)] = fmt.Sprintf("#EXTM3U\nd%04d.m3u\n", i+1)
	}
	files["p/d4000.m3u"] = "#EXTM3U\nlast.wav\n"
	c := start(b, files)
	id := c.open("p/d0000.m3u").ID
	row := get[api.Stretch](c, fmt.Sprintf("/api/projects/%d/tables/files/stretch?filter=last.wav", id))
	if row.Rows != 1 {
		b.Fatal(row)
	}
	path := fmt.Sprintf("/api/projects/%d/slip?key=%s", id, url.QueryEscape(row.Head))
	for b.Loop() {
		get[tracing.Slip](c, path)
	}
}

// BenchmarkOpenProject opens a project of 400,000 references and tells what it
// holds in memory.
func BenchmarkOpenProject(b *testing.B) {
	var doc strings.Builder
	doc.WriteString(`{"OTIO_SCHEMA":"Track.1","name":"V","children":[{"OTIO_SCHEMA":"Gap.1"}`)
	for i := range 400_000 {
		fmt.Fprintf(&doc, `,{"OTIO_SCHEMA":"Clip.1","name":"c%d","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/take%%20%d.wav"}}`, i, i%5000)
	}
	files := map[string]string{"p/big.otio": doc.String() + "]}"}
	for i := range 5000 {
		files[fmt.Sprintf("p/media/take %d.wav", i)] = "x"
	}
	c := start(b, files)
	doc.Reset()
	files = nil
	heap := func() float64 {
		runtime.GC()
		runtime.GC()
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return float64(m.HeapAlloc) / 1e6
	}
	before := heap()
	var id int64
	for b.Loop() {
		id = c.open("p/big.otio").ID
		get[tracing.Files](c, fmt.Sprintf("/api/projects/%d/tables/files?limit=100", id))
		get[packing.Stow](c, fmt.Sprintf("/api/projects/%d/stow", id))
		b.ReportMetric(heap()-before, "MB/held")
	}
	began := time.Now()
	get[tracing.Files](c, fmt.Sprintf("/api/projects/%d/tables/files?limit=100&sort=-uses&filter=take&group=none", id))
	b.ReportMetric(float64(time.Since(began).Microseconds())/1000, "ms/page")
}

// BenchmarkSpread tells where 50,000 files lie, as the picture asks for it.
func BenchmarkSpread(b *testing.B) {
	files := map[string]string{}
	var doc strings.Builder
	doc.WriteString(`{"OTIO_SCHEMA":"Track.1","name":"V","children":[{"OTIO_SCHEMA":"Gap.1"}`)
	for i := range 50_000 {
		p := fmt.Sprintf("media/day %d/reel %d/take %d.wav", i%40, i%400, i)
		files["p/"+p] = "x"
		fmt.Fprintf(&doc, `,{"OTIO_SCHEMA":"Clip.1","name":"c%d","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"%s"}}`, i, strings.ReplaceAll(p, " ", "%20"))
	}
	files["p/big.otio"] = doc.String() + "]}"
	c := start(b, files)
	began := time.Now()
	id := c.open("p/big.otio").ID
	opened := time.Since(began)
	path := fmt.Sprintf("/api/projects/%d/spread", id)
	began = time.Now()
	get[places.Spread](c, path)
	first := time.Since(began)
	for b.Loop() {
		get[places.Spread](c, path)
	}
	b.ReportMetric(opened.Seconds(), "s/open")
	b.ReportMetric(float64(first.Microseconds())/1000, "ms/first")
}

// BenchmarkClients has 32 clients ask everything there is to ask, at once, of the sample world;
// a round is every address asked once by each. It tells how long 99 of 100 answers take.
func BenchmarkClients(b *testing.B) {
	dir := b.TempDir()
	if err := demo.Write(b.Context(), dir); err != nil {
		b.Fatal(err)
	}
	s, err := store.Open(demo.DataDir(dir))
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { s.Close() })
	c := (&client{t: b, dir: filepath.Join(dir, "drives", "Bench"), store: s}).anew()
	p := c.open("tide-clock/film/cut-04.otio")
	c.snapshotSettled(fmt.Sprintf("/api/projects/%d", p.ID))
	list := c.every(p, filepath.Join(c.dir, "tide-clock/film/sound/clock tick.wav"))
	var mu sync.Mutex
	took := map[string][]time.Duration{}
	for b.Loop() {
		var wg sync.WaitGroup
		for n := range 32 {
			wg.Go(func() {
				for k := range list {
					at := list[(k+n*7)%len(list)]
					began := time.Now()
					resp, err := http.Get(c.url + at)
					if err != nil {
						b.Error(err)
						return
					}
					_, _ = io.Copy(io.Discard, resp.Body)
					resp.Body.Close()
					mu.Lock()
					took[at] = append(took[at], time.Since(began))
					mu.Unlock()
				}
			})
		}
		wg.Wait()
	}
	var all []time.Duration
	for at, each := range took {
		slices.Sort(each)
		all = append(all, each...)
		if slow := each[len(each)*99/100]; slow > 400*time.Millisecond {
			b.Logf("%v: %s", slow.Round(time.Millisecond), at)
		}
	}
	slices.Sort(all)
	b.ReportMetric(float64(all[len(all)*99/100].Milliseconds()), "ms-of-99-in-100")
	b.ReportMetric(float64(all[len(all)-1].Milliseconds()), "ms-at-most")
	b.ReportMetric(float64(len(all))/b.Elapsed().Seconds(), "answers/s")
}

// BenchmarkArrives puts a missing file where 50,000 references lead, and tells how long it takes
// until a page is right, and how many rows of the database came or went for it.
func BenchmarkArrives(b *testing.B) {
	files := map[string]string{}
	list := "#EXTM3U\n"
	for i := range 50_000 {
		name := fmt.Sprintf("s%03d/clip %05d.wav", i/500, i)
		list += name + "\n"
		if i > 0 {
			files["p/"+name] = fmt.Sprint(i)
		}
	}
	files["p/cut.m3u"] = list
	c := start(b, files)
	p := c.open("p/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	line, err := http.Get(c.url + "/api/events") // a page is open
	if err != nil {
		b.Fatal(err)
	}
	defer line.Body.Close()
	c.snapshotSettled(at)
	file := filepath.Join(c.dir, "p/s000/clip 00000.wav")
	db, err := sql.Open("sqlite", filepath.Join(c.store.Dir(), "boundcrate.db"))
	if err != nil {
		b.Fatal(err)
	}
	defer db.Close()
	rows, took, n := 0, time.Duration(0), 0
	for b.Loop() {
		before := everyRow(b, db)
		began := time.Now()
		if err := os.WriteFile(file, []byte("it came"), 0o644); err != nil {
			b.Fatal(err)
		}
		until(c, at, "the file", func(s tracing.Summary) bool { return s.Missing == 0 })
		took += time.Since(began)
		c.snapshotSettled(at)
		time.Sleep(4 * time.Second) // it is read once nobody writes to it any more
		c.snapshotSettled(at)
		after := everyRow(b, db)
		for r := range after {
			if !before[r] {
				rows++
			}
		}
		for r := range before {
			if !after[r] {
				rows++
			}
		}
		n++
		if err := os.Remove(file); err != nil {
			b.Fatal(err)
		}
		until(c, at, "no file", func(s tracing.Summary) bool { return s.Missing == 1 })
		c.snapshotSettled(at)
	}
	b.ReportMetric(took.Seconds()/float64(n), "s-until-right")
	b.ReportMetric(float64(rows)/float64(n), "rows")
}

// everyRow is every row of every table, as text.
func everyRow(b *testing.B, db *sql.DB) map[string]bool {
	b.Helper()
	names, err := db.Query("SELECT name FROM sqlite_master WHERE type = 'table'")
	if err != nil {
		b.Fatal(err)
	}
	var tables []string
	for names.Next() {
		var n string
		if err := names.Scan(&n); err != nil {
			b.Fatal(err)
		}
		tables = append(tables, n)
	}
	out := map[string]bool{}
	for _, t := range tables {
		rows, err := db.Query("SELECT * FROM " + t)
		if err != nil {
			b.Fatal(err)
		}
		columns, _ := rows.Columns()
		cells, at := make([]any, len(columns)), make([]any, len(columns))
		for i := range cells {
			at[i] = &cells[i]
		}
		for rows.Next() {
			if err := rows.Scan(at...); err != nil {
				b.Fatal(err)
			}
			out[fmt.Sprint(t, cells)] = true
		}
		if err := rows.Err(); err != nil {
			b.Fatal(err)
		}
	}
	return out
}
