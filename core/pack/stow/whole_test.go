package stow_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/pcm"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// studied is a traced project with what nothing names and what is there twice.
func studied(t testing.TB, files map[string]string, docs ...string) (string, *graph.Graph, *sift.Loose, [][]graph.FileID) {
	t.Helper()
	return studiedIn(t, t.TempDir(), files, docs...)
}

func studiedIn(t testing.TB, dir string, files map[string]string, docs ...string) (string, *graph.Graph, *sift.Loose, [][]graph.FileID) {
	t.Helper()
	for n, text := range files {
		p := filepath.Join(dir, n)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for i, d := range docs {
		docs[i] = filepath.Join(dir, d)
	}
	ctx, reach := context.Background(), drive.System{}
	g, err := trace.Run(ctx, trace.Options{Formats: all.Formats(), Reach: reach, Root: filepath.Join(dir, "job")}, docs...)
	if err != nil {
		t.Fatal(err)
	}
	judged := origin.Judge(g, origin.Options{Reach: reach})
	x, err := index.Build(ctx, index.Options{Reach: reach, Dirs: []string{g.Root}})
	if err != nil {
		t.Fatal(err)
	}
	l, err := sift.LooseOf(g, judged, origin.DefaultHabits, reach, x, edition.Keeper{})
	if err != nil {
		t.Fatal(err)
	}
	dups, err := sift.Duplicates(ctx, g, reach, mend.Once(reach, nil))
	if err != nil {
		t.Fatal(err)
	}
	return dir, g, l, sift.Groups(g, dups)
}

func tos(p *stow.Plan, dir string) (list []string) {
	for _, c := range p.NewTexts().Copies() {
		rel, _ := filepath.Rel(dir, c.Source)
		list = append(list, rel+" → "+c.To)
	}
	return list
}

// TestAlong: what a content is there twice of travels once, and documents name that one;
// companions lie beside what they belong to, editions, the newest rendering and strays
// where they are looked for; what stays takes its companions with it.
func TestAlong(t *testing.T) {
	files := map[string]string{
		"job/cut.m3u": "sound/a.wav\n../lib/a copy.wav\nsound/b.wav\n", "job/sound/a.wav": "same bytes", "lib/a copy.wav": "same bytes", "job/sound/b.wav": "b",
		"job/sound/b.xmp": "of b", "job/cut_data/x/y.dat": "data", "job/editions/cut.edition-1.m3u": "old", "job/cut-01.m3u": "older", "job/renders/mix v1.wav": "1", "job/notes.txt": "n", "job/.hidden": "h", "job/peaks/a.peak": "p",
		"job/crate/bagit.txt": "a crate", "job/crate/data/z.wav": "z",
	}
	dir, g, l, same := studied(t, files, "job/cut.m3u")
	o := stow.Options{Layout: stow.ByKind, Leave: sift.Choice{Twice: true}, Same: same, Also: l.Chosen([]string{"companions", "editions", "renders", "strays"}, func(string) (bool, bool) { return false, false })}
	p, err := stow.Make(context.Background(), g, o)
	if err != nil {
		t.Fatal(err)
	}
	want := []string{
		"job/sound/a.wav → audio/a.wav", "job/sound/b.wav → audio/b.wav", "job/sound/b.xmp → audio/b.xmp", "job/cut.m3u → cut.m3u", "job/cut_data/x/y.dat → cut_data/x/y.dat",
		"job/cut-01.m3u → earlier/cut-01.m3u", "job/editions/cut.edition-1.m3u → earlier/cut.edition-1.m3u", "job/renders/mix v1.wav → renders/mix v1.wav", "job/notes.txt → strays/notes.txt",
	}
	if got := tos(p, dir); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	said, err := p.Texts(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: g.Root})
	if err != nil {
		t.Fatal(err)
	}
	var says []string
	for _, x := range said.All() {
		says = append(says, x.Old+" → "+x.New)
	}
	if want := []string{"sound/a.wav → audio/a.wav", "../lib/a copy.wav → audio/a.wav", "sound/b.wav → audio/b.wav"}; !slices.Equal(says, want) {
		t.Errorf("%q", says)
	}
	given := sift.GivesUp(g, p.Selection, l, o.Also)
	if !sift.ForArchive(given, p.Selection) {
		t.Errorf("not right for an archive: %+v", given)
	}
	lean := l.Chosen([]string{"companions"}, func(string) (bool, bool) { return false, false })
	if given := sift.GivesUp(g, p.Selection, l, lean); sift.ForArchive(given, p.Selection) || len(given) != 4 {
		t.Errorf("%+v", given)
	}
	// What stays leaves what belongs to it.
	o.Leave.Drop = []string{"sound/b.wav"}
	if p, err = stow.Make(context.Background(), g, o); err != nil || slices.ContainsFunc(tos(p, dir), func(s string) bool { return strings.Contains(s, "b.xmp") }) {
		t.Errorf("%q %v", tos(p, dir), err)
	}
}

// TestPatterns: tokens are filled, the extension stays, sequences keep theirs; a bad
// pattern is told with its column.
func TestPatterns(t *testing.T) {
	dir, g, _, _ := studied(t, map[string]string{"job/cut.m3u": "sound/a.wav\nb.png\n../c.v2.wav\n", "job/sound/a.wav": "a", "job/b.png": "b", "c.v2.wav": "c"}, "job/cut.m3u")
	for pattern, want := range map[string][]string{
		"{kind}/{n:3} {name}":        {"job/sound/a.wav → audio/001 a.wav", "c.v2.wav → audio/003 c.v2.wav", "job/cut.m3u → cut.m3u", "job/b.png → images/002 b.png"},
		"{document}/{folder}/{name}": {"job/sound/a.wav → cut/sound/a.wav", "job/b.png → cut/job/b.png"},
		"x/{n}":                      {"job/cut.m3u → cut.m3u", "job/sound/a.wav → x/1.wav", "job/b.png → x/2.png", "c.v2.wav → x/3.wav"},
		"{origin} - {name}":          {"job/cut.m3u → cut.m3u", "c.v2.wav → dump - c.v2.wav", "job/sound/a.wav → project - a.wav", "job/b.png → project - b.png"},
	} {
		p, err := stow.Make(context.Background(), g, stow.Options{Layout: stow.Layout(pattern), Judged: origin.Judge(g, origin.Options{Reach: drive.System{}})})
		if err != nil {
			t.Fatal(err)
		}
		got := tos(p, dir)
		for _, w := range want {
			if !slices.Contains(got, w) {
				t.Errorf("%s: %q lacks %q", pattern, got, w)
			}
		}
	}
	for pattern, at := range map[string]int{"{kind}/{nme}": 8, "{kind": 1, "ü/{name}}": 9, "{name}/": 8, "../{name}": 1, "{kind}/x": 8, "{n:0}": 1, "a//{name}": 3, "": 1, "{name:3}": 1, "a\\{name}": 2} {
		var bad *stow.PatternError
		if err := stow.CheckLayout(stow.Layout(pattern)); !errors.As(err, &bad) || bad.Column != at {
			t.Errorf("%q: %v", pattern, err)
		}
	}
}

// TestSteady: one file more renames no other, where the plan before is known; without it
// the same input gives the same plan.
func TestSteady(t *testing.T) {
	files := map[string]string{"job/cut.m3u": "b/wave.wav\nc/wave.wav\n", "job/a/wave.wav": "1", "job/b/wave.wav": "2", "job/c/wave.wav": "3"}
	_, g, _, _ := studied(t, files, "job/cut.m3u")
	one, err := stow.Make(context.Background(), g, stow.Options{})
	if err != nil {
		t.Fatal(err)
	}
	files["job/cut.m3u"] = "a/wave.wav\nb/wave.wav\nc/wave.wav\n"
	_, h, _, _ := studied(t, files, "job/cut.m3u")
	// The same keys: both stand in folders of their own.
	first := map[string]int{}
	for i := range one.Berths {
		for k := range h.Files {
			if filepath.Base(filepath.Dir(h.Files[k].Path)) == filepath.Base(one.Berths[i].From) && filepath.Base(h.Files[k].Path) == one.Berths[i].Was {
				first[h.Files[k].At.String()] = i
			}
		}
	}
	two, err := stow.Make(context.Background(), h, stow.Options{First: first})
	if err != nil {
		t.Fatal(err)
	}
	names := func(p *stow.Plan) map[string]string {
		out := map[string]string{}
		for _, b := range p.Berths {
			out[filepath.Base(b.From)] = b.Name
		}
		return out
	}
	was, is := names(one), names(two)
	if is["b"] != was["b"] || is["c"] != was["c"] || is["a"] != "wave-3.wav" {
		t.Errorf("%v, then %v", was, is)
	}
}

// TestEstimates: archives come within a quarter of what was told.
func TestEstimates(t *testing.T) {
	text := strings.Repeat("a line that packs well, as lines of text do\n", 4000)
	noise := make([]byte, 300_000)
	seed := uint64(3)
	for i := range noise {
		seed = seed*6364136223846793005 + 1442695040888963407
		noise[i] = byte(seed >> 56)
	}
	_, g, _, _ := studied(t, map[string]string{"job/cut.m3u": "a.csv\nb.bin\nc.wav\n", "job/a.csv": text, "job/b.bin": string(noise[:150_000]) + text, "job/c.wav": string(noise[150_000:])}, "job/cut.m3u")
	p, err := stow.Make(context.Background(), g, stow.Options{})
	if err != nil {
		t.Fatal(err)
	}
	r, err := p.Sample(context.Background(), drive.System{})
	if err != nil {
		t.Fatal(err)
	}
	about := p.NewTexts().Estimates(r)
	for _, k := range []carrier.Kind{carrier.Zip, carrier.Tar, carrier.TarGzip, carrier.TarZstd} {
		var n counting
		w, err := carrier.NewArchive(k, &n, "x", time.Unix(0, 0))
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range p.NewTexts().Copies() {
			b, err := os.ReadFile(c.Source)
			if err != nil {
				t.Fatal(err)
			}
			if err := w.Add(carrier.File{Name: c.To, Size: c.Size, Kind: c.Kind}, func(w io.Writer) error { _, err := w.Write(b); return err }); err != nil {
				t.Fatal(err)
			}
		}
		if err := w.Close(); err != nil {
			t.Fatal(err)
		}
		if ratio := float64(about[k]) / float64(n); ratio < 0.75 || ratio > 1.25 {
			t.Errorf("%s has %d bytes, told %d", k, n, about[k])
		}
	}
}

type counting int64

func (c *counting) Write(b []byte) (int, error) { *c += counting(len(b)); return len(b), nil }

// TestRepoint: a document that cannot be rewritten keeps what it names relative to
// itself; what it names by a whole path is listed for whoever receives the crate.
func TestRepoint(t *testing.T) {
	dir := t.TempDir()
	whole := filepath.Join(dir, "job", "x.wav")
	_, g, _, _ := studiedIn(t, dir, map[string]string{
		"job/old.session": "\x00\x01SESS\x00\x00\x00\x10" + whole + "\x00\x00\x05sound/a.wav\x00\x00\xff\xfe", "job/x.wav": "x", "job/sound/a.wav": "a",
	}, "job/old.session")
	p, err := stow.Make(context.Background(), g, stow.Options{})
	if err != nil {
		t.Fatal(err)
	}
	said, err := p.Texts(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: g.Root})
	if err != nil {
		t.Fatal(err)
	}
	if r := said.Repoints(); len(r) != 1 || r[0].Written != whole || r[0].To != "audio/x.wav" || r[0].Document != "old.session" {
		t.Errorf("%+v", r)
	}
	if m := said.Made(); len(m) != 1 || m[0].To != stow.RepointName || !strings.Contains(string(m[0].Bytes), whole) {
		t.Errorf("%+v", m)
	}
	if !slices.Contains(tos(p, dir), "job/sound/a.wav → sound/a.wav") {
		t.Errorf("%q", tos(p, dir))
	}
}

// TestPatternImages: what a pattern makes of a sequence's name is the folder of its
// images, which keep their names and are counted as one.
func TestPatternImages(t *testing.T) {
	images := func(prefix string) string {
		return `{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"img/","name_prefix":"` + prefix + `","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":2}}`
	}
	files := map[string]string{
		"job/cut.otio":       `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[` + images("sun.") + `,` + images("") + `,{"OTIO_SCHEMA":"Clip.1","name":"d","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"b.wav"}}]}]}}`,
		"job/img/sun.01.png": "1", "job/img/sun.02.png": "2", "job/img/01.png": "3", "job/b.wav": "4",
	}
	dir, g, _, _ := studied(t, files, "job/cut.otio")
	p, err := stow.Make(context.Background(), g, stow.Options{Layout: "{kind}/{n:2} {name}"})
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"job/b.wav → audio/03 b.wav", "job/cut.otio → cut.otio", "job/img/sun.01.png → sequences/01 sun/sun.01.png", "job/img/sun.02.png → sequences/01 sun/sun.02.png", "job/img/01.png → sequences/02 img/01.png"}
	if got := tos(p, dir); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
}

// TestAdopted: what a document that goes along uses too is not cut, as its parts could not be
// told anew; what it brings is named where it lies, and what cannot come is told.
func TestAdopted(t *testing.T) {
	span := func(from, length int) string {
		return fmt.Sprintf(`{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%d},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%d}}`, from, length)
	}
	timeline := func(media ...string) string {
		var clips []string
		for _, m := range media {
			clips = append(clips, `{"OTIO_SCHEMA":"Clip.1","name":"c","source_range":`+span(48, 12)+`,"media_reference":`+m+`}`)
		}
		return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Audio","children":[` + strings.Join(clips, ",") + `]}]}}`
	}
	sound := func(url string) string {
		return `{"OTIO_SCHEMA":"ExternalReference.1","target_url":"` + url + `"}`
	}
	images := `{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"img/","name_prefix":"s.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":1}`
	long := string(mendtest.Wave(make([]byte, 8*48000))) // of some seconds, whatever its rate
	files := map[string]string{
		"job/cut.otio": timeline(sound("a.wav"), sound("b.wav")), "job/a.wav": long, "job/b.wav": long, "lib/c.wav": "c", "job/img/s.1.png": "1",
		"job/other.otio": timeline(sound("a.wav"), sound("../lib/c.wav"), images),
	}
	_, g, l, _ := studied(t, files, "job/cut.otio")
	chosen := l.Chosen(nil, func(p string) (bool, bool) { return filepath.Base(p) == "other.otio", false })
	reach := drive.System{}
	o := trace.Options{Formats: all.Formats(), Reach: reach, Root: g.Root}
	asides, err := sift.Asides(context.Background(), o, chosen)
	if err != nil || len(asides) != 1 {
		t.Fatalf("%v %v", asides, err)
	}
	trim := 0.0
	plan, err := stow.Make(context.Background(), g, stow.Options{Layout: stow.ByKind, Also: chosen, Asides: asides, Trim: &trim, Sounds: func(paths []string, to pcm.Spec, cut pcm.Cut) (stow.SoundPlan, error) {
		return stow.PlanSound(reach, paths, to, cut)
	}})
	if err != nil {
		t.Fatal(err)
	}
	texts, err := plan.Texts(context.Background(), o)
	if err != nil {
		t.Fatal(err)
	}
	travels := map[string]bool{}
	for _, c := range texts.Copies() {
		name := filepath.Base(c.Source)
		travels[name] = true
		if cut := c.Cut != nil; cut != (name == "b.wav") {
			t.Errorf("%s is cut: %v", name, cut)
		}
		if name == "other.otio" && len(c.Edits) < 2 {
			t.Errorf("it names nothing anew: %d edits", len(c.Edits))
		}
	}
	if !travels["c.wav"] || !travels["other.otio"] || travels["s.1.png"] {
		t.Errorf("%v", travels)
	}
	if !slices.ContainsFunc(plan.Left, func(l stow.Left) bool { return l.Why == stow.NotAlong }) {
		t.Errorf("the sequence is not told: %+v", plan.Left)
	}
}
