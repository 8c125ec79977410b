package writing_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// points traces documents and lists where their write points lead, with flags.
func points(t *testing.T, root string, docs ...string) (*graph.Graph, *origin.Judged, trace.Options) {
	t.Helper()
	o := trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: root}
	g, err := trace.Run(t.Context(), o, docs...)
	if err != nil {
		t.Fatal(err)
	}
	return g, origin.Judge(g, origin.Options{Reach: drive.System{}}), o
}

// Every form a write point can be written in is set to the root, all others kept:
// traced again, nothing leads out, and what is put back is what was there.
func TestAimedAtTheRoot(t *testing.T) {
	docs := map[string]string{
		"cut.otio": `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[
 {"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[],"metadata":{"bound_crate":{"record_to":"OLD/takes"}}},
 {"OTIO_SCHEMA":"Track.1","name":"A2","kind":"Audio","children":[],"metadata":{"bound_crate.record_to":"file://OLD/more%20takes"}},
 {"OTIO_SCHEMA":"Track.1","name":"A3","kind":"Audio","children":[],"metadata":{"bound_crate":{"record_to":"../old/film"}}}]}}`,
		"deck.usda": "#usda 1.0\ndef RenderProduct \"Beauty\"\n{\n    token productName = \"OLD/beauty.exr\"\n}\n",
		"list.csv":  "path,role\nwave.wav,read\nOLD/bounces,write\n",
	}
	for name, text := range docs {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			root, old := filepath.Join(dir, "film"), filepath.Join(dir, "old")
			text := strings.ReplaceAll(text, "OLD", filepath.ToSlash(old))
			doc := coretest.Write(t, filepath.Join(root, name), text)
			g, judged, o := points(t, root, doc)
			to := map[int]string{}
			for i := range g.WritePoints {
				if w := &g.WritePoints[i]; slices.Contains(judged.FlagsOf(i), graph.Outside) {
					to[i] = writing.AimAt(w, root)
				}
			}
			if len(to) == 0 || len(to) != len(g.WritePoints) {
				t.Fatalf("%d of %d write points lead out", len(to), len(g.WritePoints))
			}
			lines, out, err := writing.AimLines(g, o, to)
			if err != nil || len(lines) != len(to) || len(out.Problems) > 0 {
				t.Fatal(lines, out, err)
			}
			for _, l := range lines {
				at := strings.Split(text, "\n")[l.Number-1]
				if l.Was == l.Becomes || l.Was != strings.TrimSpace(at) && !strings.Contains(l.Was, "…") {
					t.Errorf("line %d: %q becomes %q, where %q stands", l.Number, l.Was, l.Becomes, at)
				}
			}
			if b, _ := os.ReadFile(doc); string(b) != text {
				t.Fatal("looking changed the document")
			}
			keep := edition.Keeper{Dir: filepath.Join(dir, "editions")}
			wrote, err := writing.Aim(g, o, to, keep, "")
			if err != nil || len(wrote.Written) != 1 {
				t.Fatal(wrote, err)
			}
			again, after, _ := points(t, root, doc)
			if len(again.WritePoints) != len(g.WritePoints) || len(again.References) != len(g.References) {
				t.Fatalf("%d write points and %d references, before %d and %d", len(again.WritePoints), len(again.References), len(g.WritePoints), len(g.References))
			}
			for i := range again.WritePoints {
				if w := &again.WritePoints[i]; slices.Contains(after.FlagsOf(i), graph.Outside) || w.Path != to[i] {
					t.Errorf("%s writes to %s (%v)", w.Owner, w.Path, after.FlagsOf(i))
				}
			}
			if _, err := writing.PutBack(drive.System{}, wrote.Written, keep, ""); err != nil {
				t.Fatal(err)
			}
			if b, _ := os.ReadFile(doc); string(b) != text {
				t.Errorf("put back, it says\n%s", b)
			}
			// It is not as it was written any more.
			if _, err := writing.PutBack(drive.System{}, wrote.Written, keep, ""); err == nil {
				t.Error("what somebody did since was undone")
			}
		})
	}
}
