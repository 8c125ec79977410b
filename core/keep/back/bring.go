package back

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/seal"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/names"
)

// Brought is what came of bringing files back.
type Brought struct {
	Written []string // in the project, absolute
	Beside  []string // what stood there, under its new name
}

// ErrOther: the bytes in the crate are not those that were sealed.
var ErrOther = errors.New("its bytes are not those that were sealed")

// CannotError is a file that was chosen and cannot be brought back.
type CannotError struct {
	Place string
	Why   Why
}

func (e *CannotError) Error() string {
	return "‘" + e.Place + "’ cannot be brought back: " + string(e.Why)
}

// Bring writes chosen files into the project, all or none: documents together with what they use and the project
// lacks. What stands in the way and is another is kept beside under a new name; of the project's own documents
// whoever calls keeps an edition first. What is the same is left.
func (s *Source) Bring(ctx context.Context, places []string, journals string) (out *Brought, err error) {
	list, err := s.chosen(places)
	if err != nil || len(list) == 0 {
		return &Brought{}, err
	}
	b := &bringing{Source: s, out: &Brought{}}
	about := s.Crate
	if len(s.Documents) > 0 {
		about = s.Documents[0] // no two writings into a project at once
	}
	if b.tx, err = fileset.Begin(journals, about); err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, b.tx.Close()) }()
	if err := b.put(ctx, list); err != nil {
		return nil, err
	}
	settled, err := b.tx.Commit()
	if err == nil && len(settled.Left) > 0 {
		err = &settled.Left[0]
	}
	return b.out, err
}

// chosen are the items that are to be written.
func (s *Source) chosen(places []string) ([]*Item, error) {
	want := map[string]bool{}
	for _, place := range places {
		it := s.items[place]
		if it == nil {
			return nil, &CannotError{place, NoPlace}
		}
		if it.Why != "" {
			return nil, &CannotError{place, it.Why}
		}
		want[place] = true
		for _, needed := range it.Lost {
			want[needed] = true
		}
	}
	var list []*Item
	for i := range s.Items {
		if it := &s.Items[i]; want[it.Place] && it.Now != Same {
			list = append(list, it)
		}
	}
	return list, nil
}

type bringing struct {
	*Source
	tx  *fileset.Txn
	out *Brought
}

// put stages them. Of an archive, which is read once from its beginning, what it holds is checked whole before.
func (b *bringing) put(ctx context.Context, list []*Item) error {
	packed := map[string]*Item{}
	for _, it := range list {
		if err := ctx.Err(); err != nil {
			return err
		}
		switch text := b.texts[it.Place]; {
		case text != "":
			if err := b.one(ctx, it, func() (io.ReadCloser, error) { return os.Open(text) }); err != nil {
				return err
			}
		case seal.IsBag(b.Crate) || it.Document:
			if err := b.one(ctx, it, func() (io.ReadCloser, error) { return b.open(it) }); err != nil {
				return err
			}
		default:
			packed[it.Place] = it
		}
	}
	if len(packed) == 0 {
		return nil
	}
	checked, err := seal.Inspect(ctx, b.Crate, b.Trace.Formats)
	if err != nil {
		return err
	}
	if checked.Report.Harm() > 0 {
		return &fileset.Error{Path: b.Crate, Err: ErrOther}
	}
	return checked.Members(ctx, func(name string, _ carrier.Member, r io.Reader) error {
		it := packed[strings.TrimPrefix(name, bag.Payload+"/")]
		if it == nil {
			return nil
		}
		return b.one(ctx, it, func() (io.ReadCloser, error) { return io.NopCloser(r), nil })
	})
}

// open opens a file of the crate.
func (b *bringing) open(it *Item) (io.ReadCloser, error) {
	f, err := b.crate.Reach.Open(b.at(it.Place))
	if err != nil {
		return nil, err
	}
	return struct {
		io.Reader
		io.Closer
	}{io.NewSectionReader(f, 0, f.Size()), f}, nil
}

// one stages one file.
func (b *bringing) one(ctx context.Context, it *Item, open func() (io.ReadCloser, error)) error {
	reach, mode := b.Trace.Reach, fs.FileMode(0o644)
	if is, err := b.crate.Reach.Stat(b.at(it.Place)); err == nil && is.Mode.Perm() != 0 {
		mode = is.Mode.Perm() | 0o600
	}
	if !b.Trusted {
		mode &^= 0o111 // nothing that somebody else sealed is to be run
	}
	write := func(w io.Writer) error {
		r, err := open()
		if err != nil {
			return err
		}
		defer r.Close()
		h := bag.New("sha256")
		if _, err := io.Copy(io.MultiWriter(w, h), drive.ContextReader(ctx, r)); err != nil {
			return err
		}
		if fmt.Sprintf("%x", h.Sum(nil)) != it.SHA256 {
			return &fileset.Error{Path: b.at(it.Place), Err: ErrOther}
		}
		return nil
	}
	dir := filepath.Dir(it.To)
	if err := fileset.Reachable(reach, dir); err != nil {
		return err
	}
	info, err := reach.Stat(it.To)
	if errors.Is(err, fs.ErrNotExist) {
		if err := b.tx.Dirs(dir); err != nil {
			return err
		}
		b.out.Written = append(b.out.Written, it.To)
		return b.tx.Create(it.To, mode, it.Modified, write, nil)
	}
	if err != nil {
		return err
	}
	if !info.Mode.IsRegular() {
		return &fileset.Error{Path: it.To, Err: drive.ErrNotRegular}
	}
	if !b.kept(it.To) {
		stem, ext := names.Split(filepath.Base(info.Real))
		beside := fileset.Free(reach, map[string]bool{}, filepath.Dir(info.Real), fmt.Sprintf("%s before %s%s", stem, time.Now().Format("2006-01-02"), ext))
		if err := b.keepBeside(ctx, info, beside); err != nil {
			return err
		}
		b.out.Beside = append(b.out.Beside, beside)
	}
	b.out.Written = append(b.out.Written, it.To)
	look := func() error {
		is, err := reach.Stat(it.To)
		if err == nil && (is.Size != info.Size || !is.ModTime.Equal(info.ModTime)) {
			err = fileset.ErrChanged
		}
		return err
	}
	return b.tx.Stage(info.Real, info.Mode.Perm(), "", look, write)
}

// kept tells documents of the project, of which an edition holds what stands there.
func (b *bringing) kept(at string) bool { return slices.Contains(b.Editions, at) }

// keepBeside gives what stands at a place a second name, by which it stays; where the file system has no links it is
// copied.
func (b *bringing) keepBeside(ctx context.Context, info drive.Info, beside string) error {
	if os.Link(info.Real, beside) == nil {
		return b.tx.Kept(beside)
	}
	return b.tx.Create(beside, info.Mode.Perm(), info.ModTime, func(w io.Writer) error {
		r, err := os.Open(info.Real)
		if err != nil {
			return err
		}
		defer r.Close()
		_, err = io.Copy(w, drive.ContextReader(ctx, r))
		return err
	}, nil)
}
