// Package receive opens somebody's crate: it is checked whole before a single
// file is unpacked, and unpacked under a temporary name that becomes the
// crate's own when it is complete.
package receive

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"

	"boundcrate/core/drive"
	"boundcrate/core/format"
	"boundcrate/core/seal"
	"boundcrate/core/trace"
)

// Report is what was received and where it lies now; Into is empty when the
// check failed and nothing was unpacked.
type Report struct {
	seal.Report
	Into string `json:"into"`
}

// ErrThere: the folder the crate would unpack to is already there.
var ErrThere = errors.New("is already there")

// Run checks the crate and unpacks it to into/NAME. A crate that is damaged is
// reported and not unpacked; one that is whole is unpacked, whatever its
// documents lack.
func Run(ctx context.Context, crate, into string, formats format.Set) (*Report, error) {
	name, rep, err := seal.Base(ctx, crate, formats)
	if err != nil {
		return nil, err
	}
	out := &Report{Report: *rep}
	if rep.Harm > 0 {
		return out, nil
	}
	if seal.Unsafe(name) != "" || path.Base(name) != name {
		return nil, fmt.Errorf("‘%s’ has a base folder that cannot be unpacked: %q", crate, name)
	}
	target := filepath.Join(into, name)
	if _, err := os.Lstat(target); err == nil {
		return nil, fmt.Errorf("‘%s’ %w. Nothing was unpacked. Choose another folder", target, ErrThere)
	}
	if err := os.MkdirAll(into, 0o755); err != nil {
		return nil, fmt.Errorf("‘%s’ could not be made: %s", into, trace.Reason(err))
	}
	partial, err := os.MkdirTemp(into, "."+name+".*.partial")
	if err != nil {
		return nil, fmt.Errorf("nothing can be unpacked to ‘%s’: %s", into, trace.Reason(err))
	}
	defer os.RemoveAll(partial) // nothing is there any more once it was renamed
	if err := unpack(ctx, crate, partial); err != nil {
		return nil, fmt.Errorf("‘%s’ could not be unpacked: %w. What was written was taken away again", crate, err)
	}
	if err := os.Chmod(partial, 0o755); err != nil {
		return nil, err
	}
	if err := os.Rename(partial, target); err != nil {
		return nil, fmt.Errorf("‘%s’ could not be named: %w", target, err)
	}
	out.Into = target
	return out, drive.SyncDir(into)
}

// unpack writes through os.Root, so that no name leads out whatever the check
// overlooked.
func unpack(ctx context.Context, crate, dir string) error {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	return seal.Members(ctx, crate, func(name string, r io.Reader) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		if d := path.Dir(name); d != "." {
			if err := root.MkdirAll(d, 0o755); err != nil {
				return err
			}
		}
		f, err := root.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
		if err != nil {
			return err
		}
		_, err = io.CopyBuffer(struct{ io.Writer }{f}, struct{ io.Reader }{r}, make([]byte, 1<<20))
		return errors.Join(err, f.Sync(), f.Close())
	})
}
