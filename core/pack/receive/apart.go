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
	"boundcrate/core/pack/relocate"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
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

// lay is a reach over the files where they are to be told to be.
func (p *project) lay(as func(place string) string) map[string]relocate.File {
	files := map[string]relocate.File{}
	for at, is := range p.at {
		files[as(at)] = relocate.File{Reach: drive.System{}, Path: is}
	}
	return files
}

// asSealed are the files as the crate has them, all below the project's folder.
func (p *project) asSealed() drive.Reach {
	return relocate.Lay(p.lay(func(place string) string { return filepath.Join(p.root, place) }), nil)
}

// place is the place below data/ of a path of the documents as they were sealed.
func (p *project) place(path string) (string, bool) {
	rel, err := filepath.Rel(p.root, path)
	return filepath.ToSlash(rel), err == nil && filepath.IsLocal(rel)
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
	m := &relocate.Move{Was: was, Trace: o, Place: p.place, Goal: p.goal}
	var changes []writing.Change
	for range 2 {
		m.Lies = p.lay(func(place string) string { return place })
		var unsaid []relocate.Unsaid
		if changes, unsaid, err = m.Plan(ctx); err != nil {
			return false, err
		}
		if len(unsaid) == 0 {
			break
		}
		// A document that can only tell a name finds its files beside it alone.
		if err := p.keepBeside(unsaid); err != nil {
			return false, err
		}
	}
	for _, c := range changes {
		if err := p.rewrite(c); err != nil {
			return false, err
		}
	}
	bad, err := m.Failing(ctx, p.lay(p.goal))
	return len(bad) == 0, err
}

// keepBeside puts material that a document cannot name elsewhere beside the documents.
func (p *project) keepBeside(unsaid []relocate.Unsaid) error {
	for _, u := range unsaid {
		for _, at := range u.Places {
			if p.stays[at] || p.at[at] == "" || !isMaterial(p.kinds[at]) {
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
