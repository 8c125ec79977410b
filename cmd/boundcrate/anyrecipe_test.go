package main

import (
	"crypto/sha256"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
)

// anyRecipe is a recipe made by chance of everything that one may say.
func anyRecipe(rng *rand.Rand) string {
	some := func(list ...string) string {
		var out []string
		for _, s := range list {
			if rng.IntN(3) == 0 {
				out = append(out, s)
			}
		}
		return "[" + strings.Join(out, ", ") + "]"
	}
	one := func(list ...string) string { return list[rng.IntN(len(list))] }
	var b strings.Builder
	fmt.Fprintf(&b, "layout: %s\n", one("kind", "flat", "stands", "document", `"{kind}/{n:3} {name}"`, `"{document}/{origin}/{name}"`, `"{folder} {date}/{owner} {name}"`))
	fmt.Fprintf(&b, "prefix: %q\nsuffix: %q\nnames: %s\n", one("", "tc ", "ü_"), one("", "", ".v2"), one("portable", "as-they-are"))
	fmt.Fprintf(&b, "leave: %s\n", some("dormant", "listed", "rebuildable", "duplicates", "kind:image", "kind:part"))
	fmt.Fprintf(&b, "drop: %s\nkeep: %s\n", some(`"**/wheel*"`, `"img/**"`, `"nested.otio"`), some(`"**/pair.wav"`))
	also := some("companions", "editions", "strays", "renders", "drawings", `"*.txt"`)
	fmt.Fprintf(&b, "also: %s\ninterchange: %s\n", also, some("edl", "adl", "m3u", "xspf", "list"))
	if rng.IntN(2) == 0 {
		fmt.Fprintf(&b, "sound: {type: %s, rate: %s, depth: %s, channels: %s}\n", one("wav", "aiff", "flac"), one("44100", "48000", "96000"), one("16", "24"), one("split", "interleaved"))
	}
	if rng.IntN(2) == 0 && strings.Count(also, ",") < 3 {
		fmt.Fprintf(&b, "trim: %s\n", one("0", "0.5", "1"))
	}
	fmt.Fprintf(&b, "digests: %s\n", one("[sha256]", "[sha256, sha512]"))
	return b.String()
}

// TestAnyRecipe: whatever a recipe says, what is planned is sealed, to the letter and to the byte; carried
// away and unpacked, every reference whose file travels leads to it, and to nothing else
// of the project; the crate is checked whole; sources stay byte for byte.
func TestAnyRecipe(t *testing.T) {
	for _, p := range []string{"sox"} {
		if _, err := exec.LookPath(p); err != nil {
			t.Skip(p + " is not installed; make test installs it where it may")
		}
	}
	part := "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('CONFIG_CONTROL_DESIGN'));\nENDSEC;\nDATA;\n%s\nENDSEC;\nEND-ISO-10303-21;\n"
	span := func(from, length int) string {
		return fmt.Sprintf(`{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%d},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%d}}`, from, length)
	}
	clip := func(url, more string) string {
		return `{"OTIO_SCHEMA":"Clip.1","name":"c","source_range":` + span(30, 12) + `,"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"` + url + `","available_range":` + span(0, 96) + `}` + more + `}`
	}
	images := `{"OTIO_SCHEMA":"Clip.1","name":"i","source_range":` + span(20, 10) + `,"media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"img/","name_prefix":"sun.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":3,"available_range":` + span(0, 60) + `}}`
	timeline := func(clips ...string) string {
		return `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[` + strings.Join(clips, ",") + `]}]}}`
	}
	files := map[string]string{
		"job/film.otio":   timeline(clip("sound/pair.wav", ""), clip("../lib/pair.wav", ""), clip("sound/one.flac", ""), clip("sound/off.aiff", `,"enabled":false`), images, clip("nested.otio", ""), clip("sound/m.L.wav", ""), clip("sound/m.R.wav", "")),
		"job/nested.otio": timeline(clip("sound/one.flac", ""), clip("sound/deep.wav", "")),
		"job/clock.stp":   fmt.Sprintf(part, "#1=DOCUMENT_FILE('parts/wheel.stp','wheel','',#2,'','');\n#2=DOCUMENT_TYPE('geometry');"),
		"job/scene.obj":   "mtllib skins/a.mtl\nv 0 0 0\n", "job/skins/a.mtl": "newmtl a\nmap_Kd skin.png\nmap_Bump ../../lib/skin.png\n", "job/skins/skin.png": "skin", "lib/skin.png": "another skin",
		"job/parts/wheel.stp": fmt.Sprintf(part, "#1=CARTESIAN_POINT('',(0.,0.,0.));"), "job/drawings/wheel.svg": `<svg xmlns="http://www.w3.org/2000/svg"><image href="paper.png"/><image href="../skins/skin.png"/></svg>`,
		"job/drawings/paper.png": "paper", "job/notes.txt": "n", "job/film-01.otio": timeline(clip("sound/pair.wav", "")), "job/sound/last night.bin": "take", "job/renders/mix v1.wav": "1", "job/renders/mix v2.wav": "2", "job/film.xmp": "x",
	}
	for i := range 60 {
		files[fmt.Sprintf("job/img/sun.%03d.png", i+1)] = fmt.Sprint("image ", i)
	}
	dir := coretest.Lay(t, files)
	at := func(p string) string { return filepath.Join(dir, filepath.FromSlash(p)) }
	for f, args := range map[string][]string{
		"job/sound/pair.wav": {"-r", "44100", "-b", "16", "-c", "2"}, "lib/pair.wav": {"-r", "44100", "-b", "16", "-c", "2"}, "job/sound/one.flac": {"-r", "48000", "-b", "24", "-c", "1"}, "job/sound/off.aiff": {"-r", "48000", "-b", "24", "-c", "3"},
		"job/sound/deep.wav": {"-r", "96000", "-b", "24", "-c", "1"}, "job/sound/m.L.wav": {"-r", "48000", "-b", "24", "-c", "1"}, "job/sound/m.R.wav": {"-r", "48000", "-b", "24", "-c", "1"},
	} {
		if err := os.MkdirAll(filepath.Dir(at(f)), 0o755); err != nil {
			t.Fatal(err)
		}
		if out, err := exec.Command("sox", append(append([]string{"-R", "-n"}, args...), at(f), "synth", "4", "sine", "440")...).CombinedOutput(); err != nil {
			t.Fatalf("%s", out)
		}
	}
	docs := []string{at("job/film.otio"), at("job/clock.stp"), at("job/scene.obj")}
	before := coretest.Sums(t, dir)
	type reference struct {
		Document, Written, Owner, State string
		Path                            *string
		Files                           []string
	}
	traced := func(t *testing.T, list []string) []reference {
		t.Helper()
		_, out, errs := invoke(t, t.TempDir(), append([]string{"trace", "--json"}, list...)...)
		return decoded[struct{ References []reference }](t, out, errs).References
	}
	were := traced(t, docs)
	rng := rand.New(rand.NewPCG(11, 16))
	t.Run("recipes", func(t *testing.T) { // side by side, and all of them before the sources are looked at
		for n := range 16 {
			text := anyRecipe(rng)
			t.Run(fmt.Sprint(n), func(t *testing.T) {
				t.Parallel()
				recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), text)
				run := func(args ...string) string {
					t.Helper()
					code, out, errs := invoke(t, t.TempDir(), append(args, docs...)...)
					if code > 1 {
						t.Fatalf("%s\n%s%s", text, out, errs)
					}
					return out
				}
				plan := decoded[report.Stow](t, run("stow", "--json", "--recipe", recipe), text)
				out := filepath.Join(t.TempDir(), "crate"+[]string{"", ".zip", ".tar.zst"}[n%3])
				rep := decoded[report.Seal](t, run("seal", "--json", "--recipe", recipe, "--out", out), text)
				exact := !strings.Contains(text, "type: flac") && !strings.Contains(text, "sound: {") && !strings.Contains(text, "trim")
				if rep.Files != plan.Files || exact && rep.Bytes != plan.Bytes {
					t.Errorf("sealed %d files, %d bytes; planned %d, %d\n%s", rep.Files, rep.Bytes, plan.Files, plan.Bytes, text)
				}
				into := t.TempDir()
				_, text2, errs := invoke(t, t.TempDir(), "receive", "--json", "--into", into, out)
				got := decoded[report.Receive](t, text2, errs)
				if got.Into == "" || got.Files != plan.Files {
					t.Fatalf("%s\n%s", text2, text)
				}
				crate := filepath.Join(got.Into, "data")
				var sealed, planned, moved []string
				for f := range coretest.Sums(t, crate) {
					rel, _ := filepath.Rel(crate, f)
					sealed = append(sealed, filepath.ToSlash(rel))
				}
				place := map[string]string{}
				content := map[[sha256.Size]byte]bool{}
				for _, b := range plan.Berths {
					planned = append(planned, b.To)
					if b.Source != "" && place[b.Source] == "" {
						place[b.Source] = b.To
					}
					content[before[b.Source]] = b.Source != "" || content[before[b.Source]]
				}
				slices.Sort(sealed)
				slices.Sort(planned)
				if !slices.Equal(sealed, planned) {
					t.Fatalf("sealed %q\nplanned %q\n%s", sealed, planned, text)
				}
				for _, d := range docs {
					moved = append(moved, filepath.Join(crate, place[d]))
				}
				is := traced(t, moved)
				k := 0
				for _, r := range were {
					if _, travels := place[r.Document]; !travels {
						continue
					}
					if k >= len(is) {
						t.Fatalf("only %d references in the crate\n%s", len(is), text)
					}
					if r.Path != nil {
						r.Files = []string{*r.Path}
					}
					want, now := "missing", is[k]
					if slices.ContainsFunc(r.Files, func(f string) bool { return content[before[f]] }) {
						want = "here"
					}
					if k++; now.State != want || now.Owner != r.Owner {
						t.Errorf("%s (%s) is %s as %q, %s was due\n%s", r.Written, r.Owner, now.State, now.Written, want, text)
					}
				}
				if k != len(is) {
					t.Errorf("%d references, %d in the crate\n%s", k, len(is), text)
				}
			})
		}
	})
	if after := coretest.Sums(t, dir); fmt.Sprint(after) != fmt.Sprint(before) {
		t.Error("a source was changed")
	}
}
