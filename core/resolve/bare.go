package resolve

import (
	"path/filepath"
	"strings"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/mention"
)

// maxIndexed bounds how many files names without a folder are matched among.
const maxIndexed = 1_000_000

// stems indexes the media files of the project folder and the drives, by name
// and by stem, when the first name without a folder asks for it.
func (r *Resolver) stems() map[string][]string {
	if r.byStem != nil {
		return r.byStem
	}
	r.byStem = map[string][]string{}
	met := map[string]bool{}
	for _, dir := range append([]string{r.Root}, driveDirs(r.Drives)...) {
		_ = drive.Walk(r.ctx(), r.Reach, dir, func(e drive.Entry) error {
			if len(met) > maxIndexed {
				return filepath.SkipAll
			}
			if met[e.Path] {
				return nil
			}
			met[e.Path] = true
			base := filepath.Base(e.Path)
			switch facts.KindOfName(base) {
			case facts.Audio, facts.Video, facts.Image:
				name, stem := Fold(base), Fold(strings.TrimSuffix(base, filepath.Ext(base)))
				r.byStem[name] = append(r.byStem[name], e.Path)
				if stem != name {
					r.byStem[stem] = append(r.byStem[stem], e.Path)
				}
			}
			return nil
		})
	}
	return r.byStem
}

// bare finds a name without a folder anywhere in the project folder and the
// drives: by its whole name, else by its stem. Several are twins. Of one that
// tells a folder all the same, the file there is meant.
func (r *Resolver) bare(doc string, name, written string) Place {
	p := Place{State: Missing, Expected: filepath.Join(filepath.Dir(doc), filepath.Base(slashed(name)))}
	there := func(to string) bool {
		info, err := r.stat(to)
		return err == nil && info.Mode.IsRegular()
	}
	if to, ok := r.repaired(p.Expected, doc, written, there); ok {
		r.look(&p, to)
		p.Repaired = true
		return p
	}
	if strings.ContainsAny(name, `/\`) {
		// A source file may be told with its folder.
		ms, _ := meanings(mention.Path, name, filepath.Dir(doc))
		for _, m := range ms {
			for _, at := range r.translate(m) {
				if q := p; at != "" && r.look(&q, at) {
					return q
				}
			}
		}
	}
	return r.anywhere(p, doc, name)
}

// anywhere looks for the last part of a name in all folders there are.
func (r *Resolver) anywhere(p Place, doc, name string) Place {
	base := filepath.Base(slashed(name))
	found := r.stems()[Fold(base)]
	if len(found) == 0 && facts.KindOfName(base) != facts.Other { // of "take 1.5" the stem is all of it
		found = r.stems()[Fold(strings.TrimSuffix(base, filepath.Ext(base)))]
	}
	real := map[string]string{}
	var list []string
	for _, f := range found {
		info, err := r.stat(f)
		if err == nil && real[info.Real] == "" && f != doc {
			real[info.Real] = f
			list = append(list, f)
		}
	}
	switch len(list) {
	case 0:
		return p
	case 1:
		r.look(&p, list[0])
		return p
	}
	p.State, p.Files = Twins, list
	return p
}

// packageFolder finds the folder of a named package (ROS package.xml): upwards
// from the document, each folder and those beside it, then on every drive.
func (r *Resolver) packageFolder(doc, name string) string {
	key := [2]string{filepath.Dir(doc), name}
	if dir, ok := r.packs[key]; ok {
		return dir
	}
	if r.packs == nil {
		r.packs = map[[2]string]string{}
	}
	r.packs[key] = r.findPackage(doc, name)
	return r.packs[key]
}

func (r *Resolver) findPackage(doc, name string) string {
	is := func(dir string) bool {
		f, err := drive.OpenSized(r.Reach, filepath.Join(dir, "package.xml"))
		if err != nil {
			return false
		}
		defer f.Close()
		b := make([]byte, min(f.Size(), 1<<20))
		n, _ := f.ReadAt(b, 0)
		_, rest, ok := strings.Cut(string(b[:n]), "<name>")
		found, _, ok2 := strings.Cut(rest, "</name>")
		return ok && ok2 && strings.TrimSpace(found) == name
	}
	for dir := filepath.Dir(doc); ; dir = filepath.Dir(dir) {
		for _, at := range []string{dir, filepath.Join(dir, name)} {
			if is(at) {
				return at
			}
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	found := ""
	for _, d := range r.Drives {
		_ = drive.Walk(r.ctx(), r.Reach, d.Dir, func(e drive.Entry) error {
			if filepath.Base(e.Path) == "package.xml" && is(filepath.Dir(e.Path)) {
				found = filepath.Dir(e.Path)
				return filepath.SkipAll
			}
			return nil
		})
	}
	return found
}

// packaged turns "package://NAME/path" into the path, as far as the package is
// known; anything else stays as it is.
func (r *Resolver) packaged(doc string, m *mention.Mention, name string) string {
	rest, ok := strings.CutPrefix(name, "package://")
	if !ok || m.Spelling != mention.URI {
		return name
	}
	pkg, path, _ := strings.Cut(rest, "/")
	if dir := r.packageFolder(doc, pkg); dir != "" {
		return "file://" + escape("", dir) + "/" + path
	}
	return escape("", filepath.Join(filepath.Dir(doc), pkg)) + "/" + path
}
