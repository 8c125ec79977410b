package app

import (
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/text/bag"
)

// MaxUpload is how large a file may be that is dropped on the window and taken in, in bytes. A browser
// does not tell where a file is; of a larger one a person has to.
const MaxUpload = 2 << 30

// dropKept is how long a dropped file is kept: it is only a way to receive it.
const dropKept = 24 * time.Hour

// dropFolder is where dropped files are kept.
func (a *App) dropFolder() string { return filepath.Join(a.store.Dir(), "dropped") }

// Upload takes a dropped archive in, under its own name in a folder of its own, and tells where it is.
func (a *App) Upload(name string, r io.Reader) (path string, err error) {
	name = filepath.Base(filepath.Clean(name))
	if bag.UnsafeBase(name) != "" || !archive.MatchString(name) {
		return "", fault.Say(fault.Wrong, "Not an archive", "Only archives can be dropped here that are not on your drives: "+name+" is none.")
	}
	forgetOld(a.dropFolder(), "", dropKept)
	if err := os.MkdirAll(a.dropFolder(), 0o700); err != nil {
		return "", err
	}
	dir, err := os.MkdirTemp(a.dropFolder(), "")
	if err != nil {
		return "", err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.RemoveAll(dir))
		}
	}()
	path = filepath.Join(dir, name)
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	n, err := io.Copy(f, io.LimitReader(r, MaxUpload+1))
	if err == nil && n > MaxUpload {
		err = fault.Say(fault.Wrong, "Too large", "Files up to 2 GB can be dropped. Put this one on a drive and choose it under Receive.")
	}
	return path, errors.Join(err, f.Close())
}

// forgetOld takes away what was put into a folder long ago, under names that begin so.
func forgetOld(dir, begins string, age time.Duration) {
	list, _ := os.ReadDir(dir)
	for _, e := range list {
		if fi, err := e.Info(); err == nil && strings.HasPrefix(e.Name(), begins) && time.Since(fi.ModTime()) > age {
			_ = os.RemoveAll(filepath.Join(dir, e.Name())) // it is tried again
		}
	}
}

// readable tells that a path can be received from: on a drive, or dropped.
func (a *App) readable(reach drive.Set, p string) error {
	if drive.Within(a.dropFolder(), p) {
		_, err := os.Stat(p)
		return err
	}
	_, err := reach.Stat(p)
	return err
}
