package seal_test

import (
	"archive/zip"
	"encoding/base64"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
)

func oneFile(t *testing.T, doc, out string) (*seal.Report, error) {
	t.Helper()
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{}), doc))
	layout := seal.PackageOf(out).Layout()
	if layout == "" {
		layout = stow.ByKind
	}
	return seal.Run(bg, seal.Options{Plan: plan(t, g, stow.Options{Layout: layout}), Out: out, Trace: tracing(trace.Options{}), Now: time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)})
}

// inside traces a package with nothing else reachable: everything it names must be in it.
func inside(t *testing.T, p string) (n int) {
	t.Helper()
	g := must[*graph.Graph](t)(trace.Run(bg, tracing(trace.Options{Root: filepath.Dir(p)}), p))
	for i := range g.References {
		if r := &g.References[i]; r.State != graph.Inside {
			t.Errorf("%s: %s is %s", p, r.Written, r.State)
		}
	}
	return len(g.References)
}

// TestBundle: an OpenTimelineIO file bundle holds content.otio, version.txt and a flat media/, all of
// what the document names, and unzip finds no fault.
func TestBundle(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/cut.otio": timeline(clip("a", "sound/wave.wav"), clip("b", "../lib/wave.wav"), clip("c", "odd%20%231.wav")), "film/sound/wave.wav": "one", "lib/wave.wav": "two", "film/odd #1.wav": "three",
	})
	out := filepath.Join(dir, "out", "cut.otioz")
	rep, err := oneFile(t, dir+"/film/cut.otio", out)
	if err == nil {
		toldArchives(t, "package", rep)
	}
	if err != nil || !rep.Well() || len(rep.SHA256) != 64 || rep.Files != 5 {
		t.Fatalf("%+v %v", rep, err)
	}
	z, err := zip.OpenReader(out)
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
		if f.Method != zip.Store && strings.HasPrefix(f.Name, "media/") {
			t.Errorf("%s is packed", f.Name)
		}
	}
	if got := strings.Join(names, " "); got != "content.otio version.txt media/odd #1.wav media/wave.wav media/wave-2.wav" && got != "content.otio version.txt media/odd #1.wav media/wave-2.wav media/wave.wav" {
		t.Error(got)
	}
	if n := inside(t, out); n != 3 {
		t.Errorf("%d references", n)
	}
	judge(t, dir, "unzip", "-tq", out)
	var no *seal.Refusal
	if _, err := oneFile(t, dir+"/film/cut.otio", out); !errors.As(err, &no) || no.Code != seal.OutFile {
		t.Errorf("it was written over: %v", err)
	}
	// What is missing leaves it incomplete; what it cannot hold is refused.
	for name, x := range map[string]struct {
		files map[string]string
		code  seal.RefusalCode
		whole bool
	}{
		"missing": {map[string]string{"cut.otio": timeline(clip("a", "gone.wav"))}, "", false},
		"nested":  {map[string]string{"cut.otio": timeline(clip("n", "n.otio")), "n.otio": timeline()}, seal.OutNotHeld, false},
		"list":    {map[string]string{"cut.m3u": "#EXTM3U\na.wav\n", "a.wav": "a"}, seal.OutOtherFormat, false},
	} {
		d := coretest.Lay(t, x.files)
		doc := filepath.Join(d, "cut.otio")
		if x.files["cut.m3u"] != "" {
			doc = filepath.Join(d, "cut.m3u")
		}
		rep, err := oneFile(t, doc, filepath.Join(t.TempDir(), "x.otioz"))
		if x.code != "" {
			if !errors.As(err, &no) || no.Code != x.code {
				t.Errorf("%s: %v", name, err)
			}
		} else if err != nil || rep.Complete {
			t.Errorf("%s: %+v %v", name, rep, err)
		}
	}
}

// TestUSDZ: the root layer is first, everything is stored, and data begins at multiples of 64 bytes, as
// the ZIP itself has it (USDZ specification).
func TestUSDZ(t *testing.T) {
	for pad := range 70 { // names of all lengths
		name := strings.Repeat("n", pad%67+1)
		dir := coretest.Lay(t, map[string]string{
			"scene/root.usda":         "#usda 1.0\n(\n    defaultPrim = \"A\"\n    subLayers = [@./" + name + ".usda@]\n)\ndef \"A\"\n{\n    asset t = @./tex/wood.png@\n}\n",
			"scene/" + name + ".usda": "#usda 1.0\n" + strings.Repeat("# x\n", pad), "scene/tex/wood.png": "\x89PNG\r\n\x1a\nwood",
		})
		out := filepath.Join(dir, "scene.usdz")
		out = filepath.Join(t.TempDir(), filepath.Base(out))
		rep, err := oneFile(t, dir+"/scene/root.usda", out)
		if err != nil || !rep.Well() {
			t.Fatalf("%+v %v", rep, err)
		}
		z, err := zip.OpenReader(out)
		if err != nil {
			t.Fatal(err)
		}
		for i, f := range z.File {
			at, err := f.DataOffset()
			if err != nil || at%64 != 0 || f.Method != zip.Store || i == 0 && f.Name != "root.usda" {
				t.Errorf("%s begins at %d, %v", f.Name, at, err)
			}
		}
		z.Close()
		if inside(t, out) != 2 {
			t.Error("not all is inside")
		}
	}
	dir := coretest.Lay(t, map[string]string{"root.usda": "#usda 1.0\ndef \"A\"\n{\n    asset t = @./wood.tif@\n}\n", "wood.tif": "II*\x00"})
	var no *seal.Refusal
	if _, err := oneFile(t, dir+"/root.usda", filepath.Join(t.TempDir(), "x.usdz")); !errors.As(err, &no) || no.Code != seal.OutNotHeld {
		t.Errorf("an image type that USDZ does not know: %v", err)
	}
}

// validator is Khronos's own (npm gltf-validator).
const validator = `
const v = require('gltf-validator'); const fs = require('fs');
v.validateBytes(new Uint8Array(fs.readFileSync(process.argv[1]))).then((r) => {
  if (r.issues.numErrors > 0) { console.log(JSON.stringify(r.issues.messages.slice(0, 5))); process.exit(1); }
});
`

// TestGLB: an asset of two buffers, one of them inside the text, and images becomes one file that the
// glTF validator finds no error in.
func TestGLB(t *testing.T) {
	png := "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x02\x00\x00\x00\x90wS\xde\x00\x00\x00\x0cIDATx\x9cc\xf8\xcf\xc0\x00\x00\x03\x01\x01\x00\xc9\xfe\x92\xef\x00\x00\x00\x00IEND\xaeB`\x82"
	points := strings.Repeat("\x00\x00\x80\x3f", 9) // three points
	inner := "data:application/octet-stream;base64," + base64.StdEncoding.EncodeToString([]byte("\x00\x00\x01\x00\x02\x00"))
	gltf := fmt.Sprintf(`{"asset":{"version":"2.0"},"buffers":[{"uri":"a%%20b.bin","byteLength":36},{"uri":%q,"byteLength":6}],
"bufferViews":[{"buffer":0,"byteLength":36,"target":34962},{"buffer":1,"byteLength":6,"target":34963}],
"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[1,1,1],"max":[1,1,1]},{"bufferView":1,"componentType":5123,"count":3,"type":"SCALAR"}],
"images":[{"uri":"t.png"}],"textures":[{"source":0}],"materials":[{"pbrMetallicRoughness":{"baseColorTexture":{"index":0}}}],
"meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1}]}],"nodes":[{"mesh":0}],"scenes":[{"nodes":[0]}],"scene":0}`, inner)
	dir := coretest.Lay(t, map[string]string{"scene/x.gltf": gltf, "scene/a b.bin": points, "scene/t.png": png})
	out := filepath.Join(t.TempDir(), "x.glb")
	rep, err := oneFile(t, dir+"/scene/x.gltf", out)
	if err != nil || !rep.Well() || len(rep.SHA256) != 64 {
		t.Fatalf("%+v %v", rep, err)
	}
	inside(t, out)
	modules, _ := filepath.Abs("../../../web/node_modules")
	if _, err := os.Stat(filepath.Join(modules, "gltf-validator")); err != nil {
		t.Log("the npm package gltf-validator is not installed; its verdict is missing")
	} else {
		cmd := exec.Command("node", "-e", validator, out)
		cmd.Env = append(os.Environ(), "NODE_PATH="+modules)
		if text, err := cmd.CombinedOutput(); err != nil {
			t.Errorf("the validator: %v\n%s", err, text)
		}
	}
	var no *seal.Refusal
	bad := coretest.Lay(t, map[string]string{"x.gltf": `{"asset":{"version":"2.0"},"images":[{"uri":"t.webp"}]}`, "t.webp": "RIFF\x00\x00\x00\x00WEBP"})
	if _, err := oneFile(t, bad+"/x.gltf", filepath.Join(t.TempDir(), "x.glb")); !errors.As(err, &no) || no.Code != seal.OutNotHeld {
		t.Errorf("an image type that glTF does not know: %v", err)
	}
	gone := coretest.Lay(t, map[string]string{"x.gltf": strings.Replace(gltf, "t.png", "gone.png", 1), "a b.bin": points})
	if rep, err := oneFile(t, gone+"/x.gltf", filepath.Join(t.TempDir(), "x.glb")); err != nil || rep.Complete {
		t.Errorf("with an image missing: %+v %v", rep, err)
	}
}
