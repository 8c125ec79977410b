package receive

import (
	"context"
	"errors"
	"io"
	"os"
	"path"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/text/bag"
)

// Plain unpacks an archive that nobody sealed to into/NAME: plain files alone, and nothing that leads
// out. What it holds was checked by nobody. A member that must not be unpacked stops it, and leaves
// nothing.
func Plain(ctx context.Context, archive, into string) (string, error) {
	_, name := carrier.KindOf(archive)
	name = strings.TrimSuffix(name, ".tgz")
	return under(ctx, archive, into, name, func(partial string) error { return unpackPlain(ctx, archive, partial) })
}

func unpackPlain(ctx context.Context, archive, dir string) error {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	return carrier.Read(ctx, archive, func(m carrier.Member, r io.Reader) error {
		if r == nil {
			return nil // folders are made by what is in them; links and devices are left out
		}
		m.Name = strings.TrimPrefix(m.Name, "./") // as tar writes them
		if d := bag.Unsafe(m.Name); d != "" {
			return &UnsafeError{m.Name, d}
		}
		if d := path.Dir(m.Name); d != "." {
			if err := root.MkdirAll(d, 0o755); err != nil {
				return err
			}
		}
		f, err := root.OpenFile(m.Name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
		if err != nil {
			return err
		}
		_, err = io.Copy(f, drive.ContextReader(ctx, r))
		err = errors.Join(err, f.Sync(), f.Close())
		if err == nil && !m.Mod.IsZero() {
			err = root.Chtimes(m.Name, time.Now(), m.Mod)
		}
		return err
	})
}

// UnsafeError is a member that must not be unpacked.
type UnsafeError struct {
	Member string
	Danger bag.Danger
}

func (e *UnsafeError) Error() string {
	return "its member ‘" + e.Member + "’ is refused (" + string(e.Danger) + ")"
}
