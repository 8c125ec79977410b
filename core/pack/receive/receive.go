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
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
)

// Report is what was received and where it lies now; Into is empty when the
// check failed and nothing was unpacked.
type Report struct {
	seal.Report
	Into string
}

// ErrThere: the folder the crate would unpack to is already there.
var ErrThere = errors.New("it is already there")

// Step is what unpacking was about when it failed.
type Step string

// The steps.
const (
	BadBase   Step = "bad-base" // a base folder that must not be unpacked
	There     Step = "there"
	Busy      Step = "busy" // another unpacks to the same place
	Making    Step = "making"
	Unpacking Step = "unpacking" // what was written was taken away again
	Naming    Step = "naming"
	Lacking   Step = "lacking" // a part of the crate, At, does not lie beside it
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

// Run checks the crate and unpacks it to into/NAME. A crate that is damaged is
// reported and not unpacked; one that is whole is unpacked, whatever its
// documents lack.
//
// What a difference crate does not hold is copied from the bases, crates or folders; one that they
// do not fill is reported and not unpacked.
func Run(ctx context.Context, crate, into string, formats format.Set, bases ...string) (*Report, error) {
	checked, err := seal.Inspect(ctx, crate, formats, bases...)
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
	target := filepath.Join(into, name)
	if _, err := os.Lstat(target); err == nil {
		return nil, fail(target, There, ErrThere)
	}
	if err := os.MkdirAll(into, 0o755); err != nil {
		return nil, fail(into, Making, err)
	}
	partial := filepath.Join(into, "."+name+partialEnd)
	held, err := begin(partial)
	if err != nil {
		return nil, fail(into, Making, err)
	}
	if held == nil {
		return nil, fail(target, Busy, nil)
	}
	defer held.Close()
	defer os.RemoveAll(partial) // nothing is there any more once it was renamed
	if err := unpack(ctx, checked, partial); err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, fail(target, Unpacking, err)
	}
	if err := os.Chmod(partial, 0o755); err != nil {
		return nil, fail(target, Naming, err)
	}
	if err := os.Rename(partial, target); err != nil {
		return nil, fail(target, Naming, err)
	}
	out.Into = target
	return out, fileset.SyncDir(into)
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

// unpack writes through os.Root, so that no name leads out whatever the check
// overlooked.
func unpack(ctx context.Context, checked *seal.Checked, dir string) error {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	buf := make([]byte, 1<<20)
	return checked.Members(ctx, func(name string, m carrier.Member, r io.Reader) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		if d := path.Dir(name); d != "." {
			if err := root.MkdirAll(d, 0o755); err != nil {
				return err
			}
		}
		mode := m.Mode.Perm() &^ 0o111
		if mode&0o600 != 0o600 || !strings.HasPrefix(name, bag.Payload+"/") {
			mode = 0o644
		}
		f, err := root.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, mode)
		if err != nil {
			return err
		}
		_, err = io.CopyBuffer(struct{ io.Writer }{f}, struct{ io.Reader }{r}, buf)
		err = errors.Join(err, f.Sync(), f.Close())
		if err == nil && !m.Mod.IsZero() && strings.HasPrefix(name, bag.Payload+"/") {
			err = root.Chtimes(name, m.Mod, m.Mod)
		}
		return err
	})
}
