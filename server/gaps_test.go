package server_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/tracing"
)

// TestGapsAside: the numbers that a sequence lacks are set aside as a missing file is, and
// brought back.
func TestGapsAside(t *testing.T) {
	files := map[string]string{"film/cut.otio": sunrise}
	for _, n := range []int{1, 2, 4} {
		files[fmt.Sprintf("film/sun/sun.%04d.png", n)] = fmt.Sprint("frame ", n)
	}
	c := start(t, files)
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	list := get[mending.WantedList](c, at+"/tables/wanted")
	if len(list.Lines) != 1 || list.Lines[0].Row.Gaps == "" {
		t.Fatalf("%+v", list)
	}
	send[api.Started](c, "POST", at+"/aside", mending.SetAside{Expected: []string{list.Lines[0].Row.Key}, Why: "later"})
	if s := c.settled(p.ID); s.ToFind != 0 || s.Gapped != 1 {
		t.Errorf("%d to find, %d with gaps", s.ToFind, s.Gapped)
	}
	m := get[mending.Mend](c, at+"/mend")
	if len(m.Aside) != 1 {
		t.Fatalf("%+v", m.Aside)
	}
	send[any](c, "DELETE", fmt.Sprintf("%s/repairs/%d", at, m.Aside[0].ID), nil)
	until(c, at, "it back", func(s tracing.Summary) bool { return s.ToFind == 1 })
}

// sunrise names four frames.
var sunrise = func() string {
	frame := func(n int) string {
		return fmt.Sprintf(`{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%d}`, n)
	}
	return `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"V1","kind":"Video","children":[{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"sun/","name_prefix":"sun.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":4,"available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":` + frame(1) + `,"duration":` + frame(4) + `}}}]}]}}`
}()

// TestFramesByHand: any frame that a person chooses stands for the whole sequence, under
// whatever name; what is none of its frames is refused.
func TestFramesByHand(t *testing.T) {
	files := map[string]string{"film/cut.otio": sunrise, "attic/dawn.png": "no frame"}
	for n := 1; n <= 4; n++ {
		files[fmt.Sprintf("attic/dawn over harbour_%04d.png", n)] = fmt.Sprint("frame ", n)
	}
	c := start(t, files)
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	row := get[mending.WantedList](c, at+"/tables/wanted").Lines[0].Row
	c.refusals(refused{{"POST", at + "/repairs", mending.Choose{Expected: row.Key, Path: filepath.Join(c.dir, "attic/dawn.png")}, 422}})
	got := send[mending.Chosen](c, "POST", at+"/repairs", mending.Choose{Expected: row.Key, Path: filepath.Join(c.dir, "attic/dawn over harbour_0002.png")})
	if !got.Applied || got.Candidate.Files != 4 {
		t.Fatalf("%+v", got)
	}
	if s := c.settled(p.ID); s.ToFind != 0 || s.Missing != 0 {
		t.Errorf("%+v", s.Tally)
	}
}

// TestFramesCopied: the frames that a sequence lacks are copied into its folder from a candidate,
// and nothing else is; where one of them is there meanwhile, none is copied. A path that no search
// offered is refused.
func TestFramesCopied(t *testing.T) {
	files := map[string]string{"film/cut.otio": sunrise}
	for _, n := range []int{1, 4} {
		files[fmt.Sprintf("film/sun/sun.%04d.png", n)] = fmt.Sprint("frame ", n)
	}
	for n := 1; n <= 4; n++ {
		files[fmt.Sprintf("attic/sun.%04d.png", n)] = fmt.Sprint("rendered anew ", n)
	}
	c := start(t, files)
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	c.wait(send[api.Started](c, "POST", at+"/search", mending.Search{Folders: []string{filepath.Join(c.dir, "attic")}}).Job.ID)
	row := get[mending.WantedList](c, at+"/tables/wanted").Lines[0].Row
	wanted := get[mending.Wanted](c, at+"/wanted?key="+url.QueryEscape(row.Key))
	if len(wanted.Candidates) != 1 || !wanted.Candidates[0].Fills || wanted.Candidates[0].Files != 2 {
		t.Fatalf("%+v", wanted.Candidates)
	}
	ask := func() mending.CopyFrames {
		return mending.CopyFrames{Snapshot: c.snapshot(at), Expected: row.Key, Path: wanted.Candidates[0].Path}
	}
	other := ask()
	other.Path = filepath.Join(c.dir, "film/sun/sun.<4>.png")
	c.refusals(refused{{"POST", at + "/frames", other, 422}})

	// A folder of that name is not seen as a frame, and nothing can be copied over it.
	blocked := filepath.Join(c.dir, "film/sun/sun.0003.png")
	if err := os.Mkdir(blocked, 0o755); err != nil {
		t.Fatal(err)
	}
	if j := c.wait(send[api.Started](c, "POST", at+"/frames", ask()).Job.ID); j.State != api.Failed {
		t.Errorf("%+v", j)
	}
	if _, err := os.Stat(filepath.Join(c.dir, "film/sun/sun.0002.png")); err == nil {
		t.Error("one frame was copied although another could not be")
	}
	if err := os.Remove(blocked); err != nil {
		t.Fatal(err)
	}
	c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	c.wait(send[api.Started](c, "POST", at+"/frames", ask()).Job.ID)
	until(c, at, "no gaps", func(s tracing.Summary) bool { return s.Gapped == 0 && s.ToFind == 0 })
	for n, want := range map[int]string{1: "frame 1", 2: "rendered anew 2", 3: "rendered anew 3", 4: "frame 4"} {
		if got, err := os.ReadFile(filepath.Join(c.dir, fmt.Sprintf("film/sun/sun.%04d.png", n))); err != nil || string(got) != want {
			t.Errorf("frame %d: %q, %v", n, got, err)
		}
	}
	if got, err := os.ReadFile(filepath.Join(c.dir, "film/cut.otio")); err != nil || string(got) != sunrise {
		t.Errorf("the document changed: %v", err)
	}
}

// TestGapsByHand: the folder that has the missing frames can be chosen by any one of its frames;
// frames under another name fill no gap.
func TestGapsByHand(t *testing.T) {
	files := map[string]string{"film/cut.otio": sunrise, "attic/dawn.0002.png": "another"}
	for _, n := range []int{1, 4} {
		files[fmt.Sprintf("film/sun/sun.%04d.png", n)] = fmt.Sprint("frame ", n)
	}
	for n := 2; n <= 3; n++ {
		files[fmt.Sprintf("attic/sun.%04d.png", n)] = fmt.Sprint("frame ", n)
	}
	c := start(t, files)
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	row := get[mending.WantedList](c, at+"/tables/wanted").Lines[0].Row
	c.refusals(refused{{"POST", at + "/repairs", mending.Choose{Expected: row.Key, Path: filepath.Join(c.dir, "attic/dawn.0002.png")}, 422}})
	got := send[mending.Chosen](c, "POST", at+"/repairs", mending.Choose{Expected: row.Key, Path: filepath.Join(c.dir, "attic/sun.0003.png")})
	if !got.Applied || !got.Candidate.Fills || got.Candidate.Files != 2 {
		t.Fatalf("%+v", got)
	}
	until(c, at, "no gaps", func(s tracing.Summary) bool { return s.Gapped == 0 })
}
