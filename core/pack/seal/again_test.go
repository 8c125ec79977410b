package seal_test

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format/all"
)

// reel is a document of n sounds, some of them of one content.
func reel(t testing.TB, n int) (dir, doc string) {
	t.Helper()
	dir = t.TempDir()
	var clips []string
	for i := range n {
		name := fmt.Sprintf("take %02d.wav", i)
		coretest.Write(t, filepath.Join(dir, "film", "sound", name), strings.Repeat(fmt.Sprint("take ", i/2*2), 50))
		clips = append(clips, clip(name, "sound/"+strings.ReplaceAll(name, " ", "%20")))
	}
	return dir, coretest.Write(t, filepath.Join(dir, "film", "cut.otio"), timeline(clips...))
}

// below are the digests of all files below a folder, by their places in it.
func below(t testing.TB, dir string) map[string][32]byte {
	t.Helper()
	out := map[string][32]byte{}
	for p, sum := range coretest.Sums(t, dir) {
		out[strings.TrimPrefix(p, dir)] = sum
	}
	return out
}

// broken cannot open one file.
type broken struct {
	drive.Reach
	name string
}

func (b broken) Open(p string) (drive.File, error) {
	if filepath.Base(p) == b.name {
		return nil, os.ErrPermission
	}
	return b.Reach.Open(p)
}

func since(t testing.TB, doc, out, base string) (*seal.Report, error) {
	t.Helper()
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	return seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{}), Out: out, Since: base, Trace: tracing(trace.Options{}), Now: time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)})
}

// TestAgainIsAnew: seal, change anything, seal again is the crate that sealing anew makes, byte for
// byte; only what changed is copied, and the earlier crate is read for nothing that it is not.
func TestAgainIsAnew(t *testing.T) {
	dir, doc := reel(t, 12)
	out := filepath.Join(dir, "out", "crate")
	must[*seal.Report](t)(since(t, doc, out, ""))
	rng := rand.New(rand.NewPCG(7, 9))
	sound := func(i int) string { return filepath.Join(dir, "film", "sound", fmt.Sprintf("take %02d.wav", i)) }
	for round := range 8 {
		changed := map[int]bool{}
		for range rng.IntN(3) {
			i := rng.IntN(12)
			changed[i] = true
			coretest.Write(t, sound(i), fmt.Sprint(round, i, strings.Repeat("x", rng.IntN(400))))
		}
		touched := rng.IntN(12)
		_ = os.Chtimes(sound(touched), time.Now(), time.Now().Add(-time.Hour)) // the same bytes
		if round == 5 {                                                        // a file of the crate decays on its drive, its time as it was
			p := filepath.Join(out, "data", "audio", "take 02.wav")
			fi, _ := os.Stat(p)
			b, _ := os.ReadFile(p)
			b[0] ^= 1
			tag := bag.TagManifest("sha256")
			_ = os.WriteFile(p, b, 0o644)
			_ = os.Chtimes(p, fi.ModTime(), fi.ModTime())
			later := time.Now().Add(time.Second)
			_ = os.Chtimes(filepath.Join(out, tag), later, later)
			changed[2] = true
		}
		rep, err := since(t, doc, out, "")
		if err != nil {
			var no *seal.Refusal
			if round == 5 && errors.As(err, &no) && no.Code == seal.OutChangedThen { // told by its inode
				if err := os.RemoveAll(out); err != nil {
					t.Fatal(err)
				}
				must[*seal.Report](t)(since(t, doc, out, ""))
				continue
			}
			t.Fatal(err)
		}
		anew := filepath.Join(dir, "anew", fmt.Sprint(round), "crate")
		must[*seal.Report](t)(since(t, doc, anew, ""))
		if !maps.Equal(below(t, out), below(t, anew)) {
			t.Fatalf("round %d: the crate is not what sealing anew makes", round)
		}
		if rep.Copied.Files > len(changed)+1 || rep.Copied.Files+rep.Stood.Files != rep.Files || !rep.Complete {
			t.Errorf("round %d, %d changed: %+v of %d, %+v stood", round, len(changed), rep.Copied, rep.Files, rep.Stood)
		}
		if check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats())); !check.Well() {
			t.Errorf("round %d: %+v", round, check)
		}
	}
	if left, _ := filepath.Glob(filepath.Join(dir, "out", "*")); len(left) != 1 {
		t.Errorf("left behind: %v", left)
	}
}

// TestAgainAfterStop: a try that was ended after it took files over leaves the earlier crate as it is,
// whatever is done to either before the next.
func TestAgainAfterStop(t *testing.T) {
	dir, doc := reel(t, 6)
	out := filepath.Join(dir, "crate")
	must[*seal.Report](t)(since(t, doc, out, ""))
	// What a crash leaves: files under a second name, and a journal that holds them for done.
	partial := out + ".partial"
	if err := os.MkdirAll(filepath.Join(partial, "data", "audio"), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.Link(filepath.Join(out, "data", "audio", "take 00.wav"), filepath.Join(partial, "data", "audio", "take 00.wav")); err != nil {
		t.Skip("no hard links here")
	}
	coretest.Write(t, filepath.Join(partial, ".sealing.journal"), "")
	before := below(t, out)
	coretest.Write(t, filepath.Join(dir, "film", "sound", "take 00.wav"), "something else, as long as it likes")
	// It fails in the middle: the earlier crate must be whole.
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	_, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{}), Out: out, Trace: tracing(trace.Options{Reach: broken{tracing(trace.Options{}).Reach, "take 05.wav"}}), Now: time.Now()})
	if err == nil {
		t.Fatal("a source that cannot be read was sealed")
	}
	if !maps.Equal(before, below(t, out)) {
		t.Error("the earlier crate was written into")
	}
	rep := must[*seal.Report](t)(since(t, doc, out, ""))
	if check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats())); !check.Well() || !rep.Well() {
		t.Errorf("%+v", check)
	}
}

// TestDifference: a difference crate and its base are the full crate, byte for byte, as folder and as
// archive, filled from crates, archives and bare folders; alone it lacks files and is not damaged.
func TestDifference(t *testing.T) {
	dir, doc := reel(t, 10)
	full := filepath.Join(dir, "monday")
	must[*seal.Report](t)(since(t, doc, full, ""))
	packed := filepath.Join(dir, "monday.tar.gz")
	must[*seal.Report](t)(since(t, doc, packed, ""))
	coretest.Write(t, filepath.Join(dir, "film", "sound", "take 03.wav"), "changed")
	coretest.Write(t, filepath.Join(dir, "film", "sound", "take 04.wav"), "changed too")
	anew := filepath.Join(dir, "tuesday")
	must[*seal.Report](t)(since(t, doc, anew, ""))
	want := below(t, filepath.Join(anew, "data"))
	for i, base := range []string{full, packed, filepath.Join(full, "manifest-sha256.txt")} {
		for _, end := range []string{"", ".zip", ".tar.zst"} {
			name := fmt.Sprint("diff", i, end)
			out := filepath.Join(dir, "out", name)
			rep, err := since(t, doc, out, base)
			if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
			if !rep.Well() || rep.Files != 3 || rep.Fetched.Files != 8 || rep.Copied.Files != 3 {
				t.Errorf("%s: %+v", name, rep)
			}
			alone := must[*seal.Report](t)(seal.Check(bg, out, all.Formats()))
			if alone.Well() || alone.Harm() != 0 || alone.Complete || len(alone.ToFetch) != 8 {
				t.Errorf("%s alone: %d faults, lacks %v", name, alone.Harm(), alone.ToFetch)
			}
			bare := filepath.Join(full, "data")
			for _, from := range []string{full, packed, bare} {
				if check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats(), from)); !check.Well() || check.Files != 11 {
					t.Errorf("%s with %s: %+v", name, from, check)
				}
			}
			into := filepath.Join(dir, "in", name)
			got := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: into, Formats: all.Formats(), Bases: []string{bare, packed}}))
			if got.Into == "" {
				t.Fatalf("%s was not received: %+v", name, got.ToFetch)
			}
			if !maps.Equal(below(t, filepath.Join(got.Into, "data")), want) {
				t.Errorf("%s and its base are not the full crate", name)
			}
			if _, err := os.Stat(filepath.Join(got.Into, "fetch.txt")); err == nil {
				t.Errorf("%s was received with a fetch.txt", name)
			}
			if check := must[*seal.Report](t)(seal.Check(bg, got.Into, all.Formats())); !check.Well() {
				t.Errorf("%s received: %+v", name, check)
			}
		}
	}
	judge(t, filepath.Join(dir, "in", "diff0", "diff0"), "sha256sum", "--quiet", "-c", "manifest-sha256.txt")
	judge(t, filepath.Join(dir, "in", "diff0", "diff0"), "sha256sum", "--quiet", "-c", "tagmanifest-sha256.txt")
}

// TestBadBases: a base that is damaged, half there or another project's leaves files lacking, and
// nothing is unpacked.
func TestBadBases(t *testing.T) {
	dir, doc := reel(t, 8)
	full := filepath.Join(dir, "monday")
	must[*seal.Report](t)(since(t, doc, full, ""))
	out := filepath.Join(dir, "diff")
	must[*seal.Report](t)(since(t, doc, out, full))
	copyOf := func(name string, spoil func(dir string)) string {
		to := filepath.Join(dir, name)
		if err := os.CopyFS(to, os.DirFS(full)); err != nil {
			t.Fatal(err)
		}
		spoil(to)
		return to
	}
	for name, x := range map[string]struct {
		base  string
		lacks int
	}{
		"damaged": {copyOf("damaged", func(d string) {
			coretest.Write(t, filepath.Join(d, "data", "audio", "take 00.wav"), strings.Repeat("tape 0", 50))
		}), 0}, // its twin has the bytes
		"twice damaged": {copyOf("twice", func(d string) {
			for _, n := range []string{"take 02.wav", "take 03.wav"} {
				coretest.Write(t, filepath.Join(d, "data", "audio", n), strings.Repeat("tape 2", 50))
			}
		}), 2},
		"half there":      {copyOf("half", func(d string) { _ = os.RemoveAll(filepath.Join(d, "data", "audio")) }), 8},
		"another project": {filepath.Dir(coretest.Write(t, filepath.Join(dir, "other", "x.wav"), "x")), 8},
	} {
		rep := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in", name), Formats: all.Formats(), Bases: []string{x.base}}))
		if len(rep.ToFetch) != x.lacks || (rep.Into == "") != (x.lacks > 0) || rep.Harm() != 0 {
			t.Errorf("%s: lacks %d, into %q", name, len(rep.ToFetch), rep.Into)
		}
		if _, err := os.Stat(filepath.Join(dir, "in", name)); (err == nil) != (x.lacks == 0) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in"), Formats: all.Formats(), Bases: []string{filepath.Join(dir, "nowhere")}}); err == nil {
		t.Error("a base that is not there is none")
	}
	if _, err := since(t, doc, full, full); err == nil {
		t.Error("a difference crate took the place of the crate it builds on")
	}
	coretest.Write(t, filepath.Join(dir, "md5only", "manifest-md5.txt"), "")
	for _, bad := range []string{filepath.Join(dir, "nowhere"), filepath.Join(dir, "md5only"), doc} {
		var no *seal.NoCrate
		if _, err := since(t, doc, filepath.Join(dir, "x"), bad); !errors.As(err, &no) {
			t.Errorf("%s: %v", bad, err)
		}
	}
}

// TestHostileFetch: lines of fetch.txt that lead elsewhere, lie or are a million.
func TestHostileFetch(t *testing.T) {
	if testing.Short() {
		t.Skip("one thing after another: no race to be found")
	}
	dir, doc := reel(t, 4)
	full := filepath.Join(dir, "monday")
	must[*seal.Report](t)(since(t, doc, full, ""))
	good := filepath.Join(dir, "diff")
	must[*seal.Report](t)(since(t, doc, good, full))
	text, err := os.ReadFile(filepath.Join(good, "fetch.txt"))
	if err != nil {
		t.Fatal(err)
	}
	first, _, _ := strings.Cut(string(text), "\n")
	uri, rest, _ := strings.Cut(first, " ")
	_, place, _ := strings.Cut(rest, " ")
	for name, x := range map[string]struct {
		text string
		harm bool
		lack int // with the base
	}{
		"other scheme":  {strings.Replace(string(text), uri, "http://127.0.0.1:9/x", 1), false, 0}, // found by its digest all the same, never fetched
		"leads out":     {string(text) + uri + " 3 data/../../x\n", true, 0},
		"absolute":      {string(text) + uri + " 3 /etc/passwd\n", true, 0},
		"not listed":    {string(text) + uri + " 3 data/none.wav\n", true, 0},
		"wrong length":  {strings.Replace(string(text), first, uri+" 7 "+place, 1), false, 1},
		"other digest":  {strings.Replace(string(text), uri, bag.NI(strings.Repeat("00", 32)), 1), true, 0},
		"no line":       {"what\n" + string(text), true, 0},
		"million lines": {string(text) + strings.Repeat(uri+" 3 data/none.wav\n", 1_000_000), true, 0},
		"empty":         {"", true, 0},
	} {
		crate := filepath.Join(dir, "bad", name)
		if err := os.CopyFS(crate, os.DirFS(good)); err != nil {
			t.Fatal(err)
		}
		coretest.Write(t, filepath.Join(crate, "fetch.txt"), x.text)
		reseal(t, crate, "fetch.txt")
		rep := must[*seal.Report](t)(seal.Check(bg, crate, all.Formats(), full))
		if rep.Harm() > 0 != x.harm || !x.harm && len(rep.ToFetch) != x.lack {
			t.Errorf("%s: %d faults, lacks %v", name, rep.Harm(), rep.ToFetch)
		}
		if rep.Complete && (x.harm || x.lack > 0) {
			t.Errorf("%s is complete", name)
		}
	}
}

// reseal makes the tag manifest tell a tag file as it stands now.
func reseal(t *testing.T, crate, name string) {
	t.Helper()
	at := filepath.Join(crate, bag.TagManifest("sha256"))
	b, err := os.ReadFile(at)
	if err != nil {
		t.Fatal(err)
	}
	sums, _, _ := bag.ReadManifest(bytes.NewReader(b))
	text, _ := os.ReadFile(filepath.Join(crate, name))
	h := bag.New("sha256")
	h.Write(text)
	sums[name] = fmt.Sprintf("%x", h.Sum(nil))
	var out bytes.Buffer
	_ = bag.WriteManifest(&out, sums)
	coretest.Write(t, at, out.String())
}

// TestListed: a crate that holds lists is whole in every form; a project's own file of that name is not
// written over.
func TestListed(t *testing.T) {
	dir, doc := reel(t, 8)
	for _, x := range []struct {
		end   string
		parts int64
	}{{"", 0}, {".zip", 0}, {".tar.gz", 0}, {".zip", 200_000}} {
		if x.parts > 0 {
			for i := range 4 {
				coretest.Write(t, filepath.Join(dir, "film", "sound", fmt.Sprintf("take %02d.wav", i)), strings.Repeat(fmt.Sprint(i), 60_000))
			}
		}
		g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
		out := filepath.Join(dir, "out", fmt.Sprint("crate", x.parts)+x.end)
		rep, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{}), Out: out, Lists: lists.Kinds, Parts: x.parts, Trace: tracing(trace.Options{}), Now: time.Now()})
		if err != nil {
			t.Fatalf("%s: %v", out, err)
		}
		check := must[*seal.Report](t)(seal.Check(bg, rep.Crate, all.Formats()))
		toldArchives(t, rep.Crate, rep)
		if x.parts > 0 && len(rep.Parts) < 2 {
			t.Errorf("%d parts", len(rep.Parts))
		}
		if !check.Well() || check.Files != 12 || rep.Files != 12 {
			t.Errorf("%s: %d and %d files, %+v", out, rep.Files, check.Files, check)
		}
	}
	own := coretest.Write(t, filepath.Join(dir, "other", "cut.otio"), timeline(clip("a", "ascmhl/a.wav")))
	coretest.Write(t, filepath.Join(dir, "other", "ascmhl", "a.wav"), "a")
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), own))
	var no *seal.Refusal
	if _, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{Layout: stow.AsStands}), Out: filepath.Join(dir, "x"), Lists: lists.Kinds, Trace: tracing(trace.Options{})}); !errors.As(err, &no) || no.Code != seal.OutListed {
		t.Error(err)
	}
}
