package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
)

// studio is a drive with an old copy of a film that others still lean on.
func studio(t *testing.T) (bench string) {
	t.Helper()
	return filepath.Join(coretest.Lay(t, map[string]string{
		"bench/old/cut.otio":           clips("sound/gull.wav", "sound/horn.wav"),
		"bench/old/sound/gull.wav":     "gull",
		"bench/old/sound/horn.wav":     "horn, of which there is one",
		"bench/old/sound/idle.wav":     "nobody needs it",
		"bench/film/cut.otio":          strings.Replace(clips("../old/sound/gull.wav", "../old/sound/horn.wav"), `"name":"A1"`, `"name":"A1","metadata":{"bound_crate":{"record_to":"../old/takes"}}`, 1),
		"bench/copies/gull again.wav":  "gull",
		"bench/free/notes/x.wav":       "free",
		"bench/trailer/t.m3u":          "#EXTM3U\n../old/sound/gull.wav\n",
		"bench/exhibit/list.csv":       "path\n../film/cut.otio\n",
		"bench/old/takes/.keep/x.wav":  "x",
		"bench/settings/unrelated.txt": "no document",
	}), "bench")
}

// TestClearout: who outside a folder reads from it, writes into it, and what has
// its only copy there; a folder nobody needs is safe, and none is while a drive
// is out or a document cannot be read.
func TestClearout(t *testing.T) {
	bench, data := studio(t), t.TempDir()
	drive := "Bench=" + bench
	at := func(p string) string { return filepath.Join(bench, p) }
	c := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", drive, at("old"))
	var readers []string
	for _, r := range c.ReadBy {
		rel, _ := filepath.Rel(bench, r.Document)
		file, _ := filepath.Rel(bench, r.Path)
		readers = append(readers, rel+" "+file+" "+strconv.Itoa(len(r.Elsewhere)))
	}
	slices.Sort(readers)
	want := []string{"film/cut.otio old/sound/gull.wav 1", "film/cut.otio old/sound/horn.wav 0", "trailer/t.m3u old/sound/gull.wav 1"}
	if c.Safe || !slices.Equal(readers, want) {
		t.Errorf("read by %q, want %q", readers, want)
	}
	if len(c.WrittenBy) != 1 || c.WrittenBy[0].Document != at("film/cut.otio") || c.WrittenBy[0].Path != at("old/takes") {
		t.Errorf("%+v", c.WrittenBy)
	}
	if !slices.Equal(c.OnlyCopies, []string{at("old/sound/horn.wav")}) || !slices.Equal(c.Documents, []string{at("old/cut.otio")}) || len(c.Unread) != 0 {
		t.Errorf("%+v", c)
	}
	if free := answer[report.Clearout](t, data, allWell, "clearout", "--json", "--drive", drive, at("free")); !free.Safe {
		t.Errorf("%+v", free)
	}
	// A drive that is out may hold whoever needs it.
	out := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", drive, "--drive", "Shuttle="+filepath.Join(bench, "..", "none"), at("free"))
	if out.Safe || !slices.Equal(out.Unread, []string{"Shuttle"}) {
		t.Errorf("%+v", out)
	}
	// A document that makes no sense may need anything.
	broken := coretest.Write(t, at("trailer/broken.otio"), `{"OTIO_SCHEMA":"Timeline.1",`)
	if got := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", drive, at("free")); got.Safe || !slices.Equal(got.Unread, []string{broken}) {
		t.Errorf("%+v", got)
	}
	if err := os.Remove(broken); err != nil {
		t.Fatal(err)
	}
	// Once the film and the trailer name their own, the old copy may go: what
	// changed is read again, what did not is known.
	coretest.Write(t, at("film/cut.otio"), clips("../copies/gull again.wav"))
	coretest.Write(t, at("trailer/t.m3u"), "#EXTM3U\n../copies/gull again.wav\n")
	if got := answer[report.Clearout](t, data, allWell, "clearout", "--json", "--drive", drive, at("old")); !got.Safe || len(got.Documents) != 1 {
		t.Errorf("%+v", got)
	}
	// A document outside the drives that was traced before is asked as it is now.
	outside := coretest.Write(t, filepath.Join(bench, "../desk/list.m3u"), "#EXTM3U\n./nothing.wav\n")
	if code, _, errs := invoke(t, data, "trace", outside); code == notDone {
		t.Fatal(errs)
	}
	coretest.Write(t, outside, "#EXTM3U\n../bench/free/notes/x.wav\n")
	if got := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", drive, at("free")); len(got.ReadBy) != 1 || got.ReadBy[0].Document != filepath.Clean(outside) {
		t.Errorf("%+v", got)
	}
	// One that looks for a name anywhere finds the file where it stands now.
	cue := "FILE \"anywhere.wav\" WAVE\n  TRACK 01 AUDIO\n    INDEX 01 00:00:00\n"
	coretest.Write(t, at("mix/mix.cue"), cue)
	roamer := coretest.Write(t, at("mix/a/anywhere.wav"), "roams")
	before := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", drive, at("mix/a"))
	if err := os.Rename(roamer, coretest.Write(t, at("mix/b/anywhere.wav"), "")); err != nil {
		t.Fatal(err)
	}
	if after := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", drive, at("mix/b")); len(before.ReadBy) != 1 || len(after.ReadBy) != 1 {
		t.Errorf("%+v, then %+v", before.ReadBy, after.ReadBy)
	}
	// Through a link it is the same folder.
	link := filepath.Join(bench, "..", "link")
	if err := os.Symlink(at("copies"), link); err != nil {
		t.Fatal(err)
	}
	if got := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", drive, link); got.Safe || len(got.ReadBy) != 2 {
		t.Errorf("%+v", got)
	}
}

// TestWhere: every known document that names a file, through links too.
func TestWhere(t *testing.T) {
	bench, data := studio(t), t.TempDir()
	at := func(p string) string { return filepath.Join(bench, p) }
	if w := answer[report.Where](t, data, allWell, "where", "--json", at("old/sound/gull.wav")); len(w.Files) != 1 || len(w.Files[0].Documents) != 0 || w.AsOf != nil {
		t.Errorf("%+v", w)
	}
	for _, doc := range []string{"film/cut.otio", "trailer/t.m3u"} {
		if code, _, errs := invoke(t, data, "trace", at(doc)); code == notDone {
			t.Fatal(errs)
		}
	}
	w := answer[report.Where](t, data, allWell, "where", "--json", at("old/sound/gull.wav"), at("old/sound/idle.wav"), at("old/takes"))
	if len(w.Files) != 3 || len(w.Files[0].Documents) != 2 || len(w.Files[1].Documents) != 0 || len(w.Files[2].Documents) != 1 || w.Files[2].Documents[0].Role != "write" || w.AsOf == nil {
		t.Errorf("%+v", w)
	}
}

// TestIndexJudges: find and du count the same files and bytes; a file with two
// names is counted once in bytes.
func TestIndexJudges(t *testing.T) {
	bench, data := studio(t), t.TempDir()
	if err := os.Link(filepath.Join(bench, "free/notes/x.wav"), filepath.Join(bench, "free/again.wav")); err != nil {
		t.Fatal(err)
	}
	got := answer[report.Indexed](t, data, allWell, "index", "--json", "--drive", "Bench="+bench).Drives[0]
	if _, err := exec.LookPath("find"); err == nil {
		out, err := exec.Command("find", bench, "-type", "f").Output()
		if n := strings.Count(string(out), "\n"); err != nil || n != got.Files {
			t.Errorf("find has %d files, we %d", n, got.Files)
		}
		sizes, err := exec.Command("find", bench, "-type", "f", "-printf", "%i %s\n").Output()
		if err == nil {
			met, sum := map[string]bool{}, int64(0)
			for _, l := range strings.Split(strings.TrimSpace(string(sizes)), "\n") {
				ino, size, _ := strings.Cut(l, " ")
				if n, _ := strconv.ParseInt(size, 10, 64); !met[ino] {
					met[ino] = true
					sum += n
				}
			}
			if sum != got.Bytes {
				t.Errorf("find has %d bytes, we %d", sum, got.Bytes)
			}
		}
	}
	if code, _, _ := invoke(t, data, "index"); code != notDone {
		t.Error("no drive at all was indexed")
	}
	away := answer[report.Indexed](t, data, needPerson, "index", "--json", "--drive", "Away="+filepath.Join(bench, "none"))
	if len(away.Drives[0].Unread) != 1 {
		t.Errorf("%+v", away)
	}
}

// TestEvidenceOfAbsence: a folder is called safe only where no document may lead into it: by
// any candidate of an ambiguous name, through links, by each frame, by where it writes; of
// documents under any name; and never while something could not be read, however often it
// is asked.
func TestEvidenceOfAbsence(t *testing.T) {
	edl := "TITLE: X\nFCM: NON-DROP FRAME\n001  AX V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: card\n"
	link := func(from, to string) func(t *testing.T, dir string) {
		return func(t *testing.T, dir string) {
			if err := os.Symlink(filepath.Join(dir, to), filepath.Join(dir, from)); err != nil {
				t.Fatal(err)
			}
		}
	}
	frames := map[string]string{"film/cut.otio": images("../seq/", "24", 2), "old/sun.0002.png": "2", "seq/sun.0001.png": "1"}
	for what, c := range map[string]struct {
		files map[string]string
		then  func(t *testing.T, dir string)
	}{
		"an ambiguous name":             {map[string]string{"film/cut.edl": edl, "a/card.mov": "1", "old/card.mov": "2"}, nil},
		"a frame behind a link":         {frames, link("seq/sun.0002.png", "old/sun.0002.png")},
		"a folder behind a link":        {map[string]string{"film/cut.m3u": "takes/a.wav\n", "old/a.wav": "a"}, link("film/takes", "old")},
		"a writing through a link":      {map[string]string{"film/cut.otio": strings.Replace(clips(), `"name":"A1"`, `"name":"A1","metadata":{"bound_crate":{"record_to":"takes"}}`, 1), "old/a.wav": "a"}, link("film/takes", "old")},
		"a new folder through a link":   {map[string]string{"film/cut.otio": strings.Replace(clips(), `"name":"A1"`, `"name":"A1","metadata":{"bound_crate":{"record_to":"takes/new"}}`, 1), "old/a.wav": "a"}, link("film/takes", "old")},
		"frames of a linked folder":     {map[string]string{"film/cut.otio": images("../seq/", "24", 2), "old/sun.0001.png": "1", "old/sun.0002.png": "2"}, link("seq", "old")},
		"a hidden document":             {map[string]string{"film/.cut.otio": clips("../old/a.wav"), "old/a.wav": "a"}, nil},
		"a copy":                        {map[string]string{"film/cut.otio.bak": clips("../old/a.wav"), "old/a.wav": "a"}, nil},
		"another ending":                {map[string]string{"film/cut.json": clips("../old/a.wav"), "old/a.wav": "a"}, nil},
		"no ending":                     {map[string]string{"film/cut": clips("../old/a.wav"), "old/a.wav": "a"}, nil},
		"a backup's list":               {map[string]string{"film/list.m3u~": "#EXTM3U\n../old/a.wav\n", "old/a.wav": "a"}, nil},
		"what makes no sense, deeper":   {map[string]string{"film/cut.m3u": "deep.otio\n", "film/deep.otio": `{"OTIO_SCHEMA":"Timeline.1",`, "old/a.wav": "a"}, nil},
		"a document in a hidden folder": {map[string]string{"film/.kept/cut.m3u": "#EXTM3U\n../../old/a.wav\n", "old/a.wav": "a"}, nil},
	} {
		t.Run(what, func(t *testing.T) {
			dir, data := coretest.Lay(t, c.files), t.TempDir()
			if c.then != nil {
				c.then(t, dir)
			}
			for range 2 { // what is known by then is not forgotten
				if got := answer[report.Clearout](t, data, needPerson, "clearout", "--json", "--drive", "Bench="+dir, filepath.Join(dir, "old")); got.Safe || len(got.ReadBy)+len(got.WrittenBy)+len(got.Unread) == 0 {
					t.Errorf("%+v", got)
				}
			}
		})
	}
	// Nobody needs it, and it is told how far it was looked.
	dir := coretest.Lay(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/a.wav": "a", "old/a.wav": "a", "film/notes": "none"})
	if got := answer[report.Clearout](t, t.TempDir(), allWell, "clearout", "--json", "--drive", "Bench="+dir, filepath.Join(dir, "old")); !got.Safe || !got.Coverage.Whole || got.Coverage.Documents != 1 || got.Coverage.Looked != 2 || got.Coverage.Skipped != 2 {
		t.Errorf("%+v", got)
	}
}

// TestWhereAfterIndex: whoever asks right after a drive was indexed is answered.
func TestWhereAfterIndex(t *testing.T) {
	bench, data := studio(t), t.TempDir()
	answer[report.Indexed](t, data, allWell, "index", "--json", "--drive", "Bench="+bench)
	w := answer[report.Where](t, data, allWell, "where", "--json", filepath.Join(bench, "old/sound/gull.wav"))
	if len(w.Files) != 1 || len(w.Files[0].Documents) != 3 {
		t.Errorf("%+v", w)
	}
}
