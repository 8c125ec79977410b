package seal_test

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
)

// TestJournalForgets: once a file of an earlier try went, its line goes too; else whatever comes to lie there in a
// later try, such as a file shared with the crate before, would pass for read back.
func TestJournalForgets(t *testing.T) {
	dir := t.TempDir()
	for _, n := range []string{"a", "b", "c"} {
		coretest.Write(t, filepath.Join(dir, "film", n+".wav"), "gull")
	}
	doc := coretest.Write(t, filepath.Join(dir, "film/cut.otio"), timeline(clip("a", "a.wav"), clip("b", "b.wav"), clip("c", "c.wav")))
	out, crashed := filepath.Join(dir, "c"), filepath.Join(dir, "crashed")
	run := func(o trace.Options, progress func(seal.Progress)) error {
		g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
		_, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{}), Out: out, Trace: tracing(o), Progress: progress})
		return err
	}
	err := run(trace.Options{}, func(p seal.Progress) {
		if p.Step == seal.Proving {
			os.RemoveAll(crashed)
			must[any](t)(nil, os.CopyFS(crashed, os.DirFS(out+".partial")))
		}
	})
	if err := errors.Join(err, os.RemoveAll(out), os.Rename(crashed, out+".partial"), os.Remove(filepath.Join(out+".partial", "data/audio/c.wav"))); err != nil {
		t.Fatal(err)
	}
	coretest.Write(t, filepath.Join(dir, "film/a.wav"), "horn")
	if run(trace.Options{Reach: broken{tracing(trace.Options{}).Reach, "c.wav"}}, nil) == nil {
		t.Fatal("a source that cannot be read was sealed")
	}
	lines := string(must[[]byte](t)(os.ReadFile(filepath.Join(out+".partial", ".sealing.journal"))))
	if strings.Contains(lines, "a.wav") || !strings.Contains(lines, "b.wav") {
		t.Errorf("the journal tells %s", lines)
	}
	if err := run(trace.Options{}, nil); err != nil {
		t.Fatal(err)
	}
	if got := must[[]byte](t)(os.ReadFile(filepath.Join(out, "data/audio/a.wav"))); string(got) != "horn" {
		t.Errorf("a.wav holds %q", got)
	}
}
