package carrier_test

import (
	"archive/zip"
	"bytes"
	"context"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/carrier/carriertest"
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

// TestParts: never more than 11/9 of the fewest and 2/3 of a part (Dósa 2007), by the
// fewest of small loads, which trying everything tells; and never a part too full.
func TestParts(t *testing.T) {
	var fewest func(sizes, room []int64, limit int64, best int) int
	fewest = func(sizes, room []int64, limit int64, best int) int {
		if len(room) >= best {
			return best
		}
		if len(sizes) == 0 {
			return len(room)
		}
		for i := range room {
			if room[i] >= sizes[0] {
				room[i] -= sizes[0]
				best = min(best, fewest(sizes[1:], room, limit, best))
				room[i] += sizes[0]
			}
		}
		return min(best, fewest(sizes[1:], append(room, limit-sizes[0]), limit, best))
	}
	seed := uint64(7)
	for range 300 {
		sizes := make([]int64, 9)
		var sum int64
		for i := range sizes {
			seed = seed*6364136223846793005 + 1442695040888963407
			sizes[i] = 1 + int64(seed>>40)%60
			sum += sizes[i]
		}
		got, opt := carrier.Parts(sizes, 100), fewest(sizes, nil, 100, len(sizes)+1)
		if 9*got > 11*opt+6 || got < opt || int64(got)*100 < sum {
			t.Fatalf("%v go into %d parts, %d would do", sizes, got, opt)
		}
	}
}

// TestStoredNoise: what does not shrink is stored, whatever its name says; what does is
// packed.
func TestStoredNoise(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	noise := make([]byte, 200_000)
	for i := range noise {
		noise[i] = byte(rng.Uint32())
	}
	var b bytes.Buffer
	w, err := carrier.NewArchive(carrier.Zip, &b, "c", time.Unix(0, 0))
	if err != nil {
		t.Fatal(err)
	}
	text := bytes.Repeat([]byte("a line of text\n"), 20_000)
	for name, data := range map[string][]byte{"noise.bin": noise, "text.txt": text, "short": []byte("x"), "empty": nil} {
		if err := w.Add(carrier.File{Name: name, Size: int64(len(data)), Kind: facts.Data}, func(w io.Writer) error { _, err := w.Write(data); return err }); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range z.File {
		if want := path.Base(f.Name) == "text.txt"; (f.Method == zip.Deflate) != want {
			t.Errorf("%s is packed: %v", f.Name, f.Method == zip.Deflate)
		}
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if got, err := io.ReadAll(r); err != nil || path.Base(f.Name) == "noise.bin" && !bytes.Equal(got, noise) || path.Base(f.Name) == "text.txt" && !bytes.Equal(got, text) {
			t.Error(f.Name, err)
		}
	}
}
