package gltf

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/text/format/formattest"
	"boundcrate/core/text/mention"
)

func deck(t testing.TB) []byte {
	b, err := os.ReadFile("testdata/deck.gltf")
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// glb packs JSON and a binary chunk (ISO/IEC 12113 §4.4).
func glb(text, bin []byte) []byte {
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	for len(bin)%4 != 0 {
		bin = append(bin, 0)
	}
	var b bytes.Buffer
	u32 := func(v ...int) {
		for _, x := range v {
			_ = binary.Write(&b, binary.LittleEndian, uint32(x))
		}
	}
	b.WriteString("glTF")
	u32(2, 12+8+len(text)+8+len(bin), len(text), 0x4E4F534A)
	b.Write(text)
	u32(len(bin), 0x004E4942)
	b.Write(bin)
	return b.Bytes()
}

const boxed = `{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],
"meshes":[{"primitives":[{"attributes":{"POSITION":0},"material":0}]}],
"materials":[{"pbrMetallicRoughness":{"baseColorTexture":{"index":0},"metallicRoughnessTexture":{"index":1}}}],
"textures":[{"source":0},{"source":1}],"images":[{"bufferView":1,"mimeType":"image/png"},{"uri":"rough ü.png"}],
"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[0,0,0],"max":[0,0,0]}],
"bufferViews":[{"buffer":0,"byteLength":36},{"buffer":0,"byteOffset":36,"byteLength":8}],"buffers":[{"byteLength":44}]}`

func box() []byte {
	return glb([]byte(boxed), append(make([]byte, 36), "\x89PNG\r\n\x1a\n"...))
}

func TestLaws(t *testing.T) {
	formattest.Laws(t, Format{}, "deck.gltf", deck(t))
	formattest.Laws(t, Format{}, "box.glb", box())
}

func list(d *mention.Doc) []string {
	var out []string
	for i := range d.Mentions {
		m := &d.Mentions[i]
		out = append(out, fmt.Sprintf("%s inside=%v/%d %s | %s", m.Use, m.Inside(), inside(m), m.Owner, d.Written(i)))
	}
	return out
}

func TestMentions(t *testing.T) {
	for _, c := range []struct {
		name string
		doc  []byte
		want []string
	}{
		{"deck.gltf", deck(t), []string{
			"used inside=false/0 image 'planks' | tex/planks%20old.png",
			"dormant inside=false/0 image 'wet' | tex/wet.png",
			"listed inside=false/0 image 'no texture' | tex/never.png",
			"listed inside=false/0 image 'unplaced' | tex/unplaced.png",
			"used inside=true/8 image 'inside' | data:image/png;base64,",
			"used inside=false/0 image 'smaller' | tex/planks.webp",
			"dormant inside=false/0 image 'second scene' | tex/second.png",
			"used inside=false/0 buffer 0 | deck.bin",
			"listed inside=false/0 buffer 1 | unplaced.bin",
			"used inside=false/0 buffer 2 | no%20view.bin",
		}},
		{"box.glb", box(), []string{
			"used inside=true/8 image 0 | ",
			"used inside=false/0 image 1 | rough ü.png",
			"used inside=true/44 buffer 0 | ",
		}},
	} {
		file, err := formattest.Open(Format{}, c.name, c.doc)
		if err != nil {
			t.Fatal(err)
		}
		if got := list(file.Doc); !slices.Equal(got, c.want) {
			t.Errorf("%s: got\n%s", c.name, strings.Join(got, "\n"))
		}
		for i := range file.Doc.Mentions {
			if m := &file.Doc.Mentions[i]; m.Inside() {
				r := m.Data.Open()
				b, err := io.ReadAll(r)
				if err != nil || int64(len(b)) != m.Data.Size || m.Data.Size == 8 && !bytes.HasPrefix(b, []byte("\x89PNG")) {
					t.Errorf("%s: %s holds %d bytes, %v", c.name, m.Owner, len(b), err)
				}
			}
		}
	}
}

func TestBadInput(t *testing.T) {
	whole := box()
	lies := func(at int, v uint32) []byte {
		b := bytes.Clone(whole)
		binary.LittleEndian.PutUint32(b[at:], v)
		return b
	}
	for _, c := range []struct {
		name, says string
		doc        []byte
	}{
		{"empty.gltf", "it is empty", nil},
		{"header only.glb", "header", whole[:10]},
		{"total lies.glb", "header says", lies(8, 1<<30)},
		{"JSON length lies.glb", "JSON chunk", lies(12, 0xFFFFFFF0)},
		{"first chunk odd.glb", "not JSON", lies(16, 7)},
		{"old binary.glb", "version 1", lies(4, 1)},
		{"1.0.gltf", "glTF 1.0", []byte(`{"asset":{"version":"1.0"},"images":{}}`)},
		{"no version.gltf", "asset.version", []byte(`{"asset":{},"buffers":[]}`)},
		{"deep.gltf", "nested deeper", []byte(`{"asset":{"version":"2.0"},"extras":` + strings.Repeat("[", 100_000))},
	} {
		_, err := formattest.Open(Format{}, c.name, c.doc)
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	file, err := formattest.Open(Format{}, "x.gltf", []byte(`{"asset":{"version":"2.0"},"images":[{"uri":7},3],
"buffers":"none","meshes":[{"primitives":[{"attributes":{"POSITION":99}}]}],"nodes":[{"mesh":44,"children":[0,9]}],"scenes":[{"nodes":[0,77]}]}`))
	if err != nil || len(file.Doc.Problems) != 3 || file.Doc.Problems[2].Line != 2 {
		t.Errorf("wrong types: %v %v", err, file)
	}
}

// TestValidator asks the glTF validator of the npm registry for the resources
// it sees, before and after rewriting.
func TestValidator(t *testing.T) {
	web, _ := filepath.Abs("../../../web")
	if _, err := os.Stat(filepath.Join(web, "node_modules", "gltf-validator")); err != nil {
		t.Skip("gltf-validator is not installed: run npm install in web")
	}
	for name, doc := range map[string][]byte{"deck.gltf": deck(t), "box.glb": box()} {
		file, err := formattest.Open(Format{}, name, doc)
		if err != nil {
			t.Fatal(err)
		}
		agree(t, web, name, doc)
		want := map[int]string{}
		for i := range file.Doc.Mentions {
			if !file.Doc.Mentions[i].Inside() {
				want[i] = fmt.Sprintf("crate/f%%20%d.x", i)
			}
		}
		edits, err := file.Doc.Retarget(want)
		if err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		if err := file.Rewrite(&b, edits); err != nil {
			t.Fatal(err)
		}
		agree(t, web, name, b.Bytes())
	}
}

func agree(t *testing.T, web, name string, doc []byte) {
	t.Helper()
	p := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(p, doc, 0o644); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "-e", `
		const v = require("gltf-validator"), fs = require("fs");
		v.validateBytes(new Uint8Array(fs.readFileSync(process.argv[1])), {externalResourceFunction: () => Promise.reject("not here")})
		 .then(r => console.log(JSON.stringify((r.info.resources||[]).map(x => [x.pointer, x.storage, x.uri||""]))), e => { console.error(e); process.exit(1) })`, p)
	cmd.Dir = web
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("%s: the validator failed: %v", name, err)
	}
	var seen [][3]string
	if err := json.Unmarshal(out, &seen); err != nil {
		t.Fatal(err)
	}
	file, err := formattest.Open(Format{}, name, doc)
	if err != nil {
		t.Fatal(err)
	}
	var theirs, ours []string
	for _, s := range seen {
		// The validator percent-encodes what it shows, so names are compared
		// with their escapes undone.
		theirs = append(theirs, fmt.Sprint(s[1] == "external", " ", plain(t, s[2])))
	}
	for i := range file.Doc.Mentions {
		m := &file.Doc.Mentions[i]
		uri := ""
		if !m.Inside() {
			uri = plain(t, file.Doc.Written(i))
		}
		ours = append(ours, fmt.Sprint(!m.Inside(), " ", uri))
	}
	slices.Sort(theirs)
	slices.Sort(ours)
	if !slices.Equal(theirs, ours) {
		t.Errorf("%s: the validator sees\n%s\nwe see\n%s", name, strings.Join(theirs, "\n"), strings.Join(ours, "\n"))
	}
}

func plain(t *testing.T, uri string) string {
	t.Helper()
	s, err := url.PathUnescape(uri)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.gltf", deck(f), box(), []byte(boxed))
}

func inside(m *mention.Mention) int64 {
	if !m.Inside() {
		return 0
	}
	return m.Data.Size
}

// TestBeyond: what any extension of a placed mesh, of its node or of the whole leads to is used,
// whatever the extension is called (EXT_mesh_features and EXT_structural_metadata, from memory
// of their registered texts); of a mesh that is placed nowhere it is listed.
func TestBeyond(t *testing.T) {
	const text = `{"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,"extensions":{"HARBOUR_tide":{"heightTexture":{"index":3}}}}],
 "meshes":[{"primitives":[{"attributes":{},"extensions":{"EXT_mesh_features":{"featureIds":[{"featureCount":4,"texture":{"index":0,"texCoord":0}}]},"EXT_structural_metadata":{"propertyTextures":[0]}}}]},
  {"primitives":[{"attributes":{},"extensions":{"EXT_mesh_features":{"featureIds":[{"texture":{"index":1}}]}}}]}],
 "extensions":{"EXT_structural_metadata":{"propertyTextures":[{"class":"wear","properties":{"rust":{"index":2,"texCoord":0}}}]}},
 "textures":[{"source":0},{"source":1},{"source":2},{"source":3}],"images":[{"uri":"ids.png"},{"uri":"other.png"},{"uri":"rust.png"},{"uri":"tide.png"}]}`
	formattest.Table(t, Format{}, "x.gltf", text, "used image 0 | ids.png", "listed image 1 | other.png", "used image 2 | rust.png", "used image 3 | tide.png")
}
