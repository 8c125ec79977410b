package backup

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/seal"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/names"
)

// Back is what came of taking files back.
type Back struct {
	Written []string // in the project, absolute
	Beside  []string // what stood there, under its new name
}

// ErrOther: the bytes in the backup are not those that were sealed.
var ErrOther = errors.New("its bytes in the backup are not those that were sealed")

// TakeBack copies files of a generation to where they came from, all or none. What stands there and is another is
// kept beside it under a new name; what is the same is left.
func TakeBack(ctx context.Context, generation string, files []seal.Original, reach drive.Reach, journals string) (out *Back, err error) {
	out = &Back{}
	tx, err := fileset.Begin(journals, generation)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, tx.Close()) }()
	for _, f := range files {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if err := takeOne(ctx, tx, generation, f, reach, out); err != nil {
			return nil, err
		}
	}
	settled, err := tx.Commit()
	if err == nil && len(settled.Left) > 0 {
		err = &settled.Left[0]
	}
	return out, err
}

func takeOne(ctx context.Context, tx *fileset.Txn, generation string, f seal.Original, reach drive.Reach, out *Back) error {
	from := filepath.Join(generation, filepath.FromSlash(f.Path))
	src, err := os.Stat(from)
	if err != nil {
		return err
	}
	write := func(w io.Writer) error {
		r, err := os.Open(from)
		if err != nil {
			return err
		}
		defer r.Close()
		h := bag.New("sha256")
		if _, err := io.Copy(io.MultiWriter(w, h), drive.ContextReader(ctx, r)); err != nil {
			return err
		}
		if fmt.Sprintf("%x", h.Sum(nil)) != f.SHA256 {
			return &fileset.Error{Path: from, Err: ErrOther}
		}
		return nil
	}
	dir := filepath.Dir(f.Source)
	if err := fileset.Reachable(reach, dir); err != nil {
		return err
	}
	info, err := reach.Stat(f.Source)
	if errors.Is(err, fs.ErrNotExist) {
		if err := tx.Dirs(dir); err != nil {
			return err
		}
		out.Written = append(out.Written, f.Source)
		return tx.Create(f.Source, src.Mode().Perm(), src.ModTime(), write, nil)
	}
	if err != nil {
		return err
	}
	if !info.Mode.IsRegular() {
		return &fileset.Error{Path: f.Source, Err: drive.ErrNotRegular}
	}
	if sum, err := drive.Fingerprint(ctx, reach, f.Source, nil); err != nil || sum == f.SHA256 {
		return err
	}
	stem, ext := names.Split(filepath.Base(info.Real))
	beside := fileset.Free(reach, map[string]bool{}, filepath.Dir(info.Real), fmt.Sprintf("%s before %s%s", stem, time.Now().Format("2006-01-02"), ext))
	if err := keepBeside(ctx, tx, info, beside); err != nil {
		return err
	}
	out.Written, out.Beside = append(out.Written, f.Source), append(out.Beside, beside)
	look := func() error {
		is, err := reach.Stat(f.Source)
		if err == nil && (is.Size != info.Size || !is.ModTime.Equal(info.ModTime)) {
			err = fileset.ErrChanged
		}
		return err
	}
	return tx.Stage(info.Real, src.Mode().Perm(), "", look, write)
}

// keepBeside gives what stands at a place a second name, by which it stays; where the file system has no links it is
// copied.
func keepBeside(ctx context.Context, tx *fileset.Txn, info drive.Info, beside string) error {
	if os.Link(info.Real, beside) == nil {
		return tx.Kept(beside)
	}
	return tx.Create(beside, info.Mode.Perm(), info.ModTime, func(w io.Writer) error {
		r, err := os.Open(info.Real)
		if err != nil {
			return err
		}
		defer r.Close()
		_, err = io.Copy(w, drive.ContextReader(ctx, r))
		return err
	}, nil)
}
