// Package edition keeps the state of a document before it is written to.
package edition

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"boundcrate/core/drive"
)

// Keeper keeps editions in one folder, or beside each document where Dir is
// empty.
type Keeper struct{ Dir string }

// Keep copies a document under the next free edition name and returns where:
// cut.otio becomes cut.edition-1.otio. Nothing is ever written over.
func (k Keeper) Keep(document string) (string, error) {
	src, err := os.Open(document)
	if err != nil {
		return "", err
	}
	defer src.Close()
	dir := k.Dir
	if dir == "" {
		dir = filepath.Dir(document)
	} else if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", err
	}
	base := filepath.Base(document)
	ext := filepath.Ext(base)
	for n := 1; ; n++ {
		path := filepath.Join(dir, fmt.Sprintf("%s.edition-%d%s", strings.TrimSuffix(base, ext), n, ext))
		dst, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
		if errors.Is(err, fs.ErrExist) {
			continue
		}
		if err != nil {
			return "", err
		}
		_, err = io.Copy(dst, src)
		if err == nil {
			err = dst.Sync()
		}
		if cerr := dst.Close(); err == nil {
			err = cerr
		}
		if err != nil {
			os.Remove(path)
			return "", err
		}
		return path, drive.SyncDir(dir)
	}
}
