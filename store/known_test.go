package store_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// opens is a reach that lists what was opened.
type opens struct {
	drive.System
	list *[]string
}

func (o opens) Open(path string) (drive.File, error) {
	*o.list = append(*o.list, filepath.Base(path))
	return o.System.Open(path)
}

// TestKnown: a file is opened once, and again only once it is another or is read by other
// formats. One that keeps its size and time and is another is met by its inode.
func TestKnown(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"cut.m3u": "a.wav\nb.wav\nc.bin\n", "a.wav": "aa", "b.wav": "bb", "c.bin": "cc"})
	s := open(t, filepath.Join(t.TempDir(), "data"))
	doc := filepath.Join(dir, "cut.m3u")
	formats := all.Formats()
	look := func() []string {
		var list []string
		m := memory(t, s)
		g, err := trace.Run(context.Background(), trace.Options{Formats: formats, Reach: opens{list: &list}, Known: m.Known}, doc)
		if err != nil {
			t.Fatal(err)
		}
		if err := m.Remember(context.Background(), g, drive.System{}, nil, time.Now(), nil); err != nil {
			t.Fatal(err)
		}
		for i := range g.Files {
			if f := &g.Files[i]; f.Doc == graph.None && (f.Look == nil || f.Look.Kind != f.Kind && f.Kind != facts.Other) {
				t.Errorf("%s: %+v", f.Path, f.Look)
			}
		}
		slices.Sort(list)
		return list
	}
	change := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		what string
		do   func()
		want []string
	}{
		{"first", func() {}, []string{"a.wav", "b.wav", "c.bin", "cut.m3u"}},
		{"again", func() {}, []string{"cut.m3u"}},
		{"one is another of its size and time", func() {
			a := filepath.Join(dir, "a.wav")
			info, err := os.Stat(a)
			change(err)
			change(errors.Join(os.WriteFile(a+".new", []byte("xx"), 0o644), os.Chtimes(a+".new", info.ModTime(), info.ModTime()), os.Rename(a+".new", a)))
		}, []string{"a.wav", "cut.m3u"}},
		{"other formats", func() { formats = formats[1:] }, []string{"a.wav", "b.wav", "c.bin", "cut.m3u"}},
		{"and again", func() {}, []string{"cut.m3u"}},
	} {
		c.do()
		if got := look(); !slices.Equal(got, c.want) {
			t.Errorf("%s: opened %q, not %q", c.what, got, c.want)
		}
	}
}
