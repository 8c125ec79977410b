// Package formattest holds every format to the same six laws, on its samples,
// on every truncation of them, and on whatever a fuzzer finds.
package formattest

import (
	"bytes"
	"errors"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Awkward are names no writer of a format thinks of. Each must be written so
// that it reads back exactly, or be refused.
var Awkward = []string{
	"plain.wav", "with space.wav", "a/b/c.wav", "../up.wav", "ümläut é.wav", "日本語/音.wav", "e\u0301.wav",
	`quote".wav`, `back\slash.wav`, "percent%20.wav", "100%.wav", "#hash.wav", "query?.wav", "tab\t.wav", "new\nline.wav",
	"semi;colon.wav", "comma,.wav", "amp&lt.wav", "<tag>.wav", "]]>.wav", "@at@.wav", "@@@.wav", "'single'.wav", "$VAR.wav",
	"=eq=.wav", "C:/drive.wav", "file:///x.wav", "\U0001F41A.wav", "ctrl\x01.wav", "nul\x00.wav", "bad\xff.wav", "trailing ", " leading", ".", "x",
}

// Source is a document in memory.
type Source struct{ *bytes.Reader }

// NewSource wraps bytes.
func NewSource(b []byte) Source { return Source{bytes.NewReader(b)} }

// Open reads a document of the format from bytes.
func Open(f format.Format, name string, b []byte) (*format.File, error) {
	return format.Set{f}.Open(name, NewSource(b))
}

// Laws checks all six on a sample that must be readable.
func Laws(t *testing.T, f format.Format, name string, sample []byte) {
	t.Helper()
	file, err := Open(f, name, sample)
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	unchanged(t, file, sample)
	present(t, file)
	ordered(t, file)
	rng := rand.New(rand.NewPCG(uint64(len(sample)), 7))
	for i := range file.Doc.Mentions {
		for _, n := range Awkward {
			Retarget(t, f, name, file, map[int]string{i: adapt(file.Doc, i, n)})
		}
	}
	for range 40 {
		want := map[int]string{}
		for i := range file.Doc.Mentions {
			if rng.IntN(2) == 0 {
				want[i] = adapt(file.Doc, i, Awkward[rng.IntN(len(Awkward))])
			}
		}
		Retarget(t, f, name, file, want)
	}
	for i := 0; i <= 10; i++ {
		Damaged(t, f, name, sample[:len(sample)*i/10])
	}
}

// adapt puts the number signs a sequence needs into an awkward name.
func adapt(d *mention.Doc, i int, name string) string {
	s := d.Mentions[i].Sequence
	if s == nil {
		return name
	}
	token := s.Token
	if token == "" {
		token = fmt.Sprintf("%.*s", s.Digits, "################################")
	}
	return name + "." + token + s.Tail
}

// unchanged is law 1: no edits, the same bytes.
func unchanged(t *testing.T, file *format.File, sample []byte) {
	t.Helper()
	var b bytes.Buffer
	if err := file.Rewrite(&b, nil); err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(b.Bytes(), sample) {
		t.Fatal("law 1: rewriting with no edits changed the file")
	}
}

// ordered holds mentions to the order of their texts, which is what people and
// programs are told. An absent piece stands where it would be inserted.
func ordered(t *testing.T, file *format.File) {
	t.Helper()
	last := map[int]int64{}
	for i := range file.Doc.Mentions {
		m := &file.Doc.Mentions[i]
		if len(m.Pieces) == 0 || m.Group.N != 0 { // alternatives stand best first
			continue
		}
		first := m.Pieces[0].Span
		for _, p := range m.Pieces[1:] {
			first.Off = min(first.Off, p.Span.Off)
		}
		if first.Off < last[first.Text] {
			t.Fatalf("%q stands at %d, after one at %d", file.Doc.Name(i), first.Off, last[first.Text])
		}
		last[first.Text] = first.Off
	}
}

// present is law 6: saying the present names again makes no edit.
func present(t *testing.T, file *format.File) {
	t.Helper()
	want := map[int]string{}
	for i := range file.Doc.Mentions {
		want[i] = file.Doc.Name(i)
	}
	edits, err := file.Doc.Retarget(want)
	if err != nil || len(edits) != 0 {
		t.Fatalf("law 6: saying the present names made %d edits, %v", len(edits), err)
	}
}

// Retarget is laws 2, 3 and 5 for one wish.
func Retarget(t *testing.T, f format.Format, name string, file *format.File, want map[int]string) {
	t.Helper()
	edits, err := file.Doc.Retarget(want)
	if err != nil {
		if !errors.Is(err, problem.ErrCannotSay) {
			t.Fatalf("law 5: %v is no refusal", err)
		}
		return
	}
	declared := map[mention.Span]bool{}
	for _, m := range file.Doc.Mentions {
		for _, p := range m.Pieces {
			declared[p.Span] = true
		}
		if m.Free != nil {
			declared[m.Free.Span] = true
		}
	}
	for _, s := range file.Doc.Shared {
		declared[s.Span] = true
	}
	for _, e := range edits {
		if !declared[e.Span] {
			t.Fatalf("law 3: an edit at [%d,%d), which is no declared span", e.Off, e.End)
		}
	}
	var b bytes.Buffer
	if err := file.Rewrite(&b, edits); err != nil {
		t.Fatal(err)
	}
	back, err := Open(f, name, b.Bytes())
	if err != nil {
		t.Fatalf("law 2: what was written cannot be read: %v", err)
	}
	if len(back.Doc.Mentions) != len(file.Doc.Mentions) {
		t.Fatalf("law 2: %d mentions became %d, wanted %v\n%s", len(file.Doc.Mentions), len(back.Doc.Mentions), want, b.Bytes()[:min(b.Len(), 1000)])
	}
	for i := range file.Doc.Mentions {
		n, ok := want[i]
		if !ok {
			n = file.Doc.Name(i)
		}
		if got := back.Doc.Name(i); got != n {
			t.Fatalf("law 2: mention %d says %q, wanted %q", i, got, n)
		}
	}
}

// Damaged is law 4 on one input: it ends, and what it reads can be rewritten.
func Damaged(t *testing.T, f format.Format, name string, b []byte) {
	t.Helper()
	file, err := Open(f, name, b)
	if err != nil {
		if !errors.Is(err, format.ErrMalformed) && !errors.Is(err, format.ErrNotDocument) {
			t.Fatalf("law 4: %v is neither malformed nor not a document", err)
		}
		if strings.Contains(err.Error(), format.GaveUp) {
			t.Fatalf("law 4: %v", err)
		}
		return
	}
	unchanged(t, file, b)
	present(t, file)
	ordered(t, file)
}

// Fuzz runs law 4 on whatever the fuzzer finds, with the samples as seeds.
func Fuzz(f *testing.F, fm format.Format, name string, seeds ...[]byte) {
	for _, s := range seeds {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		Damaged(t, fm, filepath.Base(name), b)
		if file, err := Open(fm, name, b); err == nil && len(file.Doc.Mentions) > 0 {
			Retarget(t, fm, name, file, map[int]string{0: adapt(file.Doc, 0, "re/named é.wav")})
		}
	})
}
