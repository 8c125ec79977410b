package trace_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/format/formattest"
)

// lines traces a document and says every reference: state, use, kind, text and
// where it leads, below dir.
func lines(t *testing.T, dir, doc string, drives ...drive.Drive) []string {
	t.Helper()
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{Drives: drives}, Drives: drives}, filepath.Join(dir, doc))
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, r := range report.OfTrace(g, origin.Judge(g, origin.Options{Reach: drive.System{}})).References {
		line := fmt.Sprintf("%s %s %s %s", r.State, r.Use, r.Kind, r.Written)
		if r.Path != nil {
			line += " → " + strings.TrimPrefix(*r.Path, dir+"/")
		}
		if r.Files != nil {
			line += fmt.Sprintf(" → %d files", len(r.Files))
		}
		if len(r.Gaps) > 0 {
			gaps, _ := r.Gaps.MarshalJSON()
			line += ", gaps " + string(gaps)
		}
		if r.Role != "" {
			line += " " + r.Role
		}
		if r.Guessed {
			line += " guessed"
		}
		out = append(out, line)
	}
	for _, p := range g.Problems {
		out = append(out, "problem: "+words.OfProblem(p).Message)
	}
	return out
}

// TestFormats traces one small project of each kind, nested documents and all.
func TestFormats(t *testing.T) {
	for _, c := range []struct {
		name  string
		files map[string]string
		want  []string
	}{
		{"alternatives of a track: the first that exists", map[string]string{
			"doc":       `<playlist xmlns="http://xspf.org/ns/0/"><trackList><track><location>gone.wav</location><location>there.wav</location><location>too.wav</location></track><track><location>x.wav</location><location>y.wav</location></track></trackList></playlist>`,
			"there.wav": "a", "too.wav": "b",
		}, []string{"missing dormant audio gone.wav", "here used audio there.wav → there.wav", "here dormant audio too.wav → too.wav", "missing used audio x.wav", "missing dormant audio y.wav"}},
		{"names without a folder, by stem; several are twins", map[string]string{
			"doc":              "TITLE: X\n001  TAPE01 V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: plate.mov\n002  HORN A C 00:00:00:00 00:00:01:00 01:00:01:00 01:00:02:00\n003  BELL A C 00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00\n004  NONE A C 00:00:00:00 00:00:01:00 01:00:03:00 01:00:04:00\n",
			"tapes/tape01.mov": "t", "pictures/Plate.MXF": "p", "a/bell.wav": "1", "b/Bell.aif": "2", "horn.wav": "h", "horn.txt": "no media",
		}, []string{"here used video plate.mov → pictures/Plate.MXF", "here used audio HORN → horn.wav", "twins used audio BELL → 2 files", "missing used audio NONE"}},
		{"a cue sheet whose sound was moved and packed since; two could be meant of the other", map[string]string{
			"doc.cue": "FILE \"side one.wav\" WAVE\n TRACK 01 AUDIO\n  INDEX 01 00:00:00\nFILE \"two.wav\" WAVE\n TRACK 02 AUDIO\nFILE \"old/three.wav\" WAVE\n", "tapes/side one.flac": "1", "a/two.wav": "2", "b/two.wav": "2", "three.wav": "3",
		}, []string{"here used audio side one.wav → tapes/side one.flac", "twins used audio two.wav → 2 files", "missing used audio old/three.wav"}},
		{"model, library, textures: what no face uses is listed", map[string]string{
			"doc":          "mtllib tex/deck.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl planks\nf 1 2 3\n",
			"tex/deck.mtl": "newmtl planks\nmap_Kd planks.png\nnewmtl spare\nmap_Kd spare.png\n", "tex/planks.png": "p", "tex/spare.png": "s",
		}, []string{"here used material tex/deck.mtl → tex/deck.mtl", "here used image planks.png → tex/planks.png", "here listed image spare.png → tex/spare.png"}},
		{"assembly, part, and a folder they are said to be in", map[string]string{
			"doc":             "ISO-10303-21;HEADER;ENDSEC;DATA;#1=DOCUMENT_FILE('w','',#9,'',$,$);#2=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('wheel.stp',#3,#4,(#1));#3=IDENTIFICATION_ROLE('external document id and location',$);#4=EXTERNAL_SOURCE(IDENTIFIER('parts'));ENDSEC;END-ISO-10303-21;",
			"parts/wheel.stp": "ISO-10303-21;HEADER;ENDSEC;DATA;#1=DOCUMENT_FILE('pin.stp','',#9,'',$,$);ENDSEC;END-ISO-10303-21;", "parts/pin.stp": "ISO-10303-21;HEADER;ENDSEC;DATA;ENDSEC;END-ISO-10303-21;",
		}, []string{"here used part wheel.stp → parts/wheel.stp", "here used part pin.stp → parts/pin.stp"}},
		{"packages of a robot description", map[string]string{
			"doc":                   `<robot name="r"><link name="l"><visual><geometry><mesh filename="package://clockwork/meshes/wheel%20a.stl"/></geometry></visual><visual><geometry><mesh filename="package://unknown/x.stl"/></geometry></visual></link></robot>`,
			"clockwork/package.xml": "<package><name> clockwork </name></package>", "clockwork/meshes/wheel a.stl": "solid",
		}, []string{"here used geometry package://clockwork/meshes/wheel%20a.stl → clockwork/meshes/wheel a.stl", "missing used geometry package://unknown/x.stl"}},
		{"tiles", map[string]string{
			"doc": `<materialx version="1.39"><image name="i"><input name="file" type="filename" value="tex/hull.&lt;UDIM&gt;.png"/></image></materialx>`, "tex/hull.1001.png": "1", "tex/hull.1003.png": "3",
		}, []string{"here used sequence tex/hull.<UDIM>.png → 2 files, gaps [1002]"}},
		{"tiles of a grid: gaps by name", map[string]string{
			"doc": `<materialx version="1.39"><image name="i"><input name="file" type="filename" value="tex/hull_&lt;UVTILE&gt;.png"/></image></materialx>`, "tex/hull_u1_v1.png": "1", "tex/hull_u3_v1.png": "3", "tex/hull_u2_v2.png": "3", "tex/hull_u02_v2.png": "no",
		}, []string{`here used sequence tex/hull_<UVTILE>.png → 3 files, gaps ["u2_v1","u1_v2","u3_v2"]`}},
		{"frames of a clip template", map[string]string{
			"doc": "#usda 1.0\ndef \"a\" ( clips = { dictionary default = { string templateAssetPath = \"c/x.##.usda\"\ndouble templateStartTime = 1\ndouble templateEndTime = 3\n} } ) {}\n", "c/x.01.usda": "1", "c/x.03.usda": "3", "c/x.04.usda": "4",
		}, []string{"here used sequence c/x.##.usda → 2 files, gaps [2]"}},
		{"a stronger layer switches off what weaker ones hold, and on what they switched off", map[string]string{
			"doc":       "#usda 1.0\n( subLayers = [@base.usda@, @late.usda@] )\nover \"deck\" { over \"lamp\" (active = false) {}\nover \"mast\" (active = true) {} }\n",
			"base.usda": "#usda 1.0\ndef \"deck\" { def \"lamp\" { asset f = @lamp.png@\ndef \"glass\" { asset f = @glass.png@\n} }\ndef \"lamps\" { asset f = @lamps.png@\n}\ndef \"mast\" (references = @mast.usda@</m>) {}\nover \"mast\" { over \"flag\" (active = false) {} } }\n",
			"late.usda": "#usda 1.0\nover \"deck\" { over \"mast\" (active = false) { asset f = @rope.png@\n } }\n",
			"mast.usda": "#usda 1.0\n( defaultPrim = \"m\" )\ndef \"m\" { def \"flag\" { asset f = @flag.png@\n}\nasset f = @wood.png@\n}\n",
			"lamp.png":  "1", "glass.png": "2", "lamps.png": "3", "flag.png": "4", "wood.png": "5", "rope.png": "6",
		}, []string{"here used geometry base.usda → base.usda", "here used geometry late.usda → late.usda",
			"here dormant image lamp.png → lamp.png", "here dormant image glass.png → glass.png", "here used image lamps.png → lamps.png", "here used geometry mast.usda → mast.usda",
			"here used image rope.png → rope.png", "here dormant image flag.png → flag.png", "here used image wood.png → wood.png"}},
		{"variants by the strongest selection, in a layer and behind a reference", map[string]string{
			"doc":       "#usda 1.0\n( subLayers = [@base.usda@] )\nover \"deck\" ( variants = { string finish = \"painted\" } ) {}\ndef \"b\" ( references = @boat.usda@ variants = { string sail = \"up\" } ) {}\ndef \"c\" ( references = @boat.usda@ ) {}\n",
			"base.usda": "#usda 1.0\ndef \"deck\" ( variants = { string finish = \"bare\" } variantSets = \"finish\" ) { variantSet \"finish\" = {\n\"bare\" { asset f = @bare.png@\n}\n\"painted\" { asset f = @painted.png@\n}\n} }\n",
			"boat.usda": "#usda 1.0\n( defaultPrim = \"boat\" )\ndef \"boat\" ( variants = { string sail = \"down\" } variantSets = \"sail\" ) { variantSet \"sail\" = {\n\"up\" { asset f = @up.png@\n}\n\"down\" { asset f = @down.png@\n}\n\"torn\" { asset f = @torn.png@\ndef RenderProduct \"p\" { token productName = \"out.exr\"\n} }\n} }\n",
			"bare.png":  "1", "painted.png": "2", "up.png": "3", "down.png": "4", "torn.png": "5",
		}, []string{"here used geometry base.usda → base.usda", "here used geometry boat.usda → boat.usda", "here used geometry boat.usda → boat.usda",
			"here dormant image bare.png → bare.png", "here used image painted.png → painted.png",
			"here used image up.png → up.png", "here used image down.png → down.png", "here dormant image torn.png → torn.png", "here dormant image out.exr → out.exr write"}},
		{"a part of another package, and one that is not in it", map[string]string{
			"doc":       "#usda 1.0\ndef \"a\" { asset f = @pack.usdz[tex/a.png]@\nasset g = @pack.usdz[tex/b.png]@\n}\ndef \"b\" (references = @pack.usdz[in.usda]@) {}\n",
			"pack.usdz": formattest.Zip("in.usda", "#usda 1.0\ndef \"x\" { asset h = @tex/a.png@\n}\n", "tex/a.png", "12345"),
		}, []string{"here used geometry pack.usdz[tex/a.png] → pack.usdz", "missing used geometry pack.usdz[tex/b.png] → pack.usdz", "here used geometry pack.usdz[in.usda] → pack.usdz", "inside used image tex/a.png"}},
		{"a pointer of a large-file store in git, in place of a document and of a picture", map[string]string{
			"doc":       "#usda 1.0\ndef \"a\" (references = @mast.usda@) { asset f = @rope.png@\n}\n",
			"mast.usda": "version https://git-lfs.github.com/spec/v1\noid sha256:4d7a\nsize 12345\n", "rope.png": "version https://git-lfs.github.com/spec/v1\noid sha256:4d7a\nsize 12345\n",
		}, []string{"unreadable used geometry mast.usda → mast.usda", "here used image rope.png → rope.png", "problem: is only a pointer of a large-file store in git; its content was not downloaded"}},
		{"a package of binary layers is a file like any other, a damaged one is not", map[string]string{
			"doc": "#usda 1.0\ndef \"a\" (references = @whole.usdz@) {}\ndef \"b\" (references = @cut.usdz@) {}\n", "whole.usdz": formattest.Zip("scene.usdc", "PXR-USDC", "a.png", "1"), "cut.usdz": formattest.Zip("scene.usda", "#usda 1.0\n")[:40],
		}, []string{"here used geometry whole.usdz → whole.usdz", "unreadable used geometry cut.usdz → cut.usdz", "problem: not a valid USDA document: its package cannot be read: zip: not a valid zip file"}},
		{"included texts are read in place: their defines and default path hold on, names are the first document's", map[string]string{
			"doc.sfz": "#include \"parts/set.sfz\"\n<region> sample=$MIC.wav\n#define $KEY low\n#include \"parts/key.sfz\"\n#define $KEY high\n#include \"parts/key.sfz\"\n#include \"parts/none.sfz\"\n#define $DIR parts\n#include \"$DIR/last.sfz\"\n", "parts/last.sfz": "<region> sample=tail.wav\n",
			"parts/set.sfz": "#define $MIC close\n<control> default_path=bells/\n", "parts/key.sfz": "<region> sample=$KEY.wav\n<region> sample=tail.wav\n#include \"key.sfz\"\n",
			"bells/close.wav": "c", "bells/low.wav": "l", "bells/tail.wav": "t",
		}, []string{"here used document parts/set.sfz → parts/set.sfz", "here used audio $MIC.wav → bells/close.wav", "here used document parts/key.sfz → parts/key.sfz", "here used document parts/key.sfz → parts/key.sfz", "missing used document parts/none.sfz", "here used document $DIR/last.sfz → parts/last.sfz",
			"here used audio $KEY.wav → bells/low.wav", "here used audio tail.wav → bells/tail.wav", "missing used document key.sfz", "missing used audio $KEY.wav", "here used audio tail.wav → bells/tail.wav"}},
		{"a library whose name holds spaces, one that goes on on the next line", map[string]string{
			"doc.obj": "mtllib deck paints.lib\nmtllib a.mtl \\\nb c.mtl\nmtllib x y.mtl z.mtl\nv 0 0 0\n", "deck paints.lib": "newmtl a\n", "x y.mtl z.mtl": "newmtl b\n", "b c.mtl": "newmtl c\n",
		}, []string{"here used material deck paints.lib → deck paints.lib", "missing used material a.mtl", "here used material b c.mtl → b c.mtl", "here used material x y.mtl z.mtl → x y.mtl z.mtl"}},
		{"the kind a list tells", map[string]string{"doc.csv": "kind,path\naudio,takes/one.raw\nnonsense,two.raw\n", "takes/one.raw": "x"},
			[]string{"here used audio takes/one.raw → takes/one.raw", "missing used other two.raw"}},
		{"a text that two instruments include holds for both, and is told once", map[string]string{
			"doc.m3u": "#EXTM3U\na.sfz\nb.sfz\n", "a.sfz": "#include \"set.sfz\"\n<region> sample=one.wav\n", "b.sfz": "#include \"./set.sfz\"\n#include \"set.sfz\"\n<region> sample=two.wav\n",
			"set.sfz": "<control> default_path=bells/\n<region> sample=both.wav\n", "bells/one.wav": "1", "bells/two.wav": "2", "bells/both.wav": "3", "two.wav": "a trap: without the default path",
		}, []string{"here used document a.sfz → a.sfz", "here used document b.sfz → b.sfz", "here used document set.sfz → set.sfz", "here used audio one.wav → bells/one.wav",
			"here used audio both.wav → bells/both.wav", "here used document ./set.sfz → set.sfz", "here used document set.sfz → set.sfz", "here used audio two.wav → bells/two.wav"}},
		{"a table with write points", map[string]string{
			"doc.csv": "path,role,use\nsound/a.wav,read,\nmix/out.wav,write,\n/elsewhere/print.wav,write,\n", "sound/a.wav": "a",
		}, []string{"here used audio sound/a.wav → sound/a.wav", "here used audio mix/out.wav → mix/out.wav write", "away used audio /elsewhere/print.wav → /elsewhere/print.wav write"}},
		{"any other document: what leads nowhere is believed where it can hardly be anything else", map[string]string{
			"doc.session": "clip \"sound/gull cry.wav\"\nclip sound/gone.wav at 7\nfont \"share/none.ttf\"\nsee old/none.wav, none.png and \"https://example.org/a.png\"\n", "sound/gull cry.wav": "g",
		}, []string{"here used audio sound/gull cry.wav → sound/gull cry.wav guessed", "missing used audio sound/gone.wav guessed", "missing used other share/none.ttf guessed"}},
		{"a package beside its own members", map[string]string{
			"doc.odt":   formattest.Zip("mimetype", "application/vnd.oasis.opendocument.text", "content.xml", `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:image xlink:href="Pictures/1.png"/><draw:image xlink:href="../plate.png"/><draw:image xlink:href="Pictures/2.png"/></office:document-content>`, "Pictures/1.png", "12345"),
			"plate.png": "p", "Pictures/2.png": "a trap: beside the package, not in it",
		}, []string{"inside used image Pictures/1.png", "here used image ../plate.png → plate.png", "missing used image Pictures/2.png"}},
		{"bundles beside their own members", map[string]string{
			"doc.m3u":     "#EXTM3U\nb.otioz\nc.usdz\n",
			"b.otioz":     formattest.Zip("version.txt", "1.0.0", "content.otio", `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[{"OTIO_SCHEMA":"Clip.1","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/1.wav"}},{"OTIO_SCHEMA":"Clip.1","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/2.wav"}}]}]}}`, "media/1.wav", "1"),
			"c.usdz":      formattest.Zip("c.usda", "#usda 1.0\ndef \"a\" { asset f = @tex/1.png@\nasset g = @tex/2.png@\n}\n", "tex/1.png", "1"),
			"media/2.wav": "a trap: beside the bundle, not in it", "tex/2.png": "another trap",
		}, []string{"here used document b.otioz → b.otioz", "here used geometry c.usdz → c.usdz", "inside used audio media/1.wav", "missing used audio media/2.wav", "inside used image tex/1.png", "missing used image tex/2.png"}},
		{"a drawing, its style sheet, its picture", map[string]string{
			"doc": `<svg xmlns="http://www.w3.org/2000/svg"><style>@import "css/ink.css";</style></svg>`, "css/ink.css": "a { background: url(../paper.png) }", "paper.png": "p",
		}, []string{"here used other css/ink.css → css/ink.css", "here used image ../paper.png → paper.png"}},
		{"a received bag's manifest", map[string]string{
			"manifest-sha256.txt": "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad  data/a%25.wav\n", "data/a%.wav": "abc",
		}, []string{"here used audio data/a%.wav → data/a%.wav"}},
		{"a bag, by its folder or the file that marks it", map[string]string{
			"bagit.txt": "BagIt-Version: 1.0\n", "manifest-md5.txt": "", "manifest-sha256.txt": "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad  data/a.wav\n", "data/a.wav": "abc",
		}, []string{"here used audio data/a.wav → data/a.wav"}},
	} {
		dir := coretest.Lay(t, c.files)
		docs := []string{}
		for name := range c.files {
			if strings.HasPrefix(name, "doc.") || strings.HasPrefix(name, "manifest-") && c.files["bagit.txt"] == "" {
				docs = []string{name}
			}
			if name == "bagit.txt" {
				docs = []string{name, "."}
			}
		}
		if len(docs) == 0 {
			docs = []string{"doc"}
		}
		for _, doc := range docs {
			if got := strings.Join(lines(t, dir, doc), "\n"); got != strings.Join(c.want, "\n") {
				t.Errorf("%s: got\n%s\nwant\n%s", c.name, got, strings.Join(c.want, "\n"))
			}
		}
	}
}

// TestOdd: a cycle of links, a device and a file in which the kernel talks are
// unreadable and nothing waits for them; a file that is only called like a
// pattern is one file.
func TestOdd(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"doc.m3u": "#EXTM3U\nround.wav\n/dev/zero\n/proc/kmsg\n/proc/self/mem\na.<4>.png\n", "a.<4>.png": "x"})
	if err := errors.Join(os.Symlink("about.wav", filepath.Join(dir, "round.wav")), os.Symlink("round.wav", filepath.Join(dir, "about.wav"))); err != nil {
		t.Fatal(err)
	}
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "doc.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	for i := range g.References {
		r := &g.References[i]
		switch r.Written {
		case "a.<4>.png":
			if r.State != graph.Here || g.Files[r.File].Shown() != filepath.Join(dir, "a.<4>.png") {
				t.Errorf("%s: %s, shown as %s", r.Written, r.State, g.Files[r.File].Shown())
			}
		default:
			if _, err := os.Lstat(filepath.Join(dir, r.Written)); r.State != graph.Unreadable && (err == nil || strings.HasPrefix(r.Written, "/dev") || strings.HasPrefix(r.Written, "/proc") && there(r.Written)) {
				t.Errorf("%s is %s", r.Written, r.State)
			}
		}
	}
}

func there(p string) bool { _, err := os.Stat(p); return err == nil }
