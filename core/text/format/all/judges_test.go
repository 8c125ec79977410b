package all

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/formattest"
)

// need skips a check whose judge is not installed here.
func need(t *testing.T, program string) {
	t.Helper()
	if _, err := exec.LookPath(program); err != nil {
		t.Skipf("%s is not installed; make test installs it where it may", program)
	}
}

func run(t *testing.T, dir, program string, args ...string) string {
	t.Helper()
	cmd := exec.Command(program, args...)
	cmd.Dir = dir
	var errs bytes.Buffer
	cmd.Stderr = &errs
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("%s %v: %v %s", program, args, err, errs.String())
	}
	return string(out)
}

func keep(t *testing.T, name, text string) string {
	t.Helper()
	p := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return p
}

func opened(t *testing.T, name, text string) *format.File {
	t.Helper()
	f, err := Formats().Open(name, formattest.NewSource([]byte(text)))
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	return f
}

// moved renames every mention that can be and returns the new document.
func moved(t *testing.T, name, text string) string {
	t.Helper()
	f := opened(t, name, text)
	want := map[int]string{}
	for i := range f.Doc.Mentions {
		if m := &f.Doc.Mentions[i]; len(m.Pieces) > 0 {
			want[i] = "crate & co/" + strconv.Itoa(i) + filepath.Ext(f.Doc.Name(i))
		}
	}
	edits, err := f.Doc.Retarget(want)
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	var b bytes.Buffer
	if err := f.Rewrite(&b, edits); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// TestXMLByXPath: xmllint's XPath gives the same texts in the same order as we
// read, from documents as they are and rewritten.
func TestXMLByXPath(t *testing.T) {
	need(t, "xmllint")
	for _, c := range []struct{ name, xpath, text string }{
		{"x.xspf", `//*[local-name()="track"]/*[local-name()="location" or local-name()="image"]/text()`,
			"<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?>\n<playlist xmlns=\"http://xspf.org/ns/0/\" version=\"1\"><trackList>\n <track><location>a%20b.wav</location><title>no.wav</title></track><track><location><![CDATA[c&d.wav]]></location><image>\xE9t\xE9 &#x26; co.png</image></track></trackList></playlist>"},
		{"x.dae", `//*[local-name()="image"]/*[local-name()="init_from"]/text() | //*[starts-with(local-name(),"instance_")]/@url[not(starts-with(.,"#"))]`,
			`<COLLADA version="1.4.1"><library_images><image id="a"><init_from>tex/a &amp; b.png</init_from></image></library_images><node><instance_node url="h&#252;ll.dae#x"/><instance_geometry url="#m"/></node><surface><init_from>a</init_from></surface></COLLADA>`},
		{"x.mtlx", `//@value[../@type="filename"]`,
			`<materialx version="1.39"><image name="i"><input name="f" type="filename" value="planks &lt;1&gt;.png"/><input name="s" type="string" value="no.png"/></image></materialx>`},
		{"x.urdf", `//mesh/@filename | //texture/@filename`,
			`<robot name="r"><link name="l"><visual><geometry><mesh filename="package://clock/a%20b.stl"/></geometry><material name="m"><texture filename='tex/"q".png'/></material></visual></link></robot>`},
		{"x.qde", `//@path | //@plainTextPath | //@richTextPath`,
			`<Project xmlns="urn:QDA-XML:project:1.0" name="p"><Sources><AudioSource name="k" path="relative://audio/k &amp; l.wav"/><TextSource name="t" plainTextPath="relative://t.txt"/></Sources></Project>`},
		{"x.fodt", `//@*[local-name()="href" and not(local-name(..)="a")]`,
			`<office:document xmlns:office="o" xmlns:draw="d" xmlns:text="t" xmlns:xlink="http://www.w3.org/1999/xlink"><draw:image xlink:href="a%20b.png"/><text:a xlink:href="http://example.org/p">x</text:a></office:document>`},
		{"x.svg", `//*[local-name()="image" or local-name()="use"]/@href[not(starts-with(.,"#"))]`,
			`<svg xmlns="http://www.w3.org/2000/svg"><image href="a &lt; b.png"/><use href="#own"/><use href="c.svg#d"/></svg>`},
	} {
		for _, text := range []string{c.text, moved(t, c.name, c.text)} {
			f := opened(t, c.name, text)
			p := keep(t, c.name, text)
			// One string for each node: their count first, so that nothing hides.
			n := strings.TrimSpace(run(t, "", "xmllint", "--xpath", "count("+c.xpath+")", p))
			if n != strconv.Itoa(len(f.Doc.Mentions)) {
				t.Errorf("%s: xmllint counts %s, we read %d in\n%s", c.name, n, len(f.Doc.Mentions), text)
				continue
			}
			for i := range f.Doc.Mentions {
				theirs := strings.TrimSuffix(run(t, "", "xmllint", "--xpath", "string(("+c.xpath+")["+strconv.Itoa(i+1)+"])", p), "\n")
				if ours := f.Doc.Written(i); ours != theirs {
					t.Errorf("%s: we read %q, xmllint %q", c.name, ours, theirs)
				}
			}
		}
	}
}

var opening = regexp.MustCompile(`Opening '([^']+)' for reading`)

// TestPlaylistsByFFmpeg: a streaming playlist that ffmpeg wrote is read as
// ffmpeg reads it, and again after its segments were moved and it was rewritten.
func TestPlaylistsByFFmpeg(t *testing.T) {
	need(t, "ffmpeg")
	dir := t.TempDir()
	run(t, dir, "ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=r=48000:d=7", "-c:a", "aac", "-f", "hls", "-hls_time", "2", "-hls_list_size", "0", "-hls_segment_type", "fmp4", "-hls_fmp4_init_filename", "head.mp4", "-hls_segment_filename", "part %02d.m4s", "horn.m3u8")
	heard := func(dir string) (list []string) {
		cmd := exec.Command("ffmpeg", "-v", "verbose", "-i", "horn.m3u8", "-f", "null", "-")
		cmd.Dir = dir
		out, err := cmd.CombinedOutput()
		if err != nil {
			t.Fatalf("%v\n%s", err, out)
		}
		for _, m := range opening.FindAllStringSubmatch(string(out), -1) {
			if p := filepath.Clean(strings.TrimPrefix(m[1], "./")); p != "horn.m3u8" {
				list = append(list, p)
			}
		}
		slices.Sort(list)
		return slices.Compact(list)
	}
	said := func(text string) (list []string) {
		f := opened(t, "horn.m3u8", text)
		for i := range f.Doc.Mentions {
			list = append(list, f.Doc.Name(i))
		}
		slices.Sort(list)
		return slices.Compact(list)
	}
	b, err := os.ReadFile(filepath.Join(dir, "horn.m3u8"))
	if err != nil {
		t.Fatal(err)
	}
	if ours, theirs := said(string(b)), heard(dir); !slices.Equal(ours, theirs) || len(ours) < 4 {
		t.Errorf("we read %q, ffmpeg %q", ours, theirs)
	}
	// Move everything into a folder, rewrite, and listen again.
	f := opened(t, "horn.m3u8", string(b))
	want := map[int]string{}
	if err := os.Mkdir(filepath.Join(dir, "parts"), 0o755); err != nil {
		t.Fatal(err)
	}
	for i := range f.Doc.Mentions {
		n := f.Doc.Name(i)
		want[i] = "parts/" + n
		_ = os.Rename(filepath.Join(dir, n), filepath.Join(dir, "parts", n)) // a name may stand twice; what is not moved is not found below
	}
	edits, err := f.Doc.Retarget(want)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := f.Rewrite(&out, edits); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, "horn.m3u8"), out.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	if ours, theirs := said(out.String()), heard(dir); !slices.Equal(ours, theirs) {
		t.Errorf("moved: we say %q, ffmpeg opens %q", ours, theirs)
	}
}

// TestPackagesByBsdtar: a package that was rewritten is whole for another
// program, and all members but the document are byte for byte what they were.
func TestPackagesByBsdtar(t *testing.T) {
	need(t, "bsdtar")
	for name, text := range map[string]string{
		"x.odt":   formattest.Zip("mimetype", "application/vnd.oasis.opendocument.text", "content.xml", `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:image xlink:href="../plate.png"/></office:document-content>`, "Pictures/1.png", strings.Repeat("png", 1000)),
		"x.qdpx":  formattest.Zip("project.qde", `<Project xmlns="urn:QDA-XML:project:1.0"><Sources><AudioSource name="k" path="relative://k.wav"/></Sources></Project>`, "sources/l.txt", "text"),
		"x.usdz":  formattest.Zip("deck.usda", "#usda 1.0\ndef X \"a\" { asset f = @../gone.png@ }\n", "tex/a.png", "png!"),
		"x.otioz": formattest.Zip("content.otio", `{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"../gone.wav"}}`, "media/a.wav", "RIFF"),
	} {
		before, after := keep(t, name, text), keep(t, "new."+name, moved(t, name, text))
		list := run(t, "", "bsdtar", "-tf", before)
		if again := run(t, "", "bsdtar", "-tf", after); again != list {
			t.Errorf("%s: bsdtar lists\n%s\nand after rewriting\n%s", name, list, again)
		}
		changed := 0
		for _, m := range strings.Fields(list) {
			if run(t, "", "bsdtar", "-xOf", before, m) != run(t, "", "bsdtar", "-xOf", after, m) {
				changed++
			}
		}
		if changed != 1 {
			t.Errorf("%s: %d members changed, wanted the document alone", name, changed)
		}
	}
}

// TestModelsByScenes: a scene library finds the same material libraries, and
// the same pictures behind the options of map statements.
func TestModelsByScenes(t *testing.T) {
	need(t, "node")
	web, err := filepath.Abs("../../../web")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(web, "node_modules", "three")); err != nil {
		t.Skip("the scene library is not installed; make test installs it")
	}
	obj := "# a deck\nmtllib deck paints.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl planks\nf 1 2 3\n"
	mtl := "newmtl planks\nmap_Kd -s 2 2 1 tex/planks a.png\nmap_Bump -bm 0.3 planks bump.png\nmap_Ks -o 0.5 0 0 -s 1 1 1 gloss.png\nnewmtl rope\nmap_d rope.png\ndisp -mm 0 2 rope d.png\n"
	script := `
		const { OBJLoader } = await import("three/examples/jsm/loaders/OBJLoader.js");
		const { MTLLoader } = await import("three/examples/jsm/loaders/MTLLoader.js");
		const fs = await import("node:fs");
		const [obj, mtl] = process.argv.slice(1).map((p) => fs.readFileSync(p, "utf8"));
		console.log(JSON.stringify(new OBJLoader().parse(obj).materialLibraries));
		const made = new MTLLoader().parse(mtl, "");
		const urls = [];
		for (const m of Object.values(made.materialsInfo))
			for (const [k, v] of Object.entries(m))
				if (/^(map_|bump|disp|decal|norm|refl)/.test(k)) urls.push(made.getTextureParams(v, {}).url);
		console.log(JSON.stringify(urls));`
	for _, docs := range [][2]string{{obj, mtl}, {moved(t, "x.obj", obj), moved(t, "x.mtl", mtl)}} {
		out := run(t, web, "node", "--input-type=module", "-e", script, keep(t, "x.obj", docs[0]), keep(t, "x.mtl", docs[1]))
		for k, theirs := range strings.Split(strings.TrimSpace(out), "\n") {
			f := opened(t, []string{"x.obj", "x.mtl"}[k], docs[k])
			ours := make([]string, len(f.Doc.Mentions))
			for i := range ours {
				ours[i] = strconv.Quote(f.Doc.Written(i))
			}
			if said := "[" + strings.Join(ours, ",") + "]"; said != theirs {
				t.Errorf("we read %s, the library %s", said, theirs)
			}
		}
	}
}
