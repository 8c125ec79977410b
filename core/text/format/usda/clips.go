package usda

import (
	"bytes"
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// clip is what a set of value clips says of files it does not list: a template
// with number signs, and the numbers it stands for.
type clip struct {
	template           *word
	start, end, stride float64
	told               bool
}

func (c *clip) set(key, value word) {
	number := func() float64 {
		v, err := strconv.ParseFloat(string(value.b), 64)
		if err != nil || math.Abs(v) > 1<<40 {
			return 0
		}
		return v
	}
	switch string(key.b) {
	case "templateAssetPath":
		if value.quoted {
			c.template = &value
		}
	case "templateStartTime":
		c.start = number()
	case "templateEndTime":
		c.end, c.told = number(), true
	case "templateStride":
		c.stride = number()
	}
}

// template adds the files a clip template stands for. Templates of fractions
// (two runs of number signs) are read as a plain path, since no file system
// tells which times they mean.
func (r *reader) template(c *clip) {
	if c.template == nil || len(c.template.b) == 0 {
		return
	}
	path, err := Quoted.Decode(r.b[c.template.span.Off:c.template.span.End])
	if err != nil {
		return
	}
	m := r.placed("templateAssetPath")
	coding := written
	at := strings.IndexByte(path, '#')
	digits := strings.Count(path, "#")
	token := strings.Repeat("#", digits)
	if at > strings.LastIndexByte(path, '/') && digits <= 64 && strings.HasPrefix(path[at:], token) {
		m.Sequence = &mention.Sequence{Head: path[:at], Tail: path[at+digits:], Digits: digits, First: int(c.start), Step: max(1, int(c.stride))}
		if c.told && c.end >= c.start {
			m.Sequence.Count = int(c.end-c.start)/m.Sequence.Step + 1
		}
		coding = mention.Only{Coding: written, Not: func(s string) error {
			if strings.Count(s, "#") != digits || !strings.Contains(s, token) {
				return problem.No(problem.TokenOnce, token)
			}
			return nil
		}}
	}
	m.Pieces = r.doc.One(c.template.span, coding)
	r.doc.Add(m)
}

// Quoted is the coding of a string, quotes included. Of three quotes it keeps
// three.
var Quoted mention.Coding = quoted{}

// written are strings that name a file: never empty, which would mean none.
var written = mention.Only{Coding: Quoted, Not: func(s string) error {
	if s == "" {
		return problem.No(problem.EmptyName)
	}
	return nil
}}

type quoted struct{}

var unquote = strings.NewReplacer(`\\`, `\`, `\"`, `"`, `\'`, `'`, `\n`, "\n", `\t`, "\t")

func marks(raw []byte) int {
	if n := len(raw); n >= 6 && bytes.HasPrefix(raw, bytes.Repeat(raw[:1], 3)) {
		return 3
	}
	return 1
}

func (quoted) Decode(raw []byte) (string, error) {
	if len(raw) < 2 || raw[0] != '"' && raw[0] != '\'' || raw[len(raw)-1] != raw[0] {
		return "", fmt.Errorf("no string")
	}
	n := marks(raw)
	return unquote.Replace(string(raw[n : len(raw)-n])), nil
}

func (quoted) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if !utf8.ValidString(s) || strings.ContainsFunc(s, func(r rune) bool { return r < 0x20 || r == 0x7F || !fits(r) }) {
		return nil, problem.No(problem.Awkward)
	}
	q := strings.Repeat(string(old[:1]), marks(old))
	return []byte(q + strings.NewReplacer(`\`, `\\`, q[:1], `\`+q[:1]).Replace(s) + q), nil
}
