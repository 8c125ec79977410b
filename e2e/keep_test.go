package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// TestKeep: editions are kept with notes, go on or stand beside, are compared, and brought back; a document that was
// destroyed is back with two keys.
func TestKeep(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	cut := a.path("Bench/tide-clock/film/cut-04.otio")
	before := read(t, a, "Bench/tide-clock/film/cut-04.otio")
	p.visit("/p/1/trace")
	p.sees("References")
	p.idle()
	p.key("h")
	p.sees("Edition 10 is current")
	p.write("note", "Sent to the museum.\nThe gull is right now.")
	p.click("Keep this state")
	p.sees("Unchanged: this state is edition 10 already")
	p.sees("Gull quieter")
	change := func(from, to string) {
		t.Helper()
		if err := os.WriteFile(cut, []byte(strings.ReplaceAll(string(read(t, a, "Bench/tide-clock/film/cut-04.otio")), from, to)), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	change("gull", "gannet")
	p.sees("1 document changed since")
	p.key("s")
	p.sees("Kept as edition 11")
	change("gannet", "tern")
	p.sees("1 document changed since")
	p.press("aside label", "as an alternative beside edition 11")
	p.write("note", "With terns")
	p.click("Keep this state")
	p.sees("Kept as edition 12")
	p.idle()
	p.click("With terns")
	p.sees("Since edition 11")
	p.sees("document changed")
	p.press("main button", "Gull quieter")
	p.click("Restore this edition")
	p.sees("The present state is kept first")
	p.clickIn("[role=dialog]", "Restore")
	p.sees("Edition 10 is current")
	if string(read(t, a, "Bench/tide-clock/film/cut-04.otio")) != string(before) {
		t.Error("restored, the document is another")
	}
	p.visit("/p/1/trace")
	p.idle()
	if err := os.Remove(cut); err != nil {
		t.Fatal(err)
	}
	p.sees("The document could not be read")
	p.key("h")
	p.sees("is gone")
	p.key("z")
	p.sees("Edition 10 is current")
	if string(read(t, a, "Bench/tide-clock/film/cut-04.otio")) != string(before) {
		t.Error("brought back, the document is another")
	}
	p.idle()
	p.expectConsole("409") // the trace page asked for what could not be told
}

// TestBackups: a backup to another drive, the next one sharing what did not change, verified and tried; a file that
// was lost comes back out of it, one that is another is kept beside.
func TestBackups(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/8/keep?view=backups")
	p.sees("No backup yet")
	p.folder(a.path("Stores"))
	p.click("Use this folder")
	p.sees("Back up now")
	p.idle()
	p.click("Back up now")
	p.sees("copied, 0 shared with the one before")
	p.idle()
	p.click("Back up now")
	p.sees("0 files copied, ")
	p.idle()
	p.click("Verify all")
	p.sees("2 backups undamaged")
	p.idle()
	p.press("main button", "complete")
	p.click("Test restore")
	p.sees("restored aside and removed again")
	p.idle()
	project, err := a.store.Project(8)
	if err != nil {
		t.Fatal(err)
	}
	doc := project.Documents[0]
	was, err := os.ReadFile(doc)
	if err == nil {
		err = os.WriteFile(doc, []byte("destroyed by hand"), 0o644)
	}
	if err != nil {
		t.Fatal(err)
	}
	p.click("Look inside")
	p.sees("1 file of it is not in the project, or different there")
	p.sees("different, changed later")
	p.sees("could not be read: not a valid URDF document") // the foot has a long line, and the page is as wide as the window
	if wide := eval[int](p, "document.documentElement.scrollWidth"); wide != 1280 {
		t.Errorf("the page is %d wide", wide)
	}
	p.press("main label", filepath.Base(doc))
	p.click("Take 1 file")
	p.sees("1 file taken. The state before is edition")
	p.sees("Every file of it is in the project, unchanged.")
	p.idle()
	if is, _ := os.ReadFile(doc); string(is) != string(was) {
		t.Errorf("it says %.200s", is)
	}
}

// TestLooseSet: what was gathered stands as on a contact sheet, new files of its patterns are told and added; files
// are moved between groups; it is traced and sealed like any project, and another is begun from a folder.
func TestLooseSet(t *testing.T) {
	a := serveDemo(t)
	p := open(t, a)
	p.visit("/p/16/set")
	p.sees("1 new file in the folders of the set")
	p.sees("sheet 04 compass rose.png")
	p.idle()
	p.click("Add it")
	p.seesNot("1 new file")
	p.idle()
	p.press("main button", "sheet 06 soundings west.png")
	p.write("New group", "to be looked at")
	p.click("Move there")
	p.sees("TO BE LOOKED AT")
	p.idle()
	p.visit("/p/16/trace")
	p.sees("Everything is here")
	p.visit("/p/16/keep")
	p.sees("before writing")
	p.visit("/")
	p.click("Loose set")
	for _, f := range []string{"Bench", "tide-clock", "film", "stills"} {
		p.press("aside form button", f)
	}
	p.write("title", "Stills")
	p.click("Gather the files")
	p.sees("The set")
	p.sees("lamp room.png")
	p.idle()
	if !strings.Contains(string(read(t, a, "Bench/tide-clock/film/stills/ro-crate-metadata.json")), `"name": "Stills"`) {
		t.Error("the set is not in its folder")
	}
	// What nothing names becomes a set, too; a set that is there is not written over.
	p.visit("/p/1/sift?view=unnamed")
	p.sees("Gather as set")
	p.idle()
	p.press("main input[type=checkbox]", "chain 07.wav")
	p.click("Gather as set")
	p.write("title", "Lost and found")
	p.clickIn("[role=dialog]", "Gather the files")
	p.sees("The set")
	p.sees("chain 07.wav")
	p.idle()
	p.visit("/p/1/sift?view=unnamed")
	p.sees("Gather as set")
	p.press("main input[type=checkbox]", "chain 07.wav")
	p.click("Gather as set")
	p.write("title", "Once more")
	p.clickIn("[role=dialog]", "Gather the files")
	p.sees("The folder has a loose set already")
	p.expectConsole("409")
}
