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

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"

	"boundcrate/core/drive"
	"boundcrate/core/mention"
)

// State is where a file stands.
type State string

// The states, in the words of the command line's contract.
const (
	Here       State = "here"       // inside the project folder
	Away       State = "away"       // found outside it
	Missing    State = "missing"    // not found
	Unplugged  State = "unplugged"  // on a known drive that is not connected
	Twins      State = "twins"      // more than one file could be meant
	Unsaved    State = "unsaved"    // a place kept for a file never written
	Inside     State = "inside"     // the bytes are in the document itself
	Unreadable State = "unreadable" // found, and not to be read
)

// Found tells states that have a file to carry.
func (s State) Found() bool { return s == Here || s == Away }

// Place is where a mention leads.
type Place struct {
	State    State
	Path     string     // the file; empty unless one was found
	Files    []string   // of a sequence, or the twins
	Sizes    []int64    // of Files of a sequence
	Gaps     []Gap      // of a sequence, rising
	Expected string     // the first place the name means; a Pattern for sequences
	Also     []string   // of what is missing, further places the name may mean
	Info     drive.Info // of Path
	Loose    bool       // found under another spelling of the same name
	Repaired bool       // found through a repair
	Network  bool       // an address on the network, not fetched
	Why      string     // a reason in words, where there is one
}

// Repair is an ordered rule: what is expected at From is at To. Prefix rules
// hold for everything below From. Rules for names without a folder give
// Document and Written instead of From.
type Repair struct {
	ID                int64
	From, To          string
	Prefix            bool
	Document, Written string
}

// Resolver resolves the mentions of one trace. It remembers folder listings,
// so it is made anew for each trace. Not for concurrent use.
type Resolver struct {
	Context context.Context // ends searches for names without a folder; nil never ends them
	Reach   drive.Reach
	Drives  []drive.Drive
	Root    string
	Repairs []Repair // later ones win
	// Doubt tells that a file found under another spelling is not the one that
	// was last seen under the spelling asked for: two files whose names differ
	// in letter case alone, of which one is gone. Nil doubts nothing.
	Doubt func(expected, found string, info drive.Info) bool

	dirs   map[string]*listing
	stats  map[string]stated
	byStem map[string][]string  // see stems
	packs  map[[2]string]string // folder of a document and package → folder of the package
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
	info, err := r.Reach.Stat(path)
	r.stats[path] = stated{info, err}
	return info, err
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

func (l *listing) fold(name string) []string {
	if l.folded == nil {
		l.folded = map[string][]string{}
		for _, e := range l.entries {
			k := Fold(e.Name())
			l.folded[k] = append(l.folded[k], e.Name())
		}
	}
	return l.folded[Fold(name)]
}

var folder = cases.Fold()

// Fold is the key under which names that differ only in letter case, Unicode
// form or percent-encoding are one.
func Fold(name string) string {
	return norm.NFC.String(folder.String(norm.NFC.String(unescape(name))))
}

// Locate tells here from away, by the path as written.
func (r *Resolver) Locate(p string) State {
	if drive.Within(r.Root, p) {
		return Here
	}
	return Away
}

// Resolve finds where mention m of the document at doc leads. name is
// [mention.Doc.Name] of it.
func (r *Resolver) Resolve(doc string, m *mention.Mention, name, written string) Place {
	switch {
	case m.Inside() && m.Sequence != nil:
		return within(m)
	case m.Inside():
		return Place{State: Inside}
	case m.Unsaved:
		return Place{State: Unsaved}
	case m.Lost:
		return Place{State: Missing, Why: "not in the package that names it"}
	case m.Sequence != nil:
		return r.sequence(doc, m, written)
	case m.Spelling == mention.Bare:
		return r.bare(doc, name, written)
	}
	name = r.packaged(doc, m, name)
	ms, network := meanings(m.Spelling, name, filepath.Dir(doc))
	if network {
		return Place{State: Missing, Network: true, Expected: name, Why: "on the network, not fetched"}
	}
	if len(ms) == 0 {
		return Place{State: Missing, Expected: name}
	}
	p := Place{State: Missing, Expected: ms[0].path}
	if strings.Contains(p.Expected, `\`) {
		// A name may hold backslashes, and they are tried first; nearly always
		// they part folders.
		for _, m := range ms[1:] {
			if m.path == slashed(p.Expected) {
				p.Expected = m.path
			}
		}
	}
	if m.Write {
		// Where something will be written needs no file yet.
		if p.State, p.Path = r.Locate(p.Expected), p.Expected; ms[0].alien {
			p.State, p.Why = Away, "a path of another system"
		}
		return p
	}
	if to, ok := r.repaired(p.Expected, doc, written, func(to string) bool {
		info, err := r.stat(to)
		return err == nil && info.Mode.IsRegular()
	}); ok {
		r.look(&p, to)
		p.Repaired = true
		return p
	}
	var unplugged, refused *Place
	for _, m := range ms {
		for k, at := range r.translate(m) {
			q := p
			if at == "" {
				continue
			}
			if r.look(&q, at) {
				q.Loose = m.second && k == 0
				return q
			}
			switch {
			case q.State == Unplugged && unplugged == nil:
				unplugged = &q
			case q.State == Unreadable && refused == nil:
				refused = &q
			case p.Why == "":
				p.Why = q.Why
			}
		}
	}
	switch {
	case refused != nil:
		return *refused
	case unplugged != nil:
		unplugged.Path = ""
		return *unplugged
	}
	for _, m := range ms {
		if m.alien {
			continue
		}
		switch found := r.loosely(m.path); len(found) {
		case 0:
		case 1:
			q := p
			if r.look(&q, found[0]) {
				if r.Doubt != nil && r.Doubt(p.Expected, q.Path, q.Info) {
					p.Why = "a file of that name in another spelling is there, with other content than when last seen"
					return p
				}
				q.Loose = true
			}
			return q
		default:
			p.State, p.Files = Twins, found
			return p
		}
	}
	if m.Roams && !strings.ContainsAny(name, `/\`) {
		if q := r.anywhere(p, doc, name); q.State != Missing {
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

// look fills p with what stands at a path and tells whether that is a file.
func (r *Resolver) look(p *Place, at string) bool {
	info, err := r.stat(at)
	switch {
	case err == nil && info.Mode.IsRegular():
		p.State, p.Path, p.Info = r.Locate(at), at, info
		return true
	case err == nil:
		p.State, p.Path = Unreadable, at
		p.Why = "a " + describe(info.Mode) + " stands there, not a file"
	case errors.Is(err, drive.ErrUnplugged):
		p.State = Unplugged
		p.Expected = at
	case errors.Is(err, drive.ErrOutside):
		p.Why = drive.ErrOutside.Error()
	case errors.Is(err, fs.ErrPermission):
		p.State, p.Path, p.Why = Unreadable, at, "permission denied"
	case errors.Is(err, syscall.ELOOP):
		p.State, p.Path, p.Why = Unreadable, at, "a link that leads to itself"
	}
	return false
}

func describe(m fs.FileMode) string {
	switch {
	case m.IsDir():
		return "folder"
	case m&fs.ModeNamedPipe != 0:
		return "pipe"
	case m&fs.ModeSocket != 0:
		return "socket"
	}
	return "device"
}

func (r *Resolver) repaired(expected, doc, written string, there func(string) bool) (string, bool) {
	for i := len(r.Repairs) - 1; i >= 0; i-- {
		rule, to := r.Repairs[i], ""
		switch {
		case rule.From == "" && rule.Document == doc && rule.Written == written:
			to = rule.To
		case rule.From == "":
		case rule.From == expected:
			to = rule.To
		case rule.Prefix && drive.Within(rule.From, expected):
			to = rule.To + strings.TrimPrefix(expected, strings.TrimSuffix(rule.From, "/"))
		}
		if to != "" && there(to) {
			return to, true
		}
	}
	return "", false
}

// loosely finds the same path under other spellings. It goes down from the
// root, so that the whole of a path may be spelled otherwise.
func (r *Resolver) loosely(p string) []string {
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
			for _, name := range r.list(dir).fold(part) {
				next = append(next, path.Join(dir, name))
			}
		}
		if len(next) > most {
			next = next[:most]
		}
		at = next
	}
	var files []string
	for _, f := range at {
		if info, err := r.stat(f); err == nil && info.Mode.IsRegular() {
			files = append(files, f)
		}
	}
	return files
}

func driveDirs(ds []drive.Drive) []string {
	dirs := make([]string, len(ds))
	for i, d := range ds {
		dirs[i] = d.Dir
	}
	return dirs
}
