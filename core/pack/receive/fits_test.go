package receive_test

import (
	"strings"
	"testing"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
)

// TestOtherRates: received sounds of another rate than the project's own are told; a project of several
// rates, or of none that is known, has nothing to say.
func TestOtherRates(t *testing.T) {
	for name, x := range map[string]struct {
		own, came []int
		want      int
	}{
		"same": {[]int{48000, 48000}, []int{48000}, 0}, "other": {[]int{48000}, []int{44100, 48000, 96000}, 2}, "several": {[]int{48000, 44100}, []int{96000}, 0},
		"none": {nil, []int{44100}, 0}, "unknown": {[]int{0}, []int{44100}, 0}, "untold": {[]int{48000}, []int{0}, 0},
	} {
		g := &graph.Graph{Files: []graph.File{{Path: "/in/came.wav", Kind: facts.Audio, Look: &graph.Look{Facts: facts.Facts{Rate: 22050}}}}}
		for _, rate := range x.own {
			g.Files = append(g.Files, graph.File{Path: "/own/a.wav", Kind: facts.Audio, Look: &graph.Look{Facts: facts.Facts{Rate: rate}}})
		}
		rep := &receive.Report{Report: seal.Report{}}
		for _, rate := range x.came {
			rep.Sheet.Contents = append(rep.Sheet.Contents, seal.SheetFile{Path: "data/x.wav", Kind: facts.Audio, Facts: facts.Facts{Rate: rate}})
		}
		got := receive.OtherRates(rep, g, func(p string) bool { return strings.HasPrefix(p, "/own/") })
		if len(got) != x.want {
			t.Errorf("%s: %+v", name, got)
		}
		for _, m := range got {
			if m.Why != receive.OtherRate || m.Wants != "48000 Hz" {
				t.Errorf("%s: %+v", name, m)
			}
		}
	}
}
