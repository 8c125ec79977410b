package report

import (
	"boundcrate/core/bring/home"
)

// BringHome is the JSON of `boundcrate bring-home --json`.
type BringHome struct {
	Copied    []copied   `json:"copied"`
	Documents []string   `json:"documents"`
	Editions  []string   `json:"editions"`
	Left      []leftOver `json:"left"`
}

// Copied is one file with its place in the project's folder.
type copied struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// LeftOver is an outside file that stays where it is.
type leftOver struct {
	Path string   `json:"path"`
	Why  home.Why `json:"why"`
}

// OfHome is what came of bringing files home, as the contract says it.
func OfHome(d *home.Done) BringHome {
	out := BringHome{Copied: []copied{}, Documents: []string{}, Editions: []string{}, Left: []leftOver{}}
	for _, m := range d.Moves {
		out.Copied = append(out.Copied, copied{m.From, m.To})
	}
	for _, w := range d.Written {
		out.Documents, out.Editions = append(out.Documents, w.Document), append(out.Editions, w.Edition)
	}
	for _, l := range d.Left {
		out.Left = append(out.Left, leftOver{l.Path, l.Why})
	}
	return out
}
