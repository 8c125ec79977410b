package stow

import (
	"fmt"
	"testing"

	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
)

// TestChannelNames: which names say that a file holds a channel of a sound.
func TestChannelNames(t *testing.T) {
	for name, want := range map[string]string{
		"gull.L.wav": "gull 1/2", "gull.R.wav": "gull 2/2", "gull.l.aif": "gull 1/2", "a.b.R.flac": "a.b 2/2", "take.1.wav": "take 1/0", "take.12.wav": "take 12/0",
		"gull.wav": "", "gull L.wav": "", "L.wav": "", ".L.wav": "", "take.01.wav": "", "take.0.wav": "", "take.-1.wav": "", "take.x.wav": "",
	} {
		sound, n, of := channelOf(name)
		got := ""
		if n > 0 {
			got = fmt.Sprintf("%s %d/%d", sound, n, of)
		}
		if got != want {
			t.Errorf("%s: %q", name, got)
		}
	}
}

// TestTogether: what says that files hold the channels of one sound, and what says that they do
// not.
func TestTogether(t *testing.T) {
	set := func(family string, of int) facts.Facts { return facts.Facts{Family: family, FamilyOf: of} }
	at := func(clock int64) facts.Facts { return facts.Facts{Clock: clock} }
	for _, x := range []struct {
		name         string
		a, b         facts.Facts
		docs         [2][]int // that name them
		sides, takes bool     // as .L and .R, as .1 and .2
	}{
		{name: "nothing tells", docs: [2][]int{{}, {}}},
		{name: "one document names both", docs: [2][]int{{0}, {1, 0}}, sides: true},
		{name: "each is named by another", docs: [2][]int{{0}, {1}}},
		{name: "one set of two", a: set("X", 2), b: set("X", 2), sides: true, takes: true},
		{name: "one set, of how many it does not say", a: set("X", 0), b: set("X", 0), sides: true, takes: true},
		{name: "one set of three", a: set("X", 3), b: set("X", 3), docs: [2][]int{{0}, {0}}},
		{name: "two sets", a: set("X", 2), b: set("Y", 2), docs: [2][]int{{0}, {0}}},
		{name: "one is of a set", a: set("X", 2), docs: [2][]int{{0}, {0}}},
		{name: "one time", a: at(9), b: at(9), sides: true, takes: true},
		{name: "two times", a: at(9), b: at(10), docs: [2][]int{{0}, {0}}},
		{name: "one has a time", a: at(9), docs: [2][]int{{0}, {0}}},
		{name: "one set at two times", a: facts.Facts{Family: "X", Clock: 1}, b: facts.Facts{Family: "X", Clock: 2}},
	} {
		g := &graph.Graph{Files: make([]graph.File, 2)}
		p := &planner{Plan: &Plan{Graph: g}}
		for i, tells := range []facts.Facts{x.a, x.b} {
			for _, d := range x.docs[i] {
				g.Files[i].Refs = append(g.Files[i].Refs, graph.RefID(len(g.References)))
				g.References = append(g.References, graph.Reference{Doc: graph.DocID(d)})
			}
			b := asIs(Berth{File: graph.FileID(i)})
			b.soundResult().tells = tells
			p.Berths = append(p.Berths, b)
		}
		if sides, takes := p.together([]int{0, 1}, true), p.together([]int{0, 1}, false); sides != x.sides || takes != x.takes {
			t.Errorf("%s: sides %v, takes %v", x.name, sides, takes)
		}
	}
}
