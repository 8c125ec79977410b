package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/mend/mend/mendtest"
)

// TestTogether: a folder that nobody saw before moved: one look mends all of it; a
// file that is too short for part in use of it is not taken with Enter; a set aside
// comes back; both documents are written at once, and an independent reader finds in
// them what was meant.
func TestTogether(t *testing.T) {
	files := map[string]string{}
	var clips, lines []string
	clip := func(name string, from, length float64) {
		span := func(v float64) string {
			return fmt.Sprintf(`{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":%g}`, 25*v)
		}
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":%s,"duration":%s},"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"%s"}}`, span(from), span(length), strings.ReplaceAll(name, " ", "%20")))
	}
	for i, n := range []string{"gull over stern", "winch close", "low horn", "deck steps", "rope creak", "bell far"} {
		clip("foley/wood/"+n+".wav", 0, 0.5)
		lines = append(lines, "foley/wood/"+n+".wav")
		files["attic/wood/"+n+".wav"] = string(mendtest.Wave([]byte(strings.Repeat(string(rune('a'+i)), 2000+i))))
	}
	clip("foley/long wave.wav", 0, 9)
	clip("foley/nowhere.wav", 0, 1)
	files["attic/long wave.wav"] = string(mendtest.Wave([]byte(strings.Repeat("w", 2000))))
	files["film/cut.otio"] = `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[` + strings.Join(clips, ",") + `]}]}}`
	files["film/all.m3u"] = "cut.otio\n" + strings.Join(lines, "\n") + "\n"
	files["trailer/short.m3u"] = "../film/" + strings.Join(lines[:3], "\n../film/") + "\n"
	a := bare(t, files)
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "trailer")
	p.clickIn("aside", "short.m3u")
	p.click("Open short.m3u")
	p.sees("3 files missing")
	p.idle()
	other := p.at()
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.clickIn("aside", "all.m3u")
	p.click("Open all.m3u")
	p.sees("8 files missing")
	p.idle()
	p.station("Mend")
	p.lookIn("Bench")
	p.click("Search these folders")
	p.sees("0 of 8 files found") // by names alone nothing is
	p.idle()
	p.click("Relink all 6")
	p.sees("2 files missing")
	p.sees("6 repairs in place")
	// One act undoes all six.
	p.until("for something to undo", `[...document.querySelectorAll('footer button')].some((b) => b.innerText.trim() === 'Undo' && !b.disabled)`)
	p.key("u")
	p.sees("8 files missing")
	p.idle()
	q := p.tab() // somebody else looks at the same
	q.visit(p.at())
	q.sees("8 files missing")
	p.click("Relink all 6")
	p.sees("6 repairs in place")
	q.sees("6 repairs in place")
	p.sees("misses 3 files relinked here")
	p.idle()
	// Too short: said in rust, and Enter does not take it.
	p.click("long wave.wav")
	p.sees("9.00 s are used")
	p.key(enter)
	p.sees("2 files missing")
	p.sees("anyway")
	// Set aside, and brought back.
	p.click("nowhere.wav")
	p.click("Set aside")
	p.click("Will be supplied later")
	p.sees("1 file set aside")
	p.sees("1 file missing")
	p.click("Show")
	p.click("Bring back")
	p.sees("2 files missing")
	p.idle()
	// The lines first, then both documents at once.
	p.click("Write to 2 documents")
	p.sees("../attic/wood/bell%20far.wav")
	p.clickIn("[role=dialog]", "Write")
	p.sees("Its earlier state is kept")
	p.idle()
	var cut struct {
		Tracks struct {
			Children []struct {
				Children []struct {
					Ref struct {
						URL string `json:"target_url"`
					} `json:"media_reference"`
				}
			}
		}
	}
	b, err := os.ReadFile(a.path("Bench/film/cut.otio"))
	if err != nil || json.Unmarshal(b, &cut) != nil {
		t.Fatal(err)
	}
	list, err := os.ReadFile(a.path("Bench/film/all.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	for i, l := range strings.Split(strings.TrimSpace(string(list)), "\n")[1:] {
		name := filepath.Join(a.path("Bench/film"), l)
		if _, err := os.Stat(name); err != nil || !strings.Contains(name, "attic/wood/") {
			t.Errorf("line %d is %q (%v)", i, l, err)
		}
		if u := cut.Tracks.Children[0].Children[i].Ref.URL; strings.ReplaceAll(u, "%20", " ") != l {
			t.Errorf("clip %d names %q, the list %q", i, u, l)
		}
	}
	// What was mended here is offered where the same is missing, also now that it is
	// written.
	p.visit(strings.Replace(other, "/trace", "/mend", 1))
	p.sees("relinked this way in")
	p.click("Relink all 3")
	p.sees("Nothing is missing")
}
