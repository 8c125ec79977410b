package e2e

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// judge runs an independent program in a folder and fails on its refusal.
func judge(t *testing.T, dir string, cmd ...string) string {
	t.Helper()
	if _, err := exec.LookPath(cmd[0]); err != nil {
		t.Skipf("%s is not installed; make test installs it where it may", cmd[0])
	}
	c := exec.Command(cmd[0], cmd[1:]...)
	c.Dir = dir
	out, err := c.CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %v\n%s", cmd, err, out)
	}
	return string(out)
}

// snapshot reads all files below a folder.
func snapshot(t *testing.T, dir string) map[string]string {
	t.Helper()
	all := map[string]string{}
	err := filepath.WalkDir(dir, func(p string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		all[p] = string(b)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return all
}

// TestRoad goes the whole road: open the film, see the counts, mend, stow,
// seal, proof complete; sha256sum judges the bag. No source byte changes.
func TestRoad(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	film := snapshot(t, a.path("Bench/tide-clock/film"))

	p.visit("/")
	// The internet is away: the browser says so, and it changes nothing.
	eval[bool](p, "window.dispatchEvent(new Event('offline'))")
	p.click("Tide Clock film")
	p.sees("8 files missing (7 sounds, 1 picture)")
	p.sees("2 frames missing")
	p.sees("2 files on Shuttle, which is not connected")
	p.sees("5 files are outside this project (2 in other projects' folders, 1 in Downloads or a temporary folder)")
	p.idle()

	// Where the missing horn is asked for, and by whom.
	p.click("foghorn_low_02.wav")
	p.sees("Used 2 times, in 2 documents")
	p.sees("4,032,044 bytes")
	p.click("Find it")

	// What is certain and alone is applied, the rest asks.
	p.sees("Where should Bound Crate search?")
	p.lookIn("Bench/tide-clock", "Quay")
	p.click("Search these folders")
	p.sees("7 of 9 files found")
	p.click("gull over stern.wav")
	p.sees("one of 2 files with this content")
	p.click("stern gull 3.wav")
	p.click("Use this file")
	p.until("for the horn to be next", rows("Missing files")+` === 1 && document.querySelector('aside h2').innerText === 'foghorn_low_02.wav'`)
	p.idle()
	p.sees("content differs from when last seen")
	p.click("Use this file")
	p.sees("Nothing is missing")

	// The drive is plugged in: no search is needed for what lies on it.
	p.click("Drive Shuttle")
	p.click("Plug in")
	p.key("\x1b")
	p.station("Sift")
	p.sees("Inactive")
	p.idle()
	p.sees("90 files besides the documents")

	p.station("Stow")
	p.sees("1 file renamed because")
	p.write("Name of bell_strike_A.wav", "bell one"+enter)
	p.sees("reset")
	p.until("for the new name", `[...document.querySelectorAll('input')].some((e) => e.value === 'bell one.wav')`)

	p.station("Seal")
	p.folder(a.path("Bench"))
	p.sees("All files in use were found")
	p.write("Note", "For the mixer: horns are loud.")
	p.click("Seal crate")
	p.sees("Sealed and proved complete")
	p.sees("91 of 91")

	crate := a.path("Bench/Tide Clock film crate")
	judge(t, crate, "sha256sum", "--strict", "--quiet", "-c", "manifest-sha256.txt", "tagmanifest-sha256.txt")
	note, err := os.ReadFile(filepath.Join(crate, "READ ME.txt"))
	if err != nil || !bytes.Contains(note, []byte("horns are loud")) {
		t.Errorf("%s %v", note, err)
	}
	for _, f := range []string{"bell one.wav", "wave.wav", "wave-2.wav", "stern gull 3.wav"} {
		if _, err := os.Stat(filepath.Join(crate, "data", "audio", f)); err != nil {
			t.Error(err)
		}
	}
	for f, was := range snapshot(t, a.path("Bench/tide-clock/film")) {
		if film[f] != was {
			t.Errorf("%s was changed", f)
		}
	}

	// The archive of the same, over the browser, judged by unzip.
	p.click("ZIP")
	p.click("Seal again")
	p.sees("Bench/Tide Clock film crate.zip, ")
	p.sees("Sealed and proved complete")
	judge(t, a.path("Bench"), "unzip", "-tq", "Tide Clock film crate.zip")

	// A reload keeps the place, and the seal.
	p.visit(p.at())
	p.sees("Sealed and proved complete")

	// Somebody receives it.
	p.click("Receive")
	p.clickIn("aside [aria-label='Folder contents']", "Bench")
	p.clickIn("aside [aria-label='Folder contents']", "Tide Clock film crate.zip")
	p.clickIn("aside section:nth-of-type(2) [aria-label='Folder contents']", "Quay")
	p.click("Check and unpack")
	p.sees("Checked and unpacked")
	judge(t, a.path("Quay/Tide Clock film crate"), "sha256sum", "--strict", "--quiet", "-c", "manifest-sha256.txt")

	// A flipped byte is found and named.
	damaged := filepath.Join(crate, "data", "audio", "wave.wav")
	b, err := os.ReadFile(damaged)
	if err != nil {
		t.Fatal(err)
	}
	b[len(b)/2] ^= 1
	if err := os.WriteFile(damaged, b, 0o644); err != nil {
		t.Fatal(err)
	}
	p.visit("/receive")
	p.clickIn("aside [aria-label='Folder contents']", "Bench")
	p.sees("Tide Clock film crate")
	p.do(clickExact(p, "Tide Clock film crate"))
	p.click("Check")
	p.sees("Damaged: differs from what was sealed")
	p.sees("data/audio/wave.wav")
}

// TestRepairs: undone repairs are gone; written ones keep an edition first,
// and the document then traces without any repair.
func TestRepairs(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	doc := a.path("Bench/tide-clock/film/cut-04.otio")
	before, err := os.ReadFile(doc)
	if err != nil {
		t.Fatal(err)
	}
	p.visit("/p/1/mend")
	p.sees("Where should Bound Crate search?")
	p.idle()
	p.lookIn("Quay")
	p.click("Search these folders")
	p.sees("2 of")
	p.idle()
	p.sees("Quay/library/machines/winch_close.wav")
	// A search is one act: it is undone and redone as one, its parts singly.
	repairs := `document.querySelectorAll('[aria-label="Repairs"] li').length`
	p.until("for something to undo", `[...document.querySelectorAll('button')].some((b) => b.innerText === 'Undo' && !b.disabled)`)
	p.key("u")
	p.until("for no repair", repairs+" === 0")
	p.idle()
	p.click("Log")
	p.until("for the decisions", `[...document.querySelectorAll('[aria-label="Decisions"] li')].filter((l) => l.innerText.includes('undone')).length === 2`)
	p.click("Redo")
	p.until("for the repairs again", repairs+" === 2")
	p.idle()
	p.click("Close log")
	p.clickIn("[aria-label=Repairs]", "Undo")
	p.until("for one repair less", repairs+" === 1")
	p.idle()
	if now, _ := os.ReadFile(doc); !bytes.Equal(now, before) {
		t.Fatal("the document was touched")
	}
	p.click("Write to 1 document")
	p.sees("Only these lines change")
	p.click("Cancel")
	p.click("Write to 1 document")
	p.clickIn("[role=dialog]", "Write")
	p.sees("Its earlier state is kept as")
	p.idle()
	now, err := os.ReadFile(doc)
	if err != nil || bytes.Equal(now, before) || !bytes.Contains(now, []byte("Quay/")) {
		t.Error("the repair is not in the document", err)
	}
	kept, err := filepath.Glob(filepath.Join(a.dir, "data", "editions", "1", "cut-04.edition-*.otio"))
	if err != nil || len(kept) != 1 {
		t.Fatal(kept, err)
	}
	if b, _ := os.ReadFile(kept[0]); !bytes.Equal(b, before) {
		t.Error("the edition is not the earlier state")
	}
}

// TestMissingStays: a project that is not whole is sealed all the same, says
// so, and keeps the places of what is missing.
func TestMissingStays(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/1/stow")
	p.sees("places are reserved for missing files")
	p.idle()
	p.click("as now")
	p.until("for the folders", `[...document.querySelectorAll('input')].some((e) => e.value.startsWith('outside/'))`)
	p.click("missing")
	p.sees("on a drive that is not connected")
	p.station("Seal")
	p.folder(a.path("Bench"))
	p.sees("will not be complete")
	p.click("Seal crate")
	p.sees("Sealed, but not complete")
	p.sees("Not complete")
	p.sees("sun.####.png")
	p.seesNot("sun.<4>.png")
	cut, err := os.ReadFile(a.path("Bench/Tide Clock film crate/data/cut-04.otio"))
	if err != nil || !strings.Contains(string(cut), `"sound/foghorn_low_02.wav"`) {
		t.Error("the place of what is missing is not kept", err)
	}
}

// TestEveryProject opens every project of the sample world and sees its states
// and uses.
func TestEveryProject(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	for _, c := range []struct{ name, verdict, row, slip string }{
		{"Deck scene", "1 item stored only inside the document", "draft colour.png", "declared"},
		{"Deck scene, layers", "1 frame missing", "wet planks.png", "dormant"},
		{"Foghorn soundscape", "1 file missing (1 sound)", "horn answering.wav", "Not found at this path"},
		{"Sampled bell", "Everything is here", "bell_A hard.wav", "<region>"},
		{"Clock mechanism", "1 file missing (1 part)", "moon pinion 12.stp", "gear train.stp"},
		{"Clock drawings", "Everything is here", "laid paper.png", "pen.css"},
		{"Clock linkage", "Everything is here", "brass.png", "Used 2 times, in 2 documents"},
		{"Spoken memories", "Everything is here", "keeper on fog.wav", "AudioSource"},
		{"Deck scene, layers", "1 file never saved", "/deck inputs:sky", "refers to a file that was never saved"},
		{"Exhibit list", "1 file cannot be read", "panels.pdf", "Picture desk"},
		{"Exhibit list", "7 files are outside this project", "quiet hour.xspf", "The file exists but cannot be read"},
		{"Film trailer", "1 name matches more than one file", "end card", "2 files match"},
		{"Film trailer", "1 file missing (1 video)", "bow wave", "event 005"},
	} {
		p.visit("/")
		p.sees("Documents that can be opened")
		p.do(clickLink(p, c.name))
		p.sees(c.verdict)
		p.idle()
		p.click(c.row)
		if c.slip == "declared" {
			p.sees("listed")
			continue
		}
		p.sees(c.slip)
	}
	// A part that went astray is found again, and the assembly sealed whole.
	p.visit("/")
	p.do(clickLink(p, "Clock mechanism"))
	p.sees("1 file missing (1 part)")
	p.idle()
	p.click("Search for missing files")
	p.sees("Where should Bound Crate search?")
	p.lookIn("Bench/tide-clock", "Bench")
	p.click("Search these folders")
	p.sees("1 of 1 file found")
	p.idle()
	p.station("Seal")
	p.folder(a.path("Bench"))
	p.sees("All files in use were found")
	p.click("Seal crate")
	p.sees("Sealed and proved complete")
	judge(t, a.path("Bench/Clock mechanism crate"), "sha256sum", "--strict", "--quiet", "-c", "manifest-sha256.txt")
}
