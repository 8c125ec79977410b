package seal

import (
	"context"
	"encoding/hex"
	"errors"
	"hash"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/content"
	"boundcrate/core/text/bag"
)

// Amount is how much of a payload.
type Amount struct {
	Files int
	Bytes int64
}

func (a *Amount) add(bytes int64) { a.Files, a.Bytes = a.Files+1, a.Bytes+bytes }

// digestOf is the SHA-256 of what an item will be, in hexadecimal. A file that is copied as it is may be
// remembered; anything else is made once for it.
func (s *sealer) digestOf(ctx context.Context, it item) (digest, error) {
	if is, ok := it.content.(content.AsIs); ok && s.Digest != nil && !s.SHA512 && len(s.Lists) == 0 {
		sum, err := s.Digest(ctx, is.Path)
		if err != nil {
			return digest{}, &content.ReadError{Path: is.Path, Err: err}
		}
		if now, err := is.Reach.Stat(is.Path); err != nil || !now.Same(is.Info) {
			return digest{}, &content.ChangedError{Path: is.Path}
		}
		return digest{sum: sum, size: it.size}, nil
	}
	var d digest
	h := newHasher(io.Discard, nil, s.SHA512, func(int) {})
	err := it.content.WriteTo(ctx, h)
	h.finish(func(got digest) { d = got })
	return d, err
}

// standing is a file of the earlier crate that the new one takes over.
type standing struct {
	item
	from   string     // where it lies in the earlier crate
	was    string     // its SHA-256 there, by the manifest
	quick  uint64     // its xxh3, by the record; 0: not told
	there  drive.Info // in the earlier crate, before it was shared
	linked bool
	stamp  drive.Stamp // once it was read back
}

// takeOver gives the crate under way the files of the earlier crate at its place, or of the one that is told,
// that are what they would be anew, and reads all of them back. rest are the items that are to be copied. A file that
// is damaged there, or that the file system cannot share, is copied.
func (s *sealer) takeOver(ctx context.Context, partial string, todo []item, j *journal) (rest []item, err error) {
	base := s.Out
	if s.Like != "" {
		base = s.Like
	}
	earlier, err := readManifests(base, bag.Manifest("sha256"))
	if err != nil {
		return todo, nil // there is none
	}
	var quick map[string]uint64
	bySum := map[string]string{} // of a crate that stays as it is, whatever a file is called there
	if s.Like == "" {
		quick = quickOf(folderRecord(base)) // this program wrote it, and nobody was there since (checkUntouched)
	} else {
		for p, sum := range earlier.sums {
			bySum[sum] = p
		}
	}
	made := map[string]bool{}
	for _, it := range todo {
		if dir := filepath.Join(partial, filepath.Dir(it.to)); !made[dir] {
			if err := os.MkdirAll(dir, 0o755); err != nil {
				return nil, &WriteError{dir, err}
			}
			made[dir] = true
		}
	}
	var mu sync.Mutex
	var kept []*standing
	copied := func(it item) {
		mu.Lock()
		rest = append(rest, it)
		mu.Unlock()
	}
	err = each(ctx, todo, func(ctx context.Context, it item) error {
		x := &standing{item: it, from: it.to, was: earlier.sums[it.to], quick: quick[it.to]}
		sameSize := func() bool {
			is, err := (drive.System{}).Lstat(filepath.Join(base, x.from))
			x.there = is
			return err == nil && is.Mode.IsRegular() && is.Size == it.size
		}
		if s.Like == "" && (x.was == "" || !sameSize()) {
			copied(it)
			return nil
		}
		is, err := s.digestOf(ctx, it)
		if err != nil {
			return err
		}
		if s.Like != "" && is.sum != x.was {
			x.from, x.was = bySum[is.sum], is.sum
		}
		if is.sum != x.was || x.from == "" || !sameSize() {
			copied(it)
			return nil
		}
		ok, err := s.share(ctx, partial, x)
		if err != nil {
			return err
		}
		if !ok {
			copied(it)
			return nil
		}
		mu.Lock()
		kept = append(kept, x)
		mu.Unlock()
		return nil
	})
	if err != nil {
		return nil, err
	}
	return rest, s.tookOver(partial, kept, j)
}

// share puts one file into the crate under way and reads it back; not ok where it cannot be had that way.
func (s *sealer) share(ctx context.Context, partial string, x *standing) (ok bool, err error) {
	to := filepath.Join(partial, x.to)
	base := s.Out
	if s.Like != "" {
		base = s.Like
	}
	sure := s.stands(filepath.Join(base, x.from), x.there)
	if x.linked, err = fileset.Share(filepath.Join(base, x.from), to); err != nil {
		s.unshared.Add(1)
		return false, nil
	}
	s.tick(Copying, x.size, "")
	d, err := digest{sum: sure, size: x.size}, error(nil)
	if sure != "" && !s.SHA512 {
		s.tick(ReadingBack, x.size, "")
	} else {
		d, err = s.readStanding(ctx, to, x)
	}
	if err == nil && d.sum == x.was {
		err = s.restamp(to, x)
	} else if err == nil {
		err = ErrReadBack
	}
	if err != nil {
		s.tick(Copying, -x.size, "")
		_ = os.Remove(to) // it is copied; what cannot be removed the copy cannot write over, and tells
		return false, ctx.Err()
	}
	info, err := (drive.System{}).Lstat(to)
	if err != nil {
		return false, &WriteError{to, err}
	}
	x.stamp = info.Stamp()
	s.keep(x.to, d)
	s.back.Add(d.size)
	s.tick(ReadingBack, 0, x.to)
	return true, nil
}

// stands is the SHA-256 of a file of the earlier crate that nobody wrote to since it was read; "" where that is not
// known. It is asked before the file is shared, which changes its inode.
func (s *sealer) stands(at string, is drive.Info) string {
	if s.Stands == nil {
		return ""
	}
	sum, ok := s.Stands(at, is.Stamp())
	if !ok {
		return ""
	}
	return sum
}

// restamp gives a file the time and the rights it would have if it were copied.
func (s *sealer) restamp(to string, x *standing) error {
	if x.linked && s.Like != "" {
		return nil // the file of the earlier crate stays as it is
	}
	fi, err := os.Stat(to)
	if err != nil {
		return err
	}
	mode := x.content.Mode().Perm()
	if mode == 0 {
		mode = 0o644
	}
	if fi.Mode().Perm() != mode && !x.linked {
		err = os.Chmod(to, mode)
	}
	if mod := x.content.Mod(); !mod.IsZero() && !fi.ModTime().Equal(mod) {
		err = errors.Join(err, os.Chtimes(to, mod, mod))
	}
	return err
}

// quickOf are the quick digests that a crate's record keeps of its files.
func quickOf(rec *record) map[string]uint64 {
	if rec == nil {
		return nil
	}
	list := make(map[string]uint64, len(rec.Files))
	for _, f := range rec.Files {
		if n, err := strconv.ParseUint(f.XXH3, 16, 64); err == nil {
			list[f.Path] = n
		}
	}
	return list
}

// readStanding reads a file back from its drive. Where the crate's record tells its xxh3, of the same
// reading as its SHA-256 when it was sealed, that is what it is held against.
func (s *sealer) readStanding(ctx context.Context, p string, x *standing) (digest, error) {
	if x.quick == 0 || s.SHA512 {
		return s.readWhole(ctx, p)
	}
	f, err := os.Open(p)
	if err != nil {
		return digest{}, err
	}
	defer f.Close()
	drive.Forget(f)
	got, err := quickly(f, func(n int) error {
		s.tick(ReadingBack, int64(n), "")
		return ctx.Err()
	})
	if err == nil && got != x.quick {
		err = ErrReadBack
	}
	return digest{sum: x.was, quick: got, size: x.size}, err
}

// readWhole reads a file back from its drive.
func (s *sealer) readWhole(ctx context.Context, p string) (digest, error) {
	f, err := os.Open(p)
	if err != nil {
		return digest{}, err
	}
	defer f.Close()
	drive.Forget(f)
	quick, sha := xxh3.New(), bag.New("sha256")
	all := []io.Writer{quick, sha}
	var long hash.Hash
	if s.SHA512 {
		long = bag.New("sha512")
		all = append(all, long)
	}
	var n counter
	_, err = io.CopyBuffer(struct{ io.Writer }{io.MultiWriter(append(all, &n, ticking{io.Discard, func(n int) { s.tick(ReadingBack, int64(n), "") }})...)}, &stopping{ctx, f}, make([]byte, 1<<18))
	if err != nil {
		return digest{}, err
	}
	d := digest{sum: hex.EncodeToString(sha.Sum(nil)), quick: quick.Sum64(), size: int64(n)}
	if long != nil {
		d.long = hex.EncodeToString(long.Sum(nil))
	}
	return d, nil
}

// tookOver makes what was taken over safe, and journals it.
func (s *sealer) tookOver(partial string, kept []*standing, j *journal) error {
	if len(kept) == 0 {
		return nil
	}
	files := make([]string, len(kept))
	for i, x := range kept {
		files[i] = filepath.Join(partial, x.to)
	}
	if err := syncAll(partial, files); err != nil {
		return &WriteError{partial, err}
	}
	s.shared = map[string]drive.Stamp{}
	for _, x := range kept {
		s.stood.add(x.size)
		if x.linked { // whoever writes to the earlier crate's file writes to this one: it is taken over anew after a crash
			s.shared[x.to] = x.stamp
		} else {
			j.note(x.item, s.sum(x.to))
		}
	}
	return j.safe()
}

// renewMark makes the tag manifest the youngest file of the crate again: the inodes of files that were
// shared with the earlier crate changed when that let go of them, and what is younger than the tag
// manifest is read again by the next seal. Where a file was written to since it was read back, nothing
// is done, so that it will be.
func (s *sealer) renewMark() {
	for to, stamp := range s.shared {
		now, err := (drive.System{}).Lstat(filepath.Join(s.Out, to))
		if err != nil || now.Size != stamp.Size || now.ModTime.UnixNano() != stamp.Mod {
			return
		}
	}
	if len(s.shared) > 0 {
		now := time.Now()
		_ = os.Chtimes(filepath.Join(s.Out, bag.TagManifest("sha256")), now, now) // only the next seal takes longer
	}
}

// carried is what of the payload was copied: all but what the earlier crate had.
func (s *sealer) carried() (copied Amount) {
	for p, d := range s.sums {
		if strings.HasPrefix(p, bag.Payload+"/") {
			copied.add(d.size)
		}
	}
	return Amount{copied.Files - s.stood.Files, copied.Bytes - s.stood.Bytes}
}
