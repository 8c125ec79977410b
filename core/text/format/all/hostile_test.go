package all

import (
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/formattest"
	"boundcrate/core/text/problem"
)

// documents holds one small document of every text format, by its name.
var documents = map[string]string{
	"x.adl": "<ADL>\n<SOURCE_INDEX>\n (Index) 1 (F) \"URL:a%20b.wav\" \"_\"\n</SOURCE_INDEX>\n",
	"x.dae": "<?xml version=\"1.0\" encoding=\"UTF-8\"?><COLLADA><library_images><image id=\"i\"><init_from>a.png</init_from></image></library_images></COLLADA>",
	"x.css": "a { background: url(a.png) }", "x.cue": "FILE \"a.wav\" WAVE\n TRACK 01 AUDIO\n",
	"x.edl": "TITLE: X\n001  TAPE V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n", "x.gbrjob": `{"FilesAttributes": [{"Path": "a.gbr"}]}`,
	"x.gltf": `{"asset":{"version":"2.0"},"images":[{"uri":"a.png"}]}`, "x.ifc": "ISO-10303-21;HEADER;FILE_SCHEMA(('IFC4'));ENDSEC;DATA;#1=IFCDOCUMENTREFERENCE('a.pdf',$,$,$,$);ENDSEC;END-ISO-10303-21;",
	"x.csv": "path\na.wav\n", "x.m3u8": "#EXTM3U\na.wav\n", "x.mhl": "<hashlist><hashes><hash><path>a.mov</path></hash></hashes></hashlist>",
	"x.mtl": "newmtl m\nmap_Kd a.png\n", "x.mtlx": "<materialx><image name=\"i\"><input name=\"f\" type=\"filename\" value=\"a.png\"/></image></materialx>",
	"x.obj": "mtllib a.mtl\n", "x.fodt": "<office:document xmlns:office=\"o\" xmlns:draw=\"d\" xmlns:xlink=\"x\"><draw:image xlink:href=\"a.png\"/></office:document>",
	"x.otio":                 `{"OTIO_SCHEMA":"Clip.1","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"a.wav"}}`,
	"x.qde":                  "<Project xmlns=\"urn:QDA-XML:project:1.0\"><AudioSource name=\"a\" path=\"relative://a.wav\"/></Project>",
	"ro-crate-metadata.json": `{"@graph":[{"@id":"a.csv","@type":"File"}]}`, "x.sfz": "<region> sample=a.wav\n",
	"x.stp": "ISO-10303-21;HEADER;ENDSEC;DATA;#1=DOCUMENT_FILE('a.stp','',$,'',$,$);ENDSEC;END-ISO-10303-21;", "x.sha256": strings.Repeat("0", 64) + "  a.wav\n",
	"x.svg": "<svg xmlns=\"http://www.w3.org/2000/svg\"><image href=\"a.png\"/></svg>", "x.urdf": "<robot name=\"r\"><link name=\"l\"><visual><geometry><mesh filename=\"a.stl\"/></geometry></visual></link></robot>",
	"x.usda": "#usda 1.0\ndef X \"a\" { asset f = @a.png@ }\n", "x.x3d": "<X3D><Scene><Inline url='\"a.x3d\"'/></Scene></X3D>", "x.wrl": "#VRML V2.0 utf8\nInline { url \"a.wrl\" }\n",
	"x.xspf": "<playlist xmlns=\"http://xspf.org/ns/0/\"><trackList><track><location>a.wav</location></track></trackList></playlist>", "x.session": "clip \"a.wav\"\n",
}

// TestEnvelopes reads and rewrites every document in every envelope: byte order
// marks, UTF-16 of both orders, gzip. It comes back in the encoding it came in,
// and unchanged where nothing is asked.
func TestEnvelopes(t *testing.T) {
	wide := func(s string, big bool) string {
		var b strings.Builder
		for _, u := range utf16.Encode([]rune("\uFEFF" + s)) {
			if big {
				b.Write([]byte{byte(u >> 8), byte(u)})
			} else {
				b.Write([]byte{byte(u), byte(u >> 8)})
			}
		}
		return b.String()
	}
	for name, text := range documents {
		for envelope, raw := range map[string]string{"plain": text, "mark": "\uFEFF" + text, "UTF-16LE": wide(text, false), "UTF-16BE": wide(text, true), "gzip": formattest.Gzip(text)} {
			file, err := Formats().Open(name, formattest.NewSource([]byte(raw)))
			if err != nil || len(file.Doc.Mentions) != 1 {
				t.Errorf("%s in %s: %v", name, envelope, err)
				continue
			}
			var same bytes.Buffer
			if err := file.Rewrite(&same, nil); err != nil || same.String() != raw {
				t.Errorf("%s in %s changed with no edit", name, envelope)
			}
			old := file.Doc.Name(0)
			if len(file.Doc.Mentions[0].Pieces) == 0 {
				continue // listed in many places and never rewritten
			}
			want := "other" + filepath.Ext(old)
			edits, err := file.Doc.Retarget(map[int]string{0: want})
			if err != nil {
				t.Errorf("%s in %s: %v", name, envelope, err)
				continue
			}
			var out bytes.Buffer
			if err := file.Rewrite(&out, edits); err != nil {
				t.Fatal(err)
			}
			back, err := Formats().Open(name, formattest.NewSource(out.Bytes()))
			if err != nil || back.Doc.Name(0) != want || back.Format.Name() != file.Format.Name() {
				t.Errorf("%s in %s: written, it cannot be read: %v", name, envelope, err)
			}
			switch envelope {
			case "UTF-16LE", "UTF-16BE", "mark", "gzip":
				if out.String()[:2] != raw[:2] {
					t.Errorf("%s came as %s and went as something else", name, envelope)
				}
			}
		}
	}
}

// TestHostile: what no honest program writes ends in a clear word or is read
// past, and never in a panic or out of memory.
func TestHostile(t *testing.T) {
	deep := func(open, end string) string { return strings.Repeat(open, 100_000) + strings.Repeat(end, 100_000) }
	for name, text := range documents {
		for what, body := range map[string]string{
			"empty": "", "one byte": text[:1], "NUL bytes": strings.ReplaceAll(text, "a.", "a\x00."), "white space": strings.Repeat(" \n", 1000), "cut UTF-8": text + "\xE2\x82",
			"nested JSON": strings.Replace(text, "{", `{"deep":`+deep("[", "]")+",", 1), "nested elements": strings.Replace(text, "<image", deep("<g>", "</g>")+"<image", 1), "nested braces": text + deep("{", "}"),
			"line of a megabyte": text + strings.Repeat("x", 1<<20), "entities": strings.Replace(text, "a.", "&lol9;a.", 1),
		} {
			file, err := Formats().Open(name, formattest.NewSource([]byte(body)))
			if err != nil {
				if !errors.Is(err, format.ErrMalformed) && !errors.Is(err, format.ErrNotDocument) {
					t.Errorf("%s, %s: %v", name, what, err)
				}
				continue
			}
			for i := range file.Doc.Mentions {
				_ = file.Doc.Name(i)
			}
			switch {
			case what == "empty" && !file.Format.About().Empty:
				t.Errorf("%s: nothing is told of a file of no bytes", name)
			case what == "entities" && (strings.Contains(text, "/>") || strings.Contains(text, "</playlist")) && !slices.ContainsFunc(file.Doc.Problems, func(p problem.Problem) bool { return strings.Contains(p.Arg(0), "&lol9;") }):
				t.Errorf("%s: the entity that was not expanded is not named: %v", name, file.Doc.Problems)
			}
		}
		for cut := 0; cut <= 10; cut++ {
			_, err := Formats().Open(name, formattest.NewSource([]byte(text[:len(text)*cut/10])))
			if err != nil && !errors.Is(err, format.ErrMalformed) && !errors.Is(err, format.ErrNotDocument) {
				t.Errorf("%s cut at %d tenths: %v", name, cut, err)
			}
		}
	}
	// What a cut gzip still gives is read, told of, and not written anew.
	var takes strings.Builder
	for i := range 5000 {
		fmt.Fprintf(&takes, "take %d.wav\n", i*i)
	}
	cut := formattest.Gzip(takes.String())
	if file, err := Formats().Open("x.m3u", formattest.NewSource([]byte(cut[:len(cut)/2]))); err != nil || len(file.Doc.Mentions) < 1000 || len(file.Doc.Problems) != 1 || !file.Doc.Texts[0].Sealed {
		t.Error(err, file)
	}
	// A gzip bomb is not unpacked.
	var b bytes.Buffer
	w := gzip.NewWriter(&b)
	_, _ = w.Write([]byte("#usda 1.0\n"))
	for range 300 {
		_, _ = w.Write(make([]byte, 1<<20))
	}
	_ = w.Close()
	if _, err := Formats().Open("x.usda", formattest.NewSource(b.Bytes())); !errors.Is(err, format.ErrMalformed) || !strings.Contains(err.Error(), "100 times") {
		t.Error(err)
	}
}

// TestDeclared: an encoding that is declared and is not the one a text is in is
// told, and the text is read all the same.
func TestDeclared(t *testing.T) {
	for _, c := range []struct{ declared, name, says string }{
		{"utf-8", "m\xC3\xB6we.wav", ""}, {"ISO-8859-1", "m\xF6we.wav", ""}, {"windows-1252", "m\xF6we.wav", ""}, {"US-ASCII", "mowe.wav", ""},
		{"utf-8", "m\xF6we.wav", "encoding utf-8, ISO-8859-1"},
		{"utf-16", "m\xC3\xB6we.wav", "encoding utf-16, UTF-8"},
		{"US-ASCII", "m\xC3\xB6we.wav", "encoding US-ASCII, UTF-8"},
		{"harbour", "m\xC3\xB6we.wav", "unknown-encoding harbour, UTF-8"},
	} {
		file, err := Formats().Open("x.xspf", formattest.NewSource([]byte(`<?xml version="1.0" encoding="`+c.declared+`"?><playlist xmlns="http://xspf.org/ns/0/"><trackList><track><location>`+c.name+`</location></track></trackList></playlist>`)))
		if err != nil || len(file.Doc.Mentions) != 1 || !strings.Contains("möwe.wav mowe.wav", file.Doc.Name(0)) {
			t.Fatal(c, err)
		}
		told := ""
		for _, p := range file.Doc.Problems {
			told += p.Error()
		}
		if told != c.says {
			t.Errorf("%s: told %q, wanted %q", c.declared, told, c.says)
		}
	}
}

// TestMany: a million mentions are read, and rewriting some of them touches no
// other.
func TestMany(t *testing.T) {
	const n = 1_000_000
	var b strings.Builder
	b.WriteString("#EXTM3U\n")
	for i := range n {
		fmt.Fprintf(&b, "take %d.wav\n", i)
	}
	file, err := Formats().Open("x.m3u", formattest.NewSource([]byte(b.String())))
	if err != nil || len(file.Doc.Mentions) != n {
		t.Fatal(err)
	}
	edits, err := file.Doc.Retarget(map[int]string{0: "first.wav", n - 1: "last.wav"})
	if err != nil || len(edits) != 2 {
		t.Fatal(len(edits), err)
	}
	var out bytes.Buffer
	if err := file.Rewrite(&out, edits); err != nil || out.Len() != b.Len()-len("take 0.wav")+len("first.wav")-len("take 999999.wav")+len("last.wav") {
		t.Error(out.Len(), b.Len(), err)
	}
}

// TestSpellings: one name in the spellings of many systems, in every format:
// what is written is what is said, and it can be said again.
func TestSpellings(t *testing.T) {
	for name, text := range documents {
		file, err := Formats().Open(name, formattest.NewSource([]byte(text)))
		if err != nil {
			t.Fatal(err)
		}
		ext := filepath.Ext(file.Doc.Name(0))
		for _, n := range []string{"Möwe" + ext, "Mo\u0308we" + ext, "sub/dir/x" + ext, "../up/x" + ext, "with space" + ext, "percent%20" + ext, "100%" + ext, "plus+and=eq" + ext, "日本" + ext, "a'b" + ext, "semi;colon" + ext, `back\slash` + ext} {
			edits, err := file.Doc.Retarget(map[int]string{0: n})
			if errors.Is(err, problem.ErrCannotSay) {
				continue
			}
			if err != nil {
				t.Fatal(err)
			}
			back, err := file.Reread(edits)
			if err != nil || len(back.Mentions) != 1 || back.Name(0) != n {
				t.Errorf("%s cannot say %q again: %v", name, n, err)
			}
		}
	}
}

// TestChain renames the one reference of every document again and again, to
// whatever a name may hold: each step says exactly what was asked or refuses,
// and the way back to the first name gives the first bytes again, as far as the
// carrier has one way to write it.
func TestChain(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 5))
	letters := []rune("aZ09._-~ +&'\"%#?;,=@$!()[]{}<>|*:üé日\U0001F41A\\")
	for name, text := range documents {
		first, err := Formats().Open(name, formattest.NewSource([]byte(text)))
		if err != nil {
			t.Fatal(err)
		}
		if len(first.Doc.Mentions[0].Pieces) == 0 {
			continue
		}
		old := first.Doc.Name(0)
		now, said := text, 0
		for range 150 {
			file, err := Formats().Open(name, formattest.NewSource([]byte(now)))
			if err != nil || len(file.Doc.Mentions) != 1 {
				t.Fatalf("%s: %v in %q", name, err, now)
			}
			var b strings.Builder
			for range 1 + rng.IntN(12) {
				b.WriteRune(letters[rng.IntN(len(letters))])
			}
			want := b.String() + filepath.Ext(old)
			edits, err := file.Doc.Retarget(map[int]string{0: want})
			if errors.Is(err, problem.ErrCannotSay) {
				continue
			}
			if err != nil {
				t.Fatal(err)
			}
			var out strings.Builder
			if err := file.Rewrite(&out, edits); err != nil {
				t.Fatal(err)
			}
			back, err := Formats().Open(name, formattest.NewSource([]byte(out.String())))
			if err != nil || len(back.Doc.Mentions) != 1 || back.Doc.Name(0) != want {
				t.Fatalf("%s: asked for %q, %v in %q", name, want, err, out.String())
			}
			now = out.String()
			said++
		}
		if said < 20 {
			t.Errorf("%s: only %d of 150 names could be said", name, said)
		}
		file, err := Formats().Open(name, formattest.NewSource([]byte(now)))
		if err != nil {
			t.Fatal(err)
		}
		edits, err := file.Doc.Retarget(map[int]string{0: old})
		if err != nil {
			t.Fatalf("%s: no way back to %q: %v", name, old, err)
		}
		var out strings.Builder
		if err := file.Rewrite(&out, edits); err != nil {
			t.Fatal(err)
		}
		if quotes := strings.NewReplacer(`"`, "", "'", "", "@@@", "@"); quotes.Replace(out.String()) != quotes.Replace(text) {
			t.Errorf("%s: the way back gives\n%s\nnot\n%s", name, out.String(), text)
		}
	}
}
