package recipe_test

import (
	"errors"
	"reflect"
	"slices"
	"testing"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/stow"
)

func TestParse(t *testing.T) {
	r, err := recipe.Parse([]byte(`title: For the sound desk
for: the mixer
from: picture
note: horns are loud
layout: stands
names: as-they-are
prefix: tc_
leave: [dormant, "kind:video"]
drop: ["**/proxy/**"]
keep: ["*.wav"]
digests: [sha256]
`))
	o := r.Stow
	if err != nil || r.Title != "For the sound desk" || r.For != "the mixer" || r.From != "picture" || r.Note != "horns are loud" || o.Layout != stow.AsStands || !o.AnyNames || o.Prefix != "tc_" ||
		!o.Leave.Dormant || o.Leave.Listed || !slices.Equal(o.Leave.Kinds, []facts.Kind{facts.Video}) || !slices.Equal(o.Leave.Drop, []string{"**/proxy/**"}) || !slices.Equal(o.Leave.Keep, []string{"*.wav"}) {
		t.Errorf("%+v %v", r, err)
	}
	for _, empty := range []string{"", "# nothing chosen\n"} {
		if r, err := recipe.Parse([]byte(empty)); err != nil || r.Stow.Layout != stow.ByKind {
			t.Errorf("%q: %+v %v", empty, r, err)
		}
	}
}

// TestRefused: nothing a recipe says is passed over. Every refusal names the key
// and its line, and tells what is not known from what is not built yet.
func TestRefused(t *testing.T) {
	for _, c := range []struct {
		text    string
		line    int
		key     string
		trouble recipe.Trouble
	}{
		{"layout: kind\nlayuot: flat\n", 2, "layuot", recipe.Unknown},
		{"layout: kind\nlayout: flat\n", 2, "layout", recipe.Twice},
		{"title: x\nlayout: heap\n", 2, "layout", recipe.Unknown},
		{"layout: \"{kind}/{nmae}\"\n", 1, "layout", recipe.BadLayout},
		{"leave:\n  - dormant\n  - nonsense\n", 3, "leave", recipe.Unknown},
		{"leave: dormant\n", 1, "leave", recipe.NoList},
		{"digests: [sha256, md5]\n", 1, "digests", recipe.Unknown},
		{"digests: [crc]\n", 1, "digests", recipe.Unknown},
		{"lists: [zip]\n", 1, "lists", recipe.Unknown},
		{"also: [\"[x\"]\n", 1, "also", recipe.BadGlob},
		{"\n\nparts: 4 kB\n", 3, "parts", recipe.Unknown},
		{"drop: [\"[a\"]\n", 1, "drop", recipe.BadGlob},
		{"trim: 2\nalso: [companions, editions, renders, strays]\n", 1, "trim", recipe.NotKept},
		{"title: [a]\n", 1, "title", recipe.NoText},
		{"- a\n- b\n", 1, "", recipe.NoRecipe},
		{"a: [\n", 0, "", recipe.NoRecipe},
	} {
		_, err := recipe.Parse([]byte(c.text))
		var e *recipe.Error
		if !errors.As(err, &e) || e.Line != c.line || e.Key != c.key || e.Trouble != c.trouble {
			t.Errorf("%q: %#v", c.text, err)
		}
	}
}

// TestWritten: what is written says the same when it is read, for the recipes that come
// along and for one that says everything.
func TestWritten(t *testing.T) {
	all := map[string]recipe.Recipe{"default": recipe.Default()}
	for n, r := range recipe.Shipped {
		all[n] = r
	}
	full, err := recipe.Parse([]byte("title: t\nlayout: \"{kind}/{n:3} {name}\"\nprefix: p\nsuffix: s\nnames: as-they-are\nleave: [dormant, listed, rebuildable, library, store, duplicates, kind:video]\ndrop: [\"**/old/*\"]\nkeep: [a]\nalso: [companions, \"notes/**\"]\nsound: {type: flac, rate: 96000, depth: 32float, channels: split}\ninterchange: [edl]\ndigests: [sha256, sha512]\nlists: [ro-crate, mhl]\nparts: 4.7 GB\ntrim: 1.5\nfor: f\nfrom: g\nnote: n\n"))
	if err != nil {
		t.Fatal(err)
	}
	all["full"] = full
	for name, r := range all {
		b, err := recipe.Write(r)
		if err != nil {
			t.Fatal(err)
		}
		again, err := recipe.Parse(b)
		if err != nil {
			t.Fatalf("%s: %v\n%s", name, err, b)
		}
		again.Lines, r.Lines = nil, nil
		if !reflect.DeepEqual(again.Also, r.Also) && len(again.Also)+len(r.Also) > 0 || len(recipe.Compare(again, r)) > 0 || again.Title != r.Title || again.Note != r.Note || again.For != r.For {
			t.Errorf("%s: %+v\n%+v\n%s", name, again, r, b)
		}
	}
	if len(recipe.Shipped) != 5 {
		t.Errorf("%d recipes come along", len(recipe.Shipped))
	}
	if d := recipe.Compare(recipe.Shipped["archive"], recipe.Shipped["mixing stage"]); len(d) != 5 {
		t.Errorf("%+v", d)
	}
}

// TestSizes: sizes as people write them, decimal and binary (IEC 80000-13), and back to the
// byte.
func TestSizes(t *testing.T) {
	for text, want := range map[string]int64{
		"2GB": 2_000_000_000, "650 MB": 650_000_000, "4.7 GB": 4_700_000_000, "4 GiB": 1 << 32, "4294967295": 1<<32 - 1, "1MB": 1_000_000, "1.5 gb": 1_500_000_000,
		"0": 0, "999999": 0, "-2GB": 0, "GB": 0, "2 parsecs": 0, "": 0, "9999999 TB": 0,
	} {
		n, ok := recipe.Size(text)
		if ok != (want > 0) || ok && n != want {
			t.Errorf("%q is %d, %v", text, n, ok)
		}
		if !ok {
			continue
		}
		r := recipe.Default()
		r.Parts = n
		b, err := recipe.Write(r)
		if err != nil {
			t.Fatal(err)
		}
		if again, err := recipe.Parse(b); err != nil || again.Parts != n {
			t.Errorf("%q is written %s: %v", text, b, err)
		}
	}
}

// TestOddYAML: what YAML allows and a recipe has no need of is refused with its line, before
// anything of it is followed.
func TestOddYAML(t *testing.T) {
	for text, want := range map[string]recipe.Error{
		"title: &a x\nfor: *a\n":                 {Line: 1, Trouble: recipe.Alias},
		"layout: kind\nsound: *gone\n":           {Trouble: recipe.NoRecipe}, // YAML itself knows no such anchor
		"layout: kind\n---\nlayout: flat\n":      {Line: 2, Trouble: recipe.Second},
		"layout: kind\ntitle: x\nlayout: flat\n": {Line: 3, Trouble: recipe.Twice},
		"sound:\n  rate: 48000\n  rate: 44100\n": {Line: 3, Trouble: recipe.Twice},
		"trim: .nan\n":                           {Line: 1, Trouble: recipe.NoNumber},
		"title: x\ntrim: -.inf\n":                {Line: 2, Trouble: recipe.NoNumber},
	} {
		_, err := recipe.Parse([]byte(text))
		var e *recipe.Error
		if !errors.As(err, &e) || e.Trouble != want.Trouble || want.Line > 0 && e.Line != want.Line {
			t.Errorf("%q: %v, wanted %+v", text, err, want)
		}
	}
}

// FuzzParse: no text makes a recipe panic, or one that cannot be written down again.
func FuzzParse(f *testing.F) {
	f.Add([]byte("title: x\nlayout: kind\nsound: {rate: 48000, channels: split}\nalso: [strays, '*.txt']\n"))
	f.Add([]byte("a: &a [*a]\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		_, _ = recipe.Parse(b)
	})
}
