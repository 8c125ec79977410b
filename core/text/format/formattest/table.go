package formattest

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"fmt"
	"strings"
	"testing"

	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// Lines says a document's mentions, one line each: use, marks, owner and text.
// Marks are inside, unsaved, guessed, write, bare, "alt N" for alternatives,
// "seq" for sequences, "in MEMBER" for texts of a package.
func Lines(file *format.File) []string {
	var out []string
	for i := range file.Doc.Mentions {
		m := &file.Doc.Mentions[i]
		var marks []string
		mark := func(on bool, word string) {
			if on {
				marks = append(marks, word)
			}
		}
		if m.Inside() {
			marks = append(marks, fmt.Sprintf("inside %d", m.Data.Size))
		}
		mark(m.Nature == mention.Unsaved, "unsaved")
		mark(m.Nature == mention.Guess, "guessed")
		mark(m.Nature == mention.Shaped, "shaped")
		mark(m.Nature == mention.WritePoint, "write")
		mark(m.Group.N != 0, fmt.Sprintf("alt %d", m.Group.N))
		mark(m.Sequence != nil, "seq")
		mark(m.In().Under != "" && !strings.HasPrefix(m.Owner, m.In().Under), "under "+m.In().Under)
		mark(m.In().Picks != nil, "picks "+strings.Join(m.In().Picks, "+"))
		mark(file.Doc.Texts[m.Text].Member, "in "+file.Doc.Texts[m.Text].Name)
		line := m.Use.String()
		if len(marks) > 0 {
			line += " (" + strings.Join(marks, ", ") + ")"
		}
		line += " " + m.Owner + " | " + file.Doc.Written(i)
		if !m.Inside() && m.Sequence == nil {
			if name := file.Doc.Name(i); name != file.Doc.Written(i) {
				line += " → " + name
			}
		}
		out = append(out, line)
	}
	return out
}

// Table holds a sample to the lines its mentions must give, and to the laws.
func Table(t *testing.T, f format.Format, name, sample string, want ...string) {
	t.Helper()
	file, err := Open(f, name, []byte(sample))
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	if got := strings.Join(Lines(file), "\n"); got != strings.Join(want, "\n") {
		t.Errorf("%s: got\n%s\nwant\n%s", name, got, strings.Join(want, "\n"))
	}
	for _, p := range file.Doc.Problems {
		t.Errorf("%s: %s", name, p.Error())
	}
	Laws(t, f, name, []byte(sample))
}

// Bad holds input that cannot be read whole to a clear word, and the number of
// mentions that are read all the same.
func Bad(t *testing.T, f format.Format, name, sample, says string, mentions int) {
	t.Helper()
	file, err := Open(f, name, []byte(sample))
	var told []string
	n := 0
	if err != nil {
		told = append(told, err.Error())
	} else {
		n = len(file.Doc.Mentions)
		for _, p := range file.Doc.Problems {
			told = append(told, fmt.Sprintf("line %d: %s", p.Line, p.Error()))
		}
	}
	if !strings.Contains(strings.Join(told, "\n"), says) || n != mentions {
		t.Errorf("%s: %d mentions, told %q, wanted %d and %q", name, n, told, mentions, says)
	}
	Damaged(t, f, name, []byte(sample))
}

// Gzip packs a text.
func Gzip(text string) string {
	var b bytes.Buffer
	w := gzip.NewWriter(&b)
	_, _ = w.Write([]byte(text)) // a buffer takes everything
	_ = w.Close()
	return b.String()
}

// Zip packs members given as name, content, name, content…; the first is
// stored, the others deflated. A folder follows them.
func Zip(pairs ...string) string {
	var b bytes.Buffer
	zw := zip.NewWriter(&b)
	for i := 0; i+1 < len(pairs); i += 2 {
		method := zip.Deflate
		if i == 0 {
			method = zip.Store
		}
		w, err := zw.CreateHeader(&zip.FileHeader{Name: pairs[i], Method: method})
		if err != nil {
			panic(err) // a buffer takes everything
		}
		_, _ = w.Write([]byte(pairs[i+1]))
	}
	// As many writers of packages do it: a folder, packed, in two bytes that hold nothing.
	w, err := zw.CreateRaw(&zip.FileHeader{Name: "empty/", Method: zip.Deflate, CompressedSize64: 2})
	if err != nil {
		panic(err)
	}
	_, _ = w.Write([]byte{3, 0})
	_ = zw.Close()
	return b.String()
}
