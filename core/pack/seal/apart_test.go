package seal_test

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// contents are the digests of what a document leads to, documents left out.
func contents(t *testing.T, dir, doc string) []string {
	t.Helper()
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{Root: dir}), doc))
	var list []string
	for i := range g.Files {
		f := &g.Files[i]
		paths := []string{f.Path}
		if f.Frames != nil {
			paths = f.Frames.Files
		}
		for _, p := range paths {
			if f.Doc == graph.None && f.State.Found() {
				b, err := os.ReadFile(p)
				if err != nil {
					t.Fatal(err)
				}
				list = append(list, string(b))
			}
		}
	}
	slices.Sort(list)
	return list
}

// TestMaterialApart: a crate that is received as a project with its material elsewhere leads to the
// same contents, is complete, and seals again to the same digests; manifests and sheet are kept.
func TestMaterialApart(t *testing.T) {
	dir, doc := small(t)
	for i := range 6 {
		coretest.Write(t, filepath.Join(dir, "film", "plates", fmt.Sprintf("sun.%04d.png", 101+i)), fmt.Sprint("plate ", i))
	}
	coretest.Write(t, filepath.Join(dir, "film", "model.obj"), "v 0 0 0\n")
	seq := `{"OTIO_SCHEMA":"Clip.2","name":"seq","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"plates/","name_prefix":"sun.","name_suffix":".png","start_frame":101,"frame_step":1,"rate":24,"frame_zero_padding":4,"available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":101},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":6}}}},"active_media_reference_key":"DEFAULT_MEDIA"}`
	coretest.Write(t, doc, timeline(clip("a", "sound/gull.wav"), clip("b", "../lib/GULL.wav"), clip("n", "nested.otio"), clip("m", "model.obj"), clip("gone", "gone.wav"), clip("out", "/etc/passwd"), seq))
	want := contents(t, filepath.Join(dir, "film"), doc)
	want = slices.DeleteFunc(want, func(s string) bool { return strings.Contains(s, "root:") })
	for _, layout := range []stow.Layout{stow.ByKind, stow.AsStands, stow.Flat} {
		for _, end := range []string{"", ".zip", ".tar.gz"} {
			name := "film " + string(layout)
			crate := filepath.Join(dir, "out", name+end)
			g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
			for i := range g.Files { // what the system has is not carried
				if g.Files[i].Path == "/etc/passwd" {
					g.Files[i].Carried = false
				}
			}
			must[*seal.Report](t)(seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{Layout: layout}), Out: crate, Trace: tracing(trace.Options{})}))
			into, mat := filepath.Join(dir, "in", string(layout)+end), filepath.Join(dir, "disk", string(layout)+end)
			rep := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: crate, Into: into, Material: mat, Formats: all.Formats()}))
			if rep.Into != filepath.Join(into, name) || rep.Material != filepath.Join(mat, name) || len(rep.Documents) != 1 {
				t.Fatalf("%s: %+v", crate, rep)
			}
			got := contents(t, rep.Into, rep.Documents[0])
			if got = slices.DeleteFunc(got, func(s string) bool { return strings.Contains(s, "root:") }); !slices.Equal(got, want) {
				t.Errorf("%s leads to %q, wanted %q", crate, got, want)
			}
			for _, name := range []string{"received/manifest-sha256.txt", "received/crate.json", "received/bag-info.txt"} {
				if _, err := os.Stat(filepath.Join(rep.Into, name)); err != nil {
					t.Error(err)
				}
			}
			for p := range below(t, rep.Material) {
				if !strings.HasSuffix(p, ".wav") && !strings.HasSuffix(p, ".png") {
					t.Errorf("%s is kept with the material", p)
				}
			}
			for p := range below(t, rep.Into) {
				if strings.HasSuffix(p, ".wav") || strings.HasSuffix(p, ".png") {
					t.Errorf("%s is kept with the documents", p)
				}
			}
		}
	}
	for _, d := range []string{"in", "disk"} {
		hidden, _ := filepath.Glob(filepath.Join(dir, d, "*", ".*"))
		if len(hidden) > 0 {
			t.Errorf("left behind: %v", hidden)
		}
	}
}

// TestApartCompletes: a whole crate is complete with its material apart; sealed again elsewhere it
// holds the same set of digests; documents that tell names alone keep their files beside them.
func TestApartCompletes(t *testing.T) {
	dir, doc := reel(t, 5)
	crate := filepath.Join(dir, "crate")
	must[*seal.Report](t)(since(t, doc, crate, ""))
	rep := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: crate, Into: filepath.Join(dir, "in"), Material: filepath.Join(dir, "disk"), Formats: all.Formats()}))
	if !rep.Well() || !rep.Complete || len(rep.DoesNotFit) > 0 {
		t.Errorf("%+v", rep)
	}
	again := filepath.Join(dir, "again")
	must[*seal.Report](t)(since(t, rep.Documents[0], again, ""))
	set := func(d string) map[[32]byte]bool {
		out := map[[32]byte]bool{}
		for p, sum := range below(t, filepath.Join(d, "data")) {
			if strings.HasSuffix(p, ".wav") {
				out[sum] = true
			}
		}
		return out
	}
	if !maps.Equal(set(crate), set(again)) {
		t.Error("sealed again, the crate holds other contents")
	}
	edl := coretest.Write(t, filepath.Join(dir, "edit", "cut.edl"), "TITLE: CUT\nFCM: NON-DROP FRAME\n001  AX       V     C        00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\n* FROM CLIP NAME: pier.mov\n")
	coretest.Write(t, filepath.Join(dir, "edit", "pier.mov"), "pier")
	must[*seal.Report](t)(since(t, edl, filepath.Join(dir, "edlcrate"), ""))
	bare := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: filepath.Join(dir, "edlcrate"), Into: filepath.Join(dir, "in"), Material: filepath.Join(dir, "disk"), Formats: all.Formats()}))
	if got := contents(t, bare.Into, bare.Documents[0]); !slices.Equal(got, []string{"pier"}) {
		t.Errorf("a document that tells names alone leads to %q", got)
	}
	// Twice at once, and again: one succeeds, the other is refused, nothing is half there.
	var wg sync.WaitGroup
	well := make([]bool, 4)
	for i := range well {
		wg.Go(func() {
			r, err := receive.Run(bg, receive.Options{Crate: crate, Into: filepath.Join(dir, "race"), Material: filepath.Join(dir, "race"), Formats: all.Formats()})
			well[i] = err == nil && r.Into != ""
		})
	}
	wg.Wait()
	if slices.Contains(well, true) { // both folders are one: it cannot be
		t.Error("documents and material were unpacked to one place")
	}
	for i := range well {
		wg.Go(func() {
			r, err := receive.Run(bg, receive.Options{Crate: crate, Into: filepath.Join(dir, "race"), Material: filepath.Join(dir, "race2"), Formats: all.Formats()})
			well[i] = err == nil && r.Into != ""
		})
	}
	wg.Wait()
	n := 0
	for _, w := range well {
		if w {
			n++
		}
	}
	if n != 1 {
		t.Errorf("%d of 4 at once succeeded", n)
	}
}

// TestNewerDocument: a document of a later version than is known is told.
func TestNewerDocument(t *testing.T) {
	dir := t.TempDir()
	doc := coretest.Write(t, filepath.Join(dir, "film", "cut.otio"), strings.ReplaceAll(timeline(clip("a", "a.wav")), "Clip.2", "Clip.7"))
	coretest.Write(t, filepath.Join(dir, "film", "a.wav"), "a")
	must[*seal.Report](t)(since(t, doc, filepath.Join(dir, "crate"), ""))
	rep := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: filepath.Join(dir, "crate"), Into: filepath.Join(dir, "in"), Material: filepath.Join(dir, "disk"), Formats: all.Formats()}))
	if len(rep.DoesNotFit) != 1 || rep.DoesNotFit[0].Why != receive.NewerVersion || rep.Into == "" {
		t.Errorf("%+v", rep.DoesNotFit)
	}
}

// TestForeignApart: a bag that another program made is received with its material apart too: its
// documents are told by their content.
func TestForeignApart(t *testing.T) {
	dir, doc := reel(t, 3)
	crate := filepath.Join(dir, "crate")
	must[*seal.Report](t)(since(t, doc, crate, ""))
	bag := filepath.Join(dir, "bag")
	if err := os.CopyFS(filepath.Join(bag, "data"), os.DirFS(filepath.Join(crate, "data"))); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"bagit.txt", "manifest-sha256.txt"} {
		b, err := os.ReadFile(filepath.Join(crate, name))
		if err != nil {
			t.Fatal(err)
		}
		coretest.Write(t, filepath.Join(bag, name), string(b))
	}
	rep := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: bag, Into: filepath.Join(dir, "in"), Material: filepath.Join(dir, "disk"), Formats: all.Formats()}))
	if len(rep.Documents) != 1 || !rep.Complete {
		t.Fatalf("%+v", rep)
	}
	if got := contents(t, rep.Into, rep.Documents[0]); len(got) != 3 {
		t.Errorf("it leads to %d files", len(got))
	}
	if left := below(t, rep.Material); len(left) != 3 {
		t.Errorf("%d files are with the material", len(left))
	}
}
