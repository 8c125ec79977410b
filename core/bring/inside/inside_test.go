package inside_test

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/bring/inside"
	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/names"
)

// painted is a picture of one colour, as a program would keep it.
func painted(shade uint8) []byte {
	im := image.NewNRGBA(image.Rect(0, 0, 4, 4))
	for i := range im.Pix {
		im.Pix[i] = shade
	}
	im.Set(1, 1, color.NRGBA{shade, 0, 255, 255})
	var b bytes.Buffer
	_ = png.Encode(&b, im) // a buffer takes everything
	return b.Bytes()
}

// escaped writes parts of a text as its carrier allows.
func escaped(text, what, as string) string { return strings.ReplaceAll(text, what, as) }

func packed(members ...string) string {
	var b bytes.Buffer
	zw := zip.NewWriter(&b)
	for i := 0; i < len(members); i += 2 {
		w, _ := zw.CreateHeader(&zip.FileHeader{Name: members[i], Method: zip.Store})
		_, _ = w.Write([]byte(members[i+1]))
	}
	_ = zw.Close()
	return b.String()
}

// documents hold two pictures each; sky.png lies beside them.
func documents() map[string]string {
	a, b := painted(40), painted(90)
	data := func(p []byte) string { return "data:image/png;base64," + base64.StdEncoding.EncodeToString(p) }
	views := string(a) + strings.Repeat("\x00", (4-len(a)%4)%4) + string(b)
	return map[string]string{
		"uris.gltf": `{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{}],
 "images":[{"name":"draft colour","uri":"` + data(a) + `"},{"uri":"sky.png"},{"name":"draft rough","uri":"` + data(b) + `"}]}`,
		"escaped.gltf": `{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{}],
 "images":[{"name":"draft colour","uri":"` + escaped(data(a), "/", `\/`) + `"},{"uri":"sky.png"},{"name":"draft rough","uri":"` + escaped(escaped(data(b), "+", `\u002b`), "A", `\u0041`) + `"}]}`,
		"entities.dae": `<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><library_images><image id="raw"><data>` +
			escaped(hex.EncodeToString(a), "7", "&#55;") + `</data></image><image id="sky"><init_from>sky.png</init_from></image><image id="raw2"><data>&#x20;` + escaped(hex.EncodeToString(b), "0d", "&#x0a;0d") + `</data></image></library_images></COLLADA>`,
		"views.gltf": fmt.Sprintf(`{"asset":{"version":"2.0"},"buffers":[{"uri":"data:application/octet-stream;base64,%s","byteLength":%d}],
 "bufferViews":[{"buffer":0,"byteLength":%d},{"buffer":0,"byteOffset":%d,"byteLength":%d}],
 "images":[{"bufferView" : 0,"mimeType":"image/png","name":"mast"},{"uri":"sky.png"},{"mimeType":"image/png","bufferView":1}]}`,
			base64.StdEncoding.EncodeToString([]byte(views)), len(views), len(a), len(views)-len(b), len(b)),
		"plan.svg": `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><image id="stamp" xlink:href="` + data(a) + `"/><image href="sky.png"/><image id="seal" href='` + data(b) + `'/></svg>`,
		"deck.x3d": `<?xml version="1.0" encoding="UTF-8"?><X3D version="4.0"><Scene><Shape><Appearance><ImageTexture url='"` + data(a) + `"'/></Appearance></Shape><Shape><Appearance><ImageTexture url='"sky.png"'/></Appearance></Shape><Shape><Appearance><ImageTexture url='"` + data(b) + `"'/></Appearance></Shape></Scene></X3D>`,
		"new.dae": `<?xml version="1.0"?><c:COLLADA xmlns:c="http://www.collada.org/2008/03/COLLADASchema" version="1.5.0"><c:library_images><c:image id="raw"><c:init_from><c:hex format="PNG">` +
			hex.EncodeToString(a) + `</c:hex></c:init_from></c:image><c:image id="sky"><c:init_from><c:ref>sky.png</c:ref></c:init_from></c:image><c:image id="raw2"><c:init_from><c:hex format="PNG"> ` + strings.ToUpper(hex.EncodeToString(b)) + `
 </c:hex ></c:init_from></c:image></c:library_images></c:COLLADA>`,
		"old.dae": `<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><library_images><image id="raw"><data>` +
			hex.EncodeToString(a) + `</data></image><image id="sky"><init_from>sky.png</init_from></image><image id="raw2"><init_from>` + data(b) + `</init_from></image></library_images></COLLADA>`,
		"note.odt": packed("mimetype", "application/vnd.oasis.opendocument.text",
			"content.xml", `<?xml version="1.0"?><o:document-content xmlns:o="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:xlink="http://www.w3.org/1999/xlink"><o:body><draw:image xlink:href="Pictures/one.png"/><draw:image xlink:href="../sky.png"/><draw:image xlink:href="Pictures/two.png"/></o:body></o:document-content>`,
			"Pictures/one.png", string(a), "Pictures/two.png", string(b)),
		"talk.qdpx": packed("project.qde", `<?xml version="1.0" encoding="utf-8"?><Project name="p" basePath="" xmlns="urn:QDA-XML:project:1.0"><Sources><PictureSource guid="1" name="one" path="internal://one.png"/><PictureSource guid="2" name="sky" path="relative://sky.png"/><PictureSource guid="3" name="two" path="internal://two.png"/></Sources></Project>`,
			"sources/one.png", string(a), "sources/two.png", string(b)),
	}
}

func traced(t *testing.T, doc string) (*graph.Graph, trace.Options) {
	t.Helper()
	o := trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: filepath.Dir(doc)}
	g, err := trace.Run(t.Context(), o, doc)
	if err != nil {
		t.Fatal(err)
	}
	return g, o
}

// Written out and traced again, a graph is the same but for the files that exist
// now; their bytes are those that stood inside; put back, the document is what it
// was.
func TestWrittenOut(t *testing.T) {
	for name, text := range documents() {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			doc := coretest.Write(t, filepath.Join(dir, name), text)
			coretest.Write(t, filepath.Join(dir, "sky.png"), string(painted(200)))
			g, o := traced(t, doc)
			want := map[string][]byte{}
			to := map[graph.RefID]string{}
			for _, d := range inside.List(g, o) {
				if d.Why != inside.Free || d.Type != "image/png" { // the buffer the pictures are cut out of stays
					continue
				}
				if filepath.Ext(d.Name) != ".png" || d.Folder != dir {
					t.Errorf("%q in %s is proposed for %s", d.Name, d.Folder, g.References[d.Ref].Owner)
				}
				at := filepath.Join(dir, "made here", d.Name)
				to[d.Ref], want[at] = at, [][]byte{painted(40), painted(90)}[len(to)]
			}
			if len(to) != 2 {
				t.Fatalf("%d pictures can be written out: %+v", len(to), inside.List(g, o))
			}
			keep := edition.Keeper{Dir: filepath.Join(dir, "editions")}
			wrote, err := inside.Write(t.Context(), g, o, to, keep, "", nil)
			if err != nil || len(wrote) != 1 {
				t.Fatal(wrote, err)
			}
			for at, data := range want {
				if b, err := os.ReadFile(at); err != nil || !bytes.Equal(b, data) {
					t.Errorf("%s is not what stood inside (%v)", at, err)
				}
			}
			again, _ := traced(t, doc)
			if len(again.References) != len(g.References) || len(again.Problems) != len(g.Problems) {
				t.Fatalf("%d references and %d problems, before %d and %d", len(again.References), len(again.Problems), len(g.References), len(g.Problems))
			}
			for k := range again.References {
				was, is := &g.References[k], &again.References[k]
				if at, ok := to[graph.RefID(k)]; ok {
					if is.State != graph.Here || is.Path != at {
						t.Errorf("%s is %s at %q, not at %s", is.Owner, is.State, is.Path, at)
					}
				} else if is.State != was.State || is.Written != was.Written || is.Path != was.Path {
					t.Errorf("%s was %s %q, is %s %q", was.Owner, was.State, was.Written, is.State, is.Written)
				}
				if name == "views.gltf" && was.State == graph.Inside && to[graph.RefID(k)] == "" {
					continue // the buffer: nothing says any more what its bytes are for
				}
				if is.Owner != was.Owner || is.Use != was.Use {
					t.Errorf("%s (%s) became %s (%s)", was.Owner, was.Use, is.Owner, is.Use)
				}
			}
			judged(t, doc)
			if _, err := writing.PutBack(drive.System{}, wrote, keep, ""); err != nil {
				t.Fatal(err)
			}
			if b, _ := os.ReadFile(doc); string(b) != text {
				t.Error("put back, the document is another")
			}
		})
	}
}

// judged asks what knows the format: gltf-validator (npm), xmllint (libxml2).
func judged(t *testing.T, doc string) {
	t.Helper()
	switch filepath.Ext(doc) {
	case ".svg", ".x3d", ".dae":
		if _, err := exec.LookPath("xmllint"); err != nil {
			t.Log("xmllint is not installed; make test installs it where it may")
			return
		}
		if out, err := exec.Command("xmllint", "--noout", doc).CombinedOutput(); err != nil {
			t.Errorf("xmllint: %s", out)
		}
	case ".gltf":
		web, _ := filepath.Abs("../../web")
		if _, err := os.Stat(filepath.Join(web, "node_modules", "gltf-validator")); err != nil {
			t.Log("gltf-validator is not installed: run npm install in web")
			return
		}
		cmd := exec.Command("node", "-e", `
			const v = require("gltf-validator"), fs = require("fs"), path = require("path");
			const doc = process.argv[1], dir = path.dirname(doc);
			v.validateBytes(new Uint8Array(fs.readFileSync(doc)), {externalResourceFunction: (uri) => Promise.resolve(new Uint8Array(fs.readFileSync(path.join(dir, decodeURIComponent(uri)))))})
			 .then((r) => { console.log(r.issues.messages.filter((m) => m.severity === 0).map((m) => m.message).join("; ")); console.log(r.info.resources.filter((x) => x.image).map((x) => x.image.width + "x" + x.image.height).join(" ")); })`, doc)
		cmd.Dir = web
		out, err := cmd.CombinedOutput()
		if err != nil || !strings.HasPrefix(string(out), "\n") || !strings.Contains(string(out), "4x4 4x4 4x4") {
			t.Errorf("gltf-validator: %s (%v)", out, err)
		}
	}
}

// What cannot be written leaves no file behind and the document as it is.
func TestNothingOrAll(t *testing.T) {
	dir := t.TempDir()
	text := documents()["plan.svg"]
	doc := coretest.Write(t, filepath.Join(dir, "plan.svg"), text)
	coretest.Write(t, filepath.Join(dir, "there", "seal.png"), "somebody's own")
	g, o := traced(t, doc)
	to := map[graph.RefID]string{}
	for _, d := range inside.List(g, o) {
		if d.Why == inside.Free {
			to[d.Ref] = filepath.Join(dir, "there", d.Name)
		}
	}
	before := coretest.Sums(t, dir)
	if _, err := inside.Write(t.Context(), g, o, to, edition.Keeper{}, "", nil); err == nil {
		t.Fatal("a file was written over")
	}
	after := coretest.Sums(t, dir)
	if len(before) != len(after) {
		t.Errorf("%d files, before %d", len(after), len(before))
	}
	for p, sum := range before {
		if after[p] != sum {
			t.Errorf("%s changed", p)
		}
	}
	if list, _ := filepath.Glob(filepath.Join(dir, "there", ".*")); len(slices.Compact(list)) > 0 {
		t.Error(list)
	}
}

// TestBrokenPicture: what a document calls a picture and is none, or breaks off, stays in it.
func TestBrokenPicture(t *testing.T) {
	whole := painted(40)
	for name, bytes := range map[string][]byte{"cut off": whole[:len(whole)-20], "another type": []byte("GIF89a, or so it says"), "a byte is another": append(append([]byte{}, whole[:50]...), append([]byte{whole[50] ^ 1}, whole[51:]...)...)} {
		dir := t.TempDir()
		text := `{"asset":{"version":"2.0"},"images":[{"name":"x","uri":"data:image/png;base64,` + base64.StdEncoding.EncodeToString(bytes) + `"}]}`
		doc := coretest.Write(t, filepath.Join(dir, "x.gltf"), text)
		g, o := traced(t, doc)
		to := map[graph.RefID]string{}
		for _, d := range inside.List(g, o) {
			to[d.Ref] = filepath.Join(dir, "x.png")
		}
		_, err := inside.Write(t.Context(), g, o, to, edition.Keeper{}, "", nil)
		if !errors.Is(err, inside.ErrPicture) {
			t.Errorf("%s: %v", name, err)
		}
		if b, _ := os.ReadFile(doc); string(b) != text {
			t.Errorf("%s: the document was changed", name)
		}
		if list, _ := filepath.Glob(filepath.Join(dir, "*.png")); len(list) > 0 {
			t.Errorf("%s: %q", name, list)
		}
	}
}

// TestProposed: whatever the owners of data are called, the names proposed for their files are
// names on any system, each its own, and of nothing that is there.
func TestProposed(t *testing.T) {
	odd := []string{"a/b", `c\d`, "..", ".", " ", "con", "x:y", strings.Repeat("n", 400), "trailing. ", "same", "same", "SAME", "\u0000nul", "q?*", "there", "ü\u0308"}
	var images []string
	for i, n := range odd {
		name, err := json.Marshal(n)
		if err != nil {
			t.Fatal(err)
		}
		images = append(images, fmt.Sprintf(`{"name":%s,"uri":"data:image/png;base64,%s"}`, name, base64.StdEncoding.EncodeToString(painted(uint8(i)))))
	}
	dir := t.TempDir()
	doc := coretest.Write(t, filepath.Join(dir, "x.gltf"), `{"asset":{"version":"2.0"},"images":[`+strings.Join(images, ",")+`]}`)
	coretest.Write(t, filepath.Join(dir, "there.png"), "somebody's")
	g, o := traced(t, doc)
	to := map[graph.RefID]string{}
	met := map[string]bool{}
	for _, d := range inside.List(g, o) {
		if stow.Portable(d.Name) != d.Name || d.Name != strings.TrimSpace(d.Name) || d.Name == "" || len(d.Name) > 255 || met[names.Clash(d.Name)] {
			t.Errorf("%q is proposed", d.Name)
		}
		met[names.Clash(d.Name)] = true
		to[d.Ref] = filepath.Join(d.Folder, d.Name)
	}
	if len(to) != len(odd) {
		t.Fatalf("%d of %d", len(to), len(odd))
	}
	if _, err := inside.Write(t.Context(), g, o, to, edition.Keeper{}, "", nil); err != nil {
		t.Error(err)
	}
}
