package e2e

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"encoding/json"
	"flag"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"boundcrate/app/api"
)

var (
	scaled  = flag.Int("refs", 0, "how many references the project has that is measured")
	lacking = flag.Int("missing", 0, "how many of its files lie elsewhere")
)

// TestScale measures the application on a project of any size, in the real browser before the
// real program. It runs only when asked, make bench-app, and says figures instead of judging them.
func TestScale(t *testing.T) {
	if *scaled == 0 {
		t.Skip("measured by make bench-app")
	}
	dir := t.TempDir()
	doc := large(t, dir, *scaled, *lacking)
	a, pid := program(t, dir)
	took := func(what string, since time.Time) {
		fmt.Printf("| %s | %s |\n", what, time.Since(since).Round(time.Millisecond))
	}
	fmt.Printf("\n| %d references, %d missing | |\n|---|---|\n", *scaled, *lacking)
	run := exec.Command("../bin/boundcrate", "trace", "--json", "--data", filepath.Join(dir, "other"), "--drive", "Bench="+filepath.Join(dir, "bench"), doc)
	began := time.Now()
	_ = run.Run() // what is missing makes its status 1
	took("`trace` on the command line", began)

	p := open(t, a) // how long a browser takes to start is not counted
	patience = time.Minute + time.Duration(*scaled/500)*time.Second
	p.visit("/")
	began = time.Now()
	made := ask[api.Project](t, a, "POST", "/api/projects", api.NewProject{Documents: []string{doc}})
	p.visit(fmt.Sprintf("/p/%d/trace", made.ID))
	p.until("for rows", rows("References")+" > 0")
	took("open → rows", began)
	settle := p.quiet
	if *scaled <= 100_000 {
		p.quiet()
		took("open → remembered", began)
	} else {
		settle = func() { time.Sleep(5 * time.Second) } // contents are read for long; what follows is measured meanwhile
	}
	fmt.Printf("| server after opening | %d MB |\n", resident(t, pid))

	// The last letter of a filter that is typed.
	p.write("Filter References", "clip 00001")
	p.until("for the filter", fmt.Sprintf("%s > 0 && %s < %d", rows("References"), rows("References"), *scaled/4))
	settle()
	many := eval[int](p, rows("References"))
	began = time.Now()
	p.do(chromedp.KeyEvent("2"))
	p.until("for the filter", fmt.Sprintf("%s > 0 && %s < %d", rows("References"), rows("References"), many))
	took("filter: a letter → rows", began)
	began = time.Now()
	p.station("Sift")
	p.sees("travel")
	took("Sift opens", began)
	settle()
	p.press("main button", "switches")
	p.sees("Inactive")
	was := eval[string](p, "document.querySelector('main p').innerText")
	began = time.Now()
	p.press(`[aria-label="Sound"] button`, "stays")
	p.until("for the sums", fmt.Sprintf("document.querySelector('main p').innerText !== %q", was))
	took("toggle in Sift → sums", began)
	p.press(`[aria-label="Sound"] button`, "travels")
	settle()

	p.station("Stow")
	p.sees("Folders")
	settle()
	began = time.Now()
	p.press("[role=radio]", "one folder")
	p.until("for one folder", `document.querySelectorAll('[aria-label="Folders of the crate"] li').length <= 2`)
	took("layout → folders", began)
	settle()

	began = time.Now()
	p.station("Seal")
	p.sees(" free")
	took("Seal opens", began)
	fmt.Printf("| nodes of Seal's page | %d |\n", eval[int](p, "document.querySelectorAll('*').length"))

	p.station("Mend")
	p.sees("Where should Bound Crate search?")
	p.lookIn("Bench")
	began = time.Now()
	p.click("Search these folders")
	p.sees("files searched")
	settle()
	took("Mend: look for all", began)
	const mended = `document.querySelector('[aria-label="Repairs"] h3') !== null`
	if *lacking > 0 {
		group := eval[string](p, "[...document.querySelectorAll('main button')].find((b) => b.innerText.startsWith('Relink all')).innerText")
		began = time.Now()
		p.press("main button", "Relink all")
		p.until("for the repairs", mended)
		took(group+" → repairs", began)
		settle()
		began = time.Now()
		p.click("Undo")
		p.until("for none", "!("+mended+")")
		took("undo of it", began)
		settle()
		began = time.Now()
		p.click("Redo")
		p.until("for the repairs", mended)
		took("redo of it", began)
		settle()
		began = time.Now()
		p.press("main button", "Write to")
		p.sees("lines?")
		took("the dialog before writing", began)
	}
	fmt.Printf("| server at the end | %d MB |\n", resident(t, pid))
}

// ask sends a request to the served application.
func ask[T any](t *testing.T, a served, method, path string, in any) (out T) {
	t.Helper()
	b, err := json.Marshal(in)
	if err != nil {
		t.Fatal(err)
	}
	r, err := http.NewRequest(method, a.url+path, bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	if err := json.NewDecoder(resp.Body).Decode(&out); err != nil || resp.StatusCode/100 != 2 {
		t.Fatal(resp.Status, err)
	}
	return out
}

// quiet waits until no work is running for a while.
func (p *page) quiet() {
	p.t.Helper()
	for n := 0; n < 8; {
		p.idle()
		time.Sleep(100 * time.Millisecond)
		if n++; !eval[bool](p, `!document.querySelector('footer [role=progressbar]')`) {
			n = 0
		}
	}
}

// large writes a timeline of many references: half as many sounds, some of which lie in another
// folder of the drive than it names.
func large(t *testing.T, dir string, refs, missing int) (doc string) {
	t.Helper()
	film := filepath.Join(dir, "bench", "film")
	files := refs / 2
	for i := range files {
		at := filepath.Join(film, "sound", fmt.Sprintf("s%04d", i/500))
		if i < missing {
			at = filepath.Join(dir, "bench", "elsewhere", fmt.Sprintf("s%04d", i/500))
		}
		if i%500 == 0 || i == missing {
			if err := os.MkdirAll(at, 0o755); err != nil {
				t.Fatal(err)
			}
		}
		if err := os.WriteFile(filepath.Join(at, fmt.Sprintf("clip %06d.wav", i)), tone(i), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	doc = filepath.Join(film, "cut.otio")
	f, err := os.Create(doc)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	w := bufio.NewWriter(f)
	defer w.Flush()
	fmt.Fprint(w, `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[`)
	for i := range refs {
		if i > 0 {
			fmt.Fprint(w, ",") // on one line, as some programs write
		}
		n := i / 2
		fmt.Fprint(w, clipOf(fmt.Sprintf("clip %d", i), fmt.Sprintf("sound/s%04d/clip%%20%06d.wav", n/500, n), ""))
	}
	fmt.Fprint(w, `]}]}}`)
	return doc
}

// tone is half a second of a sound of its own: 8 bits, mono, 2 kHz.
func tone(n int) []byte {
	const samples = 1000
	b := []byte("RIFF\x00\x00\x00\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00\xd0\x07\x00\x00\xd0\x07\x00\x00\x01\x00\x08\x00data")
	b = binary.LittleEndian.AppendUint32(b, samples)
	for i := range samples {
		b = append(b, byte(128+(i*(7+n%13)+n)%90))
	}
	binary.LittleEndian.PutUint32(b[4:], uint32(len(b)-8))
	return b
}

// program serves a drive by the real program.
func program(t *testing.T, dir string) (served, int) {
	t.Helper()
	c := exec.Command("../bin/boundcrate", "serve", "--data", filepath.Join(dir, "data"), "--addr", "127.0.0.1:0", "--drive", "Bench="+filepath.Join(dir, "bench"))
	c.Stderr = os.Stderr
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	return served{url: strings.TrimSpace(line[strings.Index(line, "http"):]), dir: dir}, c.Process.Pid
}

// resident is the memory of a process, in MB; 0 where the system does not tell.
func resident(t *testing.T, pid int) int {
	t.Helper()
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(b)) {
		if rest, ok := strings.CutPrefix(line, "VmRSS:"); ok {
			kb, _ := strconv.Atoi(strings.Fields(rest)[0])
			return kb / 1000
		}
	}
	return 0
}
