package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"boundcrate/core/coretest"
)

// kills is how often each act is killed, a writing three times as often: whole in make faults.
func kills() int {
	if os.Getenv("FAULTS") != "" {
		return 100
	}
	return 4
}

// killed starts the program and kills it after some time below most; it tells
// whether it ended by itself before.
func killed(t *testing.T, rng *rand.Rand, most time.Duration, data string, args ...string) (ended bool) {
	t.Helper()
	c := command(t, data, args...)
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	time.Sleep(time.Duration(rng.Int64N(int64(most))))
	_ = c.Process.Signal(syscall.SIGKILL)
	_ = c.Wait()
	return c.ProcessState.Exited()
}

// long is how long an act takes when nobody kills it.
func long(t *testing.T, data string, args ...string) time.Duration {
	t.Helper()
	began := time.Now()
	if code, out, errs := invoke(t, data, args...); code != 0 {
		t.Fatal(args, code, out, errs)
	}
	return time.Since(began) + time.Since(began)/4
}

// project lays a film of many sounds.
func project(t *testing.T, sounds, size int) (dir, doc string) {
	t.Helper()
	dir = t.TempDir()
	var names []string
	rng := rand.NewChaCha8([32]byte{7})
	for i := range sounds {
		b := make([]byte, size)
		_, _ = rng.Read(b)
		name := fmt.Sprintf("take%d.wav", i)
		coretest.Write(t, filepath.Join(dir, "film/sound", name), string(b))
		names = append(names, "sound/"+name)
	}
	return dir, coretest.Write(t, filepath.Join(dir, "film/cut.otio"), clips(names...))
}

// TestKilledSeals: a seal that is killed at any moment leaves nothing under the
// crate's name but a whole crate, the originals as they were, and the next seal
// succeeds and leaves nothing beside it.
func TestKilledSeals(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 5))
	dir, doc := project(t, 24, 512<<10)
	data := t.TempDir()
	before := coretest.Sums(t, filepath.Join(dir, "film"))
	for _, end := range []string{"", ".zip", ".tar.zst"} {
		out := filepath.Join(dir, "out", "crate"+end)
		most := long(t, data, "seal", "--out", out, doc)
		for i := range kills() {
			os.RemoveAll(out)
			killed(t, rng, most, data, "seal", "--out", out, doc)
			if _, err := os.Lstat(out); err == nil {
				if code, text, errs := invoke(t, data, "check", out); code != 0 {
					t.Errorf("%s, kill %d: what has the crate's name is none: %s%s", end, i, text, errs)
				}
			}
			if code, text, errs := invoke(t, data, "seal", "--out", out, doc); code != 0 {
				t.Errorf("%s, kill %d: not sealed again: %s%s", end, i, text, errs)
			}
			if code, text, errs := invoke(t, data, "check", out); code != 0 {
				t.Errorf("%s, kill %d: %s%s", end, i, text, errs)
			}
		}
		os.RemoveAll(out)
		if left, _ := os.ReadDir(filepath.Dir(out)); len(left) > 0 {
			t.Errorf("%s: left behind: %v", end, left)
		}
	}
	same(t, before, coretest.Sums(t, filepath.Join(dir, "film")))
	sound(t, data)
}

func same(t *testing.T, before, after map[string][32]byte) {
	t.Helper()
	for p, sum := range before {
		if after[p] != sum {
			t.Errorf("%s is not as it was", p)
		}
	}
}

// sound asks SQLite itself whether the database is whole.
func sound(t *testing.T, data string) {
	t.Helper()
	if _, err := exec.LookPath("sqlite3"); err != nil {
		return
	}
	db := filepath.Join(data, "boundcrate", "boundcrate.db")
	out, err := exec.Command("sqlite3", db, "PRAGMA integrity_check").CombinedOutput()
	if err != nil || strings.TrimSpace(string(out)) != "ok" {
		t.Errorf("the database is damaged: %s %v", out, err)
	}
}

// TestKilledReceives: an unpacking that is killed leaves nothing under the
// crate's name, and the next one delivers it whole.
func TestKilledReceives(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 11))
	dir, doc := project(t, 24, 512<<10)
	data, crate, into := t.TempDir(), filepath.Join(dir, "crate.tar"), filepath.Join(dir, "in")
	if code, _, errs := invoke(t, data, "seal", "--out", crate, doc); code != 0 {
		t.Fatal(errs)
	}
	most := long(t, data, "receive", "--into", into, crate)
	for i := range kills() {
		os.RemoveAll(into)
		killed(t, rng, most, data, "receive", "--into", into, crate)
		at := filepath.Join(into, "crate")
		if _, err := os.Lstat(at); err != nil {
			if code, text, errs := invoke(t, data, "receive", "--into", into, crate); code != 0 {
				t.Errorf("kill %d: %s%s", i, text, errs)
			}
		}
		if code, text, errs := invoke(t, data, "check", at); code != 0 {
			t.Errorf("kill %d: %s%s", i, text, errs)
		}
		if left, _ := os.ReadDir(into); len(left) != 1 {
			t.Errorf("kill %d left %v", i, left)
		}
	}
}

// TestKilledWrites: of documents that repairs are written into, after a kill at
// any moment and the next command, all say the new names or none does, and what
// they said is kept.
func TestKilledWrites(t *testing.T) {
	rng := rand.New(rand.NewPCG(13, 17))
	const documents = 12
	var most time.Duration
	wrote, not := 0, 0
	for i := range 3 * kills() {
		files := map[string]string{"found/gull.wav": strings.Repeat("gull", 1000)}
		for k := range documents {
			files[fmt.Sprintf("film/d%d.m3u", k)] = fmt.Sprintf("#EXTM3U\nlost.wav\nd%d.m3u\n%s", (k+1)%documents, strings.Repeat("# a long note of the day\n", 20_000))
		}
		files["film/lost.wav"] = files["found/gull.wav"]
		dir, data := coretest.Lay(t, files), t.TempDir()
		doc := filepath.Join(dir, "film/d0.m3u")
		if code, _, errs := invoke(t, data, "trace", doc); code != 0 {
			t.Fatal(errs)
		}
		if err := os.Remove(filepath.Join(dir, "film/lost.wav")); err != nil {
			t.Fatal(err)
		}
		args := []string{"mend", "--write", "--search", filepath.Join(dir, "found"), doc}
		if i == 0 {
			most = long(t, data, args...)
			continue
		}
		killed(t, rng, most, data, args...)
		_, _, _ = invoke(t, data, "trace", doc) // whatever comes next finishes it
		fresh := 0
		for k := range documents {
			b, err := os.ReadFile(filepath.Join(dir, fmt.Sprintf("film/d%d.m3u", k)))
			switch {
			case err != nil:
				t.Error(err)
			case string(b) == strings.Replace(files[fmt.Sprintf("film/d%d.m3u", k)], "lost.wav", "../found/gull.wav", 1):
				fresh++
			case string(b) != files[fmt.Sprintf("film/d%d.m3u", k)]:
				t.Errorf("kill %d: document %d is neither", i, k)
			}
		}
		switch fresh {
		case 0:
			not++
		case documents:
			wrote++
			if kept, _ := filepath.Glob(filepath.Join(dir, "film/editions/*.m3u")); len(kept) != documents {
				t.Errorf("kill %d: %d editions", i, len(kept))
			}
		default:
			t.Errorf("kill %d: %d of %d documents are written", i, fresh, documents)
		}
		if left, _ := filepath.Glob(filepath.Join(dir, "film/.boundcrate*")); len(left) > 0 {
			t.Errorf("kill %d left %v", i, left)
		}
		if left, _ := filepath.Glob(filepath.Join(dir, "film/editions/.*")); len(left) > 0 {
			t.Errorf("kill %d left %v", i, left)
		}
		if left, _ := filepath.Glob(filepath.Join(data, "boundcrate/writing/*")); len(left) > 0 {
			t.Errorf("kill %d left %v", i, left)
		}
	}
	t.Logf("%d times written, %d times not", wrote, not)
}

// TestFullDiskWrites: a disk without room for the last of several documents
// leaves all of them as they were.
func TestFullDiskWrites(t *testing.T) {
	dir, data := t.TempDir(), t.TempDir()
	small := filepath.Join(dir, "small")
	if err := os.Mkdir(small, 0o755); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", small).CombinedOutput(); err != nil {
		t.Skipf("a small disk cannot be mounted here: %s", out)
	}
	t.Cleanup(func() { _ = exec.Command("umount", small).Run() })
	for k := range 4 {
		coretest.Write(t, filepath.Join(small, fmt.Sprintf("d%d.m3u", k)), fmt.Sprintf("#EXTM3U\nlost.wav\nd%d.m3u\n%s", (k+1)%4, strings.Repeat("# a long note of the day\n", 14_000)))
	}
	coretest.Write(t, filepath.Join(small, "lost.wav"), "gull")
	doc := filepath.Join(small, "d0.m3u")
	if code, _, errs := invoke(t, data, "trace", doc); code != 0 {
		t.Fatal(errs)
	}
	coretest.Write(t, filepath.Join(dir, "found/gull.wav"), "gull")
	if err := os.Remove(filepath.Join(small, "lost.wav")); err != nil {
		t.Fatal(err)
	}
	before := coretest.Sums(t, small)
	code, out, errs := invoke(t, data, "mend", "--write", "--search", filepath.Join(dir, "found"), doc)
	if code != notDone || !strings.Contains(errs, "disk is full") {
		t.Errorf("%d %s %s", code, out, errs)
	}
	after := coretest.Sums(t, small)
	same(t, before, after)
	if len(after) != len(before) {
		t.Errorf("left behind: %d files, %d before", len(after), len(before))
	}
}

// TestOutOfReach: a crate is not sealed onto the place of a drive that is not
// connected, and no folder is made there.
func TestOutOfReach(t *testing.T) {
	dir, doc := project(t, 1, 100)
	away := filepath.Join(dir, "mnt", "Shuttle")
	code, _, errs := invoke(t, t.TempDir(), "seal", "--drive", "Shuttle="+away, "--out", filepath.Join(away, "crate"), doc)
	if code != notDone || !strings.Contains(errs, "Shuttle") {
		t.Errorf("%d %s", code, errs)
	}
	if _, err := os.Stat(filepath.Join(dir, "mnt")); err == nil {
		t.Error("a folder was made where the drive would be")
	}
}
