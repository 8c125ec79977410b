package graph_test

import (
	"slices"
	"testing"
	"testing/quick"

	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// TestPattern: a pattern's text form reads back, the name of a number gives the
// number, and no other name does.
func TestPattern(t *testing.T) {
	for _, p := range []graph.Pattern{
		{Dir: "/film", Head: "sun.", Tail: ".png", Digits: 4}, {Dir: "/film", Head: "", Tail: ".dpx", Digits: 1}, {Dir: "/f <2>", Head: "a", Tail: "", Digits: 8},
		{Dir: "/film", Head: "tile_", Tail: ".tif", Digits: mention.Grid}, {Dir: "/film", Head: "x", Tail: ".exr", Digits: 0},
	} {
		if got, ok := graph.ParsePattern(p.String()); !ok || got != p {
			t.Errorf("%s reads back as %+v", p, got)
		}
		law := func(n int32) bool {
			number := int(n)
			if p.Digits == mention.Grid {
				number = graph.GridBase + (abs(n)%900+1)*graph.GridRow + abs(n)%90 + 1
			}
			got, ok := p.Number(p.Name(number))
			return ok && got == number
		}
		if err := quick.Check(law, nil); err != nil {
			t.Errorf("%s: %v", p, err)
		}
	}
	p := graph.Pattern{Dir: "/", Head: "sun.", Tail: ".png", Digits: 4}
	for name, want := range map[string]int{"sun.0147.png": 147, "sun.12345.png": 12345, "sun.-0001.png": -1} {
		if n, ok := p.Number(name); !ok || n != want {
			t.Errorf("%s is %d %v", name, n, ok)
		}
	}
	for _, name := range []string{"sun.147.png", "sun.0147.exr", "moon.0147.png", "sun..png", "sun.014a.png", "sun.012345.png", "sun.0147.png.bak", "sun.1234567890123.png"} {
		if n, ok := p.Number(name); ok {
			t.Errorf("%s is taken for number %d", name, n)
		}
	}
	if p.Shown() != "sun.####.png" || graph.Shown("/a/sun.<4>.png") != "/a/sun.####.png" || graph.Shown("/a/b.wav") != "/a/b.wav" {
		t.Errorf("%s, %s", p.Shown(), graph.Shown("/a/sun.<4>.png"))
	}
	for _, s := range []string{"/a/b.wav", "/a/x<.png", "/a/x<a>.png", "/a/x<-1>.png"} {
		if p, ok := graph.ParsePattern(s); ok {
			t.Errorf("%s is taken for the pattern %+v", s, p)
		}
	}
}

func abs(n int32) int {
	if n < 0 {
		return int(-(n + 1))
	}
	return int(n)
}

func TestGaps(t *testing.T) {
	gaps := []graph.Gap{{First: 3, Last: 5, Step: 1}, {First: 10, Last: 18, Step: 4}}
	if ns, ok := graph.Numbers(gaps, 10); !ok || !slices.Equal(ns, []int{3, 4, 5, 10, 14, 18}) {
		t.Errorf("%v %v", ns, ok)
	}
	if _, ok := graph.Numbers(gaps, 5); ok {
		t.Error("six numbers passed for five")
	}
	if p := (graph.Place{Gaps: gaps}); p.Lacks() != 6 {
		t.Errorf("it lacks %d", p.Lacks())
	}
	if graph.Label(147) != "147" || graph.Label(graph.GridBase+2*graph.GridRow+3) != "u3_v2" {
		t.Error(graph.Label(graph.GridBase + 2*graph.GridRow + 3))
	}
}

// TestWays: the way to a document thousands deep is one line, not a search.
func TestWays(t *testing.T) {
	g := &graph.Graph{}
	const deep = 5000
	for i := range deep {
		g.Documents = append(g.Documents, graph.Document{By: graph.RefID(i - 1)})
		g.References = append(g.References, graph.Reference{Doc: graph.DocID(i)})
	}
	g.Documents[0].By = graph.None
	way := g.Ways(deep - 1)
	if len(way) != deep || way[0] != 0 || way[deep-1] != deep-1 || !slices.IsSorted(way) {
		t.Errorf("%d documents, %d to %d", len(way), way[0], way[len(way)-1])
	}
	if way := g.Ways(0); len(way) != 1 {
		t.Errorf("%v", way)
	}
}

func TestCommonFolder(t *testing.T) {
	for _, c := range []struct {
		paths []string
		want  string
	}{
		{[]string{"/a/b/x", "/a/b/y"}, "/a/b"}, {[]string{"/a/b/x", "/a/bc/y"}, "/a"}, {[]string{"/a/x", "/b/y"}, "/"}, {[]string{"/a/b/x"}, "/a/b"}, {[]string{"/a/b/x", "/a/x"}, "/a"},
	} {
		if got := graph.CommonFolder(c.paths); got != c.want {
			t.Errorf("%q: %s, wanted %s", c.paths, got, c.want)
		}
	}
}
