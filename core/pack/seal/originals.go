package seal

import "boundcrate/core/text/bag"

// Original is a file of a crate's payload with what it was made of.
type Original struct {
	Path   string // in the crate, with slashes
	Source string // where it came from, absolute
	SHA256 string
	// Made tells that its bytes are not those of its source: a document that was rewritten, a sound that was converted.
	Made bool
}

// Originals are the files of a crate of ours in a folder, by its record and manifest; nil of any other.
func Originals(dir string) []Original {
	rec := folderRecord(dir)
	m, err := readManifests(dir, bag.Manifest("sha256"))
	if rec == nil || err != nil {
		return nil
	}
	made := map[string]bool{}
	for _, t := range rec.Texts {
		made[t.Document] = made[t.Document] || t.Old != t.New
	}
	var list []Original
	met := map[string]bool{}
	add := func(p, source string, other bool) {
		if sum := m.sums[p]; sum != "" && !met[p] && bag.Unsafe(p) == "" {
			met[p] = true
			list = append(list, Original{p, source, sum, other || made[p]})
		}
	}
	for _, f := range rec.Files {
		add(f.Path, f.Source, f.Sound != "" || len(f.With) > 0)
	}
	for _, d := range rec.Documents {
		add(d.Path, d.Source, false)
	}
	return list
}
