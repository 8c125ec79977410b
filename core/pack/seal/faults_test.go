package seal_test

import (
	"archive/tar"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/klauspost/compress/zstd"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// TestRacing: of two seals to one place one is told that the place is taken, or
// comes after the other; what stands there is a whole crate of one of them.
func TestRacing(t *testing.T) {
	dir, doc := small(t)
	for round := range rounds(t, 5, 50) {
		for _, end := range []string{"", ".zip"} {
			out := filepath.Join(dir, "out", fmt.Sprintf("c%d%s", round, end))
			var wg sync.WaitGroup
			var errs [2]error
			for i := range errs {
				wg.Go(func() {
					_, errs[i] = sealing(t, doc, out, stow.Options{Layout: []stow.Layout{stow.ByKind, stow.Flat}[i]})
				})
			}
			wg.Wait()
			made := 0
			for _, err := range errs {
				var no *seal.Refusal
				switch {
				case err == nil:
					made++
				case !errors.As(err, &no) || no.Code != seal.OutBusy:
					t.Errorf("%s: %v", end, err)
				}
			}
			if made == 0 {
				t.Errorf("%s: nobody made the crate", end)
			}
			if rep := must[*seal.Report](t)(seal.Check(bg, out, all.Formats())); !rep.Well() {
				t.Errorf("%s: %+v", end, rep)
			}
		}
	}
	hidden, _ := filepath.Glob(filepath.Join(dir, "out", ".*"))
	rest, _ := filepath.Glob(filepath.Join(dir, "out", "*.partial"))
	if len(hidden)+len(rest) > 0 {
		t.Errorf("left behind: %v %v", hidden, rest)
	}
}

// rounds is how often a fault is provoked: whole in make faults.
func rounds(t *testing.T, few, many int) int {
	t.Helper()
	if os.Getenv("FAULTS") != "" {
		return many
	}
	return few
}

// TestSealedAgain: what somebody put into a crate, or changed in it, stops the
// next seal, which names it; so does another project's archive.
func TestSealedAgain(t *testing.T) {
	dir, doc := small(t)
	out := filepath.Join(dir, "c")
	member := filepath.Join(out, "data/audio/gull.wav")
	for what, harm := range map[string]func(){
		"added":             func() { coretest.Write(t, filepath.Join(out, "data/notes.txt"), "an afternoon") },
		"added at the top":  func() { coretest.Write(t, filepath.Join(out, "notes.txt"), "an afternoon") },
		"changed":           func() { coretest.Write(t, member, "mine") },
		"changed, as old":   func() { old(t, member, "mine") },
		"another, as large": func() { old(t, member, "GULL") },
	} {
		os.RemoveAll(out)
		must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
		time.Sleep(20 * time.Millisecond) // the system's clock of files ticks so slowly
		harm()
		before := coretest.Sums(t, out)
		var no *seal.Refusal
		if _, err := sealing(t, doc, out, stow.Options{}); !errors.As(err, &no) || no.Code != seal.OutAdded && no.Code != seal.OutChangedThen {
			t.Errorf("%s: %v", what, err)
		} else if !strings.HasPrefix(no.Detail, out) {
			t.Errorf("%s: %q names no file", what, no.Detail)
		}
		after := coretest.Sums(t, out)
		for p, sum := range before {
			if after[p] != sum {
				t.Errorf("%s: %s is not as it was", what, p)
			}
		}
	}
	other := coretest.Write(t, filepath.Join(dir, "other/cut.otio"), timeline())
	for _, end := range []string{".zip", ".tar.zst"} {
		theirs := filepath.Join(dir, "theirs"+end)
		must[*seal.Report](t)(sealing(t, other, theirs, stow.Options{}))
		var no *seal.Refusal
		if _, err := sealing(t, doc, theirs, stow.Options{}); !errors.As(err, &no) || no.Code != seal.OutOtherCrate {
			t.Errorf("%s: %v", end, err)
		}
	}
}

// old puts another file in the place of one, with its times.
func old(t *testing.T, p, text string) {
	t.Helper()
	info := must[os.FileInfo](t)(os.Stat(p))
	coretest.Write(t, p+".x", text)
	if err := errors.Join(os.Chtimes(p+".x", info.ModTime(), info.ModTime()), os.Rename(p+".x", p)); err != nil {
		t.Fatal(err)
	}
}

// TestSwapped: after a crash two equally long sounds changed names. The journal
// tells what was to be written, not what stood there, and each clip gets its own
// sound.
func TestSwapped(t *testing.T) {
	dir := t.TempDir()
	a, b := filepath.Join(dir, "film/a.wav"), filepath.Join(dir, "film/b.wav")
	coretest.Write(t, a, "gull")
	coretest.Write(t, b, "horn")
	doc := coretest.Write(t, filepath.Join(dir, "film/cut.otio"), timeline(clip("a", "a.wav"), clip("b", "b.wav")))
	out := filepath.Join(dir, "c")
	crashed := filepath.Join(dir, "crashed")
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	must[*seal.Report](t)(seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{}), Out: out, Trace: tracing(trace.Options{}), Progress: func(p seal.Progress) {
		if p.Step == seal.Proving {
			os.RemoveAll(crashed)
			must[any](t)(nil, os.CopyFS(crashed, os.DirFS(out+".partial")))
		}
	}}))
	if err := errors.Join(os.RemoveAll(out), os.Rename(crashed, out+".partial")); err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(os.Rename(a, a+".x"), os.Rename(b, a), os.Rename(a+".x", b)); err != nil {
		t.Fatal(err)
	}
	if rep := must[*seal.Report](t)(sealing(t, doc, out, stow.Options{})); !rep.Well() {
		t.Fatalf("%+v", rep)
	}
	for name, want := range map[string]string{"a.wav": "horn", "b.wav": "gull"} {
		if got := must[[]byte](t)(os.ReadFile(filepath.Join(out, "data/audio", name))); string(got) != want {
			t.Errorf("%s holds %q, not %q", name, got, want)
		}
	}
}

// TestSameProof: an included text with a missing sample far down is as open in
// an archive as in a folder.
func TestSameProof(t *testing.T) {
	dir := t.TempDir()
	set := "// " + strings.Repeat("notes of the day, ", 2000) + "\n<region> sample=gone.wav\n"
	coretest.Write(t, filepath.Join(dir, "kit/set.txt"), set)
	coretest.Write(t, filepath.Join(dir, "kit/one.wav"), "1")
	doc := coretest.Write(t, filepath.Join(dir, "kit/kit.sfz"), "#include \"set.txt\"\n<region> sample=one.wav\n")
	for _, end := range []string{"", ".zip", ".tar", ".tar.zst"} {
		out := filepath.Join(dir, "c"+end)
		rep := must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
		check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats()))
		if rep.Complete || check.Complete || check.Harm() > 0 || len(check.Proof.Open) != len(rep.Proof.Open) {
			t.Errorf("%s: %v %v %+v", end, rep.Complete, check.Complete, check)
		}
	}
}

// TestNamesApart: names that differ by an escape are two names in a crate, and
// a file that came to the place that was kept for it is told as that, and is no
// harm.
func TestNamesApart(t *testing.T) {
	dir := t.TempDir()
	for _, n := range []string{"a b.wav", "a%20b.wav"} {
		coretest.Write(t, filepath.Join(dir, "film", n), n)
	}
	doc := coretest.Write(t, filepath.Join(dir, "film/cut.otio"), timeline(clip("a", "a%20b.wav"), clip("b", "a%2520b.wav"), clip("c", "late.wav")))
	for _, end := range []string{"", ".zip"} {
		out := filepath.Join(dir, "c"+end)
		rep := must[*seal.Report](t)(sealing(t, doc, out, stow.Options{Layout: stow.AsStands, AnyNames: true}))
		check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats()))
		if rep.Files != 3 || check.Harm() > 0 || check.Complete {
			t.Errorf("%s: %+v", end, check)
		}
		got := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in"+end), Formats: all.Formats()}))
		if got.Into == "" {
			t.Errorf("%s: whole, and not received: %+v", end, got)
			continue
		}
		coretest.Write(t, filepath.Join(got.Into, "data/late.wav"), "late")
		check = must[*seal.Report](t)(seal.Check(bg, got.Into, all.Formats()))
		came := 0
		for _, f := range check.Faults {
			if f.Code == seal.CameLater {
				came++
			}
		}
		if !check.Complete || came != 1 || len(check.Faults) != 1 {
			t.Errorf("%s: %+v", end, check)
		}
	}
}

// TestPlanner: a file that takes a folder's name, in every way it was found: a
// name is changed, and it ends.
func TestPlanner(t *testing.T) {
	for what, c := range map[string]struct {
		files  map[string]string
		layout stow.Layout
	}{
		"a file beside a folder of its name": {map[string]string{"cut.m3u": "#EXTM3U\n../lib/snd\n../lib/snd/x.wav\n"}, stow.AsStands},
		"a document called like a folder":    {map[string]string{"audio": timeline(clip("a", "a.wav")), "a.wav": "a"}, stow.ByKind},
	} {
		dir := coretest.Lay(t, c.files)
		var doc string
		for name := range c.files {
			if name == "cut.m3u" || name == "audio" {
				doc = filepath.Join(dir, name)
			}
		}
		g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
		p := plan(t, g, stow.Options{Layout: c.layout})
		places := map[string]bool{}
		for i := range p.Berths {
			places[p.Berths[i].To()] = true
		}
		for at := range places {
			for other := range places {
				if strings.HasPrefix(strings.ToLower(other), strings.ToLower(at)+"/") {
					t.Errorf("%s: %q stands in the file %q", what, other, at)
				}
			}
		}
	}
	// A folder that is wished for where the document stands.
	dir := coretest.Lay(t, map[string]string{"cut.otio": timeline(clip("a", "a.wav")), "a.wav": "a"})
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), filepath.Join(dir, "cut.otio")))
	for i := range g.Files {
		if filepath.Base(g.Files[i].Path) == "a.wav" {
			folder := "cut.otio"
			p := plan(t, g, stow.Options{ByHand: map[graph.FileID]decide.ByHand{graph.FileID(i): {Folder: &folder}}})
			for _, b := range p.Berths {
				if strings.HasPrefix(b.To(), "cut.otio/") {
					t.Errorf("%q stands in a document", b.To())
				}
			}
		}
	}
}

// TestModes: who may read a file stays as it was, in the crate and out of it.
func TestModes(t *testing.T) {
	dir := t.TempDir()
	doc := coretest.Write(t, filepath.Join(dir, "film/cut.otio"), timeline(clip("a", "a.wav")))
	sound := coretest.Write(t, filepath.Join(dir, "film/a.wav"), "a")
	if err := errors.Join(os.Chmod(doc, 0o600), os.Chmod(sound, 0o640)); err != nil {
		t.Fatal(err)
	}
	for _, end := range []string{"", ".zip", ".tar.gz"} {
		out := filepath.Join(dir, "c"+end)
		must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
		got := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in"+end), Formats: all.Formats()}))
		for name, want := range map[string]os.FileMode{"data/cut.otio": 0o600, "data/audio/a.wav": 0o640} {
			if info := must[os.FileInfo](t)(os.Stat(filepath.Join(got.Into, name))); info.Mode().Perm() != want {
				t.Errorf("%s: %s has %v, not %v", end, name, info.Mode(), want)
			}
		}
	}
}

// TestExchanged: an archive that is replaced, or changed, between its check and
// its unpacking is not what was checked.
func TestExchanged(t *testing.T) {
	dir, doc := small(t)
	for _, end := range []string{".zip", ".tar", ".tar.zst"} {
		out := filepath.Join(dir, "c"+end)
		must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
		coretest.Write(t, filepath.Join(dir, "film/sound/gull.wav"), "DUCK")
		other := filepath.Join(dir, "d", "c"+end)
		must[*seal.Report](t)(sealing(t, doc, other, stow.Options{}))
		coretest.Write(t, filepath.Join(dir, "film/sound/gull.wav"), "gull")
		checked := must[*seal.Checked](t)(seal.Inspect(bg, out, all.Formats()))
		if err := os.Rename(other, out); err != nil {
			t.Fatal(err)
		}
		buf := make([]byte, 1<<16)
		err := checked.Members(bg, func(_ string, _ carrier.Member, r io.Reader) error {
			for {
				if _, err := r.Read(buf); err != nil {
					return nil
				}
			}
		})
		if !errors.Is(err, seal.ErrOther) {
			t.Errorf("%s: %v", end, err)
		}
	}
}

// TestBombs: what unpacks to far more than it is ends in a sentence, within
// bounded memory, and a pipe is not waited for.
func TestBombs(t *testing.T) {
	if testing.Short() {
		t.Skip("one thing after another: no race to be found")
	}
	dir := t.TempDir()
	bomb := func(name string, members int, size int64, of func(int) string) string {
		var b bytes.Buffer
		z := must[*zstd.Encoder](t)(zstd.NewWriter(&b))
		w := tar.NewWriter(z)
		zeros := make([]byte, 1<<20)
		for i := range members {
			if err := w.WriteHeader(&tar.Header{Name: of(i), Size: size, Mode: 0o644, Typeflag: tar.TypeReg}); err != nil {
				t.Fatal(err)
			}
			for left := size; left > 0; left -= int64(len(zeros)) {
				if _, err := w.Write(zeros[:min(left, int64(len(zeros)))]); err != nil {
					t.Fatal(err)
				}
			}
		}
		if err := errors.Join(w.Close(), z.Close()); err != nil {
			t.Fatal(err)
		}
		return coretest.Write(t, filepath.Join(dir, name), b.String())
	}
	bombs := map[string]string{"tag files": bomb("tags.tar.zst", 5, 64<<20, func(i int) string {
		return []string{"c/bagit.txt", "c/manifest-md5.txt"}[min(i, 1)] + strings.Repeat(fmt.Sprint(i, ".txt"), min(i, 1))
	})}
	if rounds(t, 0, 1) > 0 { // packing them takes long
		bombs["members"] = bomb("members.tar.zst", 450_000, 0, func(i int) string { return fmt.Sprintf("c/data/%s%d", strings.Repeat("long ", 40), i) })
	}
	for name, p := range bombs {
		var most uint64
		end := make(chan struct{})
		go func() {
			defer close(end)
			var m runtime.MemStats
			for range 10_000 {
				runtime.ReadMemStats(&m)
				most = max(most, m.HeapAlloc)
				select {
				case <-end:
					return
				case <-time.After(10 * time.Millisecond):
				}
			}
		}()
		_, err := seal.Check(bg, p, all.Formats())
		end <- struct{}{}
		var no *seal.NoCrate
		if !errors.As(err, &no) || no.Err == nil || !strings.Contains(no.Error(), name) {
			t.Errorf("%s: %v", name, err)
		}
		if most > 1<<30 {
			t.Errorf("%s: %d MB of memory", name, most>>20)
		}
	}
	pipe := filepath.Join(dir, "pipe.tar")
	if err := coretest.Fifo(pipe); err != nil {
		t.Fatal(err)
	}
	if _, err := seal.Check(bg, pipe, all.Formats()); err == nil {
		t.Error("a pipe was checked as a crate")
	}
}

// TestLongText: a text larger than what is kept for the proof is read to its
// end, and is not damaged by that.
func TestLongText(t *testing.T) {
	dir := t.TempDir()
	long := "clip \"a.wav\"\n" + strings.Repeat("a note without any name in it\n", 40_000)
	doc := coretest.Write(t, filepath.Join(dir, "film/cut.m3u"), "#EXTM3U\na.wav\nnotes.m3u\n")
	coretest.Write(t, filepath.Join(dir, "film/notes.m3u"), "#EXTM3U\n"+strings.Repeat("# a note\n", 200_000)+"a.wav\n")
	coretest.Write(t, filepath.Join(dir, "film/a.wav"), long)
	for _, end := range []string{".zip", ".tar.zst"} {
		out := filepath.Join(dir, "c"+end)
		must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
		if rep := must[*seal.Report](t)(seal.Check(bg, out, all.Formats())); !rep.Well() {
			t.Errorf("%s: %+v", end, rep)
		}
	}
}

// TestAddedWhileReplaced: a file that somebody puts into the earlier crate while the new one
// is made, at any step of it, is there afterwards; so is the crate it was put into.
func TestAddedWhileReplaced(t *testing.T) {
	dir, doc := small(t)
	out := filepath.Join(dir, "c")
	must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
	for _, step := range []seal.Step{seal.Copying, seal.ReadingBack, seal.Proving} {
		note := filepath.Join(out, "data/notes.txt")
		g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
		_, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{}), Out: out, Trace: tracing(trace.Options{}), Progress: func(p seal.Progress) {
			if p.Step == step {
				coretest.Write(t, note, "an afternoon")
			}
		}})
		var no *seal.Refusal
		if !errors.As(err, &no) || no.Code != seal.OutAdded || no.Detail != note {
			t.Errorf("%s: %v", step, err)
		}
		if b, err := os.ReadFile(note); err != nil || string(b) != "an afternoon" {
			t.Errorf("%s: it holds %q (%v)", step, b, err)
		}
		if rep := must[*seal.Report](t)(seal.Check(bg, out, all.Formats())); rep.Harm() == 0 {
			t.Errorf("%s: %+v", step, rep)
		}
		os.Remove(note)
	}
	if rep := must[*seal.Report](t)(sealing(t, doc, out, stow.Options{})); !rep.Well() {
		t.Errorf("%+v", rep)
	}
	if left, _ := filepath.Glob(out + "*"); len(left) != 1 {
		t.Errorf("left: %v", left)
	}
}

// TestNotThere: no crate is made inside another, nor over one that its own project reads.
func TestNotThere(t *testing.T) {
	dir, doc := small(t)
	out := filepath.Join(dir, "c")
	must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
	var no *seal.Refusal
	for _, at := range []string{"data/audio/inner", "inner.zip"} {
		if _, err := sealing(t, doc, filepath.Join(out, at), stow.Options{}); !errors.As(err, &no) || no.Code != seal.OutInCrate {
			t.Errorf("%s: %v", at, err)
		}
	}
	before := coretest.Sums(t, out)
	coretest.Write(t, doc, timeline(clip("a", "../c/data/audio/gull.wav")))
	if _, err := sealing(t, doc, out, stow.Options{}); !errors.As(err, &no) || no.Code != seal.OutReadFrom {
		t.Error(err)
	}
	for p, sum := range coretest.Sums(t, out) {
		if before[p] != sum {
			t.Errorf("%s is not as it was", p)
		}
	}
}

// TestRestStays: what a killed seal left is taken up after a later one failed.
func TestRestStays(t *testing.T) {
	dir, doc := small(t)
	out := filepath.Join(dir, "c")
	rest := out + ".partial"
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	run := func(ctx context.Context, step func(seal.Progress)) error {
		_, err := seal.Run(ctx, seal.Options{Plan: plan(t, g, stow.Options{}), Out: out, Trace: tracing(trace.Options{}), Progress: step})
		return err
	}
	if err := run(bg, func(p seal.Progress) {
		if p.Step == seal.Proving {
			os.RemoveAll(dir + "/killed")
			must[any](t)(nil, os.CopyFS(dir+"/killed", os.DirFS(rest)))
		}
	}); err != nil {
		t.Fatal(err)
	}
	os.RemoveAll(out)
	if err := os.Rename(dir+"/killed", rest); err != nil {
		t.Fatal(err)
	}
	before := coretest.Sums(t, filepath.Join(rest, "data"))
	stopped, stop := context.WithCancel(bg)
	if err := run(stopped, func(p seal.Progress) { stop() }); !errors.Is(err, context.Canceled) {
		t.Fatal(err)
	}
	after := coretest.Sums(t, filepath.Join(rest, "data"))
	if len(before) == 0 || len(after) != len(before) {
		t.Errorf("of %d files %d are left", len(before), len(after))
	}
	copied := int64(0)
	if err := run(bg, func(p seal.Progress) { copied = p.Done }); err != nil || copied == 0 {
		t.Error(err)
	}
}
