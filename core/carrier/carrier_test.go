package carrier_test

import (
	"context"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"boundcrate/core/carrier"
	"boundcrate/core/carrier/carriertest"
)

var kinds = append([]carrier.Kind{carrier.Folder}, carrier.Archives...)

func TestCarriers(t *testing.T) {
	for _, k := range kinds {
		t.Run(string(k), func(t *testing.T) {
			p := carriertest.Make(t, k)
			carriertest.Check(t, p, k)
			if got, name := carrier.KindOf(p); got != k || name != "crate" {
				t.Errorf("it is taken for %s, called %s", got, name)
			}
		})
	}
}

// TestJudges: independent programs unpack what was packed, byte for byte and
// right for right.
func TestJudges(t *testing.T) {
	for _, c := range []struct {
		kind carrier.Kind
		cmd  []string
	}{
		{carrier.Zip, []string{"unzip", "-q"}}, {carrier.Zip, []string{"bsdtar", "-xf"}}, {carrier.Zip, []string{"7z", "x", "-bso0"}},
		{carrier.Tar, []string{"tar", "-xf"}}, {carrier.Tar, []string{"bsdtar", "-xf"}}, {carrier.TarGzip, []string{"tar", "-xzf"}}, {carrier.TarZstd, []string{"bsdtar", "-xf"}},
	} {
		t.Run(string(c.kind)+" "+c.cmd[0], func(t *testing.T) {
			if _, err := exec.LookPath(c.cmd[0]); err != nil {
				t.Skip("not installed; make test installs it where it may")
			}
			into := t.TempDir()
			cmd := exec.Command(c.cmd[0], append(c.cmd[1:], carriertest.Make(t, c.kind))...)
			cmd.Dir = into
			cmd.Env = append(os.Environ(), "LC_ALL=C.UTF-8")
			if out, err := cmd.CombinedOutput(); err != nil {
				t.Fatalf("%v: %s", err, out)
			}
			for _, f := range carriertest.Files {
				p := filepath.Join(into, "crate", f.Name)
				b, err := os.ReadFile(p)
				if err != nil || string(b) != string(f.Data) {
					t.Errorf("%s: %.40q %v", f.Name, b, err)
				}
				if info, err := os.Stat(p); err == nil && f.Mode != 0 && info.Mode().Perm() != f.Mode && c.cmd[0] != "7z" && info.Mode().Perm() != f.Mode&^0o022 {
					t.Errorf("%s has the rights %o", f.Name, info.Mode().Perm())
				}
			}
		})
	}
}

// TestCut: an archive that was cut short anywhere ends with an error that says
// so, never as a whole one.
func TestCut(t *testing.T) {
	for _, k := range carrier.Archives {
		whole, err := os.ReadFile(carriertest.Make(t, k))
		if err != nil {
			t.Fatal(err)
		}
		for _, share := range []float64{0.1, 0.5, 0.9, 0.99} {
			p := filepath.Join(t.TempDir(), "cut."+string(k))
			if err := os.WriteFile(p, whole[:int(share*float64(len(whole)))], 0o644); err != nil {
				t.Fatal(err)
			}
			n := 0
			err := carrier.Read(context.Background(), p, func(_ carrier.Member, r io.Reader) error {
				n++
				if r == nil {
					return nil
				}
				_, err := io.Copy(io.Discard, r)
				return err
			})
			// A tar that lacks only its two closing blocks holds all that it held.
			if err == nil && (k != carrier.Tar || n != len(carriertest.Files)) {
				t.Errorf("%s cut to %v: %d members, %v", k, share, n, err)
			}
		}
	}
}
