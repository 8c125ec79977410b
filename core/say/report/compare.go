package report

import (
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/compare"
)

// Compare is the JSON of `boundcrate compare`.
type Compare struct {
	A         string             `json:"a"`
	B         string             `json:"b"`
	Same      int                `json:"same"`
	Came      []comparedFile     `json:"came"`
	Went      []comparedFile     `json:"went"`
	Changed   []changedFile      `json:"changed"`
	Documents []comparedDocument `json:"documents"`
}

type comparedFile struct {
	Path  string     `json:"path"`
	Kind  facts.Kind `json:"kind"`
	Bytes int64      `json:"bytes"`
}

type changedFile struct {
	Path string         `json:"path"`
	Was  string         `json:"was"` // its path in the first
	Kind facts.Kind     `json:"kind"`
	What []compare.What `json:"what"`
}

type comparedDocument struct {
	Path    string `json:"path"`
	Changed bool   `json:"changed"`
}

// OfCompare makes the contract's shape of what two states differ in.
func OfCompare(a, b string, r *compare.Result) Compare {
	out := Compare{a, b, r.Same, []comparedFile{}, []comparedFile{}, []changedFile{}, []comparedDocument{}}
	for _, f := range r.Came {
		out.Came = append(out.Came, comparedFile(f))
	}
	for _, f := range r.Went {
		out.Went = append(out.Went, comparedFile(f))
	}
	for _, f := range r.Changed {
		out.Changed = append(out.Changed, changedFile(f))
	}
	for _, d := range r.Documents {
		out.Documents = append(out.Documents, comparedDocument(d))
	}
	return out
}
