package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
	"boundcrate/store"
)

// day is what the film's editor kept last week: how much of the cut stood, and how the state was kept.
var day = []struct {
	note    string
	part    float64 // of each track
	from    int     // an edition that was restored before; 0: none
	aside   bool
	opening bool // the first clip of each track is gone
	by      line.By
	hours   float64 // before the last
}{
	{"First cut with the real horns", 0.5, 0, false, false, line.Hand, 30},
	{"", 0.6, 0, false, false, line.Interval, 29},
	{"Opening without the title card", 0.6, 0, true, true, line.Hand, 28.5},
	{"Opening without the title card, slower", 0.65, 0, false, true, line.Hand, 27},
	{"", 0.7, 2, false, false, line.Interval, 6},
	{"Museum asks for subtitles", 0.75, 0, false, false, line.Hand, 5},
	{"", 0.8, 0, false, false, line.Interval, 4.5},
	{"Shorter, for the tide table screen", 0.4, 0, true, false, line.Hand, 4},
	{"As shown to the museum.\nThe gull is still too loud.", 0.9, 7, false, false, line.Hand, 2},
	{"Gull quieter", 1, 0, false, false, line.Hand, 0},
}

// kept keeps the film's line of editions: ten, of which two begin beside what they came from. The document ends as
// it was written.
func (w *world) kept(ctx context.Context, s *store.Store, formats format.Set, drives []drive.Drive) error {
	doc, root := w.path(film+"/cut-04.otio"), w.path(film)
	whole, err := os.ReadFile(doc)
	if err != nil {
		return err
	}
	reach := drive.Set{Drives: drives}
	kept := line.Open(filepath.Join(s.Dir(), "editions"))
	last := time.Now().AddDate(0, 0, -6)
	present := func() (line.Present, error) {
		g, err := trace.Run(ctx, trace.Options{Formats: formats, Reach: reach, Drives: drives, Root: root, Unlooked: true}, doc)
		if err != nil {
			return line.Present{}, err
		}
		return line.Of(g, reach, drives, func(string, drive.Stamp) string { return "" }), nil
	}
	for i, e := range day {
		at := last.Add(-time.Duration(e.hours * float64(time.Hour)))
		if e.from > 0 {
			now, err := present()
			if err != nil {
				return err
			}
			if _, err := kept.Restore(ctx, line.Restoring{Present: now, Edition: e.from, Journals: s.Journals(), Now: at}); err != nil {
				return err
			}
		}
		text := whole
		if e.part < 1 || e.opening {
			if text, err = shorter(whole, i+1, e.part, e.opening); err != nil {
				return err
			}
		}
		if err := os.WriteFile(doc, text, 0o644); err != nil {
			return err
		}
		now, err := present()
		if err != nil {
			return err
		}
		if _, err := kept.Keep(ctx, now, line.Request{By: e.by, Note: e.note, Alternative: e.aside, Now: at}); err != nil {
			return err
		}
	}
	return nil
}

// shorter is a timeline of which a part of each track stands, with or without its first clip, under a name that tells
// how often it was saved.
func shorter(text []byte, saved int, part float64, opening bool) ([]byte, error) {
	var t struct {
		Tracks struct {
			Children []map[string]any `json:"children"`
		} `json:"tracks"`
	}
	var all map[string]any
	if err := json.Unmarshal(text, &t); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(text, &all); err != nil {
		return nil, err
	}
	for _, track := range t.Tracks.Children {
		list, _ := track["children"].([]any)
		list = list[:max(1, int(part*float64(len(list))))]
		if opening && len(list) > 1 {
			list = list[1:]
		}
		track["children"] = list
	}
	if tracks, ok := all["tracks"].(map[string]any); ok {
		tracks["children"] = t.Tracks.Children
	}
	all["name"] = fmt.Sprintf("%v, save %d", all["name"], saved)
	b, err := json.MarshalIndent(all, "", "  ")
	return append(b, '\n'), err
}
