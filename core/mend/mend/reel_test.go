package mend_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// tape puts an iXML chunk, and a bext chunk of a time reference (EBU Tech 3285 §2.3),
// before the sound of a WAVE file.
func tape(wav []byte, reel string, seconds uint64) string {
	chunk := func(name string, b []byte) []byte {
		if len(b)%2 == 1 {
			b = append(b, ' ')
		}
		return append(binary.LittleEndian.AppendUint32([]byte(name), uint32(len(b))), b...)
	}
	bext := make([]byte, 602)
	binary.LittleEndian.PutUint64(bext[338:], seconds*2000)
	out := append(bytes.Clone(wav[:12]), chunk("bext", bext)...)
	out = append(out, chunk("iXML", []byte("<BWFXML><TAPE>"+reel+"</TAPE></BWFXML>"))...)
	out = append(out, wav[12:]...)
	binary.LittleEndian.PutUint32(out[4:], uint32(len(out)-8))
	return string(out)
}

// TestReel: at 30/1.001 frames a second ten hours of timecode are 36,036 seconds (SMPTE
// ST 12-1). Of three takes of one name the one that says the reel of the edit list and
// whose timecode holds what is used comes first; the others say why not.
func TestReel(t *testing.T) {
	wav := mendtest.Wave(bytes.Repeat([]byte{128}, 2000*20))
	dir := coretest.Lay(t, map[string]string{
		"film/cut.edl": "TITLE: t\nFCM: NON-DROP FRAME\n001  HARBOUR2 AA    C        10:00:05:00 10:00:09:00 00:00:00:00 00:00:04:00\n* FROM CLIP NAME: gull.wav\n",
		"a/gull.wav":   tape(wav, "HARBOUR2 long", 36036), "b/gull.wav": tape(wav, "HARBOUR3", 36036), "c/gull.wav": tape(wav, "HARBOUR2", 39640),
	})
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "film", "cut.edl"))
	if err != nil {
		t.Fatal(err)
	}
	list := mend.Missing(g, nil, mend.Nothing)
	if len(list) != 1 {
		t.Fatalf("%+v", list)
	}
	got := find(t, dir, list[0], nil)
	if len(got) != 3 || got[0].Path != filepath.Join(dir, "a/gull.wav") || !got[0].HasCode(mend.SameReel) || len(got[0].Against) > 0 {
		t.Fatalf("%q", expectedFacts(got))
	}
	for _, c := range got[1:] {
		reading(nil).Examine(&c, &list[0]) // what is far behind is opened by whoever shows it
		want := map[string]mend.Code{"b": mend.OtherReel, "c": mend.OtherClock}[filepath.Base(filepath.Dir(c.Path))]
		if !c.Warns(want) {
			t.Errorf("%s: %+v", c.Path, c.Against)
		}
	}
}

// TestGit holds what is found with memory against git's rename detection of the same
// before and after: where git sees a file of the same bytes under a new name, the first
// candidate has those bytes.
func TestGit(t *testing.T) {
	if _, err := exec.LookPath("git"); err != nil {
		t.Skip("git is not installed")
	}
	s, err := mendtest.Make(t.TempDir(), 77, 300)
	if err != nil {
		t.Fatal(err)
	}
	// Before: what is still there under the same bytes, where it was expected.
	repo := t.TempDir()
	git := func(args ...string) string {
		t.Helper()
		out, err := exec.Command("git", append([]string{"-C", repo, "-c", "user.name=t", "-c", "user.email=t@example.com", "-c", "core.quotepath=off"}, args...)...).Output()
		if err != nil {
			t.Fatalf("git %v: %v", args, err)
		}
		return string(out)
	}
	git("init", "-q")
	rel := func(p string) string { r, _ := filepath.Rel(s.Search[0], p); return r }
	bytesOf := map[string]string{}
	for expected, truth := range s.Truth {
		if len(truth) == 0 || filepath.Ext(truth[0]) != filepath.Ext(expected) {
			continue
		}
		b, err := os.ReadFile(truth[0])
		if err != nil {
			t.Fatal(err)
		}
		bytesOf[rel(expected)] = string(b)
		coretest.Write(t, filepath.Join(repo, rel(expected)), string(b))
	}
	git("add", "-A")
	git("commit", "-q", "-m", "before")
	for p := range bytesOf {
		if err := os.Remove(filepath.Join(repo, p)); err != nil {
			t.Fatal(err)
		}
	}
	for _, truth := range s.Truth {
		for _, p := range truth {
			b, err := os.ReadFile(p)
			if err != nil {
				t.Fatal(err)
			}
			coretest.Write(t, filepath.Join(repo, rel(p)), string(b))
		}
	}
	git("add", "-A")
	git("commit", "-q", "-m", "after")
	first := map[string]string{}
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: s.Root}, s.Documents...)
	if err != nil {
		t.Fatal(err)
	}
	list := mend.Missing(g, nil, s.Memory)
	rd := mend.Reading{Reach: drive.System{}, Hash: mend.Once(drive.System{}, nil), Memory: s.Memory, Used: mend.Used(g)}
	offered, err := mend.Find(context.Background(), build(t, s.Search[0], false), list, rd, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i, w := range list {
		if len(offered[i]) > 0 {
			first[rel(w.Expected)] = offered[i][0].Path
		}
	}
	seen, same := 0, 0
	for _, l := range strings.Split(git("diff", "--find-renames=100%", "-l0", "--name-status", "HEAD~1", "HEAD"), "\n") {
		f := strings.Split(l, "\t")
		if len(f) != 3 || f[0] != "R100" {
			continue
		}
		seen++
		got, err := os.ReadFile(first[f[1]])
		if err != nil || string(got) != bytesOf[f[1]] {
			t.Errorf("git sees %s as %s; first here is %q (%v)", f[1], f[2], first[f[1]], err)
		}
		if rel(first[f[1]]) == f[2] {
			same++
		}
	}
	// Where there are two copies of the same bytes, git takes one and says nothing of the
	// other.
	t.Logf("git sees %d renames; %d of them lead to the very same file", seen, same)
	if seen < 150 || same < seen*8/10 {
		t.Errorf("of %d renames %d agree", seen, same)
	}
}
