package server_test

import (
	"fmt"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/places"
	"boundcrate/app/api/tracing"
)

// TestHomeTells: what did not come home, what came with files missing, and which document
// cannot say the new place stand in what the job says; nothing is called done that is not.
func TestHomeTells(t *testing.T) {
	images := `{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"../loose/img/","name_prefix":"f.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":2,"available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":1},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":3}}}}`
	c := start(t, map[string]string{
		"film/cut.otio":      `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[` + images + `]}]}}`,
		"film/cut.edl":       "TITLE: x\nFCM: NON-DROP FRAME\n\n001  AX       A     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: horn.wav\n",
		"loose/img/f.01.png": "1", "loose/img/f.03.png": "3", "loose/horn.wav": "horn",
	})
	for _, x := range []struct {
		doc  string
		says []string
		here int
	}{
		{"film/cut.otio", []string{"2 files copied", "1 document changed", "files are missing from: 1 file, the first is f.##.png"}, 1},
		{"film/cut.edl", []string{"0 files copied", "0 documents changed", "not copied: 1 file, the first is horn.wav", "cut.edl"}, 0},
	} {
		p := c.open(x.doc)
		at := fmt.Sprintf("/api/projects/%d", p.ID)
		j := c.wait(send[api.Started](c, "POST", at+"/home", places.BringHome{Snapshot: c.snapshot(at)}).Job.ID)
		for _, s := range x.says {
			if j.State != api.Done || !strings.Contains(j.Message, s) {
				t.Errorf("%s: %q lacks %q", x.doc, j.Message, s)
			}
		}
		c.settle(p.ID)
		here := 0
		for _, s := range get[tracing.Summary](c, at).States {
			if s.State == "here" {
				here += s.References
			}
		}
		if here != x.here {
			t.Errorf("%s: %d are here", x.doc, here)
		}
	}
}
