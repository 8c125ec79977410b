package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/mend/mend/mendtest"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/report"
	"boundcrate/core/text/format/formattest"
)

// lastLine is what a command said last.
func lastLine(out string) string {
	lines := strings.Split(strings.TrimSpace(out), "\n")
	return lines[len(lines)-1]
}

// images is a timeline with one image sequence, of a duration that counts frames of a rate.
func images(dir, rate string, count int) string {
	return fmt.Sprintf(`{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"V1","children":[
{"OTIO_SCHEMA":"Clip.1","name":"sun","media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":%q,"name_prefix":"sun.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":%s,"frame_zero_padding":4,
"available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":%s,"value":0},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":%s,"value":%d}}}}]}]}}`, dir, rate, rate, rate, count)
}

// Documents that were given are in the crate and in its proof, in whatever order they and
// the texts they include were given.
func TestRootsAfterIncludes(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"in/bell.sfz": "<group>\n#include \"part.sfz\"\n<region> sample=a.wav\n", "in/part.sfz": "<region> sample=b.wav\n", "in/horn.sfz": "<region> sample=c.wav\n",
		"in/a.wav": "a", "in/b.wav": "b", "in/c.wav": "c",
	})
	bell, part, horn := dir+"/in/bell.sfz", dir+"/in/part.sfz", dir+"/in/horn.sfz"
	for i, docs := range [][]string{{bell, horn}, {horn, bell}, {part, bell, horn}, {bell, part, horn}, {horn, part, bell}} {
		data := t.TempDir()
		out := filepath.Join(dir, fmt.Sprint("out", i))
		rep := answer[report.Seal](t, data, 0, append([]string{"seal", "--json", "--out", out}, docs...)...)
		if !rep.Complete || rep.Files != 6 || rep.Proof.By != "identity" || rep.Proof.Expected != rep.Proof.Held || rep.Proof.Held < 4 {
			t.Errorf("%v: %+v", docs, rep)
		}
		tr := answer[report.Trace](t, data, 0, append([]string{"trace", "--json"}, docs...)...)
		if len(tr.Documents) != 2 {
			t.Errorf("%v: the documents are %v", docs, tr.Documents)
		}
		for _, name := range []string{"bell.sfz", "horn.sfz"} {
			if _, err := os.Stat(filepath.Join(out, "data", name)); err != nil {
				t.Errorf("%v: %v", docs, err)
			}
		}
	}
}

// Two texts that include each other are read once and sealed whole.
func TestIncludesBack(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"in/a.sfz": "#include \"b.sfz\"\n<region> sample=a.wav\n", "in/b.sfz": "#include \"a.sfz\"\n<region> sample=b.wav\n", "in/a.wav": "a", "in/b.wav": "b"})
	for i, docs := range [][]string{{"a.sfz"}, {"a.sfz", "b.sfz"}, {"b.sfz", "a.sfz"}} {
		args := []string{"seal", "--json", "--out", filepath.Join(dir, fmt.Sprint("out", i))}
		for _, d := range docs {
			args = append(args, filepath.Join(dir, "in", d))
		}
		code, out, errs := invoke(t, t.TempDir(), args...)
		rep := decoded[report.Seal](t, out, errs)
		if code == 0 && !rep.Complete || rep.Complete && rep.Files != 4 {
			t.Errorf("%v: %d %+v", docs, code, rep)
		}
	}
}

// A crate with a sequence holds the frames of just that one, whatever another of the same
// name in a folder of the same name has.
func TestSequencesOfOneName(t *testing.T) {
	files := map[string]string{"film/cut.otio": strings.Replace(images("a/sun/", "24", 3), `]}]}}`, `,`+strings.SplitN(strings.SplitN(images("b/sun/", "24", 6), `"children":[
`, 2)[1], `]}]}}`, 2)[0]+`]}]}}`, 1)}
	for i := 1; i <= 3; i++ {
		files[fmt.Sprintf("film/a/sun/sun.%04d.png", i)] = fmt.Sprint("a", i)
	}
	for i := 4; i <= 6; i++ { // the first three are gone
		files[fmt.Sprintf("film/b/sun/sun.%04d.png", i)] = fmt.Sprint("b", i)
	}
	dir := coretest.Lay(t, files)
	for _, layout := range []string{"kind", "flat", "stands", "document"} {
		recipe := coretest.Write(t, filepath.Join(dir, layout+".yaml"), "layout: "+layout+"\n")
		rep := answer[report.Seal](t, t.TempDir(), 1, "seal", "--json", "--recipe", recipe, "--out", filepath.Join(dir, "out-"+layout), dir+"/film/cut.otio")
		if rep.Complete || rep.Files != 7 {
			t.Errorf("%s: %+v", layout, rep)
		}
		// One of them had to give way, and READ ME says which and why.
		readme, err := os.ReadFile(filepath.Join(dir, "out-"+layout, "READ ME.txt"))
		if err != nil || strings.Contains(string(readme), "is now") != (layout != "stands") || !strings.Contains(string(readme), "when this was sealed: 2 references in 1 document: 3 frames missing from 1 sequence; ") {
			t.Errorf("%s: %v\n%s", layout, err, readme)
		}
		// Neither sequence finds frames of the other, now or when its own come.
		type found struct {
			References []struct {
				Written string
				Files   []string
				Gaps    []int
			}
		}
		for _, r := range answer[found](t, t.TempDir(), 1, "trace", "--json", filepath.Join(dir, "out-"+layout, "data/cut.otio")).References {
			for _, f := range r.Files {
				if b, err := os.ReadFile(f); err != nil || strings.HasPrefix(string(b), "a") != (len(r.Gaps) == 0) {
					t.Errorf("%s: %s leads to %s, %s", layout, r.Written, f, b)
				}
			}
		}
	}
}

// The only media of a placed item is missing when it is gone, whatever its folder is called.
func TestMissingPreviews(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"in/cut.m3u": "previews/horn.wav\nmix.tmp\n"})
	rep := answer[report.Seal](t, t.TempDir(), 1, "seal", "--json", "--out", dir+"/out", dir+"/in/cut.m3u")
	if rep.Complete || rep.Proof.Left != 2 || rep.Proof.Rebuildable != 0 {
		t.Errorf("%+v", rep)
	}
}

// A file that only a guess names, and that is left, is not forgotten.
func TestGuessedAndDropped(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"in/notes.zzz": "play sound/a.wav then sound/b.wav\n", "in/sound/a.wav": "a", "in/sound/b.wav": "b", "drop.yaml": "drop: [\"**/b.wav\"]\n"})
	rep := answer[report.Seal](t, t.TempDir(), 1, "seal", "--json", "--recipe", dir+"/drop.yaml", "--out", dir+"/out", dir+"/in/notes.zzz")
	if rep.Complete {
		t.Errorf("%+v", rep)
	}
	if code, out, _ := invoke(t, t.TempDir(), "check", dir+"/out"); code != 1 || strings.HasPrefix(lastLine(out), "Complete") {
		t.Error(code, out)
	}
}

// Whatever is changed in a crate, it is not called complete any more.
func TestChangedCrates(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"in/cut.m3u": "a.wav\nb.wav\n", "in/a.wav": "aaaa", "in/b.wav": "bbbb"})
	data := t.TempDir()
	for what, change := range map[string]func(at string){
		"a byte":     func(at string) { coretest.Write(t, at+"/data/audio/a.wav", "aaab") },
		"a document": func(at string) { coretest.Write(t, at+"/data/cut.m3u", "audio/a.wav\naudio/a.wav\n") },
		"an extra":   func(at string) { coretest.Write(t, at+"/data/audio/c.wav", "c") },
		"a manifest": func(at string) {
			b, _ := os.ReadFile(at + "/manifest-sha256.txt")
			coretest.Write(t, at+"/manifest-sha256.txt", strings.Replace(string(b), "a", "b", 1))
		},
		"a name": func(at string) { os.Rename(at+"/data/audio/a.wav", at+"/data/audio/z.wav") },
		"a lost": func(at string) { os.Remove(at + "/data/audio/a.wav") },
		"no documents in the record": func(at string) {
			b, _ := os.ReadFile(at + "/crate.json")
			var rec map[string]any
			if err := json.Unmarshal(b, &rec); err != nil {
				t.Fatal(err)
			}
			rec["documents"] = []any{}
			b, _ = json.Marshal(rec)
			coretest.Write(t, at+"/crate.json", string(b))
			os.Remove(at + "/tagmanifest-sha256.txt")
		},
		"no record": func(at string) { os.Remove(at + "/crate.json") },
	} {
		at := filepath.Join(t.TempDir(), "c")
		answer[report.Seal](t, data, 0, "seal", "--json", "--out", at, dir+"/in/cut.m3u")
		if code, out, _ := invoke(t, data, "check", at); code != 0 || !strings.HasPrefix(lastLine(out), "Complete: 2 of 2 references") {
			t.Fatal(code, out)
		}
		change(at)
		code, out, _ := invoke(t, data, "check", at)
		if code != 1 || strings.HasPrefix(lastLine(out), "Complete") {
			t.Errorf("%s: %d %s", what, code, out)
		}
		if rep := answer[report.Seal](t, data, 1, "check", "--json", at); rep.Complete {
			t.Errorf("%s: %+v", what, rep)
		}
	}
}

// Times of files are kept in every form, in the record, and on receiving.
func TestTimes(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"in/cut.m3u": "a.wav\n", "in/a.wav": "aaaa"})
	was := time.Date(2019, 5, 4, 3, 2, 1, 0, time.UTC)
	for _, f := range []string{"cut.m3u", "a.wav"} {
		if err := os.Chtimes(filepath.Join(dir, "in", f), was, was); err != nil {
			t.Fatal(err)
		}
	}
	for _, end := range []string{"", ".zip", ".tar", ".tar.gz", ".tar.zst"} {
		out := filepath.Join(dir, "c"+end)
		answer[report.Seal](t, t.TempDir(), 0, "seal", "--json", "--out", out, dir+"/in/cut.m3u")
		got := answer[report.Receive](t, t.TempDir(), 0, "receive", "--json", "--into", filepath.Join(dir, "into"+end), out)
		for _, f := range []string{"cut.m3u", "audio/a.wav"} {
			if fi, err := os.Stat(filepath.Join(got.Into, "data", f)); err != nil || !fi.ModTime().Equal(was) {
				t.Errorf("%s: %s is of %v (%v)", end, f, fi.ModTime(), err)
			}
		}
		if b, _ := os.ReadFile(filepath.Join(got.Into, "crate.json")); !strings.Contains(string(b), `"modified": "2019-05-04T03:02:01Z"`) {
			t.Errorf("%s: the record tells no time", end)
		}
	}
}

// Limits and second words: an archive of an unknown kind, a crate that keeps the project on
// the project's own drive, paths that some systems do not take, a document that cannot be
// left out of its own crate.
func TestLimits(t *testing.T) {
	deep := strings.Repeat("a folder with a long name/", 10)
	dir := coretest.Lay(t, map[string]string{
		"in/cut.m3u": "#EXTM3U\n" + deep + "a.wav\nb.bin\n", "in/" + deep + "a.wav": "a", "in/b.bin": "b",
		"archive.yaml": "also: [companions, editions, renders, strays]\n", "stands.yaml": "layout: stands\n", "drop.yaml": "drop: [cut.m3u]\n",
	})
	doc, data := dir+"/in/cut.m3u", t.TempDir()
	for _, end := range []string{".7z", ".rar", ".tgz", ".tar.bz2", ".tar.xz"} {
		if code, _, errs := invoke(t, data, "seal", "--out", dir+"/c"+end, doc); code != 2 || !strings.Contains(errs, "cannot be made") {
			t.Errorf("%s: %d %s", end, code, errs)
		}
	}
	if code, _, errs := invoke(t, data, "seal", "--recipe", dir+"/archive.yaml", "--out", dir+"/a.zip", doc); code != 2 || !strings.Contains(errs, "--same-drive") {
		t.Errorf("%d %s", code, errs)
	}
	if code, _, errs := invoke(t, data, "seal", "--recipe", dir+"/archive.yaml", "--same-drive", "--out", dir+"/a.zip", doc); code != 0 {
		t.Errorf("%d %s", code, errs)
	}
	for recipe, says := range map[string]string{"stands": "240 characters", "drop": "cannot be left out"} {
		rep := answer[report.Stow](t, data, 1, "stow", "--json", "--recipe", dir+"/"+recipe+".yaml", doc)
		if len(rep.Problems) != 1 || !strings.Contains(rep.Problems[0].Message, says) {
			t.Errorf("%s: %+v", recipe, rep.Problems)
		}
	}
	for _, args := range [][]string{{"check", dir + "/a.zip"}, {"receive", "--into", dir + "/got", dir + "/a.zip"}} {
		if code, out, errs := invoke(t, data, append(args, "--data", filepath.Join(dir, "data"))...); code != 0 {
			t.Errorf("%v: %d %s%s", args, code, out, errs)
		}
	}
}

// What the command line tells of a project's surroundings, as the contract says: a rate that
// is another than told, a folder that another document writes into, companions that stayed
// behind or are gone.
func TestSurroundings(t *testing.T) {
	records := func(to string) string {
		return strings.Replace(clips(), `"name":"A1"`, `"name":"A1","metadata":{"bound_crate":{"record_to":"`+to+`"}}`, 1)
	}
	dir := coretest.Lay(t, map[string]string{
		"film/list.csv": "path,rate\na.wav,48000\n", "film/a.wav": string(mendtest.Wave(make([]byte, 88200))),
		"film/cut.otio": records("../takes"), "trailer/cut.otio": records("../takes"), "takes/x.wav": "x",
		"song/mix.m3u": "#EXTM3U\nb.wav\n", "song/b.wav": "b", "song/mix_data/peaks": "p",
	})
	data := t.TempDir()
	tr := answer[report.Trace](t, data, 1, "trace", "--json", dir+"/film/list.csv")
	if len(tr.Files) == 0 || !slices.Contains(tr.Files[0].Suspect, graph.OtherRate) {
		t.Errorf("%+v", tr.Files)
	}
	warned := func(tr report.Trace, code origin.WarningCode) bool {
		return slices.ContainsFunc(tr.Warnings, func(w report.Warning) bool { return w.Code == code })
	}
	if tr := answer[report.Trace](t, data, 1, "trace", "--json", dir+"/film/cut.otio"); warned(tr, origin.SharedFolder) {
		t.Errorf("nobody else writes there: %+v", tr.Warnings)
	}
	if tr := answer[report.Trace](t, data, 1, "trace", "--json", dir+"/trailer/cut.otio"); !warned(tr, origin.SharedFolder) {
		t.Errorf("%+v", tr.Warnings)
	}
	// The data folder is there, then gone.
	companion := func() origin.Companion {
		tr := answer[report.Trace](t, data, 0, "trace", "--json", dir+"/song/mix.m3u")
		if len(tr.Companions) != 1 {
			t.Fatalf("%+v", tr.Companions)
		}
		return tr.Companions[0]
	}
	if c := companion(); c.State != graph.Here {
		t.Errorf("%+v", c)
	}
	if err := os.Rename(dir+"/song/mix_data", dir+"/aside"); err != nil {
		t.Fatal(err)
	}
	if c := companion(); c.State != graph.Missing {
		t.Errorf("%+v", c)
	}
}

// A project that was copied and still reads from its old copy is told by mend, which makes it
// read its own; files on a drive that is out are told by the drive; of candidates that are
// alike in all, the one of the folder named first comes first.
func TestMendOffers(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"old/film/a.wav": "a", "old/film/b.wav": "b", "new/film/a.wav": "a", "new/film/b.wav": "b", "one/x.wav": "x", "two/x.wav": "x"})
	doc := coretest.Write(t, dir+"/new/film/cut.otio", clips(dir+"/old/film/a.wav", dir+"/old/film/b.wav"))
	data := t.TempDir()
	m := answer[report.Mend](t, data, 0, "mend", "--json", "--search", dir+"/new", doc)
	if len(m.Moved) != 1 || m.Moved[0].From != dir+"/old/film" || m.Moved[0].To != dir+"/new/film" || len(m.Written) != 0 {
		t.Errorf("%+v", m)
	}
	if code, out, errs := invoke(t, data, "mend", "--search", dir+"/new", doc); code != 0 || !strings.Contains(out, "--accept moved") {
		t.Error(code, out, errs)
	}
	if m = answer[report.Mend](t, data, 0, "mend", "--json", "--write", "--accept", "moved", "--search", dir+"/new", doc); len(m.Written) != 1 {
		t.Errorf("%+v", m)
	}
	for _, r := range answer[report.Trace](t, data, 0, "trace", "--json", doc).References {
		if r.State != graph.Here {
			t.Errorf("%+v", r)
		}
	}
	out := coretest.Write(t, dir+"/trip/cut.otio", clips(dir+"/shuttle/a.wav", dir+"/shuttle/b.wav"))
	m = answer[report.Mend](t, data, 1, "mend", "--json", "--drive", "Shuttle="+dir+"/shuttle", "--search", dir+"/one", out)
	if len(m.Unplugged) != 1 || m.Unplugged[0].Drive != "Shuttle" || m.Unplugged[0].Files != 2 {
		t.Errorf("%+v", m.Unplugged)
	}
	if code, text, _ := invoke(t, data, "mend", "--drive", "Shuttle="+dir+"/shuttle", "--search", dir+"/one", out); code != 1 || !strings.Contains(text, "2 files on Shuttle") {
		t.Error(code, text)
	}
	lost := coretest.Write(t, dir+"/lost/cut.otio", clips("x.wav"))
	for _, order := range [][2]string{{"one", "two"}, {"two", "one"}} {
		m := answer[report.Mend](t, t.TempDir(), 1, "mend", "--json", "--search", dir+"/"+order[0], "--search", dir+"/"+order[1], lost)
		if len(m.Missing) != 1 || len(m.Missing[0].Candidates) != 2 || !strings.Contains(m.Missing[0].Candidates[0].Path, "/"+order[0]+"/") {
			t.Errorf("%v: %+v", order, m.Missing)
		}
	}
}

// TestLackingParts: what a package should hold and does not is missing, in every package format, and
// its frames too: nothing is called all here over it, whether the package is opened itself or named.
func TestLackingParts(t *testing.T) {
	clip := func(media string) string {
		return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[{"OTIO_SCHEMA":"Clip.1","media_reference":` + media + `}]}]}}`
	}
	images := `{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"media/","name_prefix":"f.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":2,"available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":1},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":3}}}`
	rootfile := `<container xmlns="urn:oasis:names:tc:opendocument:xmlns:container"><rootfiles><rootfile full-path="p.opf"/></rootfiles></container>`
	for name, whole := range map[string][]string{
		"a.odt":   {"mimetype", "application/vnd.oasis.opendocument.text", "content.xml", `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:image xlink:href="Pictures/1.png"/></office:document-content>`, "Pictures/1.png", "\x89PNG\r\n\x1a\n"},
		"b.otioz": {"version.txt", "1.0.0", "content.otio", clip(`{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/1.wav"}`), "media/1.wav", "1"},
		"c.otioz": {"version.txt", "1.0.0", "content.otio", clip(images), "media/f.01.png", "1", "media/f.03.png", "3", "media/f.02.png", "2"},
		"d.epub":  {"mimetype", "application/epub+zip", "META-INF/container.xml", rootfile, "p.opf", `<package xmlns="http://www.idpf.org/2007/opf"><manifest><item id="a" href="img/1.png"/></manifest></package>`, "img/1.png", "\x89PNG\r\n\x1a\n"},
		"e.usdz":  {"e.usda", "#usda 1.0\ndef \"a\" { asset f = @tex/1.png@\n}\n", "tex/1.png", "1"},
	} {
		for _, lacks := range []bool{false, true} {
			members := whole
			if lacks {
				members = whole[:len(whole)-2]
			}
			dir := coretest.Lay(t, map[string]string{name: formattest.Zip(members...), "all.m3u": "#EXTM3U\n" + name + "\n"})
			for _, doc := range []string{name, "all.m3u"} {
				code, out, errs := invoke(t, t.TempDir(), "trace", filepath.Join(dir, doc))
				want := 0
				if lacks {
					want = 1
				}
				if code != want || lacks == strings.Contains(out, "Everything is here") || lacks != strings.Contains(out, "1 part missing from packages") {
					t.Errorf("%s by %s, lacking %v: %d\n%s%s", name, doc, lacks, code, out, errs)
				}
			}
		}
	}
}
