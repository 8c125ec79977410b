package seal_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words/sheet"
	"boundcrate/core/text/format/all"
)

// world is a project made by chance: documents of five formats, and what each of their
// names stands for.
type world struct {
	dir  string
	docs []string
	says map[string][]string // base name of a document → contents of the files it names, in order
}

// read is a second reader of the five formats, which shares nothing with ours: the files
// that a document names, in order, below its folder.
func read(t *testing.T, at string) (list []string) {
	t.Helper()
	b := must[[]byte](t)(os.ReadFile(at))
	uri := func(s string) {
		list = append(list, path.Join(filepath.Dir(at), must[string](t)(url.PathUnescape(s))))
	}
	switch path.Ext(at) {
	case ".m3u":
		for line := range strings.Lines(string(b)) {
			if line = strings.TrimSpace(line); line != "" && line[0] != '#' {
				list = append(list, path.Join(filepath.Dir(at), line))
			}
		}
	case ".xspf", ".svg":
		d := xml.NewDecoder(bytes.NewReader(b))
		location := false
		for tok, err := d.Token(); err == nil; tok, err = d.Token() {
			switch e := tok.(type) {
			case xml.StartElement:
				location = e.Name.Local == "location"
				for _, a := range e.Attr {
					if a.Name.Local == "href" {
						uri(a.Value)
					}
				}
			case xml.CharData:
				if location {
					uri(string(e))
				}
			case xml.EndElement:
				location = false
			}
		}
	case ".gltf":
		var doc struct{ Images []struct{ URI string } }
		if err := json.Unmarshal(b, &doc); err != nil {
			t.Fatal(err)
		}
		for _, i := range doc.Images {
			uri(i.URI)
		}
	case ".otio":
		type reference struct {
			TargetURL string                                 `json:"target_url"`
			Base      string                                 `json:"target_url_base"`
			Prefix    string                                 `json:"name_prefix"`
			Suffix    string                                 `json:"name_suffix"`
			Start     int                                    `json:"start_frame"`
			Padding   int                                    `json:"frame_zero_padding"`
			Range     struct{ Duration struct{ Value int } } `json:"available_range"`
		}
		var doc struct {
			Tracks struct {
				Children []struct {
					Children []struct {
						Ref reference `json:"media_reference"`
					}
				}
			}
		}
		if err := json.Unmarshal(b, &doc); err != nil {
			t.Fatal(err)
		}
		for _, clip := range doc.Tracks.Children[0].Children {
			if clip.Ref.TargetURL != "" {
				uri(clip.Ref.TargetURL)
			}
			for n := range clip.Ref.Range.Duration.Value {
				base := must[string](t)(url.PathUnescape(clip.Ref.Base))
				list = append(list, path.Join(filepath.Dir(at), base, fmt.Sprintf("%s%0*d%s", must[string](t)(url.PathUnescape(clip.Ref.Prefix)), clip.Ref.Padding, clip.Ref.Start+n, must[string](t)(url.PathUnescape(clip.Ref.Suffix)))))
			}
		}
	}
	return list
}

// chance makes a world.
func chance(t *testing.T, rng *rand.Rand) world {
	w := world{dir: t.TempDir(), says: map[string][]string{}}
	pick := func(list ...string) string { return list[rng.IntN(len(list))] }
	folders := []string{"film/sound", "film/sound/night", "film", "lib/Größe", "lib/a b", "lib/100%25", "other/film/sound"}
	stems := []string{"gull", "Gull", "horn 1", "horn-2", "née", "ne\u0301e", "100% a", "a#b", "x&y", "bell+1", "take;2", "it's"}
	made := map[string]string{}
	media := func(ext string) (string, string) {
		p := path.Join(pick(folders...), pick(stems...)+ext)
		if made[p] == "" {
			made[p] = fmt.Sprintf("%s %d", p, rng.Uint64())
			coretest.Write(t, filepath.Join(w.dir, p), made[p])
		}
		return p, made[p]
	}
	relative := func(doc, p string) string {
		return filepath.ToSlash(must[string](t)(filepath.Rel(filepath.Join(w.dir, path.Dir(doc)), filepath.Join(w.dir, p))))
	}
	escape := func(p string) string { return (&url.URL{Path: p}).EscapedPath() }
	for i := range 2 + rng.IntN(4) {
		ext := pick(".m3u", ".xspf", ".svg", ".gltf", ".otio")
		name := fmt.Sprintf("doc %d%s", i, ext)
		doc := path.Join(pick("film", "film/sub", "other"), name)
		var parts []string
		for range 1 + rng.IntN(6) {
			of := ".png"
			if ext == ".m3u" || ext == ".xspf" || ext == ".otio" {
				of = ".wav"
			}
			if ext == ".otio" && rng.IntN(3) == 0 { // a sequence, at its own rate
				dir := path.Join(pick(folders...), pick("sun", "sea"))
				frames := 1 + rng.IntN(5)
				for n := range frames {
					p := fmt.Sprintf("%s/f.%04d.png", dir, n+1)
					if made[p] == "" {
						made[p] = fmt.Sprintf("%s %d", p, rng.Uint64())
						coretest.Write(t, filepath.Join(w.dir, p), made[p])
					}
					w.says[name] = append(w.says[name], made[p])
				}
				rate := pick("24", "23.976", "25", "29.97", "23.976023976023978")
				parts = append(parts, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":%q,"name_prefix":"f.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":%s,"frame_zero_padding":4,"available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":%s,"value":0},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":%s,"value":%d}}}}`, escape(relative(doc, dir)+"/"), rate, rate, rate, frames))
				continue
			}
			p, content := media(of)
			w.says[name] = append(w.says[name], content)
			switch rel := relative(doc, p); ext {
			case ".m3u":
				parts = append(parts, rel)
			case ".xspf":
				parts = append(parts, "<track><location>"+strings.ReplaceAll(escape(rel), "&", "&amp;")+"</location></track>")
			case ".svg":
				parts = append(parts, `<image href="`+strings.ReplaceAll(escape(rel), "&", "&amp;")+`"/>`)
			case ".gltf":
				parts = append(parts, fmt.Sprintf(`{"uri":%q}`, escape(rel)))
			case ".otio":
				parts = append(parts, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":%q}}`, escape(rel)))
			}
		}
		text := map[string]string{
			".m3u":  "#EXTM3U\n" + strings.Join(parts, "\n") + "\n",
			".xspf": `<playlist version="1" xmlns="http://xspf.org/ns/0/"><trackList>` + strings.Join(parts, "") + `</trackList></playlist>`,
			".svg":  `<svg xmlns="http://www.w3.org/2000/svg">` + strings.Join(parts, "") + `</svg>`,
			".gltf": `{"asset":{"version":"2.0"},"images":[` + strings.Join(parts, ",") + `]}`,
			".otio": timeline(parts...),
		}[ext]
		w.docs = append(w.docs, coretest.Write(t, filepath.Join(w.dir, doc), text))
	}
	return w
}

// files are all files below a folder.
func files(t *testing.T, dir string) (list []string) {
	t.Helper()
	err := filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			list = append(list, p)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return list
}

// TestChance: worlds made by chance are sealed and carried away, and their originals are
// gone. A second reader finds behind every name of every document the very bytes that
// stood there. Then one byte, one name, one file of the crate is another, and what was
// said of it is withdrawn.
func TestChance(t *testing.T) {
	worlds := 60
	if testing.Short() {
		worlds = 10
	}
	for seed := range worlds {
		rng := rand.New(rand.NewPCG(uint64(seed), 19))
		w := chance(t, rng)
		layout := []stow.Layout{stow.ByKind, stow.AsStands, stow.Flat, stow.ByDocument}[rng.IntN(4)]
		end := []string{"", "", ".zip"}[rng.IntN(3)]
		out := filepath.Join(t.TempDir(), "crate"+end)
		g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), w.docs...))
		traced := must[[]byte](t)(json.Marshal(g))
		rep, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{Layout: layout, Judged: origin.Judge(g, origin.Options{Reach: tracing(trace.Options{}).Reach})}), Out: out, Trace: tracing(trace.Options{}), Now: time.Now(), Readme: sheet.Text})
		if err != nil || !rep.Complete {
			t.Fatalf("world %d, %s%s: %v %+v", seed, layout, end, err, rep)
		}
		if !bytes.Equal(must[[]byte](t)(json.Marshal(g)), traced) {
			t.Fatalf("world %d: the graph is another once it is judged, planned and sealed", seed)
		}
		if err := os.RemoveAll(w.dir); err != nil {
			t.Fatal(err)
		}
		check := must[*seal.Report](t)(seal.Check(bg, out, all.Formats()))
		if !check.Well() || !check.Complete || check.Proof.Held == 0 || check.Proof.Held != check.Proof.Expected {
			t.Fatalf("world %d, %s%s: %+v", seed, layout, end, check)
		}
		dir := out
		if end == ".zip" {
			dir = t.TempDir()
			if err := os.CopyFS(dir, must[*zip.ReadCloser](t)(zip.OpenReader(out))); err != nil {
				t.Fatal(err)
			}
		}
		all := files(t, dir)
		for name, says := range w.says {
			at := slices.IndexFunc(all, func(p string) bool { return filepath.Base(p) == name })
			if at < 0 {
				t.Fatalf("world %d, %s: no %s among %v", seed, layout, name, all)
			}
			var found []string
			for _, p := range read(t, all[at]) {
				b, err := os.ReadFile(p)
				if err != nil {
					t.Errorf("world %d, %s: %v", seed, layout, err)
				}
				found = append(found, string(b))
			}
			if !slices.Equal(found, says) {
				t.Errorf("world %d, %s: %s names %q, not %q", seed, layout, name, found, says)
			}
		}
		if end == "" {
			spoil(t, rng, seed, out)
		}
	}
}

// spoil changes one thing of a crate after the other, and takes it back.
func spoil(t *testing.T, rng *rand.Rand, seed int, crate string) {
	t.Helper()
	every := files(t, crate)
	payload := files(t, filepath.Join(crate, "data"))
	for n := range 12 {
		p := every[rng.IntN(len(every))]
		one, two := payload[rng.IntN(len(payload))], payload[rng.IntN(len(payload))]
		b := must[[]byte](t)(os.ReadFile(p))
		var what string
		var back func() error
		var err error
		switch n % 4 {
		case 0:
			at := rng.IntN(len(b))
			what = fmt.Sprintf("byte %d of %s", at, p)
			spoilt := slices.Clone(b)
			spoilt[at] ^= 1 << rng.IntN(7)
			if strings.EqualFold(string(spoilt), string(b)) && strings.HasPrefix(filepath.Base(p), "tagmanifest-") {
				continue // a digest is the same in either letter case (RFC 8493 §2.1.3)
			}
			err = os.WriteFile(p, spoilt, 0o644)
			back = func() error { return os.WriteFile(p, b, 0o644) }
		case 1:
			what = "the name of " + one
			err = os.Rename(one, one+"x")
			back = func() error { return os.Rename(one+"x", one) }
		case 2:
			what = "one more file"
			err = os.WriteFile(filepath.Join(crate, "data", "more.wav"), []byte("more"), 0o644)
			back = func() error { return os.Remove(filepath.Join(crate, "data", "more.wav")) }
		case 3:
			if one == two {
				continue
			}
			what = one + " in the place of " + two
			swap := func() error {
				return exchange(one, two)
			}
			err, back = swap(), swap
		}
		if err != nil {
			t.Fatal(err)
		}
		rep, err := func() (*seal.Report, error) {
			defer func() {
				if x := recover(); x != nil {
					t.Fatalf("world %d: %s is another: %v\n%s\nwas %q", seed, what, x, debug.Stack(), b)
				}
			}()
			return seal.Check(bg, crate, all.Formats())
		}()
		if err == nil && rep.Well() && rep.Complete {
			t.Errorf("world %d: %s is another, and all is well: %+v", seed, what, rep)
		}
		if err := back(); err != nil {
			t.Fatal(err)
		}
	}
	if rep := must[*seal.Report](t)(seal.Check(bg, crate, all.Formats())); !rep.Well() {
		t.Errorf("world %d: put back, and not well: %+v", seed, rep)
	}
}

func exchange(a, b string) error {
	for _, m := range [][2]string{{a, a + ".aside"}, {b, a}, {a + ".aside", b}} {
		if err := os.Rename(m[0], m[1]); err != nil {
			return err
		}
	}
	return nil
}
