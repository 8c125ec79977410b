package seal_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// adopted seals a timeline with another that a person adopted, and with what only that
// one names.
func adopted(t *testing.T) (crate, sketch string) {
	t.Helper()
	dir := t.TempDir()
	images := `{"OTIO_SCHEMA":"Clip.1","name":"i","media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"frames/","name_prefix":"s.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":4}}`
	for name, text := range map[string]string{
		"job/cut.otio": timeline(clip("a", "sound/a.wav"), images), "job/sound/a.wav": "a", "job/frames/s.0001.png": "1", "job/frames/s.0002.png": "2",
		"job/sketch.otio": timeline(clip("a", "sound/a.wav"), clip("c", "../lib/c.wav"), images, clip("nested", "parts/second.otio"), clip("gone", "gone.wav"), clip("far", "file:///harbour/far.wav")),
		"lib/c.wav":       "c", "job/parts/second.otio": timeline(clip("d", "../../lib/d.wav"), clip("self", "../sketch.otio"), clip("cut", "../cut.otio")), "lib/d.wav": "d",
	} {
		coretest.Write(t, filepath.Join(dir, name), text)
	}
	o := tracing(trace.Options{})
	g := must[*graph.Graph](t)(trace.Run(bg, o, dir+"/job/cut.otio"))
	judged := origin.Judge(g, origin.Options{Reach: o.Reach})
	chosen := []sift.Extra{{Path: dir + "/job/sketch.otio", Size: 9, What: sift.Adopted}}
	asides := must[map[string]*graph.Graph](t)(sift.Asides(bg, o, chosen))
	crate = dir + "/crate"
	rep, err := seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{Layout: stow.ByKind, Judged: judged, Also: chosen, Asides: asides}), Out: crate, Trace: o, Now: time.Now()})
	if err != nil || !rep.Complete {
		t.Fatalf("%v %+v", err, rep)
	}
	if n := rep.Proof.Held; n != 2+5+3-1 || rep.Proof.Left != 2 { // the nested timeline names the adopted one and the cut, as documents
		t.Errorf("%d held, %d left: %+v", n, rep.Proof.Left, rep.Proof)
	}
	var found []string
	err = filepath.WalkDir(crate, func(p string, d os.DirEntry, err error) error {
		if d.Name() == "sketch.otio" {
			found = append(found, p)
		}
		return err
	})
	if err != nil || len(found) != 1 {
		t.Fatal(found, err)
	}
	return crate, found[0]
}

// TestAdoptedIsProved: a document that goes along is proved as those that were asked for
// are, file by file; what it lacked before is left and told, and no more.
func TestAdoptedIsProved(t *testing.T) {
	for _, c := range []struct {
		name     string
		old, new string
		code     proof.Code
	}{
		{"as it is", "", "", ""},
		{"another file", "c.wav", "d.wav", proof.OtherFile},
		{"other frames", `"name_prefix":"s."`, `"name_prefix":"t."`, proof.Incomplete},
		{"one name more", `"name":"gone"`, `"name":"gone","bound":1,"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"x.wav"},"name":"gone"`, proof.Unexpected},
		{"one name less", clip("gone", "gone.wav"), `{"OTIO_SCHEMA":"Gap.1"}`, proof.OtherFile},
	} {
		t.Run(c.name, func(t *testing.T) {
			crate, sketch := adopted(t)
			text := string(must[[]byte](t)(os.ReadFile(sketch)))
			if c.old != "" && !strings.Contains(text, c.old) {
				t.Fatal(text)
			}
			coretest.Write(t, sketch, strings.Replace(text, c.old, c.new, 1))
			got := must[*seal.Report](t)(seal.Check(bg, crate, all.Formats()))
			if c.code == "" {
				if !got.Complete || got.Proof.Held != 9 {
					t.Errorf("%+v", got.Proof)
				}
				return
			}
			if got.Complete || !slices.ContainsFunc(got.Proof.Open, func(o proof.Open) bool { return o.Code == c.code && filepath.Base(o.Document) == "sketch.otio" }) {
				t.Errorf("%+v", got.Proof)
			}
		})
	}
}
