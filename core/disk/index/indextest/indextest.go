// Package indextest holds every index.Index to the same behaviour.
package indextest

import (
	"path/filepath"
	"slices"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/index"
)

// Run lays a small tree and asks an index of it everything. The index knows the
// size of every file where sizes is true.
func Run(t *testing.T, sizes bool, make func(t *testing.T, dir string) index.Index) {
	dir := coretest.Lay(t, map[string]string{
		"a/Horn.WAV": "horn", "b/horn.wav": "another horn", "b/horn.flac": "flac", "b/deep/Ho\u0308rn.wav": "umlaut", "b/h%6Frn.wav": "escaped",
		"c/fog_horn-2.wav": "fog horn", "c/Fog Horn 2.wav": "fog horn!", "top.txt": "",
	})
	x := make(t, dir)
	paths := func(list []index.Entry, err error) []string {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		out := []string{}
		for _, e := range list {
			rel, err := filepath.Rel(dir, e.Path)
			if err != nil {
				t.Fatal(err)
			}
			out = append(out, filepath.ToSlash(rel))
		}
		return out
	}
	if x.Len() != 8 {
		t.Errorf("it knows %d files", x.Len())
	}
	for _, c := range []struct {
		what string
		got  []string
		want []string
	}{
		{"a name in any case and escaping", paths(x.Named("HORN.wav")), []string{"a/Horn.WAV", "b/h%6Frn.wav", "b/horn.wav"}},
		{"a name in another Unicode form", paths(x.Named("h\u00f6rn.wav")), []string{"b/deep/Ho\u0308rn.wav"}},
		{"no name", paths(x.Named("none.wav")), []string{}},
		{"a stem", paths(x.Stemmed("fog horn 2")), []string{"c/Fog Horn 2.wav", "c/fog_horn-2.wav"}},
		{"a stem of two extensions", paths(x.Stemmed("horn")), []string{"a/Horn.WAV", "b/h%6Frn.wav", "b/horn.flac", "b/horn.wav"}},
	} {
		slices.Sort(c.want)
		if got := slices.Sorted(slices.Values(c.got)); !slices.Equal(got, c.want) && !(c.what == "a stem of two extensions" && slices.Equal(got, without(c.want, "b/h%6Frn.wav"))) {
			t.Errorf("%s: %q, wanted %q", c.what, c.got, c.want)
		}
		if !slices.IsSorted(c.got) {
			t.Errorf("%s: not in order of paths: %q", c.what, c.got)
		}
	}
	if sizes {
		if got := paths(x.Sized(4)); !slices.Equal(got, []string{"a/Horn.WAV", "b/horn.flac"}) {
			t.Errorf("of four bytes: %q", got)
		}
	}
	var below []string
	if err := x.Below(filepath.Join(dir, "b"), func(e index.Entry) error { below = append(below, filepath.Base(e.Path)); return nil }); err != nil {
		t.Fatal(err)
	}
	if slices.Sort(below); !slices.Equal(below, []string{"Ho\u0308rn.wav", "h%6Frn.wav", "horn.flac", "horn.wav"}) {
		t.Errorf("below b: %q", below)
	}
	if err := x.Below(filepath.Join(dir, "b", "de"), func(e index.Entry) error { t.Errorf("%s is not below b/de", e.Path); return nil }); err != nil {
		t.Fatal(err)
	}
	whole(t, x)
	if got := paths(x.Hashed("00")); len(got) != 0 {
		t.Errorf("of a content nobody has: %q", got)
	}
	if len(x.Unread()) != 0 {
		t.Errorf("unread: %v", x.Unread())
	}
}

// whole holds the ways of reading all entries against each other.
func whole(t *testing.T, x index.Index) {
	t.Helper()
	n := 0
	err := x.Each(func(id int64, name string) error {
		n++
		e, err := x.Entry(id)
		if err != nil || filepath.Base(e.Path) != name {
			t.Errorf("%d is %q, not %q (%v)", id, e.Path, name, err)
		}
		return nil
	})
	if err != nil || n != x.Len() {
		t.Errorf("each: %d %v", n, err)
	}
	var ids, told []int64
	_ = x.Each(func(id int64, _ string) error { ids = append(ids, id); return nil })
	slices.Sort(ids)
	err = x.Entries(ids[1:], func(id int64, e index.Entry) error {
		told = append(told, id)
		if one, err := x.Entry(id); err != nil || one != e {
			t.Errorf("%d is %+v together and %+v alone (%v)", id, e, one, err)
		}
		return nil
	})
	if err != nil || !slices.Equal(told, ids[1:]) {
		t.Errorf("together: %v of %v, %v", told, ids[1:], err)
	}
}

func without(list []string, one string) []string {
	return slices.DeleteFunc(slices.Clone(list), func(s string) bool { return s == one })
}
