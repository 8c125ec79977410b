package sift_test

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/drive"
	"boundcrate/core/format/all"
	"boundcrate/core/mention"
	"boundcrate/core/sift"
	"boundcrate/core/trace"
)

func graph(t *testing.T, dir, doc string) *trace.Graph {
	t.Helper()
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, doc))
	if err != nil {
		t.Fatal(err)
	}
	return g
}

const table = "path,use\na.wav,\na.wav,dormant\n./a.wav,listed\nold.wav,dormant\nold.wav,listed\nspare.wav,listed\ngone.wav,\nlist.csv,\n"

// TestItems: every file once, by whatever name, as lively as its liveliest
// mention; the document that was asked for is none of them.
func TestItems(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"list.csv": table, "a.wav": "aaaa", "old.wav": "oo", "spare.wav": "s"})
	g := graph(t, dir, "list.csv")
	var got []string
	for _, it := range sift.Items(g) {
		got = append(got, fmt.Sprintf("%s %s %d %v", filepath.Base(it.Target), it.Use, it.Bytes, it.Found))
	}
	if want := []string{"a.wav used 4 true", "old.wav dormant 2 true", "spare.wav listed 1 true", "gone.wav used 0 false"}; !slices.Equal(got, want) {
		t.Errorf("%q, wanted %q", got, want)
	}
}

// TestWeigh: the sums of all lines are the sums of all that was found.
func TestWeigh(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"list.csv": table, "a.wav": "aaaa", "old.wav": "oo", "spare.wav": "s"})
	g := graph(t, dir, "list.csv")
	files, bytes := 0, int64(0)
	lines := sift.Weigh(g)
	for i, l := range lines {
		files, bytes = files+l.Files, bytes+l.Bytes
		if i > 0 && l.Bytes > lines[i-1].Bytes {
			t.Errorf("%+v stands behind %+v", l, lines[i-1])
		}
	}
	if files != 3 || bytes != 7 || len(lines) != 3 {
		t.Errorf("%d files, %d bytes in %+v", files, bytes, lines)
	}
}

// TestStays: only what no livelier mention needs stays, and what a switch
// leaves is a part of what both leave.
func TestStays(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"list.csv": table, "a.wav": "aaaa", "old.wav": "oo", "spare.wav": "s"})
	g := graph(t, dir, "list.csv")
	names := func(c sift.Choice) (list []string) {
		for target, why := range c.Stays(g) {
			if why == "" {
				t.Errorf("%s stays for no reason", target)
			}
			list = append(list, filepath.Base(target))
		}
		slices.Sort(list)
		return list
	}
	for _, c := range []struct {
		choice sift.Choice
		want   []string
	}{
		{sift.Choice{}, nil}, {sift.Choice{Dormant: true}, []string{"old.wav"}}, {sift.Choice{Listed: true}, []string{"spare.wav"}},
		{sift.Choice{Dormant: true, Listed: true}, []string{"old.wav", "spare.wav"}},
	} {
		if got := names(c.choice); !slices.Equal(got, c.want) {
			t.Errorf("%+v leaves %q, wanted %q", c.choice, got, c.want)
		}
	}
	for _, it := range sift.Items(g) {
		if _, stays := (sift.Choice{Dormant: true, Listed: true}).Stays(g)[it.Target]; stays == (it.Use == mention.Used) {
			t.Errorf("%s is %s and stays: %v", it.Target, it.Use, stays)
		}
	}
}
