package e2e

import (
	"encoding/binary"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/mend/mend/mendtest"
)

// clipOf is a clip of a timeline that uses the first half second of a sound.
func clipOf(name, url, more string) string {
	span := `{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":0},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":12}}`
	return fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":"%s","source_range":%s,"active_media_reference_key":"DEFAULT_MEDIA","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"%s"}}%s}`, name, span, url, more)
}

func timelineOf(clips ...string) string {
	return `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[` + strings.Join(clips, ",") + `]}]}}`
}

// carry drags the row of a file onto a folder of the crate.
func (p *page) carry(file, folder string) {
	p.t.Helper()
	p.until("for "+file+" and "+folder, fmt.Sprintf(`(() => {
		const row = [...document.querySelectorAll('[role=row][draggable=true]')].find((r) => [...r.querySelectorAll('input')].some((i) => i.getAttribute('aria-label') === 'Name of %s'));
		const at = [...document.querySelectorAll('[aria-label="Folders of the crate"] li')].find((l) => l.innerText.split('\n')[0].trim() === '%s/');
		if (!row || !at) return false;
		const data = new DataTransfer();
		const send = (to, type) => to.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));
		send(row, 'dragstart'); send(at, 'dragover'); send(at, 'drop'); send(row, 'dragend');
		return true;
	})()`, file, folder))
}

// TestSiftAndStow: each switch moves the gauge, the passes and the files at once; what
// nothing names is adopted; a recipe is used, compared and kept; a pattern is refused at
// its column; files are dragged and forty are moved at once; all of it is undone; the
// crate holds what was said, and the edit list in it what is in the crate.
func TestSiftAndStow(t *testing.T) {
	files := map[string]string{
		"film/notes.txt": "notes", "film/cut-01.otio": timelineOf(), "film/old take.wav": string(mendtest.Wave([]byte(strings.Repeat("o", 2000)))),
		"film/twin/gull.wav": string(mendtest.Wave([]byte(strings.Repeat("a", 2000)))),
	}
	clips := []string{clipOf("twin", "twin/gull.wav", "")}
	for i := range 41 {
		n := fmt.Sprintf("sound/wave %02d.wav", i)
		if i == 0 {
			n = "sound/gull.wav"
		}
		body := strings.Repeat(string(rune('a'+i)), 2000+2*i)
		w := mendtest.Wave([]byte(body))
		if i == 39 { // it has two channels
			w[22], w[32] = 2, 2
			binary.LittleEndian.PutUint32(w[28:], 2*binary.LittleEndian.Uint32(w[24:]))
		}
		files["film/"+n] = string(w)
		more := ""
		if i == 40 {
			more = `,"enabled":false`
		}
		clips = append(clips, clipOf(fmt.Sprint("clip ", i), strings.ReplaceAll(n, " ", "%20"), more))
	}
	files["film/cut-02.otio"] = timelineOf(clips...)
	a := bare(t, files)
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.clickIn("aside", "cut-02.otio")
	p.click("Open cut-02.otio")
	p.sees("Everything is here")
	p.idle()

	p.station("Sift")
	p.sees("42 files besides the documents")
	p.sees("Not suitable as an archive")
	p.idle()
	stays := func(name string) {
		t.Helper()
		p.press(fmt.Sprintf(`[aria-label="%s"] button`, name), "stays")
	}
	stays("Inactive")
	p.sees(" stay")
	p.sees("A lean crate")
	p.sees("inactive files: 1 file")
	p.press("main button", "sound stays")
	p.sees("0 files travel")
	p.until("for the one that is switched off", rows("Files")+" === 1")
	p.press("[role=row]", "wave 40.wav")
	p.until("for it to be chosen", "[...document.querySelectorAll('[role=row][aria-selected=true]')].some((r) => r.innerText.includes('wave 40.wav'))")
	p.key("x")
	behind := "[...document.querySelectorAll('main p')].some((e) => /(B|bytes?) stay/.test(e.innerText))"
	p.until("for nothing to stay", "!"+behind)
	p.until("for something to undo", `[...document.querySelectorAll('footer button')].some((b) => b.innerText.trim() === 'Undo' && !b.disabled)`)
	p.key("u")
	p.until("for it to stay again", behind)
	p.press("main button", "switches")
	stays("Duplicates")
	p.until("for the twin to stay", "[...document.querySelectorAll('aside')].some((e) => /another copy travels/.test(e.innerText))")
	p.press("main button", "duplicates and same names")
	p.sees("film/twin/gull.wav")

	// What nothing names: the take of last night, and what was there before.
	p.press("main button", "unreferenced files")
	p.sees("old take.wav")
	p.press(`main li:has([aria-label="old take.wav"]) button`, "Include")
	p.until("for it to be included", `[...document.querySelectorAll('main li:has([aria-label="old take.wav"]) button')].some((b) => b.innerText.trim() === 'Do not include')`)
	eval[bool](p, "document.querySelector('[aria-label=\"notes.txt\"]').click(), true")
	p.click("Move to holding folder")
	p.sees("at least 30 days")
	p.click("Check and move")
	for range 200 {
		if _, err := os.Stat(a.path("Bench/film/notes.txt")); err != nil {
			break
		}
		time.Sleep(100 * time.Millisecond)
	}
	if _, err := os.Stat(a.path("Bench/film/notes.txt")); err == nil {
		t.Error("it is still there")
	}
	p.press("main button", "all files")
	p.press("[role=radio]", "why")
	p.sees("Optional")
	p.press("main button", "switches")
	p.press(`[aria-label="Duplicates"] button`, "travels")
	p.until("for the twin to travel", "![...document.querySelectorAll('aside')].some((e) => /another copy travels/.test(e.innerText))")
	p.press("main button", "all files")
	// A whole folder: its heading chooses what stands under it.
	p.press("[role=radio]", "place")
	p.press("[role=gridcell] button", "film/sound")
	p.sees("41 rows chosen")
	p.until("for them to be chosen", "document.querySelectorAll('[role=row][aria-selected=true]').length > 5 && document.querySelector('[role=row][id$=-lead]')")
	p.key("x")
	p.until("for the folder to stay", "document.querySelectorAll('[role=row].text-faint').length > 5")
	p.until("for something to undo", `[...document.querySelectorAll('footer button')].some((b) => b.innerText.trim() === 'Undo' && !b.disabled)`)
	p.key("u")
	p.until("for it to travel again", "document.querySelectorAll('[role=row].text-faint').length < 5")
	p.click("Select none")
	p.press("[role=radio]", "why")
	p.press("main button", "switches")
	p.sees("Optional files")

	// Recipes.
	p.click("Recipes")
	p.sees("Present folders, with companions, earlier versions, newest renderings and unreferenced files.")
	p.press("[role=dialog] button", "Use archive")
	p.sees("Suitable as an archive")
	stays("Unreferenced files in the project folder")
	p.sees("differs in optional files")
	p.click("Recipes")
	p.write("Name of the recipe", "For the desk")
	p.click("Save current choices")
	p.sees("yours")
	p.press("[role=dialog] button", "Use mixing stage")
	p.sees("without inactive files")

	// Stow.
	p.until("for the book to be closed", "!document.querySelector('[role=dialog]')")
	p.station("Stow")
	p.sees("Not kept in the edit decision list")
	p.sees("inactive item left out")
	p.carry("wave 03.wav", "data")
	p.until("for it to be at the top", `[...document.querySelectorAll('input')].some((e) => e.getAttribute('aria-label') === 'Folder of wave 03.wav' && e.value === '')`)
	p.key("u")
	p.until("for it to be back", `[...document.querySelectorAll('input')].some((e) => e.getAttribute('aria-label') === 'Folder of wave 03.wav' && e.value === 'audio')`)
	p.press("[role=radio]", "by a pattern")
	p.write("Layout pattern", "{kind}/{nmae}"+enter)
	p.sees("at column 8")
	p.expectConsole("422")
	p.write("Layout pattern", "{kind}/{n:3} {name}"+enter)
	p.until("for the names of the pattern", `[...document.querySelectorAll('input')].some((e) => e.value === '003 wave 02.wav' || e.value === '004 wave 02.wav')`)
	p.press("[role=radio]", "by kind")
	p.until("for plain names again", `[...document.querySelectorAll('input')].some((e) => e.value === 'wave 02.wav')`)
	p.write("Filter Berths", "wave 39")
	p.until("for one", rows("Berths")+" === 1")
	p.click("Options")
	p.press("[role=radio]", "one file per channel")
	p.until("for its channels", rows("Berths")+" === 3 && [...document.querySelectorAll('[role=row]')].some((e) => e.innerText.includes('wave 39.L.wav'))")
	p.press("[role=radio]", "channels as they are")
	p.until("for one again", rows("Berths")+" === 1")
	p.write("Filter Berths", "wave")
	p.until("for forty", rows("Berths")+" === 40")
	eval[bool](p, "document.querySelector('[role=grid]').focus(), true")
	p.key("a")
	p.write("folder in the crate", "takes")
	p.click("Move there")
	p.until("for the folder", `[...document.querySelectorAll('[aria-label="Folders of the crate"] li')].some((l) => l.innerText.startsWith('takes/'))`)
	// All of it: only the server knows whether anything is left, as the button rests while a step is done.
	p.until("for all to be undone", `(() => {
		const ask = new XMLHttpRequest();
		ask.open('GET', '/api/projects/' + location.pathname.split('/')[2], false);
		ask.send();
		if (!JSON.parse(ask.responseText).canUndo) return true;
		const undo = [...document.querySelectorAll('footer button')].find((b) => b.innerText.trim() === 'Undo');
		if (!undo.disabled) undo.click();
		return false;
	})()`)
	p.until("for the folder to be gone", `![...document.querySelectorAll('[aria-label="Folders of the crate"] li')].some((l) => l.innerText.startsWith('takes/'))`)

	p.station("Seal")
	p.sees(" free")
	p.idle() // what the page asks for is there: nothing moves below the pointer
	p.click("Seal crate")
	p.sees("Sealed and proved complete")
	crate := filepath.Join(a.path("Bench"), "film crate", "data")
	edl, err := os.ReadFile(filepath.Join(crate, "cut-02.edl"))
	if err != nil {
		t.Fatal(err)
	}
	events := 0
	for _, l := range strings.Split(string(edl), "\n") {
		if f, ok := strings.CutPrefix(l, "* SOURCE FILE: "); ok {
			events++
			if _, err := os.Stat(filepath.Join(crate, f)); err != nil {
				t.Error(err)
			}
		}
	}
	if events != 41 {
		t.Errorf("%d events", events)
	}
	for _, gone := range []string{"audio/wave 40.wav", "audio/gull-2.wav", "notes.txt"} {
		if _, err := os.Stat(filepath.Join(crate, gone)); err == nil {
			t.Errorf("%s travelled", gone)
		}
	}
}
