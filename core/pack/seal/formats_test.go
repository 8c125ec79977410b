package seal_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/format/formattest"
)

// TestEveryFormat seals a whole project of each kind, both layouts, carries the
// crate to an empty folder and checks it there: every document names its files
// relative to itself and nothing leads out.
func TestEveryFormat(t *testing.T) {
	wav := "a sound"
	for name, files := range map[string]map[string]string{
		"cut.xspf":     {"cut.xspf": `<playlist xmlns="http://xspf.org/ns/0/" xml:base="../lib/"><trackList><track><location>one%20a.wav</location></track><track><location>sub/two.wav</location></track></trackList></playlist>`, "../lib/one a.wav": wav, "../lib/sub/two.wav": wav + "2"},
		"list.m3u":     {"list.m3u": "#EXTM3U\n../lib/one a.wav\n", "../lib/one a.wav": wav},
		"disc.cue":     {"disc.cue": "FILE \"../lib/side one.wav\" WAVE\n  TRACK 01 AUDIO\n", "../lib/side one.wav": wav},
		"cut.edl":      {"cut.edl": "TITLE: X\nFCM: NON-DROP FRAME\n001  HORN A C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: gull.wav\n002  BELL A C 00:00:00:00 00:00:01:00 01:00:01:00 01:00:02:00\n", "a/gull.wav": wav, "b/bell.wav": wav + "2"},
		"fog.adl":      {"fog.adl": "<ADL>\n<SOURCE_INDEX>\n (Index) 1 (F) \"URL:../lib/low%20horn.wav\" \"_\" 00:00:00:00/0000 00:00:10:00/0000 \"_\" N\n</SOURCE_INDEX>\n<EVENT_LIST>\n (Entry) 1 (Cut) I 1 01 01 00:00:00:00/0000 01:00:00:00/0000 01:00:01:00/0000 _\n</EVENT_LIST>\n</ADL>\n", "../lib/low horn.wav": wav},
		"bell.sfz":     {"bell.sfz": "<control>\ndefault_path=../lib/bell_\n<region> sample=A strike.wav\n<region> sample=B.wav lokey=1\n", "../lib/bell_A strike.wav": wav, "../lib/bell_B.wav": wav + "2"},
		"kit.sfz":      {"kit.sfz": "#include \"../lib/set.sfz\"\n<region> sample=$MIC.wav\n#include \"parts/low.sfz\"\n", "../lib/set.sfz": "#define $MIC close\n<control> default_path=../lib/bells/\n", "parts/low.sfz": "<region> sample=low a.wav\n", "../lib/bells/close.wav": wav, "../lib/bells/low a.wav": wav + "2"},
		"deck.obj":     {"deck.obj": "mtllib ../lib/deck.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl planks\nf 1 2 3\n", "../lib/deck.mtl": "newmtl planks\nmap_Kd -s 1 1 1 tex/planks a.png\n", "../lib/tex/planks a.png": "p"},
		"deck.dae":     {"deck.dae": `<COLLADA><library_images><image id="i"><init_from>../lib/a%20b.png</init_from></image></library_images><x><texture texture="i"/></x></COLLADA>`, "../lib/a b.png": "p"},
		"deck.usda":    {"deck.usda": "#usda 1.0\n( subLayers = [@../lib/light.usda@] )\ndef X \"a\" { asset f = @../lib/hull.<UDIM>.png@ }\n", "../lib/light.usda": "#usda 1.0\n", "../lib/hull.1001.png": "1", "../lib/hull.1002.png": "2"},
		"deck.mtlx":    {"deck.mtlx": `<materialx fileprefix="../lib/"><image name="i"><input name="f" type="filename" value="planks.png"/></image><image name="j"><input name="f" type="filename" value="sub/mast.png"/></image></materialx>`, "../lib/planks.png": "1", "../lib/sub/mast.png": "2"},
		"clock.stp":    {"clock.stp": "ISO-10303-21;HEADER;ENDSEC;DATA;#1=DOCUMENT_FILE('w','',#9,'',$,$);#2=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('wheel.stp',#3,#4,(#1));#3=IDENTIFICATION_ROLE('external document id and location',$);#4=EXTERNAL_SOURCE(IDENTIFIER('../lib'));#5=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('pin.stp',#3,#6,(#7));#6=EXTERNAL_SOURCE(IDENTIFIER(''));#7=DOCUMENT_FILE('p','',#9,'',$,$);ENDSEC;END-ISO-10303-21;", "../lib/wheel.stp": "ISO-10303-21;HEADER;ENDSEC;DATA;ENDSEC;END-ISO-10303-21;", "pin.stp": "ISO-10303-21;HEADER;ENDSEC;DATA;ENDSEC;END-ISO-10303-21; "},
		"room.ifc":     {"room.ifc": "ISO-10303-21;HEADER;FILE_SCHEMA(('IFC4'));ENDSEC;DATA;#1=IFCDOCUMENTREFERENCE('../lib/plan%20a.pdf',$,$,$,$);ENDSEC;END-ISO-10303-21;", "../lib/plan a.pdf": "%PDF-1.4"},
		"arm.urdf":     {"arm.urdf": `<robot name="r"><link name="l"><visual><geometry><mesh filename="package://clockwork/wheel.stl"/></geometry></visual></link></robot>`, "clockwork/package.xml": "<package><name>clockwork</name></package>", "clockwork/wheel.stl": "solid"},
		"plan.svg":     {"plan.svg": `<svg xmlns="http://www.w3.org/2000/svg"><style>@import "../lib/ink.css";</style><image href="../lib/a%20&amp;%20b.png"/></svg>`, "../lib/ink.css": ".a { background: url(paper.png) }", "../lib/paper.png": "p", "../lib/a & b.png": "q"},
		"note.odt":     {"note.odt": formattest.Zip("mimetype", "application/vnd.oasis.opendocument.text", "content.xml", `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:image xlink:href="../../lib/plate.png"/></office:document-content>`), "../lib/plate.png": "p"},
		"mem.qdpx":     {"mem.qdpx": formattest.Zip("project.qde", `<Project xmlns="urn:QDA-XML:project:1.0"><Sources><AudioSource name="k" path="relative://../lib/keeper.wav"/><PDFSource name="l" path="internal://l.pdf"/></Sources></Project>`, "sources/l.pdf", "%PDF"), "../lib/keeper.wav": wav},
		"board.gbrjob": {"board.gbrjob": `{"FilesAttributes": [{"Path": "top.gbr"}, {"Path": "../lib/outline.gbr"}]}`, "top.gbr": "t", "../lib/outline.gbr": "o"},
		"refs.csv":     {"refs.csv": "path;note\n../lib/one a.wav;x\n", "../lib/one a.wav": wav},
		"x.pack":       {"x.pack": formattest.Zip("head.json", `{"clip": "sound/one a.wav"}`), "sound/one a.wav": wav},
		"prose.take":   {"prose.take": "play ../lib/gull cry.wav at 10\nload(../lib/gull (take 2).wav), ../lib/gulls, ebb.wav\na\t../lib/it's late.png\t7\n", "../lib/gull cry.wav": wav, "../lib/gull (take 2).wav": wav + "2", "../lib/gulls, ebb.wav": wav + "3", "../lib/it's late.png": "p"},
		"state.mix":    {"state.mix": `{"do": "load ../lib/gull cry.wav, then ../lib/horn.wav", "look": "../lib/dusk: late.png"}`, "../lib/gull cry.wav": wav, "../lib/horn.wav": wav + "2", "../lib/dusk: late.png": "p"},
		"scene.kit":    {"scene.kit": `<kit><clip do="fade: ../lib/gull cry.wav; 3"/><look>see ../lib/a b.png now</look></kit>`, "../lib/gull cry.wav": wav, "../lib/a b.png": "p"},
		"roams.cue":    {"roams.cue": "FILE \"side one.wav\" WAVE\n  TRACK 01 AUDIO\n", "tapes/side one.flac": wav},
		"talks.qde":    {"talks.qde": `<Project xmlns="urn:QDA-XML:project:1.0"><Sources><TextSource name="t" plainTextPath="internal://t.txt"/><AudioSource name="k" path="relative://../lib/keeper.wav"/></Sources></Project>`, "sources/t.txt": "t", "../lib/keeper.wav": wav},
		"chart.odg":    {"chart.odg": formattest.Zip("mimetype", "application/vnd.oasis.opendocument.graphics", "content.xml", `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:object xlink:href="./Object 1"/></office:document-content>`, "Object 1/content.xml", `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:image xlink:href="../../../lib/plate.png"/></office:document-content>`), "../lib/plate.png": "p"},
		"deck.usdz":    {"deck.usdz": formattest.Zip("deck.usda", "#usda 1.0\n/* @no.png@ */ def \"a\" (references = @parts/mast.usda@) {} // @no.png@\n", "parts/mast.usda", "#usda 1.0\ndef \"m\" { asset g = @knot.png@\n}\n", "parts/knot.png", "k")},
		"marked.svg":   {"marked.svg": `<!DOCTYPE svg [<!ENTITY ns "http://www.w3.org/2000/svg">]><svg xmlns="&ns;"><image href="../lib/a.png"/></svg>`, "../lib/a.png": "p"},
		"x.session":    {"x.session": "clip \"../lib/one a.wav\"\n", "../lib/one a.wav": wav},
	} {
		for _, layout := range []stow.Layout{stow.ByKind, stow.AsStands} {
			dir := t.TempDir()
			want := map[string]bool{}
			for p, text := range files {
				coretest.Write(t, filepath.Join(dir, "project", p), text)
				if p != name && !strings.HasSuffix(p, "package.xml") && !strings.HasSuffix(p, ".mtl") && !strings.HasSuffix(p, ".css") && !strings.HasSuffix(p, ".usda") && !strings.HasSuffix(p, ".sfz") {
					want[text] = true
				}
			}
			rep, err := sealing(t, filepath.Join(dir, "project", name), filepath.Join(dir, "out", "crate"), stow.Options{Layout: layout})
			if err != nil || !rep.Well() {
				t.Errorf("%s, %s: %v %+v", name, layout, err, rep)
				continue
			}
			moved := filepath.Join(t.TempDir(), "elsewhere")
			if err := os.Rename(rep.Crate, moved); err != nil {
				t.Fatal(err)
			}
			os.RemoveAll(filepath.Join(dir, "project"))
			os.RemoveAll(filepath.Join(dir, "lib"))
			rep, err = seal.Check(bg, moved, all.Formats())
			if err != nil || !rep.Well() {
				t.Errorf("%s, %s: carried away: %v %+v", name, layout, err, rep)
			}
			_ = filepath.WalkDir(filepath.Join(moved, "data"), func(p string, d os.DirEntry, err error) error {
				if err == nil && !d.IsDir() {
					b, _ := os.ReadFile(p)
					delete(want, string(b))
				}
				return err
			})
			if len(want) > 0 {
				t.Errorf("%s, %s: the crate lacks %v", name, layout, want)
			}
		}
	}
}

// TestUnsaid: a document that can only be read and names its file in full is
// not complete in a crate, and says so again when the crate is checked.
func TestUnsaid(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "project", "sound", "one.wav")
	coretest.Write(t, file, "a sound")
	coretest.Write(t, filepath.Join(dir, "project", "x.pack"), formattest.Zip("head.json", `{"clip": "`+file+`"}`))
	rep, err := sealing(t, filepath.Join(dir, "project", "x.pack"), filepath.Join(dir, "out", "crate"), stow.Options{Layout: stow.ByKind})
	if err != nil || rep.Complete || rep.Well() {
		t.Fatalf("%v %+v", err, rep)
	}
	rep, err = seal.Check(bg, rep.Crate, all.Formats())
	said := ""
	if err == nil {
		for _, p := range words.SealProblems(rep) {
			said += p.Message + "\n"
		}
	}
	if err != nil || rep.Complete || !strings.Contains(said, "could not be rewritten for this crate") || !strings.Contains(said, "sound/one.wav") {
		t.Errorf("%v %+v\n%s", err, rep, said)
	}
}

// TestSharedInclude: a text that two instruments include is never changed for
// one of them: it is sealed where nothing in it must change, and else said.
func TestSharedInclude(t *testing.T) {
	dir := t.TempDir()
	doc := coretest.Write(t, filepath.Join(dir, "project", "all.m3u"), "#EXTM3U\na.sfz\nb.sfz\n")
	set := "<control> default_path=bells/\n"
	coretest.Write(t, filepath.Join(dir, "project", "set.sfz"), set)
	for _, n := range []string{"a", "b"} {
		coretest.Write(t, filepath.Join(dir, "project", n+".sfz"), "#include \"set.sfz\"\n<region> sample="+n+".wav\n")
		coretest.Write(t, filepath.Join(dir, "project", "bells", n+".wav"), n)
	}
	rep, err := sealing(t, doc, filepath.Join(dir, "out", "stands"), stow.Options{Layout: stow.AsStands})
	if err != nil || !rep.Well() {
		t.Errorf("%v %+v", err, rep)
	}
	if rep, err = sealing(t, doc, filepath.Join(dir, "out", "kind"), stow.Options{Layout: stow.ByKind}); err != nil || rep.Complete {
		t.Fatalf("%v %+v", err, rep)
	}
	if b, err := os.ReadFile(filepath.Join(rep.Crate, "data", "documents", "set.sfz")); err != nil || string(b) != set {
		t.Errorf("%q %v", b, err)
	}
}

// TestLackingPackage: a package that lacks a part which is meant is carried all
// the same, whichever reference comes first.
func TestLackingPackage(t *testing.T) {
	dir := t.TempDir()
	pack := formattest.Zip("in.usda", "#usda 1.0\n", "tex/a.png", "12345")
	doc := coretest.Write(t, filepath.Join(dir, "project", "deck.usda"), "#usda 1.0\ndef \"a\" { asset f = @pack.usdz[gone.png]@\nasset g = @pack.usdz[tex/a.png]@\n}\n")
	coretest.Write(t, filepath.Join(dir, "project", "pack.usdz"), pack)
	rep, err := sealing(t, doc, filepath.Join(dir, "out", "crate"), stow.Options{Layout: stow.ByKind})
	if err != nil || rep.Complete || rep.Files != 2 {
		t.Fatalf("%v %+v", err, rep)
	}
	if b, err := os.ReadFile(filepath.Join(rep.Crate, "data", "geometry", "pack.usdz")); err != nil || string(b) != pack {
		t.Error("the package is not in the crate as it was", err)
	}
}

// TestDamagedPart: a part that makes no sense as a document is carried as it is,
// and keeps the crate from being called complete.
func TestDamagedPart(t *testing.T) {
	dir := t.TempDir()
	doc := coretest.Write(t, filepath.Join(dir, "project", "clock.stp"), "ISO-10303-21;HEADER;ENDSEC;DATA;#1=DOCUMENT_FILE('wheel.stp','',$,'',$,$);ENDSEC;END-ISO-10303-21;")
	coretest.Write(t, filepath.Join(dir, "project", "wheel.stp"), "no part at all")
	rep, err := sealing(t, doc, filepath.Join(dir, "out", "crate"), stow.Options{Layout: stow.ByKind})
	if err != nil || rep.Complete || rep.Files != 2 || len(rep.Left) != 0 || len(rep.Problems) == 0 || !strings.Contains(rep.Problems[0].Error(), "wheel.stp") {
		t.Fatalf("%v %+v", err, rep)
	}
	if b, err := os.ReadFile(filepath.Join(rep.Crate, "data", "parts", "wheel.stp")); err != nil || string(b) != "no part at all" {
		t.Errorf("%q %v", b, err)
	}
}

// TestLostWithin: a package that lacks a part of its own is sealed, says that it
// is not complete, and its other references still lead into the crate.
func TestLostWithin(t *testing.T) {
	dir := t.TempDir()
	doc := coretest.Write(t, dir+"/project/note.odt", formattest.Zip("mimetype", "application/vnd.oasis.opendocument.text", "content.xml",
		`<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:image xlink:href="Pictures/gone.png"/><draw:image xlink:href="../../lib/plate.png"/></office:document-content>`))
	coretest.Write(t, dir+"/lib/plate.png", "p")
	rep, err := sealing(t, doc, dir+"/crate", stow.Options{Layout: stow.ByKind})
	if err != nil || rep.Complete || rep.Files != 2 || len(rep.Left) != 1 || rep.Left[0].Detail != "Pictures/gone.png" {
		t.Fatalf("%v %+v", err, rep)
	}
	for _, p := range words.SealProblems(rep) {
		if p.Code == "cannot-say" || p.Code == "leaves" || strings.Contains(p.Message, "plate.png") {
			t.Errorf("%+v", p)
		}
	}
}

// TestPackagesAlone: a package that holds what it names is never completed by what lies beside
// it: a part that it lacks is missing, though a file of that name is there, and it cannot be
// made to name one.
func TestPackagesAlone(t *testing.T) {
	for name, text := range map[string]string{
		"deck.usdz": formattest.Zip("deck.usda", "#usda 1.0\ndef \"m\" { asset f = @gone.png@ }\n"),
		"rope.usdz": formattest.Zip("deck.usda", "#usda 1.0\ndef \"m\" { asset f = @../lib/gone.png@ }\n"),
		"cut.otioz": formattest.Zip("content.otio", timeline(clip("a", "gone.png"))),
	} {
		dir := t.TempDir()
		doc := coretest.Write(t, filepath.Join(dir, "film", name), text)
		coretest.Write(t, filepath.Join(dir, "film/gone.png"), "beside")
		coretest.Write(t, filepath.Join(dir, "lib/gone.png"), "beside")
		rep := must[*seal.Report](t)(sealing(t, doc, filepath.Join(dir, "c"), stow.Options{Layout: stow.Flat}))
		if rep.Complete {
			t.Errorf("%s: %+v", name, rep)
		}
		coretest.Write(t, filepath.Join(dir, "c/data/gone.png"), "beside")
		if rep := must[*seal.Report](t)(seal.Check(bg, filepath.Join(dir, "c"), all.Formats())); rep.Complete {
			t.Errorf("%s, beside it: %+v", name, rep)
		}
	}
}
