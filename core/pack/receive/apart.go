package receive

import (
	"context"
	"errors"
	"io"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
)

// Received is the folder of a project that keeps the manifests and the sheet of the crate it came from.
const Received = "received"

// project is a crate on its way to be a plain project: documents here, material there.
type project struct {
	Options
	checked       *seal.Checked
	root, mat     string // where it will be
	partial, away string // where it lies until it is whole
	kinds         map[string]facts.Kind
	docs          []string          // sealed documents, by their places below data/
	stays         map[string]bool   // material that stays with the documents, by its place: they can name it nowhere else
	at            map[string]string // where each file of the payload lies, by its place
}

// apart unpacks a crate as a plain project: documents and all else in Into/NAME, sounds, moving
// pictures and images in Material/NAME, every document naming them there, manifests and sheets in
// Into/NAME/received. Nothing is under its name before all is; what failed leaves nothing.
func apart(ctx context.Context, checked *seal.Checked, o Options, name string, out *Report) (err error) {
	p := &project{Options: o, checked: checked, root: filepath.Join(o.Into, name), mat: filepath.Join(o.Material, name), kinds: map[string]facts.Kind{}, stays: map[string]bool{}, at: map[string]string{}}
	fail := func(at string, step Step, err error) error {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return &Error{o.Crate, at, step, err}
	}
	for _, to := range []string{p.root, p.mat} {
		if _, err := os.Lstat(to); err == nil {
			return fail(to, There, ErrThere)
		}
		if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
			return fail(filepath.Dir(to), Making, err)
		}
	}
	if p.root == p.mat {
		return fail(p.mat, There, ErrThere)
	}
	p.partial, p.away = filepath.Join(o.Into, "."+name+partialEnd), filepath.Join(o.Material, "."+name+partialEnd)
	if p.partial == p.away {
		p.away += "-material"
	}
	for _, dir := range []string{p.partial, p.away} {
		held, err := begin(dir)
		if err != nil {
			return fail(dir, Making, err)
		}
		if held == nil {
			return fail(p.root, Busy, nil)
		}
		defer os.RemoveAll(dir)
		defer held.Close()
	}
	for i := range checked.Report.Sheet.Contents {
		f := &checked.Report.Sheet.Contents[i]
		if at, ok := place(f.Path); ok {
			p.kinds[at] = f.Kind
		}
	}
	for _, d := range checked.Report.Sheet.Documents {
		if at, ok := place(d); ok {
			p.docs = append(p.docs, at)
		}
	}
	if err := unpack(ctx, checked, p.put, o.Progress); err != nil {
		return fail(p.root, Unpacking, err)
	}
	whole, err := p.connect(ctx, out)
	if err != nil {
		return fail(p.root, Connecting, err)
	}
	if err := p.name(); err != nil {
		return fail(p.root, Naming, err)
	}
	out.Into, out.Material, out.Complete = p.root, p.mat, out.Complete && whole
	out.Meant, out.At = checked.Meant(), p.goal
	for _, d := range p.docs {
		out.Documents = append(out.Documents, filepath.Join(p.root, d))
	}
	return nil
}

// put tells where a file of the crate is unpacked to.
func (p *project) put(name string) (dir, as string) {
	at, payload := place(name)
	switch {
	case !payload:
		return p.partial, path.Join(Received, name)
	case isMaterial(p.kinds[at]):
		p.at[at] = filepath.Join(p.away, at)
		return p.away, at
	}
	p.at[at] = filepath.Join(p.partial, at)
	return p.partial, at
}

// asSealed are the files as the crate has them, all below the project's folder; apart, where they will be.
func (p *project) asSealed() *laid {
	files := map[string]string{}
	for at, is := range p.at {
		files[filepath.Join(p.root, at)] = is
	}
	return lay(files)
}

func (p *project) asKept() *laid {
	files := map[string]string{}
	for at, is := range p.at {
		files[p.goal(at)] = is
	}
	return lay(files)
}

// filled are the files where they will be, and for each frame that a sequence lacks another of its
// frames: only for the moment in which documents are made to name it, which they are of what is there.
func (p *project) filled(was *graph.Graph) *laid {
	files := map[string]string{}
	for at, is := range p.at {
		files[p.goal(at)] = is
	}
	for i := range was.References {
		r := &was.References[i]
		if r.File == graph.None || len(r.Gaps) == 0 || was.Files[r.File].Frames == nil || len(was.Files[r.File].Frames.Files) == 0 {
			continue
		}
		f := &was.Files[r.File]
		first, err := filepath.Rel(p.root, f.Frames.Files[0])
		if err != nil {
			continue
		}
		at := filepath.ToSlash(first)
		pat := f.Frames.Pattern
		pat.Dir = filepath.Dir(p.goal(at))
		for _, gap := range r.Gaps {
			for n := gap.First; n <= gap.Last; n += max(1, gap.Step) {
				if name := filepath.Join(pat.Dir, pat.Name(n)); files[name] == "" {
					files[name] = p.at[at]
				}
			}
		}
	}
	return lay(files)
}

// goal is where a file of the payload will be.
func (p *project) goal(at string) string {
	if isMaterial(p.kinds[at]) && !p.stays[at] {
		return filepath.Join(p.mat, at)
	}
	return filepath.Join(p.root, at)
}

func (p *project) documents() []string {
	list := make([]string, len(p.docs))
	for i, d := range p.docs {
		list[i] = filepath.Join(p.root, d)
	}
	return list
}

// connect makes the documents name the material where it is kept, and holds what they lead to then
// against what they led to in the crate, one by one.
func (p *project) connect(ctx context.Context, out *Report) (whole bool, err error) {
	if len(p.docs) == 0 {
		return true, nil
	}
	o := trace.Options{Formats: p.checked.Formats(), Reach: p.asSealed(), Root: p.root, Unlooked: true}
	was, err := trace.Run(ctx, o, p.documents()...)
	if err != nil {
		return false, err
	}
	out.DoesNotFit = append(out.DoesNotFit, strangers(was, p.asSealed())...)
	var changes []writing.Change
	for range 2 {
		o.Repairs = p.repairs(was)
		o.Reach = p.filled(was)
		is, err := trace.Run(ctx, o, p.documents()...)
		if err != nil {
			return false, err
		}
		var met *writing.Outcome
		if changes, met, err = writing.Changes(is, o, nil); err != nil {
			return false, err
		}
		if len(met.Keep) == 0 {
			break
		}
		// A document that can only tell a name finds its files beside it alone.
		if err := p.keepBeside(was, met.Keep); err != nil {
			return false, err
		}
	}
	for _, c := range changes {
		if err := p.rewrite(c); err != nil {
			return false, err
		}
	}
	o.Repairs, o.Reach = nil, p.asKept()
	now, err := trace.Run(ctx, o, p.documents()...)
	if err != nil {
		return false, err
	}
	return p.same(was, now), nil
}

// repairs tell where the material of a graph will be.
func (p *project) repairs(g *graph.Graph) (list []resolve.Repair) {
	met := map[string]bool{}
	for i := range g.References {
		r := &g.References[i]
		if r.File == graph.None || !g.Files[r.File].Carried || r.Expected == "" || met[r.Expected] {
			continue // of a sequence that lacks frames, those that are there go
		}
		f := &g.Files[r.File]
		to := p.moved(f)
		if to == f.Path {
			continue
		}
		met[r.Expected] = true
		list = append(list, resolve.Repair{From: r.Expected, To: to})
	}
	return list
}

// moved is where a file, or a sequence by its pattern, will be.
func (p *project) moved(f *graph.File) string {
	if f.Frames != nil && len(f.Frames.Files) > 0 {
		at, err := filepath.Rel(p.root, f.Frames.Files[0])
		if err != nil {
			return f.Path
		}
		pat := f.Frames.Pattern
		pat.Dir = filepath.Dir(p.goal(filepath.ToSlash(at)))
		return pat.String()
	}
	at, err := filepath.Rel(p.root, f.Path)
	if err != nil || !filepath.IsLocal(at) {
		return f.Path
	}
	return p.goal(filepath.ToSlash(at))
}

// keepBeside puts material that a document cannot name elsewhere beside the documents.
func (p *project) keepBeside(g *graph.Graph, expected []string) error {
	want := map[string]bool{}
	for _, e := range expected {
		want[e] = true
	}
	for i := range g.References {
		r := &g.References[i]
		if !want[r.Expected] || r.File == graph.None {
			continue
		}
		f := &g.Files[r.File]
		paths := []string{f.Path}
		if f.Frames != nil {
			paths = f.Frames.Files
		}
		for _, path := range paths {
			rel, err := filepath.Rel(p.root, path)
			at := filepath.ToSlash(rel)
			if err != nil || p.stays[at] || p.at[at] == "" || !isMaterial(p.kinds[at]) {
				continue
			}
			to := filepath.Join(p.partial, at)
			if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
				return err
			}
			if err := move(p.at[at], to); err != nil {
				return err
			}
			p.stays[at], p.at[at] = true, to
		}
	}
	return nil
}

// move gives a file another place, on another drive by copying it.
func move(from, to string) error {
	if os.Rename(from, to) == nil {
		return nil
	}
	src, err := os.Open(from)
	if err != nil {
		return err
	}
	defer src.Close()
	fi, err := src.Stat()
	if err != nil {
		return err
	}
	dst, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, fi.Mode().Perm())
	if err != nil {
		return err
	}
	_, err = dst.ReadFrom(src)
	return errors.Join(err, dst.Sync(), dst.Close(), os.Chtimes(to, fi.ModTime(), fi.ModTime()), os.Remove(from))
}

// rewrite makes one document say the new names.
func (p *project) rewrite(c writing.Change) error {
	rel, err := filepath.Rel(p.root, c.Document.Path)
	if err != nil {
		return err
	}
	at := p.at[filepath.ToSlash(rel)]
	src, err := drive.System{}.Open(at)
	if err != nil {
		return err
	}
	defer src.Close()
	fi, err := os.Stat(at)
	if err != nil {
		return err
	}
	dst, err := os.OpenFile(at+partialEnd, os.O_CREATE|os.O_EXCL|os.O_WRONLY, fi.Mode().Perm())
	if err != nil {
		return err
	}
	err = c.File.RewriteFrom(src, dst, c.Edits)
	if err = errors.Join(err, dst.Sync(), dst.Close()); err != nil {
		os.Remove(at + partialEnd)
		return err
	}
	return os.Rename(at+partialEnd, at)
}

// same tells that every reference leads to the very file it led to in the crate, where that will be.
func (p *project) same(was, now *graph.Graph) bool {
	if len(was.References) != len(now.References) {
		return false
	}
	for i := range was.References {
		a, b := &was.References[i], &now.References[i]
		if a.Owner != b.Owner || (a.File == graph.None) != (b.File == graph.None) || a.State.Found() != b.State.Found() {
			return false
		}
		if a.File == graph.None || !was.Files[a.File].Carried {
			continue
		}
		f, g := &was.Files[a.File], &now.Files[b.File]
		if p.moved(f) != g.Path || len(a.Gaps) != len(b.Gaps) {
			return false
		}
	}
	return true
}

// name gives both folders their names.
func (p *project) name() error {
	for _, dir := range []string{p.partial, p.away} {
		if err := os.Chmod(dir, 0o755); err != nil {
			return err
		}
	}
	if err := os.Rename(p.away, p.mat); err != nil {
		return err
	}
	if err := os.Rename(p.partial, p.root); err != nil {
		return errors.Join(err, os.Rename(p.mat, p.away))
	}
	return errors.Join(fileset.SyncDir(p.Into), fileset.SyncDir(p.Material))
}

// newest are the versions of schemas that are known here (OpenTimelineIO's schema document, from memory).
var newest = map[string]string{"Clip": "2", "Timeline": "1", "Stack": "1", "Track": "1", "Gap": "1", "Transition": "1", "ExternalReference": "1", "MissingReference": "1", "ImageSequenceReference": "1", "GeneratorReference": "1", "Marker": "2", "Effect": "1", "SerializableCollection": "1"}

var (
	schema = regexp.MustCompile(`"OTIO_SCHEMA"\s*:\s*"([A-Za-z0-9]+)\.([0-9]+)"`)
	asset  = regexp.MustCompile(`"(?:minVersion|version)"\s*:\s*"([0-9.]+)"`)
)

// strangers are documents of formats, or versions of them, that are not known here.
func strangers(g *graph.Graph, reach drive.Reach) (list []Misfit) {
	for i := range g.Documents {
		d := &g.Documents[i]
		if d.Guessed {
			list = append(list, Misfit{Path: d.Path, Why: UnknownFormat})
			continue
		}
		if has, wants := newer(d, reach); has != "" {
			list = append(list, Misfit{Path: d.Path, Why: NewerVersion, Has: has, Wants: wants})
		}
	}
	return list
}

// newer is the version that a document tells, where it is later than the one that is known.
func newer(d *graph.Document, reach drive.Reach) (has, wants string) {
	if d.Format != "otio" && d.Format != "gltf" {
		return "", ""
	}
	f, err := reach.Open(d.Path)
	if err != nil {
		return "", ""
	}
	defer f.Close()
	b, err := io.ReadAll(f)
	if err != nil {
		return "", ""
	}
	switch d.Format {
	case "otio":
		for _, m := range schema.FindAllStringSubmatch(string(b), -1) {
			if known := newest[m[1]]; known != "" && (len(m[2]) > len(known) || len(m[2]) == len(known) && m[2] > known) {
				return m[1] + "." + m[2], m[1] + "." + known
			}
		}
	case "gltf":
		if m := asset.FindStringSubmatch(string(b)); m != nil && !strings.HasPrefix(m[1], "2.") && !strings.HasPrefix(m[1], "1.") {
			return m[1], "2.0"
		}
	}
	return "", ""
}
