package mendtest

import (
	"cmp"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/text/names"
)

// plain is the plainest ranking there is: how names are alike in five classes, then how
// many folders above are called alike. Mending has to be better than that.
type plain struct{ files []plainFile }

type plainFile struct{ path, name, fold, stem, ext string }

func plainly(path string) plainFile {
	name := filepath.Base(path)
	stem, ext := names.Split(name)
	return plainFile{path, name, names.Fold(name), names.Loose(stem), strings.ToLower(ext)}
}

func newPlain(x index.Index, below []string) (p plain, err error) {
	for _, dir := range below {
		if err := x.Below(dir, func(e index.Entry) error {
			p.files = append(p.files, plainly(e.Path))
			return nil
		}); err != nil {
			return p, err
		}
	}
	return p, nil
}

// first are the best three for a missing file.
func (p plain) first(w *mend.Wanted) (best []string) {
	type rated struct {
		path        string
		class, tail int
	}
	var list []rated
	is := plainly(w.Expected)
	for _, f := range p.files {
		class := 0
		switch {
		case f.path == is.path || facts.KindOfName(f.name) != w.Kind:
			continue
		case f.name == is.name:
			class = 5
		case f.fold == is.fold:
			class = 4
		case f.stem == is.stem && f.ext == is.ext:
			class = 3
		case f.stem == is.stem:
			class = 2
		case is.stem != "" && f.stem != "" && (strings.Contains(f.stem, is.stem) || strings.Contains(is.stem, f.stem)):
			class = 1
		default:
			continue
		}
		tail := 0
		for a, b := filepath.Dir(f.path), filepath.Dir(is.path); filepath.Base(a) == filepath.Base(b) && a != filepath.Dir(a); a, b = filepath.Dir(a), filepath.Dir(b) {
			tail++
		}
		list = append(list, rated{f.path, class, tail})
	}
	slices.SortFunc(list, func(a, b rated) int {
		return cmp.Or(cmp.Compare(b.class, a.class), cmp.Compare(b.tail, a.tail), strings.Compare(a.path, b.path))
	})
	for _, r := range list[:min(3, len(list))] {
		best = append(best, r.path)
	}
	return best
}
