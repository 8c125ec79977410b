package line_test

import (
	"fmt"
	"testing"

	"boundcrate/core/keep/line"
	"boundcrate/core/pack/compare"
)

// BenchmarkLine finds a line of 2,000 editions, which is what the page of it asks for.
func BenchmarkLine(b *testing.B) {
	p := newProject(b)
	for i := range 2000 {
		p.write("a", fmt.Sprint(i))
		p.keep(line.Request{By: line.Interval, Note: "a note of some length, as people write them"})
	}
	for b.Loop() {
		if l := p.line(); len(l.Editions) != 2000 {
			b.Fatal(len(l.Editions))
		}
	}
}

// BenchmarkCompare compares two editions of 20,000 references each, of which 100 differ.
func BenchmarkCompare(b *testing.B) {
	p := newProject(b)
	kept := [2]*line.Kept{}
	for n := range kept {
		p.write("a", fmt.Sprint(n))
		now := p.present()
		now.Material = &compare.State{}
		for i := range 20_000 {
			name := fmt.Sprintf("sound/take %d.wav", i)
			if i%200 == 0 {
				name = fmt.Sprintf("sound/take %d of %d.wav", i, n)
			}
			now.Material.Files = append(now.Material.Files, compare.StateFile{Path: name, Kind: "audio", Bytes: int64(i), Ranges: "0.000000+9.000000", Found: true, SHA256: fmt.Sprintf("%064x", i)})
		}
		k, err := p.store.Keep(b.Context(), now, line.Request{By: line.Hand})
		if err != nil {
			b.Fatal(err)
		}
		kept[n] = k
	}
	for b.Loop() {
		if c, err := p.store.Compare(b.Context(), &kept[0].Edition, &kept[1].Edition); err != nil || len(c.Changed) != 100 {
			b.Fatal(c, err)
		}
	}
}
