package e2e

import (
	"encoding/base64"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/api"
)

// TestCompare: two documents side by side: what came, went and changed.
func TestCompare(t *testing.T) {
	a := bare(t, map[string]string{
		"film/one.m3u": "#EXTM3U\na.wav\nb.wav\nold/c.wav\n", "film/two.m3u": "#EXTM3U\na.wav\nnew.wav\nc.wav\n",
		"film/a.wav": "a", "film/b.wav": "bb", "film/old/c.wav": "ccc", "film/c.wav": "ccc", "film/new.wav": "nnnn",
	})
	p := open(t, a)
	p.visit("/compare?a=" + a.path("Bench/film/one.m3u"))
	p.sees("Which two?")
	p.choose("Second", filepath.Dir(a.path("Bench/film/two.m3u")))
	p.press("aside section button", "two.m3u")
	p.idle()
	p.clickIn("aside", "Compare")
	p.sees("1 file came · 1 file went · 1 file changed · 1 document changed")
	p.sees("old/c.wav → c.wav")
	p.sees("moved or renamed")
	p.sees("1 file the same")
}

// TestTakenIn: an archive that is on no drive is dropped on the window, taken in, and checked.
func TestTakenIn(t *testing.T) {
	a := bare(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/a.wav": "a"})
	out := filepath.Join(t.TempDir(), "by hand.zip")
	seal := exec.Command("../bin/boundcrate", "seal", "--data", t.TempDir(), "--out", out, a.path("Bench/film/cut.m3u"))
	if text, err := seal.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, text)
	}
	b, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	p := open(t, a)
	p.visit("/")
	p.sees("Documents that can be opened")
	p.idle()
	eval[bool](p, fmt.Sprintf(`(() => {
		const data = new DataTransfer();
		data.items.add(new File([Uint8Array.from(atob(%q), (c) => c.charCodeAt(0))], 'by hand.zip'));
		window.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }));
		return true;
	})()`, base64.StdEncoding.EncodeToString(b)))
	p.sees("Not found in the index of your drives")
	if dir := os.Getenv("E2E_PICTURES"); dir != "" {
		_ = os.WriteFile(filepath.Join(dir, "takenin.png"), p.shot(), 0o644)
	}
	p.click("Take in and receive")
	p.sees("Which crate?")
	p.clickIn("aside", "Check")
	p.sees("Undamaged and complete")
}

// TestTakenFromCrate: a crate that came back for a project that is here: what is not the same stands side by side, and
// what is chosen is taken in; the document names what the project has already.
func TestTakenFromCrate(t *testing.T) {
	a := bare(t, map[string]string{
		"film/cut.m3u": "#EXTM3U\na.wav\nb.wav\n", "film/a.wav": "a", "film/b.wav": "b",
		"theirs/cut.m3u": "#EXTM3U\na.wav\nb.wav\nmix/new.wav\n", "theirs/a.wav": "a", "theirs/b.wav": "louder", "theirs/mix/new.wav": "new",
	})
	crate := a.path("Bench/from the mixer.zip")
	seal := exec.Command("../bin/boundcrate", "seal", "--data", t.TempDir(), "--same-drive", "--out", crate, a.path("Bench/theirs/cut.m3u"))
	if text, err := seal.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, text)
	}
	ask[api.Project](t, a, "POST", "/api/projects", api.NewProject{Documents: []string{a.path("Bench/film/cut.m3u")}})
	p := open(t, a)
	p.visit("/p/1/trace")
	p.sees("Everything is here")
	p.visit("/receive?crate=" + url.QueryEscape(crate))
	p.sees("Which crate?")
	p.clickIn("aside", "Check")
	p.sees("Undamaged and complete")
	p.sees("A project here has a document of the same name: film.")
	p.click("Choose what to take into it")
	p.sees("3 files of it are not in the project, or different there; 1 is the same.")
	p.press("main label", "cut.m3u")
	p.sees("Files that the chosen documents use and the project lacks come along (1 file).")
	p.sees("1 file that the chosen documents use is different in the project and not chosen")
	p.click("Select all")
	if dir := os.Getenv("E2E_PICTURES"); dir != "" {
		_ = os.WriteFile(filepath.Join(dir, "takenfrom.png"), p.shot(), 0o644)
	}
	p.click("Take 3 files")
	p.sees("3 files taken. The state before is edition 1. What stood there is kept as Bench/film/b before")
	p.sees("Every file of it is in the project, unchanged.")
	p.idle()
	if text := string(read(t, a, "Bench/film/cut.m3u")); !strings.HasPrefix(text, "#EXTM3U\na.wav\nb.wav\n") || strings.Count(text, "\n") != 4 {
		t.Errorf("the document says %q", text)
	}
	p.click("Look at the trace")
	p.sees("Everything is here")
}

// TestOneFile: a scene is sealed into its format's own package; what such a file cannot hold is told
// before.
func TestOneFile(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/2/seal")
	p.sees("Ready to seal")
	p.idle()
	p.press("aside [role=radio], aside button", "one file (.glb)")
	p.idle()
	p.clickIn("aside", "Seal crate")
	p.sees("SHA-256 of the file")
	p.sees("Sealed and proved complete")
	crates, err := a.store.Crates(2, 1)
	if err != nil || len(crates) != 1 || filepath.Ext(crates[0].Where.Path) != ".glb" || !crates[0].Complete {
		t.Errorf("%+v %v", crates, err)
	}
	p.visit("/p/1/seal")
	p.sees("Ready to seal")
	p.idle()
	p.press("aside [role=radio], aside button", "one file (.otioz)")
	p.sees("cannot be in such a file")
}
