package all

import (
	"os"
	"strings"
	"testing"
)

// TestDocumented: every format stands in docs/formats.md under its id, has a
// title, an extension and a plain word, and no two share an id.
func TestDocumented(t *testing.T) {
	b, err := os.ReadFile("../../../../docs/formats.md")
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for _, f := range Formats() {
		about := f.About()
		if about.Title == "" || about.Knows == "" || len(about.Extensions) == 0 || seen[f.Name()] {
			t.Errorf("%s: %+v", f.Name(), about)
		}
		seen[f.Name()] = true
		if !strings.Contains(string(b), "\n| "+f.Name()+" ") && !strings.Contains(string(b), ", "+f.Name()+" |") && !strings.Contains(string(b), "| "+f.Name()+",") {
			t.Errorf("%s is not in docs/formats.md", f.Name())
		}
	}
}

// TestDetection: content comes first, the name second; a wrong extension still
// opens as what it is.
func TestDetection(t *testing.T) {
	for _, c := range []struct{ name, head, want string }{
		{"film.xml", `{"OTIO_SCHEMA": "Timeline.1"}`, "otio"}, {"x.txt", "#usda 1.0\n", "usda"}, {"scene.json", `{"asset":{"version":"2.0"},"meshes":[]}`, "gltf"},
		{"a.bin", "glTF\x02\x00\x00\x00", "gltf"}, {"part.dat", "ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AP242'));", "step"}, {"part.stp", "ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('IFC4'));", "ifc"},
		{"x.xml", `<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg">`, "svg"}, {"x.xml", "\xFF\xFE<\x00C\x00O\x00L\x00L\x00A\x00D\x00A\x00 \x00", "collada"},
		{"list.unknown", "#EXTM3U\na.wav\n", "m3u"}, {"SHA256SUMS", "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad  a\n", "sums"},
		{"x.csv", "file,note\na.wav,b\n", "list"}, {"x.csv", "1,2\n3,4\n", "list"}, {"my.session", "anything", "any"}, {"a.wav", "RIFF....WAVEfmt ", ""}, {"empty", "", ""},
		{"x.otio", "{", "otio"}, {"x.edl", "TITLE: X\n", "edl"}, {"x.obj", "# nothing yet\n", "obj"},
	} {
		got := ""
		if f := Formats().Detect(c.name, []byte(c.head)); f != nil {
			got = f.Name()
		}
		if got != c.want {
			t.Errorf("%s %q is read as %q, wanted %q", c.name, c.head, got, c.want)
		}
	}
	// What only a person takes for a document is followed from none.
	for _, c := range [][2]string{{"read me.txt", "Dear all, thank you.\n"}, {"data.csv", "1,2\n"}, {"x.dat", "\x00\x01"}} {
		if f := Formats().Nested(c[0], []byte(c[1])); f != nil {
			t.Errorf("%s would be followed as %s", c[0], f.Name())
		}
	}
}
