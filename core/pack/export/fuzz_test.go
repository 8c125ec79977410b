package export_test

import (
	"encoding/json"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/export"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/format/otio"
	"boundcrate/core/text/mention"
)

// FuzzMake: no text makes any form panic; what is written of a timeline has no line that
// somebody else's name broke, and an older timeline is JSON again.
func FuzzMake(f *testing.F) {
	f.Add([]byte(tracks(25, trackOf("Audio", "A1", clip("a", "a.wav", 0, 10, 25, ""), gap(3, 25)))), uint8(0))
	f.Add([]byte(tracks(29.97, trackOf("Video", "V\\n1", clip("x\\r\\ny", "a.wav", 1e9, -4, 0.001, `,"effects":[{"OTIO_SCHEMA":"LinearTimeWarp.1"}]`)))), uint8(1))
	f.Add([]byte(`{"OTIO_SCHEMA":"Timeline.1","tracks":{"children":[{"OTIO_SCHEMA":"Track.1","children":[null]}]}}`), uint8(0))
	g := &graph.Graph{
		Documents:  []graph.Document{{Path: "/w/cut.otio", Format: "otio"}},
		Files:      []graph.File{{At: drive.Path{Path: "/w/cut.otio"}, Path: "/w/cut.otio"}, {At: drive.Path{Path: "/w/a.wav"}, Path: "/w/a.wav", Doc: graph.None, Refs: []graph.RefID{0}}},
		References: []graph.Reference{{File: 1, Written: "a.wav"}},
	}
	f.Fuzz(func(t *testing.T, text []byte, as uint8) {
		form := export.Forms[int(as)%len(export.Forms)]
		says, err := otio.Format{}.Read(mention.Text{Bytes: text}, nil)
		if err != nil {
			return
		}
		doc, err := export.Make(export.Options{As: form, Graph: g, Says: says, Name: func(graph.FileID) string { return "a.wav" }})
		if err != nil {
			return
		}
		for _, l := range doc.Losses {
			if l.Count < 1 {
				t.Fatalf("%+v", l)
			}
		}
		switch form {
		case export.OTIO1:
			if !json.Valid(doc.Bytes) {
				t.Fatalf("%s", doc.Bytes)
			}
		case export.EDL:
			for _, l := range strings.Split(strings.TrimSuffix(string(doc.Bytes), "\n"), "\n") {
				if !strings.HasPrefix(l, "TITLE:") && !strings.HasPrefix(l, "FCM:") && !strings.HasPrefix(l, "* ") && !line.MatchString(l) {
					t.Fatalf("%q", l)
				}
			}
		}
	})
}
