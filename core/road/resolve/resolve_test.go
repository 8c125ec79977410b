package resolve

import (
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// TestRelative holds the path examples of RFC 3986 §5.4 on files: the same
// dots, on a document in a folder.
func TestRelative(t *testing.T) {
	for ref, want := range map[string]string{
		"g": "/b/c/g", "./g": "/b/c/g", "/g": "/g", "../g": "/b/g", "../../g": "/g", "../../../g": "/g", "./../g": "/b/g",
		"g/./h": "/b/c/g/h", "g/../h": "/b/c/h", "g;x=1/../y": "/b/c/y", "g#s": "/b/c/g", "..g": "/b/c/..g",
	} {
		ms, _ := meanings(mention.URI, ref, "/b/c")
		if len(ms) == 0 || ms[0].path != want {
			t.Errorf("%q means %v, wanted %q first", ref, ms, want)
		}
	}
}

// TestFileURL holds the examples of RFC 8089: §2, appendix B and appendix E.
func TestFileURL(t *testing.T) {
	for url, want := range map[string]string{
		"file:///path/to/file":                              "/path/to/file", // appendix B
		"file:/path/to/file":                                "/path/to/file", // appendix B, minimal
		"file://localhost/path/to/file":                     "/path/to/file",
		"FILE:///a%20b%c3%bc":                               "/a bü",
		"file:///c:/path/to/file":                           "c:/path/to/file", // appendix E.2
		"file:c:/path/to/file":                              "c:/path/to/file",
		"file:///c|/path/to/file":                           "c:/path/to/file",
		"file://host.example.com/Share/path/to/file.txt":    "//host.example.com/Share/path/to/file.txt", // appendix E.3.1
		"file:////host.example.com/Share/path/to/file.txt":  "//host.example.com/Share/path/to/file.txt", // appendix E.3.2
		"file://///host.example.com/Share/path/to/file.txt": "//host.example.com/Share/path/to/file.txt",
		"file:///a%2Fb":                                     "/a%2Fb", // an escaped slash separates nothing
	} {
		ms, network := meanings(mention.URI, url, "/doc")
		if network || len(ms) == 0 || ms[0].path != want || ms[0].alien != (want[0] != '/' || want[:2] == "//") {
			t.Errorf("%s means %+v, wanted %q", url, ms, want)
		}
	}
}

func TestMeanings(t *testing.T) {
	for _, c := range []struct {
		sp   mention.Spelling
		text string
		want []string // a tilde marks the second way to read
	}{
		{mention.URI, "a%20b.wav", []string{"/d/a b.wav", "~/d/a%20b.wav"}},
		{mention.Path, "a%20b.wav", []string{"/d/a%20b.wav", "~/d/a b.wav"}},
		{mention.URI, "a.png?v=2", []string{"/d/a.png?v=2", "/d/a.png"}},
		{mention.URI, "take #3.wav", []string{"/d/take ", "~/d/take #3.wav"}},
		{mention.Path, "take #3.wav", []string{"/d/take #3.wav"}},
		{mention.URI, `s\a.wav`, []string{`/d/s\a.wav`, "/d/s/a.wav"}},
		{mention.Path, `..\s/a.wav`, []string{`/d/..\s/a.wav`, "/s/a.wav"}},
		{mention.Path, `C:\s\a.wav`, []string{"C:/s/a.wav"}},
		{mention.Path, `\\srv\share\a.wav`, []string{"//srv/share/a.wav"}},
		{mention.URI, "100%.wav", []string{"/d/100%.wav"}},
		{mention.URI, "gull:cry.wav", []string{"~/d/gull:cry.wav"}},
	} {
		ms, _ := meanings(c.sp, c.text, "/d")
		var got []string
		for _, m := range ms {
			s := m.path
			if m.second {
				s = "~" + s
			}
			got = append(got, s)
		}
		if !reflect.DeepEqual(got, c.want) {
			t.Errorf("%q means %q, wanted %q", c.text, got, c.want)
		}
	}
	for _, s := range []string{"http://x/y.png", "https://x/y", "ftp://h/f"} {
		if _, network := meanings(mention.URI, s, "/d"); !network {
			t.Errorf("%s is not on the network", s)
		}
	}
}

// TestSay: what is said reads back as exactly the target, in every manner.
// TestManner: a number sign begins a fragment, unless it stands in the file's own name.
func TestManner(t *testing.T) {
	for _, c := range []struct{ old, found, want string }{
		{"s/a#b.wav", "/p/s/a#b.wav", "x/a%23b.wav"}, {"s/a.gltf#scene", "/p/s/a.gltf", "x/a.gltf#scene"}, {"s/a%23b.svg#view", "/p/s/a#b.svg", "x/a%23b.svg#view"},
	} {
		if said := SayRelative(mention.URI, Manner(c.old, c.found), "/", "/x/"+filepath.Base(c.found)); said != c.want {
			t.Errorf("%s: %s, not %s", c.old, said, c.want)
		}
	}
}

func TestSay(t *testing.T) {
	names := []string{"a.wav", "a b.wav", "a#b?.wav", "100%.wav", "a%20b.wav", "ü é.wav", `back\slash.wav`, "x:y.wav", "http:x", "日本/音.wav"}
	for _, old := range []string{"plain.wav", "with%20space.wav", "with space.wav", "../ümlaut.wav", "/abs/a.wav", "file:///abs/a.wav", "file://localhost/x", "a.wav#part"} {
		for _, n := range names {
			for _, sp := range []mention.Spelling{mention.URI, mention.Path} {
				target := filepath.Join("/proj/sound", n)
				for _, said := range []string{Say(sp, old, "/proj/doc", target), SayRelative(sp, old, "/proj/doc", target)} {
					ms, network := meanings(sp, said, "/proj/doc")
					if sp == mention.Path && (strings.HasPrefix(old, "file:")) {
						continue // a URL keeps its manner only where URIs stand
					}
					if network || len(ms) == 0 || ms[0].path != target {
						t.Errorf("%q in the manner of %q says %q, which means %v", target, old, said, ms)
					}
				}
			}
		}
	}
}

func touch(t *testing.T, dir string, names ...string) {
	t.Helper()
	for _, n := range names {
		p := filepath.Join(dir, n)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, []byte(n), 0o644); err != nil {
			t.Fatal(err)
		}
	}
}

func TestResolve(t *testing.T) {
	dir := t.TempDir()
	touch(t, dir, "proj/sound/gull.wav", "proj/sound/Caf\u00e9.wav", "proj/Twin.wav", "proj/tWIN.wav", "proj/folder/x", "other/y.wav", "share/lib/z.wav", "proj/100%25.wav", "outside.wav")
	drives := []drive.Drive{
		{Name: "Shuttle", Dir: filepath.Join(dir, "shuttle")}, // not there
		{Name: "Share", Dir: filepath.Join(dir, "share"), Known: []string{`\\srv\pub`, "/Volumes/Share"}},
	}
	r := &Resolver{Reach: drive.System{Drives: drives}, Drives: drives, Root: filepath.Join(dir, "proj")}
	for _, c := range []struct {
		text  string
		state graph.State
		path  string
		loose bool
	}{
		{"sound/gull.wav", graph.Here, "proj/sound/gull.wav", false},
		{"sound/GULL.wav", graph.Here, "proj/sound/gull.wav", true},
		{"Sound/Cafe\u0301.WAV", graph.Here, "proj/sound/Caf\u00e9.wav", true},
		{"sound/Caf%C3%A9.wav", graph.Here, "proj/sound/Caf\u00e9.wav", false},
		{"100%25.wav", graph.Here, "proj/100%25.wav", true},
		{"../other/y.wav", graph.Away, "other/y.wav", false},
		{"TWIN.wav", graph.Twins, "", false},
		{"folder", graph.Unreadable, "proj/folder", false},
		{"gone.wav", graph.Missing, "", false},
		{"gull.wav", graph.Missing, "", false}, // never in another folder
		{"//srv/pub/lib/z.wav", graph.Away, "share/lib/z.wav", false},
		{"file:///Volumes/Share/lib/z.wav", graph.Away, "share/lib/z.wav", false},
		{"file://elsewhere/x.wav", graph.Missing, "", false},
		{"http://x/y.wav", graph.Missing, "", false},
		{filepath.Join(dir, "shuttle/bell.wav"), graph.Unplugged, "", false},
	} {
		p := r.Resolve(filepath.Join(r.Root, "cut.otio"), &mention.Mention{Spelling: mention.URI}, c.text, c.text)
		want := ""
		if c.path != "" {
			want = filepath.Join(dir, c.path)
		}
		if p.State != c.state || p.Path != want || p.Loose != c.loose {
			t.Errorf("%s: %+v", c.text, p)
		}
	}
	// Backslashes nearly always part folders: a person, and mending, are told so.
	if p := r.Resolve(filepath.Join(r.Root, "a.m3u"), &mention.Mention{Spelling: mention.Path}, `old\gone.wav`, ""); p.Expected != filepath.Join(r.Root, "old/gone.wav") || len(p.Also) != 1 || p.Also[0] != filepath.Join(r.Root, `old\gone.wav`) {
		t.Errorf("backslashes: %+v", p)
	}
	r = &Resolver{Reach: r.Reach, Drives: drives, Root: r.Root} // one is made for each trace
	r.Repairs = []Repair{
		{From: filepath.Join(r.Root, "gone.wav"), To: filepath.Join(r.Root, "sound/gull.wav")},
		{From: "/old", To: dir, Prefix: true},
	}
	for text, want := range map[string]string{"gone.wav": "proj/sound/gull.wav", "/old/other/y.wav": "other/y.wav"} {
		p := r.Resolve(filepath.Join(r.Root, "cut.otio"), &mention.Mention{Spelling: mention.URI}, text, text)
		if !p.Repaired || p.Path != filepath.Join(dir, want) {
			t.Errorf("repair of %s: %+v", text, p)
		}
	}
	// The drives alone are reachable: what lies beside them is outside.
	set := &Resolver{Reach: drive.Set{Drives: drives[1:]}, Drives: drives[1:], Root: drives[1].Dir}
	if p := set.Resolve(filepath.Join(drives[1].Dir, "d"), &mention.Mention{}, "../outside.wav", ""); p.State != graph.Missing || p.Why != graph.OutsideDrives {
		t.Errorf("outside: %+v", p)
	}
}

func gap(first, last, step int) graph.Gap { return graph.Gap{First: first, Last: last, Step: step} }

func TestSequence(t *testing.T) {
	dir := t.TempDir()
	touch(t, dir, "s/sun.0001.png", "s/sun.0002.png", "s/sun.0004.png", "s/sun.00007.png", "s/sun.12345.png", "s/sun.0009.png", "s/sun.png", "s/n1.png", "s/n10.png", "s/n-1.png")
	r := &Resolver{Reach: drive.System{}, Root: dir}
	resolve := func(seq mention.Sequence) *graph.Place {
		return r.Resolve(filepath.Join(dir, "x.otio"), &mention.Mention{Spelling: mention.Pattern, Sequence: &seq}, "", "")
	}
	for _, c := range []struct {
		seq   mention.Sequence
		files int
		gaps  []graph.Gap
		state graph.State
	}{
		{mention.Sequence{Head: "s/sun.", Tail: ".png", Digits: 4, First: 1, Step: 1, Count: 6}, 3, []graph.Gap{gap(3, 3, 1), gap(5, 6, 1)}, graph.Here},
		{mention.Sequence{Head: "s/sun.", Tail: ".png", Digits: 4, First: 2, Step: 2, Count: 3}, 2, []graph.Gap{gap(6, 6, 2)}, graph.Here},
		{mention.Sequence{Head: "s/sun.", Tail: ".png", Digits: 4, First: 1, Step: 1}, 5, []graph.Gap{gap(3, 3, 1), gap(5, 8, 1), gap(10, 12344, 1)}, graph.Here},
		{mention.Sequence{Head: "s/n", Tail: ".png", First: -1, Step: 1, Count: 3}, 2, []graph.Gap{gap(0, 0, 1)}, graph.Here}, // n-1 and n1
		{mention.Sequence{Head: "s/none.", Tail: ".png", Digits: 4, First: 1, Step: 1, Count: 3}, 0, []graph.Gap{gap(1, 3, 1)}, graph.Missing},
		{mention.Sequence{Head: "S/SUN.", Tail: ".PNG", Digits: 4, First: 1, Step: 1, Count: 1}, 1, nil, graph.Here}, // loosely
	} {
		p := resolve(c.seq)
		if len(p.Files) != c.files || !reflect.DeepEqual(p.Gaps, c.gaps) || p.State != c.state {
			t.Errorf("%+v: %d files, gaps %v, %s", c.seq, len(p.Files), p.Gaps, p.State)
		}
	}
	pat := graph.Pattern{Dir: "/a", Head: "x<1>", Tail: ".png", Digits: 4}
	if back, ok := graph.ParsePattern(pat.String()); !ok || back != pat {
		t.Errorf("%s reads back as %+v", pat, back)
	}
}

// TestAlienSequence: a sequence written with another machine's path is found by
// the names its drive is known by, or through a repair, as a single file is.
func TestAlienSequence(t *testing.T) {
	dir := t.TempDir()
	touch(t, dir, "quay/s/sun.0001.png", "quay/s/sun.0002.png", "moved/sun.0001.png", "moved/sun.0002.png")
	seq := mention.Sequence{Head: "file:///E:/show/s/sun.", Tail: ".png", Digits: 4, First: 1, Step: 1, Count: 2}
	for what, r := range map[string]*Resolver{
		"known": {Drives: []drive.Drive{{Name: "Quay", Dir: filepath.Join(dir, "quay"), Known: []string{`E:\show`}}}},
		"moved": {Repairs: []Repair{{From: "E:/show/s/sun.<4>.png", To: filepath.Join(dir, "moved/sun.<4>.png")}}},
		"none":  {},
	} {
		r.Reach, r.Root = drive.System{}, filepath.Join(dir, "job")
		p := r.Resolve(filepath.Join(dir, "job/x.otio"), &mention.Mention{Spelling: mention.URI, Sequence: &seq}, "", "")
		if found := p.State.Found() && len(p.Files) == 2; found != (what != "none") {
			t.Errorf("%s: %+v", what, p)
		}
	}
}

// TestTiles: tiles of <UDIM> have four digits from 1001 (MaterialX 1.38,
// "Filename Substitutions").
func TestTiles(t *testing.T) {
	dir := t.TempDir()
	touch(t, dir, "n.1001.png", "n.1012.png", "n.10035.png", "n.0999.png", "n.1000.png", "n.101.png")
	r := &Resolver{Reach: drive.System{}, Root: dir}
	p := r.Resolve(filepath.Join(dir, "x.mtlx"), &mention.Mention{Spelling: mention.Path, Sequence: &mention.Sequence{Head: "n.", Tail: ".png", Digits: 4, First: 1001, Step: 1, Token: mention.UDIM}}, "", "")
	if len(p.Files) != 2 {
		t.Errorf("%q", p.Files)
	}
}
