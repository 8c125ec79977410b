package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// TestRules writes a rules file, is told what is wrong with it and where, tests
// it on a sample, and switches it: a project is read otherwise at once.
func TestRules(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/")
	p.sees("Documents that can be opened")
	p.do(clickLink(p, "Gallery loop"))
	p.sees("1 file missing (1 sound)")
	p.idle()
	p.click("Rules")
	p.sees("Gallery player loop")
	p.sees("No errors")
	for _, dir := range []string{"Bench", "tide-clock", "foghorn", "gallery.loop"} {
		p.clickIn("aside", dir)
	}
	p.sees("gulls at ebb.wav")
	p.sees("write point")
	p.sees("dormant")

	p.paste("The rules file", "title: x\nextensions: [loop]\ncarrier: xml\npaths:\n  - at: scene//@sound\n  - match: (a)")
	p.sees("2 errors")
	p.sees("line 5")
	p.sees("line 6")
	p.paste("The rules file", "title: Plain loop\nextensions: [loop]\ncarrier: xml\npaths:\n  - at: play/@sound\n")
	p.sees("No errors")
	p.sees("changed, not saved")
	p.click("Receive") // what is not saved is not lost on the way
	p.sees("Which crate?")
	p.click("Rules")
	p.sees("changed, not saved")
	p.click("Save")
	p.seesNot("changed, not saved")
	p.sees("Plain loop")
	b, err := os.ReadFile(filepath.Join(a.dir, "data", "rules", "gallery loop.yaml"))
	if err != nil || !strings.HasPrefix(string(b), "title: Plain loop") {
		t.Errorf("%q %v", b, err)
	}
	// Without their base folder the sounds are not found any more.
	p.visit("/")
	p.do(clickLink(p, "Gallery loop"))
	p.sees("4 files missing (4 sounds)")

	p.click("Rules")
	p.click("Switch off gallery loop")
	p.sees("Switch on")
	p.idle()
	p.visit("/")
	p.do(clickLink(p, "Gallery loop"))
	p.seesNot("4 files missing")

	p.click("Rules")
	p.click("New rules file")
	p.sees("New rules file")
	p.write("Name", "deck sheet")
	p.click("Save")
	p.sees("A format of your studio")
	p.click("Delete")
	p.press("[role=dialog] button", "Delete")
	p.seesNot("A format of your studio")
	if _, err := os.Stat(filepath.Join(a.dir, "data", "rules", "deck sheet.yaml")); !os.IsNotExist(err) {
		t.Error("the deleted rules file is still there", err)
	}
}

// TestGuess opens a document of no known format: what is found is called a
// guess, and the way to be sure is one step away.
func TestGuess(t *testing.T) {
	a := serveDemo(t)
	if err := os.WriteFile(a.path("Bench/tide-clock/foghorn/desk.session"), []byte("play takes/fog bed.wav at 10\nplay takes/surf two.wav\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	p := open(t, a)
	p.visit("/")
	p.sees("Documents that can be opened")
	for _, dir := range []string{"Bench", "tide-clock", "foghorn", "desk.session"} {
		p.clickIn("aside", dir)
	}
	p.click("Open desk.session")
	p.sees("All of these are guesses")
	p.idle()
	p.click("fog bed.wav")
	p.sees("Guessed: the format")
	p.click("rules file")
	p.sees("Describe where paths are")
}

// TestTeach: a document nobody knows is taught from nothing: what is proposed from
// its guesses is taken, named, saved and switched on, and the project is sure.
func TestTeach(t *testing.T) {
	a := serveDemo(t)
	show := "<show>\n"
	for _, n := range []string{"foghorn_far.wav", "clock strike.wav", "deck steps.wav"} {
		show += " <cue play=\"sound/" + n + "\" loud=\"7\"/>\n"
	}
	doc := filepath.Join(a.dir, "drives/Bench/tide-clock/film/night.show")
	if err := os.WriteFile(doc, []byte(show+"</show>\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	p := open(t, a)
	p.visit("/rules?sample=" + doc)
	p.sees("Propose rules")
	p.sees("where nearly everything is a name")
	p.sees("3 of 3, 3 found")
	p.click("Use")
	p.until("for the editor to show it", `document.querySelector('[aria-label="The rules file"]').innerText.includes('/show/cue/@play')`)
	p.sees("No errors")
	p.sees("clock strike.wav")
	p.write("Name", "night show")
	p.click("Save")
	p.click("Switch on night show")
	p.sees("in use")
	p.visit("/")
	for i, dir := range []string{"Bench", "tide-clock", "film"} {
		p.clickIn("aside", dir)
		at := strings.Join([]string{"Bench", "tide-clock", "film"}[:i+1], "/") // another "film" stands in the folder before
		p.until("for "+at, fmt.Sprintf("document.querySelector('aside').innerText.includes(%q + '\\n')", at))
	}
	p.clickIn("aside", "night.show")
	p.sees("opens as night and its like")
}
