package send

import (
	"archive/zip"
	"bufio"
	"context"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"sort"

	"boundcrate/core/disk/drive"
)

// member is a file of a crate folder.
type member struct {
	path, name string
	info       fs.FileInfo
}

// members lists a crate folder in the order of its names: plain files, and nothing else.
func members(dir string) (list []member, err error) {
	base := filepath.Base(dir)
	err = filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		if !e.Type().IsRegular() {
			return &fs.PathError{Op: "send", Path: p, Err: drive.ErrNotRegular}
		}
		rel, err := filepath.Rel(dir, p)
		if err != nil {
			return err
		}
		info, err := e.Info()
		list = append(list, member{p, path.Join(base, filepath.ToSlash(rel)), info})
		return err
	})
	sort.Slice(list, func(i, j int) bool { return list[i].name < list[j].name })
	return list, err
}

// zipFolder writes a crate folder as a stored ZIP with the folder as its base: the same bytes each time,
// as long as the files are the same.
func zipFolder(ctx context.Context, dir string, w io.Writer) error {
	list, err := members(dir)
	if err != nil {
		return err
	}
	buffered := bufio.NewWriterSize(w, 1<<20)
	z := zip.NewWriter(buffered)
	for _, m := range list {
		h := &zip.FileHeader{Name: m.name, Method: zip.Store, Modified: m.info.ModTime().UTC()}
		h.SetMode(m.info.Mode().Perm())
		to, err := z.CreateHeader(h)
		if err != nil {
			return err
		}
		if err := copyFile(ctx, m.path, to); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	return buffered.Flush()
}

func copyFile(ctx context.Context, p string, w io.Writer) error {
	f, err := os.Open(p)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = io.CopyBuffer(struct{ io.Writer }{w}, drive.ContextReader(ctx, f), make([]byte, 1<<20))
	return err
}

// What a ZIP takes for a member beside its bytes and twice its name, at most.
const aroundMember = 30 + 24 + 46 + 60

// measure is how large what is sent will be, as far as it can be told without reading it, and what
// could be put into parts.
func measure(ctx context.Context, crate string) (size int64, sizes []int64, err error) {
	fi, err := os.Stat(crate)
	if err != nil {
		return 0, nil, err
	}
	if !fi.IsDir() {
		return fi.Size(), []int64{fi.Size()}, ctx.Err()
	}
	list, err := members(crate)
	for _, m := range list {
		n := m.info.Size() + int64(2*len(m.name)+aroundMember)
		size += n
		sizes = append(sizes, n)
	}
	return size, sizes, err
}
