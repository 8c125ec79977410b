// Package resolve finds where the text of a mention leads: the second half of
// tracing, after a format has told what the text is.
//
// A name is read as a URI (RFC 3986, RFC 8089) or a path of any system,
// relative to its document; then under the drives' known names elsewhere; then,
// flagged as loosely spelled, ignoring letter case, Unicode normal form and
// percent-encoding. It is never resolved to another folder: that is mending.
package resolve

import (
	"context"
	"errors"
	"io/fs"
	"path"
	"path/filepath"
	"strings"
	"syscall"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
)

// Resolver resolves the mentions of one trace. It remembers folder listings,
// so it is made anew for each trace. Not for concurrent use.
type Resolver struct {
	Context context.Context // ends searches for names without a folder; nil never ends them
	Reach   drive.Reach
	Drives  []drive.Drive
	Root    string
	Repairs []Repair // later ones win
	// Search are folders in which a file is looked for that is not where its name
	// leads, in order: under its whole relative name, then under its last part.
	Search []string
	// Doubt tells that a file found under another spelling is not the one that
	// was last seen under the spelling asked for: two files whose names differ
	// in letter case alone, of which one is gone. Nil doubts nothing.
	Doubt func(expected, found string, info drive.Info) bool

	// Index holds the files of the root and the drives, for names without a
	// folder. Nil: it is made when the first such name asks.
	Index index.Index

	dirs   map[string]*listing
	stats  map[string]stated
	reals  map[string]stated      // of folders
	packs  map[[2]string][]string // folder of a document and package → folders of the package
	places map[placeKey]*graph.Place
	rules  *ruleBook
	failed error // of the index
}

// placeKey is what decides where a name leads: mentions of one key share a place.
type placeKey struct {
	at       string // folder of the document; of names without a folder, the document
	name     string
	written  string // only where a repair could go by it
	spelling mention.Spelling
	nature   mention.Nature
}

type listing struct {
	entries []fs.DirEntry
	folded  map[string][]string
	err     error
}

func (r *Resolver) ctx() context.Context {
	if r.Context == nil {
		return context.Background()
	}
	return r.Context
}

// stated is what was found out about a path once: many mentions name one file.
type stated struct {
	info drive.Info
	err  error
}

func (r *Resolver) stat(path string) (drive.Info, error) {
	if s, ok := r.stats[path]; ok {
		return s.info, s.err
	}
	if r.stats == nil {
		r.stats = map[string]stated{}
	}
	info, err := r.look1(path)
	r.stats[path] = stated{info, err}
	return info, err
}

// look1 asks the reach once. Most files are no links, and thousands lie in one
// folder: the folder's links are undone once for all of them.
func (r *Resolver) look1(path string) (drive.Info, error) {
	info, err := r.Reach.Lstat(path)
	if err != nil {
		return info, err
	}
	if info.Mode&fs.ModeSymlink != 0 {
		return r.Reach.Stat(path)
	}
	dir, base := filepath.Split(path)
	dir = filepath.Clean(dir)
	real, ok := r.reals[dir]
	if !ok {
		if r.reals == nil {
			r.reals = map[string]stated{}
		}
		real.info, real.err = r.Reach.Stat(dir)
		r.reals[dir] = real
	}
	if real.err != nil || base == "" || base == "." || base == ".." {
		return r.Reach.Stat(path)
	}
	info.Real = filepath.Join(real.info.Real, base)
	return info, nil
}

func (r *Resolver) list(dir string) *listing {
	if l, ok := r.dirs[dir]; ok {
		return l
	}
	if r.dirs == nil {
		r.dirs = map[string]*listing{}
	}
	es, err := r.Reach.ReadDir(dir)
	l := &listing{entries: es, err: err}
	r.dirs[dir] = l
	return l
}

func (l *listing) foldedMatches(name string) []string {
	if l.folded == nil {
		l.folded = make(map[string][]string, len(l.entries))
		for _, e := range l.entries {
			k := names.Fold(e.Name())
			l.folded[k] = append(l.folded[k], e.Name())
		}
	}
	return l.folded[names.Fold(name)]
}

// Locate tells here from away, by the path as written.
func (r *Resolver) Locate(p string) graph.State {
	if drive.Within(r.Root, p) {
		return graph.Here
	}
	return graph.Away
}

// Resolve finds where mention m of the document at doc leads. name is
// [mention.Doc.Name] of it. The place may be shared: it is not to be changed.
func (r *Resolver) Resolve(doc string, m *mention.Mention, name, written string) *graph.Place {
	switch {
	case m.Inside() && m.Sequence != nil:
		return within(m)
	case m.Inside():
		return &inside
	case m.Nature == mention.Unsaved:
		return &unsaved
	case m.Nature == mention.Lost:
		return &graph.Place{State: graph.Missing, Why: graph.NotInPackage}
	case m.Sequence != nil:
		return r.sequence(doc, m, written)
	}
	key := placeKey{at: filepath.Dir(doc), name: name, spelling: m.Spelling, nature: m.Nature}
	if m.Nature.Guessed() {
		key.nature = mention.Material
	}
	if m.Spelling == mention.Bare || m.Nature == mention.Roaming {
		key.at = doc // it is never what its own name means
	}
	if r.book().written {
		key.at, key.written = doc, written
	}
	if p, ok := r.places[key]; ok {
		return p
	}
	if r.places == nil {
		r.places = map[placeKey]*graph.Place{}
	}
	var p graph.Place
	if m.Spelling == mention.Bare {
		p = r.findByName(doc, name, written)
	} else {
		p = r.resolve(doc, m, name, written)
	}
	r.places[key] = &p
	return &p
}

var (
	inside  = graph.Place{State: graph.Inside}
	unsaved = graph.Place{State: graph.Unsaved}
)

func (r *Resolver) resolve(doc string, m *mention.Mention, name, written string) graph.Place {
	name, twins := r.packaged(doc, m, name)
	if twins != nil {
		return graph.Place{State: graph.Twins, Files: twins, Expected: twins[0]}
	}
	ms, network := meanings(m.Spelling, name, filepath.Dir(doc))
	if network {
		return graph.Place{State: graph.Missing, Expected: name, Why: graph.OnNetwork}
	}
	if len(ms) == 0 {
		return graph.Place{State: graph.Missing, Expected: name}
	}
	p := graph.Place{State: graph.Missing, Expected: ms[0].path}
	if strings.Contains(p.Expected, `\`) {
		// A name may hold backslashes, and they are tried first; nearly always
		// they part folders.
		for _, m := range ms[1:] {
			if m.path == slashed(p.Expected) {
				p.Expected = m.path
			}
		}
	}
	if m.Nature == mention.WritePoint {
		// Where something will be written needs no file yet.
		if p.State, p.Path = r.Locate(p.Expected), p.Expected; ms[0].alien {
			p.State, p.Why = graph.Away, graph.OtherSystem
		}
		return p
	}
	if to, ok := r.repaired(p.Expected, doc, written, func(to string) bool {
		info, err := r.stat(to)
		return err == nil && info.Mode.IsRegular()
	}); ok {
		r.existsAt(&p, to)
		p.Repaired = true
		return p
	}
	if q, ok := r.exactly(&p, ms); ok {
		return q
	}
	if q, ok := r.searched(p, ms); ok {
		return q
	}
	if q, ok := r.otherwise(&p, ms); ok {
		return q
	}
	if m.Nature == mention.Roaming && !strings.ContainsAny(name, `/\`) {
		if q := r.anywhere(p, doc, name); q.State != graph.Missing {
			return q
		}
	}
	for _, m := range ms {
		if !m.alien && m.path != p.Expected {
			p.Also = append(p.Also, m.path)
		}
	}
	return p
}

// exactly looks where the readings of a name lead. A place on a drive that is out, or that
// may not be read, comes after all that can be; why there is nothing is kept in p.
func (r *Resolver) exactly(p *graph.Place, ms []meaning) (graph.Place, bool) {
	var unplugged, refused *graph.Place
	for _, m := range ms {
		for k, at := range r.translate(m) {
			q := *p
			if at == "" {
				continue
			}
			if r.existsAt(&q, at) {
				q.Loose = m.second && k == 0
				return q, true
			}
			switch {
			case q.State == graph.Unplugged && unplugged == nil:
				unplugged = &q
			case q.State == graph.Unreadable && refused == nil:
				refused = &q
			case p.Why == "":
				p.Why = q.Why
			}
		}
	}
	switch {
	case refused != nil:
		return *refused, true
	case unplugged != nil:
		unplugged.Path = ""
		return *unplugged, true
	}
	return *p, false
}

// otherwise looks for names that are spelled otherwise: in another letter case, Unicode
// form or escaping.
func (r *Resolver) otherwise(p *graph.Place, ms []meaning) (graph.Place, bool) {
	for _, m := range ms {
		if m.alien {
			continue
		}
		switch found := r.loosely(m.path); len(found) {
		case 0:
		case 1:
			q := *p
			if r.existsAt(&q, found[0]) {
				if r.Doubt != nil && r.Doubt(p.Expected, q.Path, q.Info) {
					p.Why = graph.OtherContent
					return *p, true
				}
				q.Loose = true
			}
			return q, true
		default:
			p.State, p.Files = graph.Twins, found
			return *p, true
		}
	}
	return *p, false
}

// searched looks through the search folders, in which somebody said that the
// project's programs look.
func (r *Resolver) searched(p graph.Place, ms []meaning) (graph.Place, bool) {
	for _, dir := range r.Search {
		for _, m := range ms {
			var names []string
			if rel, err := filepath.Rel(r.Root, m.path); err == nil && !strings.HasPrefix(rel, "..") && !m.alien {
				names = append(names, rel)
			}
			for _, name := range append(names, filepath.Base(m.path)) {
				q := p
				if at := filepath.Join(dir, name); r.existsAt(&q, at) {
					if r.Doubt != nil && r.Doubt(p.Expected, q.Path, q.Info) {
						continue
					}
					q.Search = dir
					return q, true
				}
			}
		}
	}
	return p, false
}

// translate lists where a meaning may stand: as it is, then under the drives'
// known names on other machines.
func (r *Resolver) translate(m meaning) []string {
	at := []string{m.path}
	if m.alien {
		at[0] = ""
	}
	for _, d := range r.Drives {
		for _, known := range d.Known {
			known = strings.TrimSuffix(slashed(known), "/")
			if known != "" && len(m.path) > len(known) && strings.EqualFold(m.path[:len(known)], known) && m.path[len(known)] == '/' {
				at = append(at, filepath.Join(d.Dir, m.path[len(known):]))
			}
		}
	}
	return at
}

// existsAt fills p with what stands at a path and tells whether that is a file.
func (r *Resolver) existsAt(p *graph.Place, at string) bool {
	info, err := r.stat(at)
	switch {
	case err == nil && info.Mode.IsRegular():
		p.State, p.Path, p.Info = r.Locate(at), at, info
		return true
	case err == nil && info.Mode.IsDir():
		p.State, p.Path, p.Why = graph.Unreadable, at, graph.IsFolder
	case err == nil:
		p.State, p.Path, p.Why = graph.Unreadable, at, graph.IsSpecial
	case errors.Is(err, drive.ErrUnplugged):
		p.State, p.Expected = graph.Unplugged, at
	case errors.Is(err, drive.ErrOutside):
		p.Why = graph.OutsideDrives
	case errors.Is(err, fs.ErrPermission):
		p.State, p.Path, p.Why = graph.Unreadable, at, graph.Denied
	case errors.Is(err, syscall.ELOOP):
		p.State, p.Expected, p.Why = graph.Unreadable, at, graph.LinkLoop
	}
	return false
}

// loosely finds the same file under other spellings of its path.
func (r *Resolver) loosely(p string) (files []string) {
	for _, f := range r.spelled(p) {
		if info, err := r.stat(f); err == nil && info.Mode.IsRegular() {
			files = append(files, f)
		}
	}
	return files
}

// spelled finds the same path under other spellings. It goes down from the
// root, so that the whole of a path may be spelled otherwise.
func (r *Resolver) spelled(p string) []string {
	at := []string{"/"}
	parts := strings.Split(strings.Trim(p, "/"), "/")
	// Whatever leads to the project or a drive is taken as it is: those folders
	// may not be listable, and are not ours to guess at.
	for _, base := range append([]string{r.Root}, driveDirs(r.Drives)...) {
		if drive.Within(base, p) && len(base) > len(at[0]) {
			at[0] = base
			parts = strings.Split(strings.Trim(strings.TrimPrefix(p, base), "/"), "/")
		}
	}
	const most = 64 // spellings of one path; more is nobody's file name
	for _, part := range parts {
		var next []string
		for _, dir := range at {
			for _, name := range r.list(dir).foldedMatches(part) {
				next = append(next, path.Join(dir, name))
			}
		}
		if len(next) > most {
			next = next[:most]
		}
		at = next
	}
	return at
}

func driveDirs(ds []drive.Drive) []string {
	dirs := make([]string, len(ds))
	for i, d := range ds {
		dirs[i] = d.Dir
	}
	return dirs
}
