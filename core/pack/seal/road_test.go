package seal_test

import (
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/sheet"
	"boundcrate/core/text/format/all"
)

// TestResume: what a crash left is taken up by its journal; a folder of that
// name that is none is refused.
func TestResume(t *testing.T) {
	dir, doc := small(t)
	out := filepath.Join(dir, "out", "c")
	coretest.Write(t, out+".partial/mine.txt", "x")
	if _, err := sealing(t, doc, out, stow.Options{}); err == nil {
		t.Error("a foreign folder was taken over")
	}
	os.RemoveAll(out + ".partial")
	// A crash: the crate under way is as it stood in the middle of copying.
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	begun := func(o seal.Options) seal.Options {
		o.Plan, o.Out, o.Trace, o.Readme = plan(t, g, stow.Options{}), out, tracing(trace.Options{}), sheet.Text
		return o
	}
	crashed := filepath.Join(dir, "crashed")
	must[*seal.Report](t)(seal.Run(bg, begun(seal.Options{Progress: func(p seal.Progress) {
		if p.Step == seal.Proving {
			os.RemoveAll(crashed)
			must[any](t)(nil, os.CopyFS(crashed, os.DirFS(out+".partial")))
		}
	}})))
	if err := errors.Join(os.RemoveAll(out), os.Rename(crashed, out+".partial")); err != nil {
		t.Fatal(err)
	}
	coretest.Write(t, out+".partial/data/leftover", "x")
	gull := filepath.Join(out+".partial", "data/audio/gull.wav")
	old := time.Date(2020, 1, 2, 3, 4, 5, 0, time.UTC)
	if err := os.Chtimes(gull, old, old); err != nil {
		t.Fatal(err)
	}
	// While another holds the place it is refused; then what is safe is not copied
	// again.
	j := must[*os.File](t)(os.OpenFile(out+".partial/.sealing.journal", os.O_RDWR|os.O_APPEND, 0))
	fmt.Fprint(j, "{\"to\":\"torn")
	if held, err := drive.Lock(j); err != nil || !held {
		t.Fatal(held, err)
	}
	var busy *seal.Refusal
	if _, err := seal.Run(bg, begun(seal.Options{})); !errors.As(err, &busy) || busy.Code != seal.OutBusy {
		t.Error(err)
	}
	j.Close()
	rep := must[*seal.Report](t)(seal.Run(bg, begun(seal.Options{})))
	if !rep.Well() {
		t.Error(words.SealProblems(rep))
	}
	if fi := must[fs.FileInfo](t)(os.Stat(filepath.Join(out, "data/audio/gull.wav"))); !fi.ModTime().Equal(old) {
		t.Error("what was safe was copied again")
	}
	if check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats())); !check.Well() || check.Files != 5 {
		t.Errorf("%+v", check)
	}
}

// TestRoad is the property of the whole road: a random project is scattered,
// mended, sealed, carried to an empty folder and traced: the same graph, with
// byte-equal leaves.
func TestRoad(t *testing.T) {
	for seed := range uint64(40) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) { road(t, rand.New(rand.NewPCG(seed, 1))) })
	}
}
