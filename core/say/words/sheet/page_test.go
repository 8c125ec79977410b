package sheet_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words/sheet"
)

// full is a sheet of n files, with one of everything it can tell.
func full(n int) seal.Sheet {
	s := seal.Sheet{
		Name: "film", Made: time.Date(2026, 3, 4, 0, 0, 0, 0, time.UTC), Files: n, Bytes: int64(n) * 1000, Note: "For <b>you</b>", For: "Sound desk", From: "Picture desk", Documents: []string{"data/cut.otio"},
		Left: []stow.Left{{Path: "/x/<gone>.wav", Why: "missing"}}, Renamed: []seal.Renamed{{From: `D:\old\<i>.wav`, To: "data/audio/take-00001.wav", Why: stow.Portably}},
		Points: []stow.Aimed{{Document: "cut.otio", Owner: "Track A1", From: "/old", To: "."}}, Repoints: []stow.Repoint{{Document: "x.bin", Owner: "clip", Written: "C:/a", To: "audio/a.wav"}},
		Since: "monday", Fetched: seal.Amount{Files: 3, Bytes: 9},
	}
	for i := range n {
		s.Contents = append(s.Contents, seal.SheetFile{Path: fmt.Sprintf("data/audio/take-%05d.wav", i), Size: 1000, Kind: facts.Audio, Facts: facts.Facts{Seconds: 90, Rate: 48000, Depth: 24, Channels: 2}})
	}
	return s
}

// TestPage: the sheet tells every file once, escapes whatever a file is called, and asks nothing of
// anybody: no script, no address.
func TestPage(t *testing.T) {
	s := full(50)
	s.Contents = append(s.Contents, seal.SheetFile{Path: "data/<script>alert(1)</script>.wav", Kind: facts.Audio})
	for i := range 24 {
		s.Contents = append(s.Contents, seal.SheetFile{Path: fmt.Sprintf("data/plates/sun.%04d.png", 1001+i), Size: 10, Kind: facts.Image, Facts: facts.Facts{Width: 1920, Height: 1080}})
	}
	text := string(sheet.Page(s, &seal.Report{Complete: true}))
	for _, bad := range []string{"<script", "<b>you", "<i>", "<gone>", "http:", "https:", "src=", "href=", "url("} {
		if strings.Contains(text, bad) {
			t.Errorf("the sheet holds %q", bad)
		}
	}
	for _, want := range []string{"Sound desk", "Picture desk", "For &lt;b&gt;you", "cut.otio", "48 kHz, 24 bit, stereo", "1:15:00 in all", "sun.####.png", "24 frames, 1001 to 1024", "1920×1080", "was &lt;i&gt;.wav", "&lt;gone&gt;.wav", "monday", "Relink in x.bin", "Track A1", "counter(page)", "sha256sum -c"} {
		if !strings.Contains(text, want) {
			t.Errorf("the sheet lacks %q", want)
		}
	}
	for i := range 50 {
		if name := fmt.Sprintf("take-%05d.wav", i); strings.Count(text, name) != 1 {
			t.Errorf("%s is told %d times", name, strings.Count(text, name))
		}
	}
	if m := regexp.MustCompile(`<p class="(\w+)">`).FindStringSubmatch(text); len(m) == 0 {
		t.Error("the verdict has no tone")
	}
	if bare := string(sheet.Page(seal.Sheet{Name: "bag"}, nil)); strings.Contains(bare, "remarks") || strings.Contains(bare, "Open first") || !strings.Contains(bare, "0 files") {
		t.Errorf("an empty sheet tells %s", bare)
	}
}

// BenchmarkPage is the sheet of 50,000 files.
func BenchmarkPage(b *testing.B) {
	s := full(50_000)
	for b.Loop() {
		sheet.Page(s, nil)
	}
}
