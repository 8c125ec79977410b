package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"boundcrate/core/mend/mend/mendtest"
)

// TestFolderMoved: a person says which folder moved and where to, hears how many files would
// be found there before it is done, and undoes it with one act. Then the files are gone
// through by keys alone.
func TestFolderMoved(t *testing.T) {
	files := map[string]string{}
	list := "#EXTM3U\n"
	for i, n := range []string{"gull", "winch", "horn", "deck"} {
		list += "sound/wood/" + n + ".wav\n"
		if n != "deck" {
			files["other/timber/"+n+".wav"] = string(mendtest.Wave([]byte(strings.Repeat(string(rune('a'+i)), 2000+i))))
		}
	}
	files["film/cut.m3u"] = list
	a := bare(t, files)
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.clickIn("aside", "cut.m3u")
	p.click("Open cut.m3u")
	p.sees("4 files missing")
	p.idle()
	p.station("Mend")
	p.sees("Not searched for yet")
	p.click("Folder moved")
	p.sees("All files expected in")
	p.press("[role=dialog] button", "Bench")
	p.press("[role=dialog] button", "other")
	p.press("[role=dialog] button", "timber")
	p.sees("3 of 4 missing files would be found")
	p.sees("Not found: deck.wav")
	p.press("[role=dialog] button", "Relink 3 files")
	p.until("for one to be left", rows("Missing files")+" === 1")
	p.idle()
	p.click("Undo")
	p.until("for all to be missing", rows("Missing files")+" === 4")
	p.idle()

	p.lookIn("Bench")
	p.click("Search these folders")
	p.sees("of 4 files found")
	p.idle()
	p.sees("no candidates")
	usable := `[...document.querySelectorAll('button')].some((b) => b.innerText.startsWith('Use this') && !b.disabled)`
	for left := 3; left > 0; left-- {
		for _, k := range "kkkjjj" { // the one that has no candidate is passed by
			time.Sleep(200 * time.Millisecond)
			if eval[bool](p, usable) {
				break
			}
			p.key(string(k))
		}
		p.until("for a candidate", usable)
		p.key("\r")
		p.until("for one less", fmt.Sprintf("%s === %d", rows("Missing files"), left))
		p.idle()
	}
}

// TestAnother: a file outside the project is pointed at the copy inside it.
func TestAnother(t *testing.T) {
	wav := string(mendtest.Wave([]byte(strings.Repeat("g", 2000))))
	a := bare(t, map[string]string{"film/cut.m3u": "#EXTM3U\n../downloads/gull.wav\n", "downloads/gull.wav": wav, "film/sound/gull.wav": wav})
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.clickIn("aside", "cut.m3u")
	p.click("Open cut.m3u")
	p.sees("1 reference")
	p.idle()
	p.press("[role=row]", "gull.wav")
	p.click("Use another file")
	p.press("[role=dialog] button", "Bench")
	p.press("[role=dialog] button", "film")
	p.press("[role=dialog] button", "sound")
	p.press("[role=dialog] button", "gull.wav")
	p.sees("same name")
	p.press("[role=dialog] button", "Use this file")
	p.until("for the dialog to be closed", "!document.querySelector('[role=dialog]')")
	p.sees("Everything is here")
	p.seesNot("Outside the project folder")
	p.expectConsole("404") // the row that was chosen is gone
}
