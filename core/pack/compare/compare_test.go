package compare_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/compare"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// cut is a timeline of clips "url start length", with "off" at the end of one that is disabled.
func cut(clips ...string) string {
	var list []string
	for _, c := range clips {
		p := strings.Fields(c)
		list = append(list, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":"c","enabled":%t,"source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%s},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%s}},"media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":%q}},"active_media_reference_key":"DEFAULT_MEDIA"}`, len(p) < 4, p[1], p[2], p[0]))
	}
	return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[` + strings.Join(list, ",") + `]}]}}`
}

// TestCompare: what came, went and changed, in near-equal cases; turned round, what came went.
func TestCompare(t *testing.T) {
	for name, x := range map[string]struct {
		first, second map[string]string
		same          int
		came, went    string
		changed       string
		documents     string
	}{
		"nothing":       {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, 1, "", "", "", "cut.otio false"},
		"touched bytes": {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "b"}, 0, "", "", "a.wav content", "cut.otio false"},
		"other length":  {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "aa"}, 0, "", "", "a.wav content", "cut.otio false"},
		"moved":         {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("in/b.wav 0 9"), "in/b.wav": "a"}, 0, "", "", "in/b.wav path", "cut.otio true"},
		"came":          {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("a.wav 0 9", "b.wav 0 9"), "a.wav": "a", "b.wav": "b"}, 1, "b.wav", "", "", "cut.otio true"},
		"replaced":      {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("b.wav 0 9"), "b.wav": "b"}, 0, "b.wav", "a.wav", "", "cut.otio true"},
		"use":           {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("a.wav 0 9 off"), "a.wav": "a"}, 0, "", "", "a.wav use", "cut.otio true"},
		"range":         {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("a.wav 0 8"), "a.wav": "a"}, 0, "", "", "a.wav range", "cut.otio true"},
		"lost":          {map[string]string{"cut.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("a.wav 0 9")}, 0, "", "", "a.wav content", "cut.otio false"},
		"both lost":     {map[string]string{"cut.otio": cut("a.wav 0 9")}, map[string]string{"cut.otio": cut("a.wav 0 9")}, 1, "", "", "", "cut.otio false"},
		"twins moved":   {map[string]string{"cut.otio": cut("a.wav 0 9", "b.wav 0 9"), "a.wav": "x", "b.wav": "x"}, map[string]string{"cut.otio": cut("c.wav 0 9", "d.wav 0 9"), "c.wav": "x", "d.wav": "x"}, 0, "", "", "c.wav path,d.wav path", "cut.otio true"},
		"nested":        {map[string]string{"cut.otio": cut("n.otio 0 9"), "n.otio": cut("a.wav 0 9"), "a.wav": "a"}, map[string]string{"cut.otio": cut("n.otio 0 9"), "n.otio": cut("a.wav 0 8"), "a.wav": "a"}, 0, "", "", "a.wav range", "cut.otio false,n.otio true"},
		"nested came":   {map[string]string{"cut.otio": cut()}, map[string]string{"cut.otio": cut("n.otio 0 9"), "n.otio": cut()}, 0, "n.otio", "", "", "cut.otio true"},
	} {
		a, b := side(t, x.first), side(t, x.second)
		got, err := compare.Of(t.Context(), a, b)
		if err != nil {
			t.Fatal(err)
		}
		if got.Same != x.same || files(got.Came) != x.came || files(got.Went) != x.went || changes(got.Changed) != x.changed || docs(got.Documents) != x.documents {
			t.Errorf("%s: %d same, came %q, went %q, changed %q, %q", name, got.Same, files(got.Came), files(got.Went), changes(got.Changed), docs(got.Documents))
		}
		if got.Equal() != (x.came+x.went+x.changed == "" && !strings.Contains(x.documents, "true")) {
			t.Errorf("%s: equal %v", name, got.Equal())
		}
		back, err := compare.Of(t.Context(), b, a)
		if err != nil || files(back.Came) != x.went || files(back.Went) != x.came || back.Same != x.same || len(back.Changed) != len(got.Changed) {
			t.Errorf("%s turned round: %+v %v", name, back, err)
		}
	}
}

func side(t *testing.T, laid map[string]string) compare.Side {
	t.Helper()
	dir := coretest.Lay(t, laid)
	s, err := compare.Trace(t.Context(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: dir}, func(ctx context.Context, p string) (string, error) {
		return drive.Fingerprint(ctx, drive.System{}, p, nil)
	}, filepath.Join(dir, "cut.otio"))
	if err != nil {
		t.Fatal(err)
	}
	s.Live = true
	return s
}

func files(list []compare.ComparedFile) string {
	var out []string
	for _, f := range list {
		out = append(out, f.Path)
	}
	slices.Sort(out)
	return strings.Join(out, ",")
}

func changes(list []compare.ChangedFile) string {
	var out []string
	for _, c := range list {
		for _, w := range c.What {
			out = append(out, c.Path+" "+string(w))
		}
	}
	return strings.Join(out, ",")
}

func docs(list []compare.ComparedDocument) string {
	var out []string
	for _, d := range list {
		out = append(out, fmt.Sprint(d.Path, " ", d.Changed))
	}
	slices.Sort(out)
	return strings.Join(out, ",")
}

// TestApart: what two states have in common is left out before they are read, and what they differ in is the same,
// however their texts are laid out; nothing differs from itself.
func TestApart(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 25))
	state := func() *compare.State {
		s := &compare.State{Documents: []compare.StateFile{{Path: "cut.otio", Bytes: int64(rng.IntN(3)), Found: true, Root: true}}, Files: []compare.StateFile{}}
		for i := range rng.IntN(40) {
			s.Files = append(s.Files, compare.StateFile{Path: fmt.Sprintf("a,\n%d].wav", i), Bytes: int64(i % 3), Found: rng.IntN(9) > 0, SHA256: []string{"", "x", "y"}[rng.IntN(3)], Ranges: []string{"", "1+1"}[rng.IntN(5)/4], Modified: int64(rng.IntN(2))})
		}
		return s
	}
	for range 300 {
		a, b := state(), state()
		of := func(a, b *compare.State) *compare.Comparison {
			c, err := compare.Of(t.Context(), compare.Side{Kept: a}, compare.Side{Kept: b})
			if err != nil {
				t.Fatal(err)
			}
			return c
		}
		want := of(a, b)
		x, err := a.Text()
		if err != nil {
			t.Fatal(err)
		}
		y, _ := b.Text()
		plain, _ := json.Marshal(b)
		for _, other := range [][]byte{y, plain} {
			p, q, same, err := compare.Apart(x, other)
			if err != nil {
				t.Fatal(err)
			}
			got := of(p, q)
			if got.Same += same; !reflect.DeepEqual(got, want) {
				t.Fatalf("%+v, not %+v", got, want)
			}
		}
		if _, q, same, err := compare.Apart(x, x); err != nil || same != len(a.Files) || len(q.Files) > 0 {
			t.Fatalf("of itself: %d %+v %v", same, q, err)
		}
	}
}
