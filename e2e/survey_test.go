package e2e

import (
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"
)

func read(t *testing.T, a served, p string) []byte {
	t.Helper()
	b, err := os.ReadFile(a.path(p))
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// TestWritePoints: the film's two tracks that record into its old copy are set to
// its folder, after their lines were shown; the document says so and nothing else,
// and gets back what it said.
func TestWritePoints(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	before := read(t, a, "Bench/tide-clock/film/cut-04.otio")
	p.visit("/p/1/trace")
	p.sees("2 write points lead out of the project")
	p.idle()
	p.click("2 write points")
	p.sees("Bench/old film/takes")
	p.click("Set 2 write points")
	p.sees("../../old film/takes")
	p.click("Write")
	p.sees("All write points are in the project")
	after := read(t, a, "Bench/tide-clock/film/cut-04.otio")
	if bytes.Contains(after, []byte("old film")) || bytes.Contains(after, []byte("old%20film")) {
		t.Error("the document still names the old copy")
	}
	was, is := strings.Split(string(before), "\n"), strings.Split(string(after), "\n")
	changed := 0
	for i := range is {
		if is[i] != was[i] {
			changed++
		}
	}
	if len(was) != len(is) || changed != 2 {
		t.Errorf("%d lines of %d changed", changed, len(was))
	}
	p.idle()
	p.click("Restore documents")
	p.sees("2 of 2 write points lead out")
	if !bytes.Equal(read(t, a, "Bench/tide-clock/film/cut-04.otio"), before) {
		t.Error("put back, the document is another")
	}
}

// TestInside: the painting that only the deck scene holds becomes a file that the
// scene names, and goes back.
func TestInside(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	before := read(t, a, "Bench/tide-clock/deck-scene/deck.gltf")
	p.visit("/p/2/trace")
	p.sees("1 item stored only inside the document")
	p.idle()
	p.click("1 item stored only inside")
	p.sees("image 'weather stain'")
	p.write("Name for image", "stain.png")
	p.click("Save 1 file")
	p.sees("textures/stain.png")
	p.click("Save")
	p.sees("Everything has a file")
	if b := read(t, a, "Bench/tide-clock/deck-scene/textures/stain.png"); !bytes.HasPrefix(b, []byte("\x89PNG")) {
		t.Errorf("it begins with %q", b[:8])
	}
	p.idle()
	p.visit("/p/2/trace")
	p.sees("Everything is here")
	p.click("Restore documents")
	p.sees("1 item stored only inside the document")
	if !bytes.Equal(read(t, a, "Bench/tide-clock/deck-scene/deck.gltf"), before) {
		t.Error("put back, the scene is another")
	}
}

// TestSurvey looks at every project: the worst stands first, each with what ails
// it; a document that no project has is opened from there.
func TestSurvey(t *testing.T) {
	p := open(t, serveDemo(t))
	p.visit("/")
	p.sees("16 projects, not checked yet")
	p.click("Check all projects")
	p.sees("7 of 16 projects need attention")
	p.idle()
	if first := eval[string](p, `document.querySelector('main li a').innerText`); first != "Tide Clock film" {
		t.Errorf("%s stands first", first)
	}
	// Write points out, missing and frames gone, unplugged, away.
	if marks := eval[string](p, `[...document.querySelectorAll('main li')[0].querySelectorAll('svg')].map((m) => m.getAttribute('aria-label') + ' ' + m.nextSibling.innerText).join(', ')`); marks != "write points that lead out 2, missing 9, unplugged 2, away 5" {
		t.Errorf("the film's marks are %q", marks)
	}
	p.sees("all 5 files here")
	p.click("Open cut-01.otio")
	p.until("for its trace", `location.pathname.endsWith('/trace')`)
	p.sees("narration 3 rough.wav")
}

// TestDrives: what is asked of a drive stands beside what it gives; a stand-in that
// is as slow as a disc is measured as such; a folder is declared a library, and its
// files are judged anew; a drive that an open project writes to is left in.
func TestDrives(t *testing.T) {
	p := open(t, serveDemo(t))
	p.visit("/p/1/trace")
	p.sees("References")
	p.idle()
	p.visit("/")
	p.click("Check all projects")
	p.sees("need attention")
	p.idle()
	p.visit("/drives")
	p.press("main button", "Loft")
	p.sees("while Gallery bells plays")
	p.click("Test speed")
	p.sees("tested ")
	p.idle()
	p.until("for a disc's speed", `(() => { const m = document.querySelector('aside').innerText.match(/([\d.]+) MB\/s, tested/); return m && Math.abs(Number(m[1]) - 1.385) < 0.2; })()`)
	p.press("main button", "Bench")
	p.sees("is open and will write there")
	p.click("Mark as library or managed store")
	p.press("aside button", "downloads")
	p.click("Mark as library")
	p.sees("Remove mark")
	p.idle()
	p.visit("/p/1/trace")
	p.idle()
	p.click("lens flare plate.png")
	p.sees("It is in the library Bench/downloads")
	p.visit("/drives")
	p.press("main button", "Shuttle")
	p.click("Plug in")
	p.sees("safe to eject")
}

// TestHolding: the old copy of the film must not go, since two tracks write into
// it. Once that is answered it waits in the holding folder, and comes back whole.
func TestHolding(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/clearout")
	for _, dir := range []string{"Bench", "old film"} {
		p.clickIn("aside", dir)
	}
	p.click("Check folder")
	p.sees("2 places write to it")
	p.sees("change to the project folder")
	p.idle()
	n := eval[int](p, `document.querySelectorAll('main input').length`)
	for i := range n {
		of := eval[string](p, fmt.Sprintf(`document.querySelectorAll('main input')[%d].getAttribute('aria-label')`, i))
		if eval[bool](p, fmt.Sprintf(`document.querySelectorAll('main input')[%d].value === ''`, i)) {
			p.write(of, "asked the desk")
		}
	}
	p.click("Move to holding folder")
	p.click("a week")
	p.press("[role=dialog] button", "Move to holding folder")
	p.sees("In the holding folder")
	if _, err := os.Stat(a.path("Bench/old film")); !os.IsNotExist(err) {
		t.Error("it stands where it stood", err)
	}
	p.click("Bring back")
	p.seesNot("In the holding folder")
	if b := read(t, a, "Bench/old film/cut-01.otio"); len(b) == 0 {
		t.Error("it came back empty")
	}
	p.expectConsole("404") // the folder that was open in the picker is gone
}

// TestHabits: what is made again is edited, tried on a project at once and saved; a
// mistake is told at its line.
func TestHabits(t *testing.T) {
	p := open(t, impatient(t)) // what is tried is waited for
	p.visit("/habits")
	p.sees("What programs and people do by habit")
	p.paste("The rules file", "rebuildable:\n  - loud/\nnonsense: 1\n")
	p.sees("line 3")
	p.paste("The rules file", "rebuildable:\n  - \"narration *\"\n")
	p.sees("narration 2 take 1.wav")
	p.press("aside button", "Save")
	p.sees("Restore defaults")
	p.click("Restore defaults")
	p.sees("peaks/")
}

// TestSpread: the folders of a drive narrow the ledger to what lies there, so do
// the threads from a document to a place, by keys too.
func TestSpread(t *testing.T) {
	p := open(t, serveDemo(t))
	p.visit("/p/1/trace")
	p.sees("References")
	p.idle()
	p.press("[aria-label=Spread] button", "downloads")
	p.until("for one row", rows("References")+" === 1 || "+rows("References")+" === 2") // its heading, and it
	p.sees("lens flare plate.png")
	p.press("[aria-label=Spread] button", "downloads")
	p.click("larger")
	p.press("[aria-label=Spread] button", "sound")
	p.sees("place: sound")
	p.click("threads")
	eval[bool](p, `(document.querySelector('[aria-label^="opening.otio uses"][aria-label*="film"]').focus(), true)`)
	p.key(enter)
	p.sees("document: opening.otio")
	p.sees("lightship at dusk.png")
	p.seesNot("deck steps.wav")
}

// TestAround: another state of a document tells what differs; a search folder finds
// what is not where its name leads.
func TestAround(t *testing.T) {
	p := open(t, serveDemo(t))
	p.visit("/p/1/trace")
	p.sees("Versions of this document")
	p.idle()
	p.press("aside button", "cut-03.otio")
	p.sees("1 file in both")
	p.click("Add a folder")
	p.press("aside button", "up")
	p.press("aside li button", "location takes")
	p.click("Add folder")
	p.sees("finds 3")
	p.sees("5 files missing")
	p.idle()
	p.click("T001.wav")
	p.sees("via search folder")
}

// TestAsked: whoever wants to hear of it is asked, without reload, when a document
// comes to name a file outside.
func TestAsked(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/2/trace")
	p.sees("References")
	p.idle()
	p.press("aside input", "ask when outside files are added")
	p.until("for the answer", `document.querySelector('aside input[type=checkbox]').checked`)
	scene := read(t, a, "Bench/tide-clock/deck-scene/deck.gltf")
	scene = bytes.Replace(scene, []byte("textures/mast%20colour.png"), []byte("../../downloads/lens%20flare%20plate.png"), 1)
	if err := os.WriteFile(a.path("Bench/tide-clock/deck-scene/deck.gltf"), scene, 0o644); err != nil {
		t.Fatal(err)
	}
	p.sees("1 file was added from outside the project. Copy it into the project?")
	p.press("main button", "Copy outside files into project")
	p.click("Copy 1 file")
	p.seesNot("added from outside")
	p.seesNot("outside this project")
}

// TestNewFolders: a new project's folder is made from the template, and nothing is
// made over one that is there.
func TestNewFolders(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/")
	p.sees("16 projects")
	p.click("New folders")
	p.press("aside form button", "Bench")
	p.write("name", "Harbour walk")
	p.click("Create folders")
	p.sees("Bench/Harbour walk was created")
	if b := read(t, a, "Bench/Harbour walk/READ ME.txt"); !bytes.HasPrefix(b, []byte("Harbour walk")) {
		t.Errorf("%q", b)
	}
	p.click("OK")
	p.click("New folders")
	p.press("aside form button", "Bench")
	p.write("name", "downloads")
	p.click("Create folders")
	p.sees("Nothing was created")
	p.expectConsole("409")
}
