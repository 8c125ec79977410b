package proof_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/proof"
	"boundcrate/core/road/graph"
)

// TestAnyRecord: whatever a record lists, it is judged without a fall, and one that
// contradicts itself proves nothing.
func TestAnyRecord(t *testing.T) {
	g := &graph.Graph{Documents: []graph.Document{{Path: "/c/data/cut.m3u", Recognised: true}}, Roots: []graph.DocID{0}}
	place := &graph.Place{State: graph.Here, Path: "/c/data/a.wav", Expected: "/c/data/a.wav"}
	g.References = []graph.Reference{{Place: place, Written: "a.wav", File: 0, Child: graph.None}}
	g.Files = []graph.File{{Path: "/c/data/a.wav", State: graph.Here, Refs: []graph.RefID{0}, Doc: graph.None, Carried: true}}
	crate := proof.Crate{Graph: g, Data: "/c/data", Digest: func(string) string { return "aa" }, Late: func(string) bool { return false }, Again: func(string) bool { return false }}
	sound := func() *proof.Expectations {
		return &proof.Expectations{
			Documents: []string{"cut.m3u"}, Roots: 1, Targets: [][]proof.Member{{{Path: "a.wav", SHA256: "aa"}}},
			List: []proof.Expectation{{Document: "cut.m3u", To: 0}},
		}
	}
	if v := proof.Judge(crate, sound()); !v.Complete || v.Held != 1 {
		t.Fatalf("%+v", v)
	}
	rng := rand.New(rand.NewPCG(19, 75))
	number := func() int { return []int{-2, -1, 0, 1, 7}[rng.IntN(5)] }
	for range 2000 {
		e := sound()
		spoilt := true
		switch rng.IntN(7) {
		case 0:
			e.List[0].To = number()
			spoilt = e.List[0].To != 0
		case 1:
			e.List[0].Nth = number()
			spoilt = e.List[0].Nth != 0
		case 2:
			e.Roots = number()
			spoilt = e.Roots != 1
		case 3:
			e.List[0].Document = "other.m3u"
		case 4:
			e.Targets = nil
		case 6:
			e.Targets[0][0].SHA256 = []string{"bb", "", "AA"}[rng.IntN(3)]
		case 5:
			e.Targets[0] = []proof.Member{{Path: []string{"b.wav", "../a.wav", ""}[rng.IntN(3)], SHA256: "aa"}}
		}
		if v := proof.Judge(crate, e); v.Complete == spoilt {
			t.Fatalf("%+v: %+v", e, v)
		}
	}
}

// TestFrames: a sequence leads to the very frames that were sealed: one less, one more, one
// of another number or of other bytes is another sequence.
func TestFrames(t *testing.T) {
	pattern, _ := graph.ParsePattern("/c/data/sun.####.png")
	g := &graph.Graph{Documents: []graph.Document{{Path: "/c/data/cut.otio", Recognised: true}}, Roots: []graph.DocID{0}}
	names := func(n int) (list []string) {
		for i := range n {
			list = append(list, fmt.Sprintf("sun.%04d.png", i+1))
		}
		return list
	}
	for _, c := range []struct {
		what         string
		sealed, here []string
		other        string
		holds        bool
	}{
		{"the same", names(3), names(3), "", true},
		{"one more", names(2), names(3), "", false},
		{"one less", names(3), names(2), "", false},
		{"another number", names(3), append(names(2), "sun.0004.png"), "", false},
		{"other bytes", names(3), names(3), "sun.0002.png", false},
	} {
		place := &graph.Place{State: graph.Here, Path: pattern.String(), Expected: pattern.String(), Sizes: make([]int64, len(c.here))}
		for _, n := range c.here {
			place.Files = append(place.Files, "/c/data/"+n)
		}
		g.References = []graph.Reference{{Place: place, Written: "sun.####.png", Kind: facts.Sequence, File: 0, Child: graph.None}}
		g.Files = []graph.File{{Path: pattern.String(), State: graph.Here, Refs: []graph.RefID{0}, Doc: graph.None, Carried: true, Frames: &graph.Frames{Pattern: pattern, Files: place.Files}}}
		var target []proof.Member
		for _, n := range c.sealed {
			target = append(target, proof.Member{Path: n, SHA256: "of " + n})
		}
		crate := proof.Crate{Graph: g, Data: "/c/data", Late: func(string) bool { return false }, Again: func(string) bool { return false }, Digest: func(p string) string {
			if p == c.other {
				return "another"
			}
			return "of " + p
		}}
		v := proof.Judge(crate, &proof.Expectations{Documents: []string{"cut.otio"}, Roots: 1, Targets: [][]proof.Member{target}, List: []proof.Expectation{{Document: "cut.otio"}}})
		if v.Complete != c.holds {
			t.Errorf("%s: %+v", c.what, v)
		}
	}
}
