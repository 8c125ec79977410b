package all

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"errors"
	"net/url"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/formattest"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// same tells that a mention's name means a path: as it stands, or with its
// percent-escapes undone, whichever the spelling asks for.
func same(d *mention.Doc, i int, want string) bool {
	name := d.Name(i)
	if m := &d.Mentions[i]; m.Spelling == mention.URI {
		if plain, err := url.PathUnescape(name); err == nil && strings.TrimPrefix(plain, "./") == want {
			return true
		}
	}
	return strings.TrimPrefix(name, "./") == want
}

// TestGenerated holds the laws on generated documents of every format: what is
// read is the names that were placed and nothing else, before and after random
// rewriting.
func TestGenerated(t *testing.T) {
	for k := range formattest.Makers {
		m := &formattest.Makers[k]
		t.Run(m.File, func(t *testing.T) {
			placed, said := 0, 0
			for seed := range uint64(60) {
				g := formattest.NewGen(seed, uint64(k))
				text, want := m.Document(g)
				file, err := Formats().Open(m.File, formattest.NewSource([]byte(text)))
				if err != nil {
					if len(want) == 0 && errors.Is(err, format.ErrMalformed) || errors.Is(err, format.ErrNotDocument) && text == "" {
						continue
					}
					t.Fatalf("seed %d: %v in\n%s", seed, err, text)
				}
				if len(file.Doc.Mentions) != len(want) {
					t.Fatalf("seed %d: %d mentions, %d names %q were placed in\n%s", seed, len(file.Doc.Mentions), len(want), want, text)
				}
				for i, n := range want {
					if !same(file.Doc, i, n) {
						t.Fatalf("seed %d: mention %d says %q, %q was placed in\n%s", seed, i, file.Doc.Name(i), n, text)
					}
				}
				placed += len(want)
				said += rewrite(t, m, g, file, text, want)
			}
			// A generator that draws nothing, or refusals alone, would prove nothing.
			if placed < 60 || said < 20 {
				t.Errorf("only %d names placed and %d rewritten", placed, said)
			}
		})
	}
}

// rewrite gives some mentions names the writer could have placed, and reads the
// result with the reader and, where there is one, the carrier's own parser. It
// returns how many names were changed.
func rewrite(t *testing.T, m *formattest.Maker, g *formattest.Gen, file *format.File, text string, names []string) int {
	t.Helper()
	want := map[int]string{}
	for i := range names {
		if g.IntN(2) == 0 {
			continue
		}
		n := g.Name(m.Ext, m.Bare)
		if file.Doc.Mentions[i].Spelling == mention.URI {
			n = formattest.URI(n)
		}
		if filepath.Ext(n) == m.Ext {
			want[i] = n
		}
	}
	edits, err := file.Doc.Retarget(want)
	if err != nil {
		if !errors.Is(err, problem.ErrCannotSay) {
			t.Fatal(err)
		}
		return 0
	}
	var out bytes.Buffer
	if err := file.Rewrite(&out, edits); err != nil {
		t.Fatal(err)
	}
	back, err := Formats().Open(m.File, formattest.NewSource(out.Bytes()))
	if err != nil || len(back.Doc.Mentions) != len(names) {
		t.Fatalf("what was written cannot be read: %v\n%s\n→\n%s", err, text, out.Bytes())
	}
	for i := range names {
		n, changed := want[i]
		if !changed {
			n = file.Doc.Name(i)
		}
		if got := back.Doc.Name(i); got != n {
			t.Fatalf("mention %d says %q, wanted %q in\n%s", i, got, n, out.Bytes())
		}
		if b := back.Doc.Mentions[i]; b.Use != file.Doc.Mentions[i].Use || b.Owner != file.Doc.Mentions[i].Owner {
			t.Fatalf("mention %d is %s of %q, was %s of %q", i, b.Use, b.Owner, file.Doc.Mentions[i].Use, file.Doc.Mentions[i].Owner)
		}
	}
	switch {
	case strings.HasPrefix(text, "{"):
		if !json.Valid(out.Bytes()) {
			t.Fatalf("no JSON any more:\n%s", out.Bytes())
		}
	case strings.HasPrefix(text, "<") && !strings.HasPrefix(text, "<ADL"):
		d := xml.NewDecoder(bytes.NewReader(out.Bytes()))
		for {
			if _, err := d.Token(); err != nil {
				if err.Error() != "EOF" {
					t.Fatalf("no XML any more: %v\n%s", err, out.Bytes())
				}
				break
			}
		}
	}
	return len(want)
}
