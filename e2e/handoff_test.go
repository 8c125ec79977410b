package e2e

import (
	"fmt"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"boundcrate/app"
	"boundcrate/app/api/tracing"
	"boundcrate/app/send"
	"boundcrate/app/send/depot"
	"boundcrate/demo"
)

// TestHandedOver: the film is sealed, three files change, a difference crate is sent through a service
// that breaks off, received on another data folder beside the first crate with its material on another
// drive, and the trace there leads to every file; its sheet prints every file once.
func TestHandedOver(t *testing.T) {
	dir, arrived := t.TempDir(), t.TempDir()
	if err := demo.Write(t.Context(), dir); err != nil {
		t.Fatal(err)
	}
	h, err := depot.New(depot.Options{Dir: arrived, FailEvery: 2e6})
	if err != nil {
		t.Fatal(err)
	}
	service := httptest.NewServer(h)
	t.Cleanup(service.Close)
	a := serving(t, dir, demo.DataDir(dir), app.Options{Demo: true, Service: service.URL + depot.Base})
	p := open(t, a)
	p.visit("/p/1/seal")
	p.sees("Ready to seal")
	p.idle()
	p.write("Recipient", "Sound desk"+enter)
	p.idle()
	p.clickIn("aside", "Seal crate")
	p.sees("Sealed, but not complete")

	// Three sounds change; sealing again says what it copies, and a difference crate holds only that.
	for _, name := range []string{"clock tick.wav", "deck steps.wav", "pump room.wav"} {
		from := find(t, filepath.Join(dir, "drives"), name)
		b, err := os.ReadFile(from)
		if err != nil {
			t.Fatal(err)
		}
		b[len(b)-1] ^= 1
		if err := os.WriteFile(from, b, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	p.visit("/p/1/seal")
	p.sees("there already")
	p.sees("3 files,")
	p.press("aside label", "only what is not in")
	p.write("Name of the crate", "film difference")
	p.clickIn("aside", "Seal again")
	p.sees("film difference")
	p.idle()
	p.until("for the sheet", `document.querySelector('main a[href="/api/projects/1/sheet"]') !== null`)

	// It is sent to a service that breaks off, and the receipt is kept.
	p.press("main summary", "Send this crate")
	p.press("main [role=radio], main button", "transfer service")
	p.press("main button", "Send")
	p.sees("received whole")
	list, err := a.store.Sendings(1, 10)
	if err != nil || len(list) != 1 || list[0].Receipt == "" || list[0].Recipient != "Sound desk" {
		t.Fatalf("%+v %v", list, err)
	}
	crates, err := a.store.Crates(1, 10)
	if err != nil || len(crates) != 2 || crates[0].Since == "" || crates[0].Bytes > crates[1].Bytes/2 {
		t.Errorf("%+v %v", crates, err)
	}
	var receipts []send.Sent
	files, _ := filepath.Glob(filepath.Join(dir, "drives", "*", "*.receipts.jsonl"))
	for _, f := range files {
		receipts = append(receipts, send.Receipts(strings.TrimSuffix(f, ".receipts.jsonl"))...)
	}
	if len(receipts) != 1 || receipts[0].Resumed < 1 {
		t.Fatalf("%+v in %v", receipts, files)
	}

	// On another machine: yesterday's crate is there, the difference arrives.
	other := t.TempDir()
	for _, d := range []string{"Desk", "Disk"} {
		if err := os.MkdirAll(filepath.Join(other, d), 0o755); err != nil {
			t.Fatal(err)
		}
	}
	whole := filepath.Join(other, "Desk", "yesterday")
	if err := os.CopyFS(whole, os.DirFS(filepath.Join(filepath.Dir(files[0]), "Tide Clock film crate"))); err != nil {
		t.Fatal(err)
	}
	came := filepath.Join(other, "Desk", "film difference.zip")
	if err := os.Rename(filepath.Join(arrived, receipts[0].Receipt.ID), came); err != nil {
		t.Fatal(err)
	}
	b := serve(t, other, filepath.Join(other, "data"), false)
	for _, d := range []string{"Desk", "Disk"} {
		if err := b.store.PutDrive(d, filepath.Join(other, d), "fixed", false); err != nil {
			t.Fatal(err)
		}
	}
	q := open(t, b)
	q.visit("/receive?crate=" + came)
	q.sees("Which crate?")
	q.clickIn("aside", "Check")
	q.sees("in the crate it builds on")
	q.choose("Unpack into", filepath.Join(other, "Desk"))
	q.choose("Sounds and pictures in another folder", filepath.Join(other, "Disk"))
	q.choose("The crate it builds on", whole)
	q.clickIn("aside", "Check and unpack")
	q.sees("Checked and unpacked")
	q.click("Open as project")
	q.sees("cut-04.otio")
	q.idle()
	got := filepath.Join(other, "Disk", "film difference")
	n := 0
	_ = filepath.WalkDir(got, func(_ string, e os.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			n++
		}
		return err
	})
	if n < 70 {
		t.Errorf("%d files are with the material", n)
	}
	// What is there is what was sent: only what the sender lacked (8 missing, 2 on a drive that was not
	// connected) is missing.
	if got := ask[tracing.Summary](t, b, "GET", "/api/projects/1", nil); got.Missing != 10 || got.Unreadable+got.Suspect > 0 || got.Files < 70 {
		t.Errorf("%+v", got.Tally)
	}

	// The sheet on paper names every file once.
	p.visit("/api/projects/1/sheet")
	paper := strings.Join(p.onPaper(), "\n")
	for _, name := range []string{"clock tick.wav", "deck steps.wav", "keeper on fog.wav", "lamp room.png", "opening.otio"} {
		if strings.Count(paper, name) != 1 {
			t.Errorf("%s is printed %d times", name, strings.Count(paper, name))
		}
	}
	for _, want := range []string{"Sound desk", "difference crate", "48 kHz, 24 bit", "1/"} {
		if !strings.Contains(paper, want) {
			t.Errorf("the sheet lacks %q:\n%.1500s", want, paper)
		}
	}
}

// find is the file of a name below a folder.
func find(t *testing.T, dir, name string) (at string) {
	t.Helper()
	_ = filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err == nil && e.Name() == name && at == "" {
			at = p
		}
		return nil
	})
	if at == "" {
		t.Fatalf("there is no %s", name)
	}
	return at
}

// choose types a path into the picker of a section, or of a folded choice, of the slip.
func (p *page) choose(section, path string) {
	p.t.Helper()
	within := fmt.Sprintf(`[...document.querySelectorAll('aside section, aside details')].find((e) => (e.querySelector('h3, summary')?.innerText ?? '').toLowerCase().startsWith(%q.toLowerCase()))`, section)
	p.until("for "+section, within+" !== undefined")
	eval[bool](p, fmt.Sprintf(`((s) => { if (s.tagName === 'DETAILS') s.open = true; return true; })(%s)`, within))
	p.until("for the picker of "+section, fmt.Sprintf(`((s) => { s.querySelector('button[aria-label$="Type a path"]')?.click(); const i = s.querySelector('input[aria-label=Path]'); document.querySelectorAll('[data-e2e]').forEach((e) => e.removeAttribute('data-e2e')); i?.setAttribute('data-e2e', '1'); i?.focus(); return i; })(%s)`, within))
	eval[bool](p, "(document.activeElement.select?.(), true)")
	p.do(chromedp.KeyEvent(path + enter))
	p.until("for the folder", fmt.Sprintf(`(%s).querySelector('button[aria-label$="Type a path"]')?.dataset.tip === %q`, within, path))
}
