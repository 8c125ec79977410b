package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
)

// cut is a timeline of one track of sound.
func cut(urls ...string) string {
	span := `{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":0},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":25}}`
	var clips []string
	for _, u := range urls {
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","source_range":%s,"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"%s"}}`, span, u))
	}
	return `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[` + strings.Join(clips, ",") + `]}]}}`
}

// TestHandoff: what a recipe says is sealed to the letter of the plan, carried away, and
// complete with nothing else there: sounds at one rate and depth (by soxi), what is
// there twice once, an edit list that names what is in the crate, strays, and the
// sources byte for byte as they were.
func TestHandoff(t *testing.T) {
	if _, err := exec.LookPath("sox"); err != nil {
		t.Skip("sox is not installed; make test installs it where it may")
	}
	dir := coretest.Lay(t, map[string]string{"film/cut.otio": cut("sound/a.wav", "../lib/twin.wav", "sound/b.aiff", "sound/c.flac"), "film/notes.txt": "n"})
	at := func(p string) string { return filepath.Join(dir, p) }
	for f, args := range map[string][]string{"film/sound/a.wav": {"-r", "44100", "-b", "16"}, "film/sound/b.aiff": {"-r", "48000", "-b", "24"}, "film/sound/c.flac": {"-r", "96000", "-b", "24"}} {
		if err := os.MkdirAll(filepath.Dir(at(f)), 0o755); err != nil {
			t.Fatal(err)
		}
		if out, err := exec.Command("sox", append(append([]string{"-R", "-n"}, args...), at(f), "synth", "1.5", "pinknoise")...).CombinedOutput(); err != nil {
			t.Fatalf("%s", out)
		}
	}
	b, err := os.ReadFile(at("film/sound/a.wav"))
	if err != nil {
		t.Fatal(err)
	}
	coretest.Write(t, at("lib/twin.wav"), string(b))
	before := coretest.Sums(t, dir)
	recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "leave: [duplicates]\nalso: [strays]\nsound: {type: wav, rate: 48000, depth: 24}\ninterchange: [edl]\n")
	data := t.TempDir()
	p := answer[report.Stow](t, data, 0, "stow", "--json", "--recipe", recipe, at("film/cut.otio"))
	for _, out := range []string{"crate", "crate.zip", "crate.tar.zst"} {
		out = filepath.Join(t.TempDir(), out)
		rep := answer[report.Seal](t, data, 0, "seal", "--json", "--recipe", recipe, "--out", out, at("film/cut.otio"))
		if !rep.Complete || rep.Files != 6 || rep.Files != p.Files || rep.Bytes != p.Bytes {
			t.Fatalf("%+v", rep)
		}
		into := t.TempDir()
		answer[report.Receive](t, t.TempDir(), 0, "receive", "--json", "--into", into, out)
		crate := filepath.Join(into, "crate", "data")
		g := answer[report.Trace](t, t.TempDir(), 0, "trace", "--json", filepath.Join(crate, "cut.otio"))
		for _, r := range g.References {
			if r.State != "here" {
				t.Errorf("%s is %s", r.Written, r.State)
			}
		}
		var got []string
		for f := range coretest.Sums(t, crate) {
			rel, _ := filepath.Rel(crate, f)
			got = append(got, filepath.ToSlash(rel))
			if strings.HasSuffix(f, ".wav") {
				said, err := exec.Command("soxi", f).Output()
				if err != nil || !strings.Contains(string(said), "Sample Rate    : 48000") || !strings.Contains(string(said), "Precision      : 24-bit") || !strings.Contains(string(said), "72000 samples") {
					t.Errorf("%s: %s %v", f, said, err)
				}
			}
		}
		var planned []string
		for _, b := range p.Berths {
			planned = append(planned, b.To)
		}
		slices.Sort(got)
		slices.Sort(planned)
		if !slices.Equal(got, planned) {
			t.Errorf("sealed %q, planned %q", got, planned)
		}
		edl, err := os.ReadFile(filepath.Join(crate, "cut.edl"))
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range strings.Split(string(edl), "\n") {
			if f, ok := strings.CutPrefix(l, "* SOURCE FILE: "); ok {
				if _, err := os.Stat(filepath.Join(crate, f)); err != nil {
					t.Error(err)
				}
			}
		}
	}
	if after := coretest.Sums(t, dir); fmt.Sprint(after) != fmt.Sprint(before) {
		t.Error("a source was changed")
	}

	// A document that counts in samples is refused before anything is copied.
	coretest.Write(t, at("film/bell.sfz"), "<region> sample=sound/a.wav offset=100\n")
	out := filepath.Join(t.TempDir(), "x")
	code, _, errs := invoke(t, data, "seal", "--recipe", recipe, "--out", out, at("film/bell.sfz"))
	if code != 2 || !strings.Contains(errs, "bell.sfz") || !strings.Contains(errs, "samples") {
		t.Errorf("%d %s", code, errs)
	}
	if _, err := os.Stat(out); err == nil {
		t.Error("it was sealed all the same")
	}
}

// TestExport: losses are told and nothing is written; what is written is never over
// something; a list of what is no timeline is refused for forms that need one.
func TestExport(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"cut.otio": cut("a.wav"), "a.wav": "a", "all.m3u": "a.wav\n"})
	data := t.TempDir()
	doc, out := filepath.Join(dir, "cut.otio"), filepath.Join(dir, "cut.edl")
	rep := answer[report.Export](t, data, 0, "export", "--json", "--as", "edl", "--losses", doc)
	if rep.Written || rep.Losses == nil {
		t.Errorf("%+v", rep)
	}
	if rep = answer[report.Export](t, data, 0, "export", "--json", "--as", "edl", "--out", out, doc); !rep.Written || rep.Out != out {
		t.Errorf("%+v", rep)
	}
	for _, args := range [][]string{{"--as", "edl", "--out", out, doc}, {"--as", "cmx", "--out", out, doc}, {"--as", "edl", doc}, {"--as", "edl", "--out", out + "2", filepath.Join(dir, "all.m3u")}} {
		if code, _, errs := invoke(t, data, append([]string{"export"}, args...)...); code != 2 || errs == "" {
			t.Errorf("%v: %d %s", args, code, errs)
		}
	}
	if rep = answer[report.Export](t, data, 0, "export", "--json", "--as", "xspf", "--out", filepath.Join(dir, "all.xspf"), filepath.Join(dir, "all.m3u")); !rep.Written {
		t.Errorf("%+v", rep)
	}
	var any map[string]any
	b, _ := json.Marshal(rep)
	if err := json.Unmarshal(b, &any); err != nil || any["losses"] == nil {
		t.Errorf("%s", b)
	}
}

// TestTrim: sounds are cut to what is used and a second around it, the document tells
// the parts where they are now, and every sample of every part is what it was, by another
// reader; what a document cannot tell anew is not cut, and the original's length is
// told.
func TestTrim(t *testing.T) {
	for _, p := range []string{"sox", "ffmpeg"} {
		if _, err := exec.LookPath(p); err != nil {
			t.Skip(p + " is not installed; make test installs it where it may")
		}
	}
	span := func(from, length float64) string {
		return fmt.Sprintf(`{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%g},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%g}}`, from, length)
	}
	type used struct {
		file         string
		from, length float64 // frames
	}
	list := []used{{"a.wav", 240, 48}, {"a.wav", 300, 24}, {"b.flac", 100, 50}, {"c.aiff", 0, 24}, {"d.wav", 240, 24}, {"e.wav", 720, 48}}
	origin := map[string]float64{"e.wav": 36000 * 24} // at which its first frame is counted
	var clips []string
	for i, u := range list {
		more := ""
		if u.file == "d.wav" {
			more = `,"effects":[{"OTIO_SCHEMA":"LinearTimeWarp.1","time_scalar":2}]`
		}
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c%d","source_range":%s,"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"%s","available_range":%s}%s}`, i, span(origin[u.file]+u.from, u.length), u.file, span(origin[u.file], 24*40), more))
	}
	doc := `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[` + strings.Join(clips, ",") + `]}]}}`
	dir := coretest.Lay(t, map[string]string{"film/cut.otio": doc})
	for f, args := range map[string][]string{"a.wav": {"-r", "48000", "-b", "24", "-c", "2"}, "b.flac": {"-r", "44100", "-b", "16"}, "c.aiff": {"-r", "48000", "-b", "16"}, "d.wav": {"-r", "48000", "-b", "16"}} {
		if out, err := exec.Command("sox", append(append([]string{"-R", "-n"}, args...), filepath.Join(dir, "film", f), "synth", "40", "pinknoise")...).CombinedOutput(); err != nil {
			t.Fatalf("%s", out)
		}
	}
	if out, err := exec.Command("ffmpeg", "-v", "error", "-i", filepath.Join(dir, "film/a.wav"), "-c:a", "pcm_s24le", "-write_bext", "1", "-metadata", "time_reference=1728000000", filepath.Join(dir, "film/e.wav")).CombinedOutput(); err != nil {
		t.Fatalf("%s", out)
	}
	recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "trim: 1\n")
	out := filepath.Join(t.TempDir(), "crate")
	rep := answer[report.Seal](t, t.TempDir(), 0, "seal", "--json", "--recipe", recipe, "--out", out, filepath.Join(dir, "film/cut.otio"))
	if !rep.Complete {
		t.Fatalf("%+v", rep)
	}
	samples := func(file string, from, length float64) string {
		b, err := exec.Command("ffmpeg", "-v", "error", "-i", file, "-af", fmt.Sprintf("atrim=start=%.9f:duration=%.9f", from/24, length/24), "-f", "s32le", "-").Output()
		if err != nil || len(b) == 0 {
			t.Fatalf("%s: %v", file, err)
		}
		return string(b)
	}
	var got struct {
		Tracks struct {
			Children []struct {
				Children []struct {
					Source struct {
						Start    struct{ Value float64 } `json:"start_time"`
						Duration struct{ Value float64 }
					} `json:"source_range"`
					Ref struct {
						URL       string `json:"target_url"`
						Available struct {
							Start    struct{ Value float64 } `json:"start_time"`
							Duration struct{ Value float64 }
						} `json:"available_range"`
					} `json:"media_reference"`
				}
			}
		}
	}
	b, err := os.ReadFile(filepath.Join(out, "data", "cut.otio"))
	if err != nil || json.Unmarshal(b, &got) != nil {
		t.Fatalf("%v\n%s", err, b)
	}
	lengths := map[string]float64{"a.wav": 6, "b.flac": 5, "c.aiff": 2, "d.wav": 40, "e.wav": 4} // seconds: what is used, a second around it, whole seconds
	for i, c := range got.Tracks.Children[0].Children {
		u := list[i]
		file := filepath.Join(out, "data", filepath.FromSlash(c.Ref.URL))
		if samples(file, c.Source.Start.Value-c.Ref.Available.Start.Value, c.Source.Duration.Value) != samples(filepath.Join(dir, "film", u.file), u.from, u.length) {
			t.Errorf("clip %d plays something else", i)
		}
		if c.Ref.Available.Duration.Value != 24*lengths[u.file] {
			t.Errorf("clip %d is told to have %g frames", i, c.Ref.Available.Duration.Value)
		}
		said, err := exec.Command("soxi", "-D", file).Output()
		if err != nil || strings.TrimSpace(string(said)) != fmt.Sprintf("%.6f", lengths[u.file]) {
			t.Errorf("%s lasts %s", u.file, said)
		}
	}
	// What is counted from an hour of the day goes on being counted from there (EBU Tech 3285
	// §2.3: samples since midnight).
	said, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "format_tags=time_reference", "-of", "csv=p=0", filepath.Join(out, "data/audio/e.wav")).Output()
	last := got.Tracks.Children[0].Children[len(list)-1]
	if want := 48000 * (36000 + 29); err != nil || strings.TrimSpace(string(said)) != fmt.Sprint(want) || last.Ref.Available.Start.Value != 24*(36000+29) || last.Source.Start.Value != 24*36000+720 {
		t.Errorf("it begins at %s and is told to at %g; %v", said, last.Ref.Available.Start.Value, err)
	}
	record, err := os.ReadFile(filepath.Join(out, "crate.json"))
	if err != nil || !strings.Contains(string(record), `"long": 1920000`) && !strings.Contains(string(record), `"long":1920000`) {
		t.Errorf("the original's length is not told: %s", record)
	}
}

// TestTrimImages: of a sequence the images travel that are used, and those of a second
// around them; at every moment of every clip the document tells the image that it told
// before (OpenTimelineIO's frame_for_time: the first number and what has passed since the
// available range began). What a second document uses otherwise, and what is counted
// otherwise, is not cut.
func TestTrimImages(t *testing.T) {
	at := func(v float64) string { return fmt.Sprintf(`{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%g}`, v) }
	span := func(from, length float64) string {
		return `{"OTIO_SCHEMA":"TimeRange.1","start_time":` + at(from) + `,"duration":` + at(length) + `}`
	}
	type clip struct {
		from, length      float64 // of the media, in frames
		prefix            string
		first, step, rate int
		begin, count      float64 // of what is available, in frames
	}
	list := []clip{{1100, 24, "a.", 101, 1, 24, 1000, 200}, {1130, 12, "a.", 101, 1, 24, 1000, 200}, {40, 20, "b.", 1, 2, 24, 0, 120}, {10, 20, "c.", 1, 1, 24, 0, 100}, {10, 20, "c.", 2, 1, 24, 0, 99}, {30, 5, "d.", 0, 1, 24, 0, 31}}
	document := func(list []clip) string {
		var clips []string
		for i, c := range list {
			clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c%d","source_range":%s,"media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"img/","name_prefix":"%s","name_suffix":".png","start_frame":%d,"frame_step":%d,"rate":%d,"frame_zero_padding":4,"available_range":%s}}`,
				i, span(c.from, c.length), c.prefix, c.first, c.step, c.rate, span(c.begin, c.count)))
		}
		return `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"V1","kind":"Video","children":[` + strings.Join(clips, ",") + `]}]}}`
	}
	files := map[string]string{"film/cut.otio": document(list)}
	for _, c := range list {
		for i := 0; i < int(c.count)/c.step; i++ {
			name := fmt.Sprintf("img/%s%04d.png", c.prefix, c.first+i*c.step)
			files["film/"+name] = name
		}
	}
	dir := coretest.Lay(t, files)
	recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "trim: 1\ninterchange: [edl]\n")
	out := filepath.Join(t.TempDir(), "crate")
	if rep := answer[report.Seal](t, t.TempDir(), 0, "seal", "--json", "--recipe", recipe, "--out", out, filepath.Join(dir, "film/cut.otio")); !rep.Complete {
		t.Fatalf("%+v", rep)
	}
	var got struct {
		Tracks struct {
			Children []struct {
				Children []struct {
					Ref struct {
						Base      string `json:"target_url_base"`
						First     int    `json:"start_frame"`
						Available struct {
							Start    struct{ Value float64 } `json:"start_time"`
							Duration struct{ Value float64 }
						} `json:"available_range"`
					} `json:"media_reference"`
				}
			}
		}
	}
	b, err := os.ReadFile(filepath.Join(out, "data/cut.otio"))
	if err != nil || json.Unmarshal(b, &got) != nil {
		t.Fatalf("%v\n%s", err, b)
	}
	record, err := os.ReadFile(filepath.Join(out, "crate.json"))
	if err != nil || strings.Count(string(record), `"thinned"`) != 1 || !strings.Contains(strings.ReplaceAll(string(record), " ", ""), `"long":200`) {
		t.Errorf("the sequences' lengths are not told: %s", record)
	}
	travels := map[string]bool{}
	for f := range coretest.Sums(t, filepath.Join(out, "data")) {
		travels[filepath.Base(f)] = true
	}
	for i, c := range got.Tracks.Children[0].Children {
		was := list[i]
		image := func(media, begin float64, first int) string {
			passed := int(media-begin) / was.step * was.step
			return fmt.Sprintf("%s%04d.png", was.prefix, first+passed)
		}
		for m := was.from; m < was.from+was.length && m < was.begin+was.count; m++ {
			name := image(m, c.Ref.Available.Start.Value, c.Ref.First)
			b, err := os.ReadFile(filepath.Join(out, "data", filepath.FromSlash(c.Ref.Base), name))
			if want := "img/" + image(m, was.begin, was.first); err != nil || string(b) != want {
				t.Fatalf("clip %d at %g shows %s, was %s: %v", i, m, b, want, err)
			}
		}
	}
	for name, want := range map[string]bool{ // used are 201 to 242 of a, 41 to 59 of b
		"a.0176.png": false, "a.0177.png": true, "a.0266.png": true, "a.0267.png": false,
		"b.0015.png": false, "b.0017.png": true, "b.0083.png": true, "b.0085.png": false,
		"c.0001.png": true, "c.0100.png": true, "d.0000.png": true,
	} {
		if travels[name] != want {
			t.Errorf("%s travels: %v", name, travels[name])
		}
	}
}

// TestHandoffDrawings: a drawing of a part that travels takes with it what it names, and
// names all of it where it is in the crate: its pictures, another drawing it uses and the
// style of that, the part; what stays by choice stays. An earlier state that goes along is
// byte for byte what it was.
func TestHandoffDrawings(t *testing.T) {
	part := "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('CONFIG_CONTROL_DESIGN'));\nENDSEC;\nDATA;\n%s\nENDSEC;\nEND-ISO-10303-21;\n"
	svg := func(inside string) string {
		return `<svg xmlns="http://www.w3.org/2000/svg">` + inside + `</svg>`
	}
	dir := coretest.Lay(t, map[string]string{
		"clock/clock.stp":     fmt.Sprintf(part, "#1=DOCUMENT_FILE('parts/wheel.stp','wheel','',#2,'','');\n#2=DOCUMENT_TYPE('geometry');\n#3=DOCUMENT_FILE('parts/pin.png','pin','',#2,'','');"),
		"clock/parts/pin.png": "pin", "clock/parts/wheel.stp": fmt.Sprintf(part, "#1=CARTESIAN_POINT('',(0.,0.,0.));"),
		"clock/drawings/wheel.svg":    svg(`<a href="../parts/wheel.stp"/><image href="../parts/pin.png"/><image href="paper%20a.png"/><image href="../../shared/stamp.png"/><use href="arrows.svg#n"/><image href="lost.png"/>`),
		"clock/drawings/arrows.svg":   `<?xml-stylesheet href="pens/pen.css"?>` + svg(""),
		"clock/drawings/pens/pen.css": "g{fill:none}", "clock/drawings/paper a.png": "p", "shared/stamp.png": "s", "clock/clock-1.stp": fmt.Sprintf(part, "#1=DOCUMENT_FILE('parts/wheel.stp','wheel','',#2,'','');"),
	})
	for _, layout := range []string{"kind", "flat", "stands", `"{kind}/{n:2} {name}"`} {
		t.Run(layout, func(t *testing.T) {
			recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "layout: "+layout+"\nalso: [drawings, editions]\n")
			out := filepath.Join(t.TempDir(), "crate")
			rep := answer[report.Seal](t, t.TempDir(), 0, "seal", "--json", "--recipe", recipe, "--out", out, filepath.Join(dir, "clock/clock.stp"))
			var drawing, earlier string
			for f := range coretest.Sums(t, filepath.Join(out, "data")) {
				switch filepath.Base(f) {
				case "wheel.svg":
					drawing = f
				case "clock-1.stp":
					earlier = f
				}
			}
			if drawing == "" || earlier == "" || rep.Files != 9 {
				t.Fatalf("%+v", rep)
			}
			got := answer[report.Trace](t, t.TempDir(), 1, "trace", "--json", drawing)
			here := 0
			for _, f := range got.Files {
				if rel, _ := strings.CutPrefix(f.Path, out); strings.Contains(rel, "TestHandoff") {
					t.Errorf("%s tells of this machine's folders", rel)
				}
				if strings.HasPrefix(f.Path, out) && filepath.Base(f.Path) != "lost.png" && f.State != "missing" {
					here++
				} else if filepath.Base(f.Path) != "lost.png" {
					t.Errorf("%s is %s", f.Path, f.State)
				}
			}
			if here < 6 {
				t.Errorf("%d files of the drawing are there: %+v", here, got.Files)
			}
			was, err := os.ReadFile(filepath.Join(dir, "clock/clock-1.stp"))
			if err != nil {
				t.Fatal(err)
			}
			if is, err := os.ReadFile(earlier); err != nil || string(is) != string(was) {
				t.Errorf("the earlier state is another: %v", err)
			}
			told := false
			for _, l := range rep.Left {
				told = told || filepath.Base(l.Path) == "lost.png"
			}
			if !told {
				t.Errorf("what the drawing lacks is not told: %+v", rep.Left)
			}
		})
	}
	recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "also: [drawings]\ndrop: [\"parts/pin.png\"]\n")
	p := answer[report.Stow](t, t.TempDir(), 0, "stow", "--json", "--recipe", recipe, filepath.Join(dir, "clock/clock.stp"))
	var sources []string
	for _, b := range p.Berths {
		sources = append(sources, filepath.Base(b.Source))
	}
	if slices.Contains(sources, "pin.png") || !slices.Contains(sources, "wheel.svg") {
		t.Errorf("what stays by choice travels with a drawing: %q", sources)
	}
}
