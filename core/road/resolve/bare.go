package resolve

import (
	"path/filepath"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
)

// files is the index of the project folder and the drives.
func (r *Resolver) files() index.Index {
	if r.Index == nil {
		x, err := index.Build(r.ctx(), index.Options{Reach: r.Reach, Dirs: append([]string{r.Root}, driveDirs(r.Drives)...), Names: true})
		if err != nil && r.failed == nil {
			r.failed = err
		}
		r.Index = x
	}
	return r.Index
}

// Unread are the folders that names without a folder could not be looked for in.
func (r *Resolver) Unread() []drive.Unread {
	if r.Index == nil {
		return nil
	}
	return r.Index.Unread()
}

// media are the sounds, videos and pictures among files of a name.
func (r *Resolver) media(list []index.Entry, err error, like func(name string) bool) (out []string) {
	if err != nil && r.failed == nil {
		r.failed = err
	}
	for _, e := range list {
		base := filepath.Base(e.Path)
		switch facts.KindOfName(base) {
		case facts.Audio, facts.Video, facts.Image:
			if like(base) {
				out = append(out, e.Path)
			}
		}
	}
	return out
}

// called are the media files of a name, stemmed those of a stem, in any letter
// case.
func (r *Resolver) called(name string) []string {
	list, err := r.files().Named(name)
	found := r.media(list, err, func(string) bool { return true })
	key := names.Fold(name)
	list, err = r.files().Stemmed(name)
	return append(found, r.media(list, err, func(base string) bool {
		stem, ext := names.Split(base)
		return ext != "" && names.Fold(stem) == key
	})...)
}

// findByName finds a name without a folder anywhere in the project folder and the
// drives: by its whole name, else by its stem. Several are twins. Of one that
// tells a folder all the same, the file there is meant.
func (r *Resolver) findByName(doc string, name, written string) graph.Place {
	p := graph.Place{State: graph.Missing, Expected: filepath.Join(filepath.Dir(doc), filepath.Base(slashed(name)))}
	there := func(to string) bool {
		info, err := r.stat(to)
		return err == nil && info.Mode.IsRegular()
	}
	if to, ok := r.repaired(p.Expected, doc, written, there); ok {
		r.existsAt(&p, to)
		p.Repaired = true
		return p
	}
	if strings.ContainsAny(name, `/\`) {
		// A source file may be told with its folder.
		ms, _ := meanings(mention.Path, name, filepath.Dir(doc))
		for _, m := range ms {
			for _, at := range r.translate(m) {
				if q := p; at != "" && r.existsAt(&q, at) {
					return q
				}
			}
		}
	}
	return r.anywhere(p, doc, name)
}

// anywhere looks for the last part of a name in all folders there are.
func (r *Resolver) anywhere(p graph.Place, doc, name string) graph.Place {
	base := filepath.Base(slashed(name))
	found := r.called(base)
	if len(found) == 0 && facts.KindOfName(base) != facts.Other { // of "take 1.5" the stem is all of it
		stem, _ := names.Split(base)
		found = r.called(stem)
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
		r.existsAt(&p, list[0])
		return p
	}
	p.State, p.Files = graph.Twins, list
	return p
}

// packageFolders finds the folder of a named package (ROS package.xml): upwards
// from the document, each folder and those beside it; else wherever the project
// and the drives hold one. Several there are twins.
func (r *Resolver) packageFolders(doc, name string) []string {
	key := [2]string{filepath.Dir(doc), name}
	if dirs, ok := r.packs[key]; ok {
		return dirs
	}
	if r.packs == nil {
		r.packs = map[[2]string][]string{}
	}
	r.packs[key] = r.findPackage(doc, name)
	return r.packs[key]
}

func (r *Resolver) findPackage(doc, name string) []string {
	is := func(dir string) bool {
		f, err := r.Reach.Open(filepath.Join(dir, "package.xml"))
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
				return []string{at}
			}
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	if len(r.Drives) == 0 {
		return nil // without drives nothing outside the root is searched by name
	}
	list, err := r.files().Named("package.xml")
	if err != nil && r.failed == nil {
		r.failed = err
	}
	var found []string
	for _, e := range list {
		if dir := filepath.Dir(e.Path); is(dir) {
			found = append(found, dir)
		}
	}
	return found
}

// packaged turns "package://NAME/path" into the path, as far as the package is
// known; anything else stays as it is. Where several folders hold the package,
// the file could be in each.
func (r *Resolver) packaged(doc string, m *mention.Mention, name string) (as string, twins []string) {
	rest, ok := strings.CutPrefix(name, "package://")
	if !ok || m.Spelling != mention.URI {
		return name, nil
	}
	pkg, path, _ := strings.Cut(rest, "/")
	dirs := r.packageFolders(doc, pkg)
	for _, dir := range dirs {
		p := filepath.Join(dir, names.Unescape(path))
		if info, err := r.stat(p); err == nil && info.Mode.IsRegular() {
			twins = append(twins, p)
		}
	}
	switch {
	case len(twins) > 1:
		return "", twins
	case len(twins) == 1:
		return "file://" + escape("", twins[0]), nil
	case len(dirs) > 0:
		return "file://" + escape("", dirs[0]) + "/" + path, nil
	}
	return escape("", filepath.Join(filepath.Dir(doc), pkg)) + "/" + path, nil
}
