package e2e

import (
	"flag"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"boundcrate/app/api"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words/sheet"
	"boundcrate/core/text/format/all"
)

var painted = flag.Bool("paint", false, "measure when long pages show their first screen")

// TestPaint measures when a line of 2,000 editions and a handoff sheet of 50,000 files show their first screen. It
// runs only when asked, make bench-app, and says figures instead of judging them.
func TestPaint(t *testing.T) {
	if !*painted {
		t.Skip("measured by make bench-app")
	}
	s := seal.Sheet{Name: "Fifty thousand", Made: time.Now(), Files: 50_000}
	for i := range 50_000 {
		s.Contents = append(s.Contents, seal.SheetFile{Path: fmt.Sprintf("data/sound/day %d/take %05d.wav", i%40, i), Size: int64(i) * 1000, Kind: facts.Audio, Facts: facts.Facts{Rate: 48000, Channels: 2}})
	}
	page := sheet.Page(s, nil)
	hs := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write(page)
	}))
	defer hs.Close()
	a := bare(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/a.wav": "a"})
	doc := a.path("Bench/film/cut.m3u")
	drives, err := a.store.CoreDrives()
	if err != nil {
		t.Fatal(err)
	}
	kept := line.Open(filepath.Join(a.store.Dir(), "editions"))
	for i := range 2000 {
		if err := os.WriteFile(doc, fmt.Appendf(nil, "#EXTM3U\n#%d\na.wav\n", i), 0o644); err != nil {
			t.Fatal(err)
		}
		reach := drive.Set{Drives: drives}
		g, err := trace.Run(t.Context(), trace.Options{Formats: all.Formats(), Reach: reach, Drives: drives, Root: filepath.Dir(doc)}, doc)
		if err != nil {
			t.Fatal(err)
		}
		now := line.Of(g, reach, drives, func(string, drive.Stamp) string { return "" })
		if _, err := kept.Keep(t.Context(), now, line.Request{By: line.Interval, Note: "a note of some length, as people write them", Alternative: i%50 == 7, Now: time.Now().Add(time.Duration(i-2000) * time.Minute)}); err != nil {
			t.Fatal(err)
		}
	}
	p := open(t, a)
	ask[api.Project](t, a, "POST", "/api/projects", api.NewProject{Documents: []string{doc}})
	p.visit("/p/1/trace")
	p.sees("Everything is here")
	blank := func() { // what stood there before is let go of first
		p.do(chromedp.Navigate("about:blank"))
		time.Sleep(time.Second)
	}
	for range 3 {
		blank()
		p.visit("/p/1/keep")
		p.sees("is current")
		fmt.Printf("| 2,000 editions, first contentful paint of the page | %.0f ms |\n", eval[float64](p, paint))
		fmt.Printf("| … the server's answer | %.0f ms |\n", eval[float64](p, `performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/keep'))[0]?.duration ?? -1`))
		fmt.Printf("| … its line is drawn, at the latest | %.0f ms |\n", eval[float64](p, `performance.now()`))
	}
	p.app.url = hs.URL
	for range 3 {
		blank()
		p.visit("/")
		p.sees("Fifty thousand")
		fmt.Printf("| sheet of 50,000 files, first contentful paint | %.0f ms |\n", eval[float64](p, paint))
	}
}

// paint is when something of the page was painted first, in ms from its request.
const paint = `performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? -1`
