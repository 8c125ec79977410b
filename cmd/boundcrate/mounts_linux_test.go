package main

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"golang.org/x/sys/unix"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
	"boundcrate/core/say/report/keeping"
)

// mounted is a small drive of its own.
func mounted(t *testing.T, args ...string) string {
	t.Helper()
	at := filepath.Join(t.TempDir(), "drive")
	if err := os.Mkdir(at, 0o755); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("mount", append(args, at)...).CombinedOutput(); err != nil {
		t.Skipf("a small drive cannot be mounted here: %s", out)
	}
	t.Cleanup(func() { _ = exec.Command("umount", "-l", at).Run() })
	return at
}

// pullable is a drive that can be pulled out while it is written to, and plugged in again.
type pullable struct {
	t         *testing.T
	at, image string
}

func pluggedIn(t *testing.T) pullable {
	t.Helper()
	image := imageOf(t, "mkfs.ext4", 256<<20)
	return pullable{t, mounted(t, "-o", "loop", image), image}
}

// pull takes it out once so many files that match stand on it.
func (d pullable) pull(pattern string, n int) {
	d.t.Helper()
	for range 1000 {
		if list, _ := filepath.Glob(filepath.Join(d.at, filepath.FromSlash(pattern))); len(list) >= n {
			break
		}
		time.Sleep(2 * time.Millisecond)
	}
	if out, err := exec.Command("umount", "-l", d.at).CombinedOutput(); err != nil {
		d.t.Skipf("%s", out)
	}
}

func (d pullable) plugIn() {
	d.t.Helper()
	if out, err := exec.Command("mount", "-o", "loop", d.image, d.at).CombinedOutput(); err != nil {
		d.t.Skipf("%s", out)
	}
}

// imageOf is a file system of so many bytes in a file.
func imageOf(t *testing.T, mkfs string, size int64) string {
	t.Helper()
	need(t, mkfs)
	image := filepath.Join(t.TempDir(), "image")
	if err := errors.Join(os.WriteFile(image, nil, 0o644), os.Truncate(image, size)); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command(mkfs, image).CombinedOutput(); err != nil {
		t.Skipf("no such file system can be made here: %s", out)
	}
	return image
}

// takes40 is a project of 40 sounds of 2 MB; doc is its document.
func takes40(t *testing.T) (doc string) {
	t.Helper()
	files := map[string]string{}
	var names []string
	for i := range 40 {
		n := fmt.Sprintf("%02d.wav", i)
		files["film/"+n], names = noise(byte(i), 2<<20), append(names, n)
	}
	files["film/cut.otio"] = cut(names...)
	return filepath.Join(coretest.Lay(t, files), "film", "cut.otio")
}

// cloning is a drive whose file system clones (FICLONE).
func cloning(t *testing.T) string {
	t.Helper()
	return mounted(t, "-o", "loop", imageOf(t, "mkfs.btrfs", 128<<20))
}

// noise is bytes that cannot be made smaller.
func noise(seed byte, size int) string {
	b := make([]byte, size)
	_, _ = rand.NewChaCha8([32]byte{seed}).Read(b)
	return string(b)
}

// used is how many bytes of a drive are taken.
func used(t *testing.T, at string) int64 {
	t.Helper()
	unix.Sync()
	var s unix.Statfs_t
	if err := unix.Statfs(at, &s); err != nil {
		t.Fatal(err)
	}
	return int64(s.Blocks-s.Bfree) * s.Bsize
}

// TestClones: where the file system clones, a crate sealed again and the next backup take the room of what changed,
// and every file is one of its own: what somebody writes into one generation harms no other.
func TestClones(t *testing.T) {
	drive, data := cloning(t), t.TempDir()
	const each = 6 << 20
	files := map[string]string{"film/cut.otio": cut("a.wav", "b.wav", "c.wav")}
	for i, n := range []string{"a", "b", "c"} {
		files["film/"+n+".wav"] = noise(byte(i), each)
	}
	dir := coretest.Lay(t, files)
	doc := filepath.Join(dir, "film", "cut.otio")
	crate := filepath.Join(drive, "crate")
	answer[report.Seal](t, data, 0, "seal", "--json", "--out", crate, doc)
	first := answer[keeping.Backup](t, data, 0, "backup", "--json", "--to", drive, doc)
	before := used(t, drive)
	coretest.Write(t, filepath.Join(dir, "film", "b.wav"), noise(9, each))
	// That a file has other content than when it was last seen is for a person to look at, and no fault of the crate.
	if again := answer[report.Seal](t, data, 1, "seal", "--json", "--out", crate, doc); !again.Complete || again.Kept == nil || again.Kept.Files < 2 {
		t.Errorf("again: %+v", again.Kept)
	}
	second := answer[keeping.Backup](t, t.TempDir(), 0, "backup", "--json", "--to", drive, doc)
	if second.Shared.Files < 2 || !second.Complete {
		t.Errorf("second: %+v", second)
	}
	if more := used(t, drive) - before; more > 3*each {
		t.Errorf("%d bytes more are taken, of which %d changed in each", more, each)
	}
	a, b := filepath.Join(first.Generation, "data", "a.wav"), filepath.Join(second.Generation, "data", "a.wav")
	if inode(t, a) == inode(t, b) {
		t.Error("they are one file")
	}
	coretest.Write(t, b, "harmed")
	got := answer[keeping.Verification](t, data, 1, "backup", "--json", "--verify", drive)
	if len(got.Generations) != 3 && len(got.Generations) != 2 {
		t.Fatalf("%+v", got)
	}
	for _, g := range got.Generations {
		if harmed := g.Path == second.Generation; harmed != (len(g.Damaged) > 0) {
			t.Errorf("%+v", g)
		}
	}
	if code, out, _ := invoke(t, data, "check", crate); !strings.Contains(out, "Complete: 3 of 3") {
		t.Errorf("%d %s", code, out)
	}
}

// TestBackupDrives: a drive that fills, that cannot be written to, or that goes in the middle leaves no generation
// that is not whole under its name, and those before as they were; with room, the next one goes on.
func TestBackupDrives(t *testing.T) {
	drive, data := mounted(t, "-t", "tmpfs", "-o", "size=3m", "tmpfs"), t.TempDir()
	dir := coretest.Lay(t, map[string]string{"film/cut.otio": cut("a.wav"), "film/a.wav": noise(1, 1<<20)})
	doc := filepath.Join(dir, "film", "cut.otio")
	first := answer[keeping.Backup](t, data, 0, "backup", "--json", "--to", drive, doc)
	was := coretest.Sums(t, first.Generation)
	whole := func(what string) {
		t.Helper()
		if is := coretest.Sums(t, first.Generation); fmt.Sprint(is) != fmt.Sprint(was) {
			t.Errorf("%s: the first changed", what)
		}
		list, _ := filepath.Glob(filepath.Join(drive, "film", "2*Z"))
		if !slices.Equal(list, []string{first.Generation}) {
			t.Errorf("%s: %v", what, list)
		}
	}
	coretest.Write(t, filepath.Join(dir, "film", "a.wav"), noise(2, 5<<20))
	if code, _, errs := invoke(t, data, "backup", "--to", drive, doc); code != notDone || !strings.Contains(errs, "free") {
		t.Errorf("full: %d %s", code, errs)
	}
	whole("full")
	coretest.Write(t, filepath.Join(dir, "film", "a.wav"), noise(3, 1<<20))
	remount := func(how string) {
		if out, err := exec.Command("mount", "-o", "remount,"+how, drive).CombinedOutput(); err != nil {
			t.Skipf("%s", out)
		}
	}
	remount("ro")
	if code, _, errs := invoke(t, data, "backup", "--to", drive, doc); code != notDone || !strings.Contains(errs, "read-only") {
		t.Errorf("read-only: %d %s", code, errs)
	}
	whole("read-only")
	if code, out, errs := invoke(t, data, "backup", "--verify", drive); code != 0 {
		t.Errorf("read-only, verified: %d %s %s", code, out, errs)
	}
	remount("rw")
	if second := answer[keeping.Backup](t, data, 1, "backup", "--json", "--to", drive, doc); !second.Complete {
		t.Errorf("with room: %+v", second)
	}
}

// TestBackupDriveGoes: a drive that is pulled out in the middle ends the backup; when it is there again its
// generations are whole, and the next one is made.
func TestBackupDriveGoes(t *testing.T) {
	drive, data, doc := pluggedIn(t), t.TempDir(), takes40(t)
	cmd := command(t, data, "backup", "--to", drive.at, doc)
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	drive.pull("film/*/data/0*.wav", 4)
	err := cmd.Wait()
	if list, _ := filepath.Glob(filepath.Join(drive.at, "*")); len(list) > 0 {
		t.Errorf("written to where the drive was: %v", list)
	}
	drive.plugIn()
	list, _ := filepath.Glob(filepath.Join(drive.at, "film", "2*Z"))
	if (err == nil) != (len(list) == 1) {
		t.Errorf("it ended with %v; generations %v", err, list)
	}
	next := answer[keeping.Backup](t, data, 0, "backup", "--json", "--to", drive.at, doc)
	if got := answer[keeping.Verification](t, data, 0, "backup", "--json", "--verify", drive.at); !next.Complete || len(got.Generations) != len(list)+1 {
		t.Errorf("%+v %+v", next, got)
	}
}

// TestStands: what nobody wrote to since it was read is shared unread; whatever somebody did to it is seen, and read
// again, however well it is hidden.
func TestStands(t *testing.T) {
	names := []string{"0.wav", "1.wav", "2.wav", "3.wav", "4.wav"}
	files := map[string]string{"film/cut.otio": cut(names...)}
	for i, n := range names {
		files["film/"+n] = noise(byte(i), 1000)
	}
	dir, data, to := coretest.Lay(t, files), t.TempDir(), t.TempDir()
	doc := filepath.Join(dir, "film", "cut.otio")
	run := func() keeping.Backup {
		return answer[keeping.Backup](t, data, 0, "backup", "--json", "--same-drive", "--to", to, doc)
	}
	first := run()
	at := func(n string) string { return filepath.Join(first.Generation, "data", n) }
	info, err := os.Stat(at("0.wav"))
	if err != nil {
		t.Fatal(err)
	}
	time.Sleep(20 * time.Millisecond) // times of inodes are as fine as the system's clock
	coretest.Write(t, at("0.wav"), noise(7, 1000))
	for _, n := range []string{"1.wav", "2.wav"} { // other bytes, of one length and time
		coretest.Write(t, at(n), noise(7, 1000))
		if err := os.Chtimes(at(n), info.ModTime(), info.ModTime()); err != nil {
			t.Fatal(err)
		}
	}
	os.Remove(at("3.wav"))
	coretest.Write(t, at("3.wav"), noise(3, 1000)) // another file of the same bytes
	second := run()
	if second.Shared.Files != 3 || second.Copied.Files != 3 {
		t.Errorf("%+v", second)
	}
	answer[keeping.Verification](t, data, 0, "backup", "--json", "--verify", second.Generation)
	// Carried to another drive, nothing is known of it, and all is read.
	moved := filepath.Join(t.TempDir(), "moved")
	if out, err := exec.Command("cp", "-a", to, moved).CombinedOutput(); err != nil {
		t.Fatalf("%s", out)
	}
	to = moved
	coretest.Write(t, filepath.Join(moved, "film", filepath.Base(second.Generation), "data", "4.wav"), noise(8, 1000))
	if third := run(); third.Shared.Files != 5 || third.Copied.Files != 1 {
		t.Errorf("%+v", third)
	}
}

// TestMaterialGoes: the drive that material is received to is pulled out in the middle: nothing is under its name on
// either side, and with the drive there again it is received whole.
func TestMaterialGoes(t *testing.T) {
	drive, data, into := pluggedIn(t), t.TempDir(), t.TempDir()
	crate := filepath.Join(t.TempDir(), "crate.tar")
	answer[report.Seal](t, data, 0, "seal", "--json", "--out", crate, takes40(t))
	cmd := command(t, data, "receive", "--into", into, "--material", drive.at, crate)
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	drive.pull(".*.partial/audio/0*.wav", 4)
	failed := cmd.Wait()
	here, _ := filepath.Glob(filepath.Join(into, "*"))
	there, _ := filepath.Glob(filepath.Join(drive.at, "*"))
	if failed == nil || len(here)+len(there) > 0 {
		t.Errorf("it ended with %v; %v %v", failed, here, there)
	}
	drive.plugIn()
	got := answer[report.Receive](t, data, 0, "receive", "--json", "--into", into, "--material", drive.at, crate)
	if got.Into == "" || !got.Complete {
		t.Errorf("%+v", got)
	}
}

// linkless is a drive as cameras, recorders and other systems write it: exFAT, which knows neither links nor clones nor
// rights, and times to the second.
func linkless(t *testing.T) string {
	t.Helper()
	need(t, "mount.exfat-fuse", "losetup")
	device, err := exec.Command("losetup", "-f", "--show", imageOf(t, "mkfs.exfat", 96<<20)).Output()
	if err != nil {
		t.Skipf("no loop device: %v", err)
	}
	dev := strings.TrimSpace(string(device))
	t.Cleanup(func() { _ = exec.Command("losetup", "-d", dev).Run() })
	return mounted(t, "-t", "exfat-fuse", dev)
}

// TestNoLinks: on a drive without links everything is done as elsewhere. What cannot be shared is copied again, which is
// said, and is counted as copied.
func TestNoLinks(t *testing.T) {
	drive, data := linkless(t), t.TempDir()
	doc := coretest.Write(t, filepath.Join(drive, "film", "cut.otio"), cut("a.wav", "b.wav", "gone/c.wav"))
	for i, n := range []string{"a.wav", "b.wav", "gone/c.wav"} {
		coretest.Write(t, filepath.Join(drive, "film", n), noise(byte(i), 1<<20))
	}
	was, err := os.ReadFile(doc)
	if err != nil {
		t.Fatal(err)
	}
	editions := filepath.Join(drive, "editions")
	answer[keeping.Kept](t, data, 0, "keep", "--json", "--editions", editions, doc)
	invoke(t, data, "trace", doc)
	if err := os.Rename(filepath.Join(drive, "film", "gone"), filepath.Join(drive, "found")); err != nil {
		t.Fatal(err)
	}
	if code, out, errs := invoke(t, data, "mend", "--search", filepath.Join(drive, "found"), "--write", doc); code != 0 {
		t.Fatalf("%d %s %s", code, out, errs)
	}
	crate := filepath.Join(drive, "crate")
	for round, want := range []int{4, 4} {
		if s := answer[report.Seal](t, data, 0, "seal", "--json", "--same-drive", "--out", crate, doc); !s.Complete || s.Copied.Files != want {
			t.Errorf("sealed %d: %+v", round, s)
		}
	}
	if code, out, _ := invoke(t, data, "seal", "--same-drive", "--out", crate, doc); code != 0 || !strings.Contains(out, "4 unchanged files copied again") {
		t.Errorf("%d %s", code, out)
	}
	for n := range 2 {
		b := answer[keeping.Backup](t, data, 0, "backup", "--json", "--same-drive", "--to", filepath.Join(drive, "safe"), doc)
		if !b.Complete || b.Copied.Files != 4 || b.Shared.Files != 0 {
			t.Errorf("backup %d: %+v", n, b)
		}
		time.Sleep(1100 * time.Millisecond) // a generation a second
	}
	if code, out, errs := invoke(t, data, "backup", "--verify", filepath.Join(drive, "safe")); code != 0 || strings.Count(out, "undamaged") != 2 {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if code, out, errs := invoke(t, data, "receive", "--into", filepath.Join(drive, "received"), crate); code != 0 {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if code, out, errs := invoke(t, data, "restore", "--editions", editions, "--edition", "1", doc); code != 0 {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if is, err := os.ReadFile(doc); err != nil || string(is) != string(was) {
		t.Errorf("the document came back as %s, %v", is, err)
	}
}
