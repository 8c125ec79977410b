// Package obj reads polygon models (.obj, an open text format).
package obj

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "obj".
func (Format) Name() string { return "obj" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "OBJ model", Extensions: []string{"obj"}, Knows: "material libraries and which materials are used of them; called files"}
}

// Claims goes by the extension, or by vertices and faces at the beginning.
func (Format) Claims(name string, head []byte) int {
	if format.Ext(name) == "obj" && bytes.IndexByte(head, 0) < 0 {
		return 45
	}
	vertices, other := 0, 0
	linescan.Each(head, func(_ int64, line []byte) {
		switch _, word, _ := linescan.Word(line); string(word) {
		case "v", "vn", "vt", "mtllib", "usemtl":
			vertices++
		case "", "#", "f", "g", "o", "s", "l":
		default:
			if word[0] != '#' {
				other++
			}
		}
	})
	if vertices >= 3 && other <= 1 {
		return 55
	}
	return 0
}

// Read reads the statements that name files. A backslash at a line's end goes
// on with the next line; a name does not run over it.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	picks := []string{}
	picked := map[string]bool{}
	var libs []int
	n, going, naming := 0, false, false
	exists := format.Asked(t.Exists, maxAsked, nil)
	plain := linescan.Plain{Spaces: true, Never: "\\"}
	add := func(off int64, line, name []byte, owner string, coding mention.Coding) {
		if len(name) == 0 {
			return
		}
		d.Add(mention.Mention{
			Pieces:   d.One(linescan.Within(off, line, name), coding),
			Spelling: mention.Path, Owner: fmt.Sprintf("line %d, %s", n, owner),
		})
	}
	linescan.Each(t.Bytes, func(off int64, line []byte) {
		n++
		again := going
		going = bytes.HasSuffix(line, []byte(`\`))
		if again {
			if naming { // a library line goes on: more names
				naming = going
				for _, name := range libraries(bytes.TrimSpace(bytes.TrimSuffix(line, []byte(`\`))), exists) {
					libs = append(libs, len(d.Mentions))
					add(off, line, name, "mtllib", library{plain})
				}
			}
			return
		}
		naming = false
		if len(line) < 5 {
			return
		}
		// Nearly all lines are numbers; they are passed over by their first letter.
		switch line[0] {
		case 'v', 'f', '#':
			return
		}
		_, word, rest := linescan.Word(line)
		rest = bytes.TrimRight(bytes.TrimSuffix(rest, []byte(`\`)), " \t")
		switch w := string(word); w {
		case "usemtl":
			if name := string(rest); !picked[name] {
				picked[name] = true
				picks = append(picks, name)
			}
		case "mtllib":
			naming = going
			for _, name := range libraries(rest, exists) {
				libs = append(libs, len(d.Mentions))
				add(off, line, name, w, library{plain})
			}
		case "maplib", "shadow_obj", "trace_obj":
			add(off, line, rest, w, plain)
		case "call":
			_, name, _ := linescan.Word(rest)
			add(off, line, name, w, linescan.Plain{Never: "\\"})
		}
	})
	slices.Sort(picks)
	for _, i := range libs {
		if i < len(d.Mentions) {
			d.Mentions[i].Scope = &mention.Scope{Picks: picks}
		}
	}
	return d, nil
}

// library is the coding of a name in a mtllib statement, which ends where its
// ".mtl" does: only names that end so, and nowhere before, can be said in place
// of one; in place of a name without it, a name without it and without spaces.
type library struct{ linescan.Plain }

func (l library) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	ends := func(s string) bool { return len(s) > 4 && strings.EqualFold(s[len(s)-4:], ".mtl") }
	plain := func(s string) bool { return !strings.Contains(strings.ToLower(s), ".mtl") }
	ok := ends(s) && ends(string(old)) && len(libraries([]byte(s), nil)) == 1
	if plain(string(old)) {
		ok = plain(s) && !strings.ContainsAny(s, " \t")
	}
	if !ok {
		return nil, problem.No(problem.EndsWith, ".mtl")
	}
	return l.Plain.Encode(s, old, fits)
}

// maxAsked bounds how often one document makes us look at the disk.
const maxAsked = 1000

// libraries parts the names of one mtllib statement: the whole of it if there is
// such a file, else after each ".mtl", else at spaces.
func libraries(rest []byte, exists func([]byte) bool) [][]byte {
	var list [][]byte
	if exists != nil && bytes.ContainsAny(rest, " \t") && exists(rest) {
		return [][]byte{rest}
	}
	lower := linescan.Lower(rest)
	for at := 0; at < len(rest); {
		i := bytes.Index(lower[at:], []byte(".mtl"))
		if i < 0 {
			if len(list) == 0 {
				return linescan.Fields(rest)
			}
			return append(list, bytes.TrimSpace(rest[at:]))
		}
		end := at + i + 4
		if end < len(rest) && rest[end] != ' ' && rest[end] != '\t' {
			// ".mtl" within a name: the name goes on.
			next := bytes.IndexAny(rest[end:], " \t")
			if next < 0 {
				return append(list, bytes.TrimSpace(rest[at:]))
			}
			end += next
		}
		list = append(list, bytes.TrimSpace(rest[at:end]))
		for at = end; at < len(rest) && (rest[at] == ' ' || rest[at] == '\t'); {
			at++
		}
	}
	return list
}
