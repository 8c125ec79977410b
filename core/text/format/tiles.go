package format

import (
	"strings"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Tiles makes mention i of a document a sequence where its file name holds a
// token that stands for a number of so many digits, like <UDIM>, or for a tile (mention.Grid). Whatever files
// are there are meant.
func Tiles(d *mention.Doc, i int, token string, digits int) {
	name := d.Name(i)
	at := strings.LastIndex(name, token)
	if at < 0 || strings.ContainsAny(name[at:], `/\`) {
		return
	}
	m := &d.Mentions[i]
	m.Sequence = &mention.Sequence{Head: name[:at], Tail: name[at+len(token):], Digits: digits, First: 1001, Step: 1, Token: token}
	m.Pieces[0].Coding = mention.Only{Coding: m.Pieces[0].Coding, Not: func(s string) error {
		if strings.Count(s, token) != 1 {
			return problem.No(problem.TokenOnce, token)
		}
		return nil
	}}
}
