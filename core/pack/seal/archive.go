package seal

import (
	"bufio"
	"context"
	"errors"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/text/bag"
)

// archive makes a crate that is one file.
func (s *sealer) archive(ctx context.Context, k carrier.Kind, items []item) error {
	v := newVault(s.Out+"!", s.Trace.Formats)
	defer v.close()
	f, err := s.one(ctx, s.Out, k, items, v)
	if err != nil {
		return err
	}
	return s.release(ctx, v, []*underWay{f})
}

// underWay is an archive that is written and has not its own name yet.
type underWay struct {
	*os.File
	out string
	sum string // SHA-256 of its bytes as they were written
}

// drop lets go of an archive that will not be.
func (u *underWay) drop() {
	os.Remove(u.Name()) // before it is let go
	u.Close()
}

// one writes an archive under a name for the time being and reads all of it back.
func (s *sealer) one(ctx context.Context, out string, k carrier.Kind, items []item, v *vault) (_ *underWay, err error) {
	dir := filepath.Dir(out)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, &WriteError{out, err}
	}
	// What a crash left of an archive under way is written over; one that another
	// process writes is not touched.
	f, held, err := drive.Hold(filepath.Join(dir, "."+filepath.Base(out)+partialEnd), os.O_RDWR|os.O_CREATE)
	if err != nil {
		return nil, &WriteError{out, err}
	}
	if !held {
		return nil, &Refusal{Out: out, Code: OutBusy}
	}
	u := &underWay{File: f, out: out}
	defer func() {
		if err != nil {
			u.drop()
		}
	}()
	if err := f.Truncate(0); err != nil {
		return nil, &WriteError{out, err}
	}
	needs := int64(0)
	for _, it := range items {
		needs += it.size
	}
	if k == carrier.Tar || k == carrier.Zip { // what is compressed may need far less
		if err := s.room(needs); err != nil {
			return nil, err
		}
	}
	return u, s.writeAndRead(ctx, u, k, items, v)
}

// release proves what was written and gives it its own names.
func (s *sealer) release(ctx context.Context, v *vault, list []*underWay) (err error) {
	defer func() {
		for _, u := range list {
			if err != nil {
				u.drop()
			} else {
				u.Close()
			}
		}
	}()
	s.tick(Proving, 0, "")
	if err := s.lend(v, s.name); err != nil {
		return err
	}
	base := v.root + "/" + s.name
	if err := s.prove(ctx, v, base, base); err != nil {
		return err
	}
	for _, u := range list {
		if err := s.named(u); err != nil {
			return err
		}
	}
	return fileset.SyncDir(filepath.Dir(s.Out))
}

// named gives an archive its own name and tells its digest.
func (s *sealer) named(u *underWay) error {
	if err := os.Rename(u.Name(), u.out); err != nil {
		return &WriteError{u.out, err}
	}
	fi, err := u.Stat() // of the file that was written, whatever stands under its name by now
	if err != nil {
		return &WriteError{u.out, err}
	}
	s.archives[u.out] = mend.Seen{Size: fi.Size(), ModTime: fi.ModTime(), Node: drive.NodeOf(fi), SHA256: u.sum}
	return nil
}

// writeAndRead writes the archive and reads every byte of it back. What can be
// read from the front is read while the rest is still written. Its digest as a whole is told on
// the way: who sends it later need not read it for that.
func (s *sealer) writeAndRead(ctx context.Context, u *underWay, k carrier.Kind, items []item, v *vault) error {
	f := u.File
	w := follow(f)
	whole := newHasher(w, nil, false, func(int) {})
	got := map[string]uint64{}
	read := make(chan error, 1)
	early := k != carrier.Zip // whose list stands at its end
	back := func(r io.ReadSeeker, size int64) error { return s.readArchive(ctx, r, size, k, v, got) }
	if early {
		go func() { read <- back(&w.reader, 0) }()
	}
	err := s.write(ctx, whole, k, items)
	whole.finish(func(d digest) { u.sum = d.sum })
	if err == nil {
		if err = errors.Join(f.Chmod(0o644), f.Sync()); err != nil {
			err = &WriteError{s.Out, err}
		}
	}
	w.end(err)
	if !early && err == nil {
		drive.Forget(f)
		read <- back(f, w.written)
	}
	if err != nil {
		if early {
			<-read
		}
		return err
	}
	if err := <-read; err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return &WriteError{s.Out, err}
	}
	return s.compare(got)
}

// write puts everything into the archive.
func (s *sealer) write(ctx context.Context, f io.Writer, k carrier.Kind, items []item) error {
	buffered := bufio.NewWriterSize(f, 1<<20)
	w, err := carrier.NewArchive(k, buffered, s.name, s.Now)
	if err != nil {
		return err
	}
	if err := s.together(ctx, w, items); err != nil {
		return err
	}
	listed, err := s.lists()
	if err != nil {
		return err
	}
	if err := s.together(ctx, w, listed); err != nil {
		return err
	}
	tags := s.tags()
	for _, it := range tags {
		if err := s.put(ctx, w, it); err != nil {
			return err
		}
	}
	for _, it := range s.tagManifests(tags) {
		if err := s.put(ctx, w, it); err != nil {
			return err
		}
	}
	if err := errors.Join(w.Close(), buffered.Flush()); err != nil {
		return &WriteError{s.Out, err}
	}
	return nil
}

// compare holds what was read back against what was written.
func (s *sealer) compare(got map[string]uint64) error {
	if len(got) != len(s.sums) {
		return &WriteError{s.Out, ErrReadBack}
	}
	for name, want := range s.sums {
		if quick, ok := got[name]; !ok || quick != want.quick {
			return &WriteError{s.Out, ErrReadBack}
		}
		if strings.HasPrefix(name, bag.Payload+"/") {
			s.back.Add(want.size)
		}
	}
	return nil
}

// together puts the items one after the other, and waits for all their digests.
func (s *sealer) together(ctx context.Context, w carrier.Writer, items []item) error {
	s.digests = newDigester()
	defer func() {
		s.digests.close()
		s.digests = nil
	}()
	for _, it := range items {
		if err := s.put(ctx, w, it); err != nil {
			return err
		}
	}
	return nil
}

// readArchive reads every member back, keeps the quick digest of each, and gives
// the documents among them to the proof.
func (s *sealer) readArchive(ctx context.Context, f io.ReadSeeker, size int64, k carrier.Kind, v *vault, got map[string]uint64) error {
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	return carrier.ReadArchive(ctx, f, size, k, func(m carrier.Member, r io.Reader) error {
		name := strings.TrimPrefix(m.Name, s.name+"/")
		if _, twice := got[name]; twice || r == nil {
			return ErrReadBack
		}
		h := xxh3.New()
		err := v.take(path.Join(s.name, name), io.TeeReader(r, ticking{h, func(n int) { s.tick(ReadingBack, int64(n), "") }}))
		if err != nil {
			return err
		}
		got[name] = h.Sum64()
		s.tick(ReadingBack, 0, name)
		return ctx.Err()
	})
}

type ticking struct {
	w    io.Writer
	tick func(int)
}

func (t ticking) Write(b []byte) (int, error) {
	n, err := t.w.Write(b)
	t.tick(n)
	return n, err
}
