//go:build linux

package fileset_test

import (
	"io"
	"os"
	"path/filepath"
	"testing"

	"golang.org/x/sys/unix"

	"boundcrate/core/disk/fileset"
)

// TestLike: a file that is written anew keeps its extended attributes, its mode, and its
// owner and group where that is allowed.
func TestLike(t *testing.T) {
	p := filepath.Join(t.TempDir(), "cut.m3u8")
	if err := os.WriteFile(p, []byte("before"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := os.Chmod(p, 0o664); err != nil {
		t.Fatal(err)
	}
	if err := unix.Setxattr(p, "user.colour", []byte("green"), 0); err != nil {
		t.Skip("this file system has no extended attributes")
	}
	owned := os.Chown(p, 12345, 12346) == nil
	tx, err := fileset.Begin(t.TempDir(), p)
	if err != nil {
		t.Fatal(err)
	}
	defer tx.Close()
	write := func(w io.Writer) error { _, err := io.WriteString(w, "after"); return err }
	if err := tx.Stage(p, 0o664, "", func() error { return nil }, write); err != nil {
		t.Fatal(err)
	}
	if _, err := tx.Commit(); err != nil {
		t.Fatal(err)
	}
	value := make([]byte, 16)
	n, err := unix.Getxattr(p, "user.colour", value)
	if b, _ := os.ReadFile(p); string(b) != "after" || err != nil || string(value[:max(0, n)]) != "green" {
		t.Errorf("%q, user.colour %q (%v)", b, value[:max(0, n)], err)
	}
	var st unix.Stat_t
	if err := unix.Stat(p, &st); err != nil || st.Mode&0o777 != 0o664 || owned && (st.Uid != 12345 || st.Gid != 12346) {
		t.Errorf("mode %o, owner %d:%d (%v)", st.Mode&0o777, st.Uid, st.Gid, err)
	}
}
