package origin_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

func judge(t *testing.T, root string, o origin.Options, docs ...string) (*graph.Graph, *origin.Judged) {
	t.Helper()
	g, err := trace.Run(t.Context(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Drives: o.Drives, Root: root}, docs...)
	if err != nil {
		t.Fatal(err)
	}
	o.Reach = drive.System{}
	return g, origin.Judge(g, o)
}

// Tracks play at one time, the clips of one after the other. A sound of a compact
// disc asks for 1,411,200 bit/s (IEC 60908), more than a CD-ROM drive at 1× gives,
// 153,600 B/s (ISO/IEC 10149), and less than a DVD drive at 1×, 11.08 Mbit/s
// (ECMA-267), gives to seven of them.
func TestNeeds(t *testing.T) {
	const cd = 1_411_200 / 8
	// One second of it, as a WAVE file of linear PCM (IBM and Microsoft 1991).
	second := "RIFF4\xb1\x02\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x02\x00\x44\xac\x00\x00\x10\xb1\x02\x00\x04\x00\x10\x00data" + string([]byte{0x10, 0xb1, 0x02, 0}) + strings.Repeat("x", cd)
	dir := t.TempDir()
	disc := filepath.Join(dir, "disc")
	var tracks []string
	for i := range 8 {
		for k := range 2 {
			coretest.Write(t, fmt.Sprintf("%s/%d-%d.wav", disc, i, k), second)
		}
		clip := func(k int) string {
			return fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c%d","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"../disc/%d-%d.wav"}}`, k, i, k)
		}
		tracks = append(tracks, fmt.Sprintf(`{"OTIO_SCHEMA":"Track.1","name":"A%d","kind":"Audio","children":[%s,%s]}`, i, clip(0), clip(1)))
	}
	for n := 1; n <= 8; n++ {
		doc := coretest.Write(t, filepath.Join(dir, "film", "cut.otio"), `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[`+strings.Join(tracks[:n], ",")+`]}}`)
		for _, c := range []struct {
			gives int64
			slow  bool
		}{{153_600, true}, {11_080_000 / 8, n > 7}, {int64(n) * cd, false}} {
			_, j := judge(t, filepath.Dir(doc), origin.Options{Drives: []drive.Drive{{ID: "d", Name: "Loft", Dir: disc, Kind: drive.Fixed, Gives: c.gives}}}, doc)
			if len(j.Needs) != 1 || j.Needs[0].Bytes != int64(n)*cd || j.Needs[0].Files != 2*n {
				t.Fatalf("%d tracks: %+v", n, j.Needs)
			}
			if slow := slices.ContainsFunc(j.Warnings, func(w origin.Warning) bool { return w.Code == origin.SlowDrive }); slow != c.slow {
				t.Errorf("%d tracks from a drive that gives %d: slow is %v", n, c.gives, slow)
			}
		}
	}
	// Nobody measured it: sound is not played off a disc (common practice).
	_, j := judge(t, filepath.Join(dir, "film"), origin.Options{Drives: []drive.Drive{{ID: "d", Name: "Loft", Dir: disc, Kind: drive.Optical}}}, filepath.Join(dir, "film", "cut.otio"))
	if !slices.ContainsFunc(j.Warnings, func(w origin.Warning) bool { return w.Code == origin.SlowDrive && w.Drive == "Loft" }) {
		t.Errorf("nothing is said of sound on a disc: %+v", j.Warnings)
	}
}

// The states of a document are found by their names; another document is none.
func TestSiblings(t *testing.T) {
	for _, c := range []struct {
		of    string
		names []string // from old to new
		want  string   // newest first; a question mark where only figures differ
	}{
		{"cut-04.otio", []string{"cut-03.otio", "cut-04.otio", "opening.otio", "cut-05.edl"}, "cut-04? cut-03?"},
		{"film.otio", []string{"film old.otio", "film.otio", "film final.otio", "film really final (2).otio", "filming.otio"}, "film really final (2) film final film? film old"},
		{"tide clock v2.stp", []string{"tide clock.stp", "tide clock v2.stp", "tide clock v10.stp", "tide clock v2 copy.stp", "tide dial v2.stp"}, "tide clock v2 copy tide clock v10 tide clock v2? tide clock"},
		{"mix 2026-03-04.adl", []string{"mix 2026-03-04.adl", "mix 2026-03-05.adl", "mix.edition-1.adl", "mixer.adl"}, "mix 2026-03-05 mix 2026-03-04"},
		{"20260304.adl", []string{"20260304.adl", "20260305.adl"}, ""},
		{"alone.gltf", []string{"alone.gltf", "other.gltf"}, ""},
	} {
		dir := t.TempDir()
		for i, n := range c.names {
			p := coretest.Write(t, filepath.Join(dir, n), "x")
			if err := os.Chtimes(p, time.Time{}, time.Unix(int64(1_700_000_000+60*i), 0)); err != nil {
				t.Fatal(err)
			}
		}
		var got []string
		for i, s := range origin.Siblings(drive.System{}, filepath.Join(dir, c.of)) {
			n := strings.TrimSuffix(filepath.Base(s.Path), filepath.Ext(s.Path))
			if s.Bare {
				n += "?"
			}
			if got = append(got, n); s.Newest != (i == 0) {
				t.Errorf("%s: %s is newest: %v", c.of, n, s.Newest)
			}
		}
		if s := strings.Join(got, " "); s != c.want {
			t.Errorf("%s: %q, not %q", c.of, s, c.want)
		}
	}
}

// A managed store tells the revision in use and a newer one that has the file.
func TestRevisions(t *testing.T) {
	dir := t.TempDir()
	for _, p := range []string{"great wheel/r1/great wheel.stp", "great wheel/r2/great wheel.stp", "great wheel/r10/great wheel.stp", "great wheel/r11/notes.txt", "dial/3/dial.stp", "dial/2/dial.stp", "plain/plate.stp"} {
		coretest.Write(t, filepath.Join(dir, "stores", p), "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n")
	}
	doc := coretest.Write(t, filepath.Join(dir, "clock", "parts.txt"), "../stores/great wheel/r2/great wheel.stp\n../stores/dial/3/dial.stp\n../stores/plain/plate.stp\n")
	g, j := judge(t, filepath.Dir(doc), origin.Options{Stores: []string{filepath.Join(dir, "stores")}}, doc)
	var got []string
	for _, r := range j.Revisions {
		got = append(got, fmt.Sprintf("%s %s→%s", filepath.Base(r.Path), r.Is, r.Newest))
		if _, err := os.Stat(r.At); err != nil {
			t.Error(err)
		}
	}
	if s := strings.Join(got, ", "); s != "great wheel.stp r2→r10, dial.stp 3→3" {
		t.Error(s)
	}
	for i := range g.Files {
		if f := &g.Files[i]; strings.HasSuffix(f.Path, ".stp") && j.File(g, graph.FileID(i)).Origin != graph.OfStore {
			t.Errorf("%s is %s", f.Path, j.File(g, graph.FileID(i)).Origin)
		}
	}
}

// Two projects that write into one folder, and material that is synced, are said.
func TestSharedAndSynced(t *testing.T) {
	dir := t.TempDir()
	coretest.Write(t, filepath.Join(dir, "cloud", "a.wav"), "x")
	doc := coretest.Write(t, filepath.Join(dir, "film", "list.csv"), "path,role\n../cloud/a.wav,read\n../takes,write\n")
	o := origin.Options{Drives: []drive.Drive{{ID: "c", Name: "Cloud", Dir: filepath.Join(dir, "cloud"), Kind: drive.Synced}}, Writers: []origin.Writer{{Project: "other", Document: "/x", Folder: filepath.Join(dir, "takes")}}}
	_, j := judge(t, filepath.Dir(doc), o, doc)
	var codes []string
	for _, w := range j.Warnings {
		codes = append(codes, string(w.Code))
	}
	if s := strings.Join(codes, " "); s != "shared-folder synced-folder" {
		t.Error(s, j.Warnings)
	}
}

// A sidecar that the index knows elsewhere stayed behind; one that stood beside its
// file once and is nowhere now is missing; one beside another file of the name is
// that file's.
func TestCompanionsApart(t *testing.T) {
	dir := t.TempDir()
	for _, p := range []string{"film/a.wav", "film/b.wav", "film/c.wav", "film/c.srt", "away/a.srt", "other/b.wav", "other/b.srt"} {
		coretest.Write(t, filepath.Join(dir, p), "x")
	}
	doc := coretest.Write(t, filepath.Join(dir, "film", "list.csv"), "path\na.wav\nb.wav\nc.wav\n")
	at := func(p string) string { return filepath.Join(dir, filepath.FromSlash(p)) }
	known := map[string][]string{"a.srt": {at("away/a.srt")}, "b.srt": {at("other/b.srt")}}
	_, j := judge(t, filepath.Dir(doc), origin.Options{
		Called: func(name string, folder bool) []string {
			if folder {
				return nil
			}
			return known[name]
		},
		Once: func(p string) bool { return p == at("film/b.vtt") },
	}, doc)
	var got []string
	for _, c := range j.Companions {
		found := ""
		if c.Found != "" {
			found, _ = filepath.Rel(dir, c.Found)
		}
		got = append(got, strings.TrimSpace(fmt.Sprintf("%s %s %s", filepath.Base(c.Path), c.State, found)))
	}
	if s := strings.Join(got, ", "); s != "a.srt apart away/a.srt, b.vtt missing, c.srt here" {
		t.Error(s)
	}
}

// The bytes of a spread are those of its files, once each, as du --apparent-size
// counts them, on every level; and its threads are those of each document's own.
func TestSpreadAddsUp(t *testing.T) {
	dir := t.TempDir()
	var list []string
	for i := range 300 {
		p := fmt.Sprintf("bench/film/reel %d/day %d/take %d.wav", i%3, i%17, i)
		coretest.Write(t, filepath.Join(dir, p), strings.Repeat("x", 1+i*7%501))
		list = append(list, fmt.Sprintf("reel %d/day %d/take %d.wav", i%3, i%17, i))
	}
	coretest.Write(t, filepath.Join(dir, "bench/downloads/flare.png"), "tiny")
	list = append(list, "../downloads/flare.png", list[0])
	// Two names of one file are one file.
	if err := os.Link(filepath.Join(dir, "bench/film", list[7]), filepath.Join(dir, "bench/film/reel 1/again.wav")); err != nil {
		t.Fatal(err)
	}
	list = append(list, "reel 1/again.wav")
	doc := coretest.Write(t, filepath.Join(dir, "bench/film/list.csv"), "path\n"+strings.Join(list, "\n")+"\n")
	drives := []drive.Drive{{ID: "b", Name: "Bench", Dir: filepath.Join(dir, "bench")}}
	g, j := judge(t, filepath.Dir(doc), origin.Options{Drives: drives}, doc)
	tree := origin.Tree(g, j, drives, nil)
	if len(tree) != 1 || tree[0].Files != 301 {
		t.Fatal(len(tree), tree[0].Files)
	}
	dump := false
	var check func(n origin.Node)
	check = func(n origin.Node) {
		dump = dump || n.Kind == origin.DumpPlace
		if n.More == 0 && n.Name != "" {
			var bytes int64
			met := map[uint64]bool{} // as du does
			err := filepath.WalkDir(n.Path, func(p string, d os.DirEntry, err error) error {
				if err == nil && !d.IsDir() && p != doc {
					info, err := (drive.System{}).Lstat(p)
					if err != nil {
						return err
					}
					if !met[info.Node.Ino] {
						met[info.Node.Ino] = true
						bytes += info.Size
					}
				}
				return err
			})
			if err != nil || bytes != n.Bytes {
				t.Errorf("%s has %d bytes, %d are drawn (%v)", n.Path, bytes, n.Bytes, err)
			}
		}
		if len(n.Nodes) > 0 {
			var bytes int64
			files := 0
			for _, c := range n.Nodes {
				bytes, files = bytes+c.Bytes, files+c.Files
				check(c)
			}
			if bytes != n.Bytes || files != n.Files {
				t.Errorf("%s: %d files and %d bytes, in its folders %d and %d", n.Path, n.Files, n.Bytes, files, bytes)
			}
		}
	}
	check(tree[0])
	if !dump {
		t.Error("a tiny dumping ground is not drawn")
	}
	var threads, places int64
	for _, th := range origin.Threads(g, j, drives, nil) {
		threads += th.Bytes
	}
	for _, p := range j.Places {
		places += p.Bytes
	}
	if threads != places || threads != tree[0].Bytes {
		t.Errorf("threads %d, places %d, tree %d bytes", threads, places, tree[0].Bytes)
	}
}
