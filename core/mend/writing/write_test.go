package writing_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/problem"
)

func follow(t *testing.T, doc string, repairs ...resolve.Repair) *graph.Graph {
	t.Helper()
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Repairs: repairs}, doc)
	if err != nil {
		t.Fatal(err)
	}
	return g
}

func options() trace.Options { return trace.Options{Formats: all.Formats(), Reach: drive.System{}} }

// write is Repairs, taken apart.
func write(g *graph.Graph, o trace.Options, keep edition.Keeper, journals string) ([]writing.Written, []problem.Problem, error) {
	out, err := writing.Repairs(g, o, keep, journals)
	return out.Written, out.Problems, err
}

func content(t *testing.T, p string) string {
	t.Helper()
	b, err := os.ReadFile(p)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

var film = map[string]string{
	"film/cut.m3u": "#EXTM3U\nsound/gull.wav\n# kept as it is\nnested.m3u\nsound/gull.wav\n", "film/nested.m3u": "#EXTM3U\nsound/gull.wav\nhorn.wav\n",
	"lib/gull 2.wav": "gull", "film/horn.wav": "horn",
}

// TestWrite: one repair heals all documents that name the file, each kept as an
// edition first; nothing but the names changes; the repaired project then needs
// no repair.
func TestWrite(t *testing.T) {
	dir := coretest.Lay(t, film)
	doc := filepath.Join(dir, "film/cut.m3u")
	g := follow(t, doc, resolve.Repair{From: filepath.Join(dir, "film/sound/gull.wav"), To: filepath.Join(dir, "lib/gull 2.wav")})
	done, problems, err := write(g, options(), edition.Keeper{}, t.TempDir())
	if err != nil || len(problems) > 0 || len(done) != 2 {
		t.Fatal(done, problems, err)
	}
	if got := content(t, doc); got != "#EXTM3U\n../lib/gull 2.wav\n# kept as it is\nnested.m3u\n../lib/gull 2.wav\n" {
		t.Errorf("%q", got)
	}
	for _, w := range done {
		if rel, _ := filepath.Rel(dir, w.Document); content(t, w.Edition) != film[rel] {
			t.Errorf("the edition of %s is not its earlier state", rel)
		}
	}
	if g := follow(t, doc); tally.Of(g, nil, nil).NeedsPerson() {
		t.Error("it still needs a person")
	}
}

// TestPrefix: "everything under A is now under B".
func TestPrefix(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"film/cut.m3u": "old/a.wav\nold/deep/b.wav\nold/none.wav\nolder/c.wav\n", "new/a.wav": "a", "new/deep/b.wav": "b", "film/older/c.wav": "c"})
	g := follow(t, filepath.Join(dir, "film/cut.m3u"), resolve.Repair{From: filepath.Join(dir, "film/old"), To: filepath.Join(dir, "new"), Prefix: true})
	var states []string
	for _, r := range g.References {
		states = append(states, string(r.State))
	}
	if got := strings.Join(states, " "); got != "away away missing here" {
		t.Error(got)
	}
}

// TestWriteRefuses: a document that changed since, one that is another's, and
// one that cannot be written leave everything as it was.
func TestWriteRefuses(t *testing.T) {
	repair := func(dir string) resolve.Repair {
		return resolve.Repair{From: filepath.Join(dir, "film/sound/gull.wav"), To: filepath.Join(dir, "lib/gull 2.wav")}
	}
	dir := coretest.Lay(t, film)
	doc, nested := filepath.Join(dir, "film/cut.m3u"), filepath.Join(dir, "film/nested.m3u")
	g := follow(t, doc, mended(dir))
	if err := os.WriteFile(nested, []byte("#EXTM3U\nhorn.wav\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, _, err := write(g, options(), edition.Keeper{}, t.TempDir()); err == nil || !strings.Contains(words.Error(err), "nested.m3u’ changed since it was traced. Nothing was written") {
		t.Error(err)
	}
	if content(t, doc) != film["film/cut.m3u"] {
		t.Error("one document was written all the same")
	}

	dir = coretest.Lay(t, map[string]string{"film/cut.m3u": "../other/list.m3u\n", "other/list.m3u": "gone.wav\n", "lib/found.wav": "f"})
	g = follow(t, filepath.Join(dir, "film/cut.m3u"), resolve.Repair{From: filepath.Join(dir, "other/gone.wav"), To: filepath.Join(dir, "lib/found.wav")})
	done, problems, err := write(g, options(), edition.Keeper{}, t.TempDir())
	if err != nil || len(done) != 0 || len(problems) != 1 || problems[0].Code() != "outside" || content(t, filepath.Join(dir, "other/list.m3u")) != "gone.wav\n" {
		t.Error(done, problems, err)
	}

	// No edition can be kept where a file stands in place of the folder.
	dir = coretest.Lay(t, film)
	doc = filepath.Join(dir, "film/cut.m3u")
	g = follow(t, doc, repair(dir))
	if _, _, err := write(g, options(), edition.Keeper{Dir: filepath.Join(dir, "film/horn.wav")}, t.TempDir()); err == nil || !strings.Contains(words.Error(err), "Nothing was written") {
		t.Error(err)
	}
	if content(t, doc) != film["film/cut.m3u"] {
		t.Error("it was written without an edition")
	}
}

// TestUnsayable: an edit list names files without folders (common practice of
// SMPTE ST 258 lists). A repair into another folder stays a repair, and keeps no
// other document from being written.
func TestUnsayable(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/cut.m3u": "#EXTM3U\nlist.edl\nsound/gull.wav\n", "lib/gull 2.wav": "gull", "lib/reel.mov": "reel",
		"film/list.edl": "TITLE: T\nFCM: NON-DROP FRAME\n001  AX       V     C        00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:00\n* FROM CLIP NAME: gone.mov\n",
	})
	doc := filepath.Join(dir, "film/cut.m3u")
	rules := []resolve.Repair{
		{From: filepath.Join(dir, "film/sound/gull.wav"), To: filepath.Join(dir, "lib/gull 2.wav")},
		{From: filepath.Join(dir, "film/gone.mov"), To: filepath.Join(dir, "lib/reel.mov")},
	}
	g := follow(t, doc, rules...)
	if tally.Of(g, nil, nil).NeedsPerson() {
		t.Fatalf("the repairs do not hold: %+v", g.References)
	}
	out, err := writing.Repairs(g, options(), edition.Keeper{}, t.TempDir())
	if err != nil || len(out.Written) != 1 || out.Written[0].Document != doc || len(out.Problems) != 1 || out.Problems[0].Kind != problem.Unsayable || len(out.Keep) != 1 || out.Keep[0] != rules[1].From {
		t.Fatalf("%+v %v", out, err)
	}
	if g := follow(t, doc, rules[1]); tally.Of(g, nil, nil).NeedsPerson() {
		t.Error("with the repair that is left it is not whole")
	}
}

// TestSpoiledEdition: an edition that is not what was kept is not put back.
func TestSpoiledEdition(t *testing.T) {
	dir := coretest.Lay(t, film)
	g := follow(t, filepath.Join(dir, "film/cut.m3u"), mended(dir))
	done, _, err := write(g, options(), edition.Keeper{}, t.TempDir())
	if err != nil || len(done) == 0 {
		t.Fatal(done, err)
	}
	if err := os.WriteFile(done[0].Edition, []byte("somebody wrote here"), 0o644); err != nil {
		t.Fatal(err)
	}
	before := content(t, done[0].Document)
	var bad *writing.Error
	if _, err := writing.PutBack(drive.System{}, done, edition.Keeper{}, t.TempDir()); !errors.As(err, &bad) || bad.Step != writing.Spoiled || content(t, done[0].Document) != before {
		t.Error(err)
	}
}

// TestLinkedEditions: where the folder of editions is a link out of the drives, nothing is
// kept there, and so nothing is written.
func TestLinkedEditions(t *testing.T) {
	dir, other := coretest.Lay(t, film), t.TempDir()
	doc := filepath.Join(dir, "film/cut.m3u")
	if err := os.Symlink(other, filepath.Join(dir, "film", edition.Folder)); err != nil {
		t.Fatal(err)
	}
	o := options()
	o.Reach = drive.Set{Drives: []drive.Drive{{ID: "b", Name: "Bench", Dir: dir}}}
	before := content(t, doc)
	g := follow(t, doc, mended(dir))
	if _, _, err := write(g, o, edition.Keeper{}, t.TempDir()); !errors.Is(err, drive.ErrOutside) || content(t, doc) != before {
		t.Error(err)
	}
	if list, _ := os.ReadDir(other); len(list) > 0 {
		t.Errorf("%v came to stand outside", list)
	}
}

// mended is the repair of the film's lost gull.
func mended(dir string) resolve.Repair {
	return resolve.Repair{From: filepath.Join(dir, "film/sound/gull.wav"), To: filepath.Join(dir, "lib/gull 2.wav")}
}

// TestBehindALink: a document that is reached through a link in the project's folder and lies in
// another project's is that project's, and not written to.
func TestBehindALink(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"film/cut.m3u": "shared/list.m3u\n", "other/list.m3u": "lost.wav\n", "lib/found.wav": "found"})
	if err := os.Symlink(filepath.Join(dir, "other"), filepath.Join(dir, "film/shared")); err != nil {
		t.Fatal(err)
	}
	g := follow(t, filepath.Join(dir, "film/cut.m3u"), resolve.Repair{From: filepath.Join(dir, "film/shared/lost.wav"), To: filepath.Join(dir, "lib/found.wav")})
	done, problems, err := write(g, options(), edition.Keeper{}, t.TempDir())
	if err != nil || len(done) != 0 || len(problems) != 1 || problems[0].Kind != problem.NotOurs || content(t, filepath.Join(dir, "other/list.m3u")) != "lost.wav\n" {
		t.Errorf("%+v %v %v", done, problems, err)
	}
}
