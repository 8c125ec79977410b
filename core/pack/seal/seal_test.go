package seal_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words/sheet"
	"boundcrate/core/text/format/all"
)

var bg = context.Background()

func must[T any](t testing.TB) func(T, error) T {
	return func(v T, err error) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

func clip(name, url string) string {
	return fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":%q,"media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":%q}}}`, name, url)
}

func timeline(clips ...string) string {
	return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[` + strings.Join(clips, ",") + `]}]}}`
}

func tracing(o trace.Options) trace.Options {
	o.Formats = all.Formats()
	if o.Reach == nil {
		o.Reach = drive.System{}
	}
	return o
}

func sealing(t testing.TB, doc, out string, o stow.Options) (*seal.Report, error) {
	t.Helper()
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	return seal.Run(bg, seal.Options{Plan: plan(t, g, o), Out: out, Trace: tracing(trace.Options{}), Note: "For the mixer.\nTwo lines: yes.", Now: time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC), Readme: sheet.Text})
}

func plan(t testing.TB, g *graph.Graph, o stow.Options) *stow.Plan {
	t.Helper()
	return must[*stow.Plan](t)(stow.Make(bg, g, o))
}

// small is a film with everything that clashes and nests.
func small(t testing.TB) (dir, doc string) {
	dir = t.TempDir()
	film := filepath.Join(dir, "film")
	coretest.Write(t, film+"/sound/gull.wav", "gull")
	coretest.Write(t, dir+"/lib/GULL.wav", "another gull")
	coretest.Write(t, film+"/100% a+b #1.wav", "odd name")
	coretest.Write(t, film+"/nested.otio", timeline(clip("self", "cut.otio"), clip("g", "sound/gull.wav")))
	return dir, coretest.Write(t, film+"/cut.otio", timeline(clip("a", "sound/gull.wav"), clip("b", "../lib/GULL.wav"), clip("c", "100%25 a+b %231.wav"), clip("n", "nested.otio")))
}

// toldArchives holds what a seal tells of its archives against the files.
func toldArchives(t testing.TB, name string, rep *seal.Report) {
	t.Helper()
	made := rep.Parts
	if len(made) == 0 && filepath.Ext(rep.Crate) != "" {
		made = []string{rep.Crate}
	}
	if len(rep.Archives) != len(made) {
		t.Errorf("%s: %d digests for %d archives", name, len(rep.Archives), len(made))
	}
	for _, p := range made {
		is, told := must[drive.Info](t)(drive.System{}.Stat(p)), rep.Archives[p]
		if told.SHA256 != must[string](t)(drive.Fingerprint(bg, drive.System{}, p, nil)) || told.Size != is.Size || !told.ModTime.Equal(is.ModTime) || told.Node != is.Node {
			t.Errorf("%s: %s is told as %+v", name, p, told)
		}
	}
}

func TestCrate(t *testing.T) {
	dir, doc := small(t)
	for _, layout := range []stow.Layout{stow.ByKind, stow.AsStands} {
		for _, end := range []string{"", ".zip", ".tar", ".tar.gz", ".tar.zst"} {
			name := string(layout) + end
			out := filepath.Join(dir, "out", name)
			rep, err := sealing(t, doc, out, stow.Options{Layout: layout})
			if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
			if !rep.Complete || len(rep.Problems) > 0 || rep.Files != 5 {
				t.Errorf("%s: %+v", name, rep)
			}
			if layout == stow.ByKind && (len(rep.Renamed) != 2 || rep.Renamed[0].To != "data/audio/GULL-2.wav" || rep.Renamed[1].To != "data/audio/100_ a+b #1.wav") {
				t.Errorf("%s renamed %v", name, rep.Renamed)
			}
			toldArchives(t, name, rep)
			check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats()))
			if !check.Well() || check.Files != rep.Files || check.Bytes != rep.Bytes {
				t.Errorf("%s checks as %+v", name, check)
			}
			got := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in", name), Formats: all.Formats()}))
			if got.Into != filepath.Join(dir, "in", name, string(layout)) {
				t.Errorf("%s was unpacked to %s", name, got.Into)
			}
			if again := must[*seal.Report](t)(seal.Check(bg, got.Into, all.Formats())); !again.Well() {
				t.Errorf("%s checks as %+v once unpacked", name, again.Problems)
			}
			if _, err := receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in", name), Formats: all.Formats()}); !errors.Is(err, receive.ErrThere) {
				t.Errorf("%s was unpacked twice: %v", name, err)
			}
		}
	}
	left, _ := filepath.Glob(filepath.Join(dir, "out", "*partial*"))
	hidden, _ := filepath.Glob(filepath.Join(dir, "out", ".*"))
	if len(left)+len(hidden) > 0 {
		t.Errorf("left behind: %v %v", left, hidden)
	}
}

// judge runs an independent program, or says that it is not installed.
func judge(t *testing.T, dir, name string, args ...string) {
	t.Helper()
	if _, err := exec.LookPath(name); err != nil {
		t.Logf("%s is not installed; its verdict is missing", name)
		return
	}
	cmd := exec.Command(name, args...)
	cmd.Dir = dir
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Errorf("%s %v: %v\n%s", name, args, err, out)
	}
}

// TestJudges: sha256sum, unzip, bsdtar and GNU tar read what was sealed.
func TestJudges(t *testing.T) {
	dir, doc := small(t)
	for _, end := range []string{"", ".zip", ".tar", ".tar.gz"} {
		must[*seal.Report](t)(sealing(t, doc, filepath.Join(dir, "crate"+end), stow.Options{}))
	}
	judge(t, dir+"/crate", "sha256sum", "--strict", "-c", "manifest-sha256.txt", "tagmanifest-sha256.txt")
	judge(t, dir, "unzip", "-t", "crate.zip")
	judge(t, dir, "bsdtar", "-tf", "crate.zip")
	judge(t, dir, "bsdtar", "-tf", "crate.tar.gz")
	judge(t, dir, "tar", "-tf", "crate.tar")
}

// TestManifest holds RFC 8493: the example of §4.1 word by word, and §2.1.3's
// percent-encoding.
func TestManifest(t *testing.T) {
	dir := t.TempDir()
	bag := dir + "/myfirstbag"
	// RFC 8493 §4.1 gives these two files with these MD5 digests; their bytes
	// are not printed there, so the digests are those of ours.
	coretest.Write(t, bag+"/data/27613-h/images/q172.png", "")
	coretest.Write(t, bag+"/data/27613-h/images/q172.txt", "abc")
	coretest.Write(t, bag+"/manifest-md5.txt", "d41d8cd98f00b204e9800998ecf8427e data/27613-h/images/q172.png\n900150983cd24fb0d6963f7d28e17f72 data/27613-h/images/q172.txt\n")
	coretest.Write(t, bag+"/bagit.txt", "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n")
	if rep := must[*seal.Report](t)(seal.Check(bg, bag, all.Formats())); !rep.Well() || rep.Files != 2 {
		t.Errorf("%+v", rep)
	}
	coretest.Write(t, bag+"/data/a\n%.txt", "abc")
	f := must[*os.File](t)(os.OpenFile(bag+"/manifest-md5.txt", os.O_APPEND|os.O_WRONLY, 0))
	fmt.Fprint(f, "900150983cd24fb0d6963f7d28e17f72  data/a%0A%25.txt\n")
	f.Close()
	if rep := must[*seal.Report](t)(seal.Check(bg, bag, all.Formats())); !rep.Well() {
		t.Errorf("%+v", rep.Problems)
	}
}

// TestTrouble: what goes wrong while sealing leaves no crate and no rest.
func TestTrouble(t *testing.T) {
	dir, doc := small(t)
	gull := filepath.Join(dir, "film/sound/gull.wav")
	for _, end := range []string{"", ".zip"} {
		for name, harm := range map[string]func(){
			"a source vanishes":   func() { os.Remove(gull) },
			"a document changes":  func() { coretest.Write(t, doc, timeline(clip("x", "sound/gull.wav"))) },
			"a document vanishes": func() { os.Remove(doc) },
		} {
			coretest.Write(t, gull, "gull")
			coretest.Write(t, doc, timeline(clip("a", "sound/gull.wav"), clip("b", "../lib/GULL.wav")))
			g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
			p := plan(t, g, stow.Options{})
			harm()
			out := filepath.Join(dir, "out", "c"+end)
			_, err := seal.Run(bg, seal.Options{Plan: p, Out: out, Trace: tracing(trace.Options{})})
			if err == nil || !strings.Contains(err.Error(), "‘") {
				t.Errorf("%s: %v", name, err)
			}
			rest, _ := os.ReadDir(filepath.Join(dir, "out"))
			if len(rest) > 0 {
				t.Errorf("%s left %v", name, rest)
			}
		}
	}
}

// growing is a reach in which one file grows whenever it is looked at.
type growing struct {
	drive.System
	path string
	n    int
}

func (g *growing) Stat(p string) (drive.Info, error) {
	if p == g.path {
		g.n++
		f, err := os.OpenFile(p, os.O_APPEND|os.O_WRONLY, 0)
		if err != nil {
			return drive.Info{}, err
		}
		fmt.Fprint(f, "more")
		f.Close()
	}
	return g.System.Stat(p)
}

func TestChangedWhileCopied(t *testing.T) {
	dir, doc := small(t)
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	for _, end := range []string{"", ".tar"} {
		reach := &growing{path: filepath.Join(dir, "film/sound/gull.wav")}
		_, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{}), Out: filepath.Join(dir, "out", "c"+end), Trace: tracing(trace.Options{Reach: reach})})
		var changed *content.ChangedError
		if !errors.As(err, &changed) {
			t.Errorf("%q: %v", end, err)
		}
		if rest, _ := os.ReadDir(filepath.Join(dir, "out")); len(rest) > 0 {
			t.Errorf("%q left %v", end, rest)
		}
	}
}

func TestStop(t *testing.T) {
	dir, doc := small(t)
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	for _, end := range []string{"", ".zip"} {
		ctx, cancel := context.WithCancel(bg)
		_, err := seal.Run(ctx, seal.Options{
			Plan: plan(t, g, stow.Options{}), Out: filepath.Join(dir, "out", "c"+end), Trace: tracing(trace.Options{}),
			Progress: func(seal.Progress) { cancel() },
		})
		if !errors.Is(err, context.Canceled) {
			t.Errorf("%q: %v", end, err)
		}
		if rest, _ := os.ReadDir(filepath.Join(dir, "out")); len(rest) > 0 {
			t.Errorf("%q left %v", end, rest)
		}
	}
}

func road(t *testing.T, rng *rand.Rand) {
	dir := t.TempDir()
	film := filepath.Join(dir, "work", "film")
	stems := []string{"gull", "horn é", "100% bell", "a#b", "tide?", "GULL", "x y z"}
	var files []string
	for i := range 3 + rng.IntN(9) {
		at := []string{"film/sound", "film", "lib", "film/deep/er"}[rng.IntN(4)]
		p := filepath.Join(dir, "work", at, fmt.Sprintf("%s%d.wav", stems[rng.IntN(len(stems))], rng.IntN(3)))
		coretest.Write(t, p, fmt.Sprintf("content %d of %d", i, rng.IntN(1000)))
		files = append(files, p)
	}
	first := 1 + rng.IntN(5)
	for i := range 4 {
		coretest.Write(t, fmt.Sprintf("%s/sun/s.%04d.png", film, first+i), fmt.Sprint("frame", i, rng.IntN(99)))
	}
	image := coretest.Write(t, film+"/tex/plank 1.png", "\x89PNG\r\n\x1a\nplank")
	scene := coretest.Write(t, film+"/deck.gltf", `{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{},"material":0}]}],"materials":[{"normalTexture":{"index":0}}],"textures":[{"source":0}],"images":[{"uri":"tex/plank%201.png"}]}`)
	url := func(p string) string { return resolve.SayRelative(0, "a%20b", film, p) }
	var a, b []string
	for i, f := range files {
		c := clip(fmt.Sprint("c", i), url(f))
		switch rng.IntN(3) {
		case 0:
			a = append(a, c)
		case 1:
			b = append(b, c)
		default:
			a, b = append(a, c), append(b, clip("again", "file://"+strings.ReplaceAll(strings.ReplaceAll(strings.ReplaceAll(strings.ReplaceAll(f, "%", "%25"), "#", "%23"), "?", "%3F"), " ", "%20")))
		}
	}
	seq := fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":"sun","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"sun/","name_prefix":"s.","name_suffix":".png","start_frame":%d,"frame_step":1,"rate":24,"frame_zero_padding":4,"available_range":{"start_time":{"rate":24,"value":0},"duration":{"rate":24,"value":4}}}}}`, first)
	coretest.Write(t, film+"/nested.otio", timeline(append(b, clip("back", "cut.otio"))...))
	doc := coretest.Write(t, film+"/cut.otio", timeline(append(a, seq, clip("n", "nested.otio"), clip("scene", "deck.gltf"))...))

	before := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	if tally.Of(before, nil, nil).NeedsPerson() {
		t.Fatalf("the project is not whole: %s", pending(before))
	}
	want := shape(t, before)
	seen := map[string]mend.Seen{}
	for _, f := range before.Leaves() {
		info := must[fs.FileInfo](t)(os.Stat(f))
		seen[f] = mend.Seen{Size: info.Size(), SHA256: must[string](t)(drive.Fingerprint(bg, drive.System{}, f, nil))}
	}
	// Scatter: files move to other folders, some under other names.
	for i, f := range append(append([]string{}, files...), image, scene) {
		if _, err := os.Stat(f); err != nil || rng.IntN(2) == 0 {
			continue // an earlier file of the same name moved already
		}
		name := filepath.Base(f)
		if rng.IntN(2) == 0 {
			name = fmt.Sprintf("renamed %d%s", i, filepath.Ext(f))
		}
		to := filepath.Join(dir, "work", "scattered", fmt.Sprint(i), name)
		os.MkdirAll(filepath.Dir(to), 0o755)
		if err := os.Rename(f, to); err != nil {
			t.Fatal(err)
		}
	}
	// Mend. Documents are only written below the root, and some were scattered
	// out of the film's folder.
	o := tracing(trace.Options{Root: filepath.Join(dir, "work")})
	memory := func(_, p string) (mend.Seen, bool) { s, ok := seen[p]; return s, ok }
	rd := mend.Reading{Reach: drive.System{}, Hash: mend.Once(drive.System{}, nil), Memory: memory}
	o.Doubt = mend.Doubt(bg, memory, rd.Hash)
	x := must[*index.Memory](t)(index.Build(bg, index.Options{Reach: drive.System{}, Dirs: []string{filepath.Join(dir, "work")}}))
	g := must[*graph.Graph](t)(trace.Run(bg, o, doc))
	err := mend.Until(bg, g, nil, memory, false, func(_ *graph.Graph, ws []mend.Wanted) ([][]mend.Candidate, error) {
		return mend.Find(bg, x, ws, rd, nil)
	},
		func(rs []resolve.Repair) (*graph.Graph, *origin.Judged, error) {
			o.Repairs = append(o.Repairs, rs...)
			var err error
			g, err = trace.Run(bg, o, doc)
			return g, nil, err
		})
	if err != nil {
		t.Fatal(err)
	}
	if tally.Of(g, nil, nil).NeedsPerson() {
		t.Fatalf("not mended: %s", pending(g))
	}
	original := must[[]byte](t)(os.ReadFile(doc))
	if rng.IntN(2) == 0 {
		// Written into the documents, the repairs hold without their rules.
		wrote, err := writing.Repairs(g, o, edition.Keeper{}, t.TempDir())
		if err != nil {
			t.Fatal(err)
		}
		for _, w := range wrote.Written {
			if w.Document == doc && !bytes.Equal(must[[]byte](t)(os.ReadFile(w.Edition)), original) {
				t.Error("the edition is not what the document was")
			}
		}
		o.Repairs = nil
		if g = must[*graph.Graph](t)(trace.Run(bg, o, doc)); tally.Of(g, nil, nil).NeedsPerson() {
			t.Fatalf("not whole once written: %s", pending(g))
		}
	}
	// Seal, carry away, burn the rest, trace.
	layout := []stow.Layout{stow.ByKind, stow.AsStands}[rng.IntN(2)]
	end := []string{"", ".zip", ".tar.zst"}[rng.IntN(3)]
	out := filepath.Join(dir, "crate"+end)
	rep := must[*seal.Report](t)(seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{Layout: layout}), Out: out, Trace: o}))
	if !rep.Well() {
		t.Fatalf("%+v", rep)
	}
	if err := os.RemoveAll(filepath.Join(dir, "work")); err != nil {
		t.Fatal(err)
	}
	got := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "empty machine"), Formats: all.Formats()}))
	var docs []string
	filepath.WalkDir(got.Into+"/data", func(p string, e fs.DirEntry, err error) error {
		if filepath.Base(p) == "cut.otio" {
			docs = append(docs, p)
		}
		return err
	})
	after := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{Root: got.Into}), docs...))
	if s := shape(t, after); s != want {
		t.Errorf("the graph changed on the way:\n%s\nwas\n%s", s, want)
	}
	for i := range after.References {
		if after.References[i].State != graph.Here {
			t.Errorf("%s is %s", after.References[i].Written, after.References[i].State)
		}
	}
}

func pending(g *graph.Graph) string {
	var list []string
	for i := range g.References {
		if r := &g.References[i]; r.Pending() {
			list = append(list, fmt.Sprintf("%s %s in %s", r.State, r.Expected, g.Documents[r.Doc].Path))
		}
	}
	return strings.Join(list, "\n")
}

// shape says a graph without names: documents in order, and for each reference
// its owner, use, kind and the content it leads to.
func shape(t *testing.T, g *graph.Graph) string {
	t.Helper()
	var b strings.Builder
	for i := range g.References {
		r := &g.References[i]
		content := fmt.Sprint("document ", r.Child)
		if r.Child < 0 {
			content = ""
			for _, f := range append(append([]string{}, r.Files...), r.Path) {
				if f != "" {
					content += must[string](t)(drive.Fingerprint(bg, drive.System{}, f, nil))[:8] + " "
				}
			}
		}
		fmt.Fprintf(&b, "%d %s %s %s → %s\n", r.Doc, r.Owner, r.Use, r.Kind, content)
	}
	return b.String()
}

// gigabyte is a project of 1 GB in ten files.
func gigabyte(b *testing.B) (doc string) {
	dir := b.TempDir()
	rng := rand.NewChaCha8([32]byte{1})
	buf := make([]byte, 1<<20)
	var clips []string
	for i := range 10 {
		f := must[*os.File](b)(os.Create(filepath.Join(dir, fmt.Sprintf("%d.wav", i))))
		for range 100 {
			rng.Read(buf)
			f.Write(buf)
		}
		f.Close()
		clips = append(clips, clip("c", fmt.Sprintf("%d.wav", i)))
	}
	b.SetBytes(1000 << 20)
	return coretest.Write(b, dir+"/cut.otio", timeline(clips...))
}

// BenchmarkSeal seals 1 GB: copied, digested, read back and proved.
func BenchmarkSeal(b *testing.B) {
	doc, out, i := gigabyte(b), b.TempDir(), 0
	for b.Loop() {
		i++
		rep, err := sealing(b, doc, fmt.Sprintf("%s/c%d", out, i), stow.Options{})
		if err != nil || !rep.Complete {
			b.Fatal(rep, err)
		}
		b.StopTimer()
		os.RemoveAll(rep.Crate)
		b.StartTimer()
	}
}

// BenchmarkCopyAndSum is what sealing is held against: cp, then sha256sum over
// the copy.
func BenchmarkCopyAndSum(b *testing.B) {
	doc, out := gigabyte(b), filepath.Join(b.TempDir(), "copy")
	for b.Loop() {
		cmd := exec.Command("sh", "-c", `cp -r "$1" "$2" && cd "$2" && sha256sum *`, "sh", filepath.Dir(doc), out)
		if text, err := cmd.CombinedOutput(); err != nil {
			b.Fatalf("%v: %s", err, text)
		}
		b.StopTimer()
		os.RemoveAll(out)
		b.StartTimer()
	}
}
