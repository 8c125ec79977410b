// Package receive opens somebody's crate: it is checked whole before a single
// file is unpacked, and unpacked under a temporary name that becomes the
// crate's own when it is complete. What is unpacked is what was checked, byte
// for byte.
package receive

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
)

// Report is what was received and where it lies now; Into is empty when the
// check failed and nothing was unpacked.
type Report struct {
	seal.Report
	Into string
	// Material is where sounds and pictures lie, where they were asked to be apart; "" else.
	Material   string
	Documents  []string // that were sealed, as they lie now, absolute
	DoesNotFit []Misfit
	// Meant is what the sender's crate records of its documents' references, At where a file of the
	// payload lies now, by its place below data/.
	Meant []seal.Meant
	At    func(place string) string
}

// ErrThere: the folder the crate would unpack to is already there.
var ErrThere = errors.New("it is already there")

// Step is what unpacking was about when it failed.
type Step string

// The steps.
const (
	BadBase    Step = "bad-base" // a base folder that must not be unpacked
	There      Step = "there"
	Busy       Step = "busy" // another unpacks to the same place
	Making     Step = "making"
	Unpacking  Step = "unpacking" // what was written was taken away again
	Naming     Step = "naming"
	Connecting Step = "connecting" // the documents could not be made to name the material
	Lacking    Step = "lacking"    // a part of the crate, At, does not lie beside it
)

// Error is a crate that could not be unpacked.
type Error struct {
	Crate string
	At    string // the folder it is about
	Step  Step
	Err   error
}

func (e *Error) Error() string {
	s := "‘" + e.Crate + "’ could not be unpacked to ‘" + e.At + "’ (" + string(e.Step) + ")"
	if e.Err != nil {
		s += ": " + e.Err.Error()
	}
	return s
}

func (e *Error) Unwrap() error { return e.Err }

// partialEnd ends the names of folders that are being unpacked into.
const partialEnd = ".partial"

// Options is how to receive.
type Options struct {
	Crate, Into string
	// Material is a folder that sounds, moving pictures and images go to, in one of the crate's name; the
	// documents name them there. "" keeps the crate as it is.
	Material string
	Bases    []string // crates or folders that a difference crate is filled from
	Formats  format.Set
	Progress func(Step, int64) // bytes unpacked; nil: nobody is told
}

// Run checks the crate and unpacks it to Into/NAME. A crate that is damaged is
// reported and not unpacked; one that is whole is unpacked, whatever its
// documents lack.
//
// What a difference crate does not hold is copied from the bases, crates or folders; one that they
// do not fill is reported and not unpacked.
func Run(ctx context.Context, o Options) (*Report, error) {
	crate, into := o.Crate, o.Into
	checked, err := seal.Inspect(ctx, crate, o.Formats, o.Bases...)
	if err != nil {
		return nil, err
	}
	out := &Report{Report: *checked.Report}
	if checked.Report.Harm()+len(checked.Report.ToFetch) > 0 {
		return out, nil
	}
	fail := func(at string, step Step, err error) error { return &Error{crate, at, step, err} }
	if lacks := checked.Report.Lacks; len(lacks) > 0 {
		return nil, fail(lacks[0], Lacking, nil)
	}
	name := checked.Base
	if bag.UnsafeBase(name) != "" {
		return nil, fail(name, BadBase, nil)
	}
	if out.DoesNotFit = misfits(&out.Report, o, name); refused(out.DoesNotFit) {
		return out, nil
	}
	if o.Material != "" {
		return out, apart(ctx, checked, o, name, out)
	}
	target, err := under(ctx, crate, into, name, func(partial string) error { return unpack(ctx, checked, whole(partial), o.Progress) })
	if target == "" {
		return nil, err
	}
	out.Into, out.Meant, out.At = target, checked.Meant(), func(place string) string { return seal.At(target, place) }
	for _, d := range checked.Report.Sheet.Documents {
		out.Documents = append(out.Documents, filepath.Join(target, d))
	}
	if len(out.Documents) > 0 {
		reach := drive.Confined{Dir: target}
		if g, err := trace.Run(ctx, trace.Options{Formats: checked.Formats(), Reach: reach, Root: filepath.Join(target, bag.Payload), Unlooked: true}, out.Documents...); err == nil {
			out.DoesNotFit = append(out.DoesNotFit, strangers(g, reach)...)
		}
	}
	return out, err
}

// under fills a new folder below another under a temporary name, and gives it its own once it is whole.
// The target is "" where nothing came of it; an error beside one is a folder that could not be made safe.
func under(ctx context.Context, crate, into, name string, fill func(partial string) error) (target string, err error) {
	fail := func(at string, step Step, err error) (string, error) {
		if ctx.Err() != nil {
			return "", ctx.Err()
		}
		return "", &Error{crate, at, step, err}
	}
	if bag.UnsafeBase(name) != "" {
		return fail(name, BadBase, nil)
	}
	to := filepath.Join(into, name)
	if _, err := os.Lstat(to); err == nil {
		return fail(to, There, ErrThere)
	}
	if err := os.MkdirAll(into, 0o755); err != nil {
		return fail(into, Making, err)
	}
	partial := filepath.Join(into, "."+name+partialEnd)
	held, err := begin(partial)
	if err != nil {
		return fail(into, Making, err)
	}
	if held == nil {
		return fail(to, Busy, nil)
	}
	defer held.Close()
	defer os.RemoveAll(partial) // nothing is there any more once it was renamed
	if err := fill(partial); err != nil {
		return fail(to, Unpacking, err)
	}
	if err := os.Chmod(partial, 0o755); err != nil {
		return fail(to, Naming, err)
	}
	if err := os.Rename(partial, to); err != nil {
		return fail(to, Naming, err)
	}
	return to, fileset.SyncDir(into)
}

// begin makes the folder to unpack into, and takes it for this process. What a
// crash left of an earlier try goes first. held is nil where another unpacks
// there at this moment.
func begin(partial string) (held *os.File, err error) {
	for range 2 {
		err := os.Mkdir(partial, 0o700)
		made := err == nil
		if err != nil && !errors.Is(err, fs.ErrExist) {
			return nil, err
		}
		f, ok, err := drive.Hold(partial, os.O_RDONLY)
		if !ok || made {
			return f, err
		}
		err = os.RemoveAll(partial)
		f.Close()
		if err != nil {
			return nil, err
		}
	}
	return nil, nil // another was quicker
}

// whole puts every file of a crate into one folder, under its own name.
func whole(dir string) func(string) (string, string) {
	return func(name string) (string, string) { return dir, name }
}

// unpack writes through os.Root, so that no name leads out whatever the check
// overlooked. place tells the folder that a file goes to, and its name there.
func unpack(ctx context.Context, checked *seal.Checked, place func(name string) (dir, as string), progress func(Step, int64)) error {
	roots := map[string]*os.Root{}
	defer func() {
		for _, r := range roots {
			r.Close()
		}
	}()
	buf := make([]byte, 1<<20)
	done := int64(0)
	return checked.Members(ctx, func(name string, m carrier.Member, r io.Reader) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		dir, as := place(name)
		root := roots[dir]
		if root == nil {
			var err error
			if root, err = os.OpenRoot(dir); err != nil {
				return err
			}
			roots[dir] = root
		}
		if d := path.Dir(as); d != "." {
			if err := root.MkdirAll(d, 0o755); err != nil {
				return err
			}
		}
		payload := strings.HasPrefix(name, bag.Payload+"/")
		mode := m.Mode.Perm() &^ 0o111
		if mode&0o600 != 0o600 || !payload {
			mode = 0o644
		}
		f, err := root.OpenFile(as, os.O_CREATE|os.O_EXCL|os.O_WRONLY, mode)
		if err != nil {
			return err
		}
		n, err := io.CopyBuffer(struct{ io.Writer }{f}, drive.ContextReader(ctx, r), buf)
		err = errors.Join(err, f.Sync(), f.Close())
		if err == nil && !m.Mod.IsZero() && payload {
			err = root.Chtimes(as, m.Mod, m.Mod)
		}
		if done += n; progress != nil {
			progress(Unpacking, done)
		}
		return err
	})
}
