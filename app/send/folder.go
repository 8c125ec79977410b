package send

import (
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
)

// folder is a folder of a drive: a stick, a disk, a share.
type folder struct{ dir, name string }

// Limit implements Carrier: it is the room that is free, with what an earlier try of the same file takes of it.
func (f folder) Limit(context.Context) (int64, error) {
	u, err := disk.Usage(f.dir)
	if err != nil {
		return 0, nil // the system does not tell; writing will
	}
	room := int64(u.Free)
	if fi, err := os.Lstat(f.partial(f.name)); err == nil && fi.Mode().IsRegular() {
		room += fi.Size()
	}
	return room, nil
}

func (f folder) partial(name string) string { return filepath.Join(f.dir, "."+name+partialEnd) }

// partialEnd ends the name of a file that is not whole yet.
const partialEnd = ".partial"

var (
	errThere    = errors.New("another file of that name is there")
	errReadBack = errors.New("what was read back differs from what was written")
	errBusy     = errors.New("another sends to this place at this moment")
)

// Put implements Carrier: it copies under a temporary name, reads back, and renames. What an earlier try
// left is kept as far as it is the same.
func (f folder) Put(ctx context.Context, file *File, told func(int64)) (r Receipt, err error) {
	to := filepath.Join(f.dir, file.Name)
	r = Receipt{ID: to, SHA256: file.SHA256}
	if sum, err := drive.Fingerprint(ctx, drive.System{}, to, nil); err == nil {
		if sum != file.SHA256 {
			return r, &os.PathError{Op: "send", Path: to, Err: errThere}
		}
		r.At = time.Now().UTC().Truncate(time.Second)
		told(file.Size)
		return r, nil
	} else if ctx.Err() != nil {
		return r, ctx.Err()
	}
	partial := f.partial(file.Name)
	out, held, err := drive.Hold(partial, os.O_RDWR|os.O_CREATE)
	if err != nil {
		return r, err
	}
	if !held {
		return r, &os.PathError{Op: "send", Path: to, Err: errBusy}
	}
	defer out.Close()
	w := &resumed{f: out, told: told}
	if fi, err := out.Stat(); err == nil && fi.Size() > 0 {
		file.Resumed++
		w.same = true
	}
	err = file.write(ctx, w)
	if err == nil {
		err = errors.Join(out.Truncate(w.at), out.Sync())
	}
	if err != nil {
		return r, &BrokenError{f.dir, w.at, file.Size, err}
	}
	drive.Forget(out)
	if sum, err := drive.Fingerprint(ctx, drive.System{}, partial, nil); err != nil || sum != file.SHA256 {
		os.Remove(partial)
		return r, &BrokenError{f.dir, 0, file.Size, errors.Join(err, errReadBack)}
	}
	if err := os.Rename(partial, to); err != nil {
		return r, err
	}
	r.At = time.Now().UTC().Truncate(time.Second)
	return r, fileset.SyncDir(f.dir)
}

// resumed writes over what an earlier try left, and leaves as it is what is the same.
type resumed struct {
	f    *os.File
	at   int64
	same bool
	told func(int64)
	buf  []byte
}

func (r *resumed) Write(b []byte) (int, error) {
	if r.same {
		if len(r.buf) < len(b) {
			r.buf = make([]byte, len(b))
		}
		n, err := r.f.ReadAt(r.buf[:len(b)], r.at)
		if err != nil && err != io.EOF {
			return 0, err
		}
		if r.same = n == len(b) && bytes.Equal(r.buf[:n], b); r.same {
			r.at += int64(n)
			r.told(r.at)
			return n, nil
		}
	}
	n, err := r.f.WriteAt(b, r.at)
	r.at += int64(n)
	r.told(r.at)
	return n, err
}
