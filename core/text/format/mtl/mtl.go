// Package mtl reads material libraries (.mtl, an open text format).
package mtl

import (
	"bytes"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "mtl".
func (Format) Name() string { return "mtl" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Material library", Extensions: []string{"mtl"}, Knows: "texture maps of every material, past their options; materials no model picks are listed only"}
}

// Claims wants a newmtl statement.
func (Format) Claims(name string, head []byte) int {
	found := false
	linescan.Each(head, func(_ int64, line []byte) {
		_, word, _ := linescan.Word(line)
		found = found || string(word) == "newmtl"
	})
	switch {
	case found:
		return 75
	case format.Ext(name) == "mtl":
		return 40
	}
	return 0
}

// options tells how many values follow an option of a map statement; the
// vectors -o, -s and -t take one to three.
var options = map[string]int{
	"-blendu": 1, "-blendv": 1, "-boost": 1, "-mm": 2, "-texres": 1, "-clamp": 1, "-bm": 1, "-imfchan": 1, "-type": 1, "-cc": 1,
	"-colorspace": 1, "-o": -3, "-s": -3, "-t": -3,
}

func maps(word string) bool {
	switch word = strings.ToLower(word); word {
	case "bump", "disp", "decal", "norm", "refl":
		return true
	case "map_aat":
		return false // a switch, not a map
	}
	return strings.HasPrefix(word, "map_")
}

// Read reads every map statement; the name is what stands after the options.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	material := ""
	linescan.Each(t.Bytes, func(off int64, line []byte) {
		_, word, rest := linescan.Word(line)
		switch w := string(word); {
		case w == "newmtl":
			material = string(bytes.TrimSpace(rest))
		case maps(w):
			name := bytes.TrimRight(past(rest), " \t")
			if len(name) == 0 {
				return
			}
			d.Add(mention.Mention{
				Pieces:   d.One(linescan.Within(off, line, name), linescan.Plain{Not: "-", Spaces: true}),
				Spelling: mention.Path, Scope: &mention.Scope{Under: material}, Owner: "material '" + material + "' " + w,
			})
		}
	})
	return d, nil
}

// past drops the options before the name.
func past(rest []byte) []byte {
	for {
		_, word, after := linescan.Word(rest)
		n, ok := options[string(word)]
		if !ok {
			return rest
		}
		rest = after
		for k := 0; k < max(n, -n); k++ {
			_, value, next := linescan.Word(rest)
			if n < 0 && k > 0 && !number(value) || len(value) == 0 {
				break
			}
			rest = next
		}
	}
}

func number(b []byte) bool {
	digits := false
	for i, c := range b {
		switch {
		case c >= '0' && c <= '9':
			digits = true
		case c == '.', (c == '-' || c == '+') && i == 0, (c == 'e' || c == 'E') && digits:
		default:
			return false
		}
	}
	return digits
}
