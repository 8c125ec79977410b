package mend_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"boundcrate/core/mend/mend"
)

// TestSpelled: near-equal names, and what each pair tells.
func TestSpelled(t *testing.T) {
	for _, c := range []struct {
		wanted, name string
		code         mend.Code
		more         []mend.Code
	}{
		{"plaster-v018.png", "plaster-v018.png", mend.Name, nil},
		{"plaster-v018.png", "Plaster_V018.png", mend.NameParted, nil},
		{"plaster-v018.png", "plaster 18.png", mend.NameSpelled, nil},
		{"plaster-v018.png", "plaster (18).png", mend.NameSpelled, nil},
		{"plaster-v018.png", "plaster_18.png", mend.NameSpelled, nil},
		{"plaster-v018.png", "plaster18.png", mend.NameSpelled, nil},
		{"plaster-v018.png", "plaster 10.png", mend.NameAlike, []mend.Code{mend.OtherNumber}},
		{"plaster-v018.png", "plaster-v019.png", mend.NameAlike, []mend.Code{mend.OtherNumber}},
		{"T7.wav", "T007.wav", mend.NameSpelled, nil},
		{"T7.wav", "T70.wav", mend.NameAlike, []mend.Code{mend.OtherNumber}},
		{"take 1 2.wav", "take 12.wav", mend.NameAlike, []mend.Code{mend.OtherNumber}},
		{"Fäden.wav", "faden.wav", mend.NameSpelled, nil},
		{"Fa\u0308den.wav", "Fäden.wav", mend.NameParted, nil},
		{"Straße.wav", "strasse.wav", mend.NameSpelled, nil},
		{"gull.wav", "gull copy.wav", mend.NameLonger, []mend.Code{mend.PutBy}},
		{"gull.wav", "old gull.wav", mend.NameLonger, []mend.Code{mend.PutBy}},
		{"gull.wav", "gull_v2.wav", mend.NameLonger, []mend.Code{mend.Counted}},
		{"gull.wav", "gull (2).wav", mend.NameLonger, []mend.Code{mend.Counted}},
		{"gull.wav", "2031-04-02 gull.wav", mend.NameLonger, []mend.Code{mend.DateAdded}},
		{"gull.wav", "20310402_gull.wav", mend.NameLonger, []mend.Code{mend.DateAdded}},
		{"gull.wav", "2031-13-02 gull.wav", mend.NameLonger, []mend.Code{mend.Counted}}, // no such month
		{"gull.wav", "gull harbour.wav", mend.NameLonger, []mend.Code{mend.FolderSaid}},
		{"gull.wav", "gull close.wav", mend.NameLonger, nil},
		{"gull close.wav", "gull.wav", mend.NameShorter, nil},
		{"door far left.png", "door far right.png", mend.NameAlike, []mend.Code{mend.OtherWord}},
		{"river front.png", "river open 9.png", mend.NameAlike, []mend.Code{mend.OtherWord}},
		{"Q130 glass near.wav", "Q130 glass n.wav", mend.NameAlike, nil},
		{"lantern wide.png", "lanten wide.png", mend.NameAlike, nil},
		{"gull.wav", "horn.wav", "", nil},
		{"gull.wav", "gull copy.png", "", nil},
		{"2031-04-02 gull.wav", "2031-04-03 gull.wav", mend.NameAlike, []mend.Code{mend.OtherNumber}},
	} {
		code, more := mend.Relation(c.wanted, c.name)
		if code != c.code || !slices.Equal(more, c.more) && len(more)+len(c.more) > 0 {
			t.Errorf("%s and %s: %s %q, wanted %s %q", c.wanted, c.name, code, more, c.code, c.more)
		}
	}
}

// TestCompact: names of the same words and numbers are met by the same key, however they
// are written.
func TestCompact(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	between := []string{" ", "_", "-", ".", " (", "__"}
	for range 3000 {
		write := func(seed uint64) string {
			words, how := rand.New(rand.NewPCG(seed, 1)), rng
			name := ""
			for range 1 + words.IntN(4) {
				if name != "" {
					name += between[how.IntN(len(between))]
				}
				if words.IntN(2) == 0 {
					name += []string{"gull", "v", "Fäden", "take"}[words.IntN(4)]
				} else {
					name += fmt.Sprintf("%0*d", 1+how.IntN(4), words.IntN(40))
				}
			}
			return name
		}
		seed := rng.Uint64()
		a, b := write(seed), write(seed)
		if mend.SameParts(a, b) && mend.Compact(a) != mend.Compact(b) {
			t.Errorf("%q and %q have the same parts, and the keys %q and %q", a, b, mend.Compact(a), mend.Compact(b))
		}
	}
}
