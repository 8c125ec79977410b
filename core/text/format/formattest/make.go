package formattest

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"math/rand/v2"
	"net/url"
	"strings"
	"unicode/utf16"
)

// Documents made by chance. A maker knows its carrier by other means than the
// reader does: encoding/json, encoding/xml, encoding/csv, net/url, or a few
// lines from the standard's text. It places names, and things that name
// nothing, in random order.

// Maker writes one kind of document.
type Maker struct {
	File       string // its name
	head, tail string
	Ext        string                                   // of the names it places
	item       func(g *Gen, name string) (string, bool) // false: such a name cannot stand there
	noise      []string                                 // what names nothing
	between    string                                   // what parts two items
	Bare       bool                                     // names without a folder
}

// Gen draws names and noise.
type Gen struct {
	*rand.Rand
	n int
}

// odd are pieces of names that carriers read otherwise somewhere.
var odd = []string{"take", "horn low", "a&b", "x'y", "q\"t", "50%", "50%25", "#1", "c;d", "e,f", "(g)", "[h]", "{i}", "<j>", "k=l", "@m", "$n", "~o", "p+q", "r!s", "möwe", "日本", "é", "🐚", "t.u", "-v", "_w", "back\\slash", "^z", "|y"}

// Name draws a name no other has, in folders of its own or above.
func (g *Gen) Name(ext string, bare bool) string {
	g.n++
	parts := []string{}
	for range g.IntN(3) {
		parts = append(parts, odd[g.IntN(len(odd))])
	}
	if g.IntN(6) == 0 {
		parts = append([]string{".."}, parts...)
	}
	if bare {
		parts = nil
	}
	last := fmt.Sprintf("%s %d%s", odd[g.IntN(len(odd))], g.n, ext)
	return strings.Join(append(parts, last), "/")
}

func (g *Gen) pick(list []string) string { return list[g.IntN(len(list))] }

func jsonText(s string) string {
	b, err := json.Marshal(s)
	if err != nil {
		panic(err) // strings always marshal
	}
	return string(b)
}

func xmlText(s string) string {
	var b bytes.Buffer
	if err := xml.EscapeText(&b, []byte(s)); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.String()
}

// URI escapes a relative path as a URI reference (RFC 3986 §3.3, §4.2).
func URI(s string) string { return (&url.URL{Path: s}).String() }

// part21 writes a string as ISO 10303-21 §6.4.3 asks: \X2\ beyond ASCII.
func part21(s string) string {
	var b strings.Builder
	for _, r := range s {
		switch {
		case r == '\'' || r == '\\':
			b.WriteString(string(r) + string(r))
		case r < 0x80:
			b.WriteRune(r)
		default:
			b.WriteString(`\X2\`)
			for _, u := range utf16.Encode([]rune{r}) {
				fmt.Fprintf(&b, "%04X", u)
			}
			b.WriteString(`\X0\`)
		}
	}
	return "'" + b.String() + "'"
}

func has(s, chars string) bool { return strings.ContainsAny(s, chars) }

func always(f func(g *Gen, name string) string) func(*Gen, string) (string, bool) {
	return func(g *Gen, name string) (string, bool) { return f(g, name), true }
}

func unless(chars string, f func(g *Gen, name string) string) func(*Gen, string) (string, bool) {
	return func(g *Gen, name string) (string, bool) { return f(g, name), !has(name, chars) }
}

// quotes are the two an XML attribute or a USD string may have.
func (g *Gen) quote() string { return g.pick([]string{`"`, `'`}) }

// Makers are one for every text format.
var Makers = []Maker{
	{File: "x.otio", Ext: ".wav", head: `{"OTIO_SCHEMA": "Track.1", "name": "A", "children": [`, tail: `]}`, between: ",\n",
		item: unless("#", func(g *Gen, n string) string {
			return `{"metadata": {"target_url": "no.wav"}, "OTIO_SCHEMA": "Clip.1", "media_reference": {"target_url": ` + jsonText(n) + `, "OTIO_SCHEMA": "ExternalReference.1"}, "name": "c"}`
		}),
		noise: []string{`{"OTIO_SCHEMA": "Gap.1", "name": "target_url"}`, `{"OTIO_SCHEMA": "Clip.1", "media_reference": null}`, `{"OTIO_SCHEMA": "Clip.1", "media_reference": {"OTIO_SCHEMA": "GeneratorReference.1", "generator_kind": "no.wav", "parameters": {"x": [1, "no.wav"]}}}`}},
	{File: "x.gltf", Ext: ".png", head: `{"asset": {"version": "2.0"}, "extras": {"uri": "no.png"}, "images": [`, tail: `]}`, between: ",",
		item: unless("#", func(g *Gen, n string) string { return `{"name": "uri", "uri": ` + jsonText(n) + `}` })},
	{File: "x.gbrjob", Ext: ".gbr", head: `{"Header": {"Path": "no.gbr"}, "FilesAttributes": [`, tail: `]}`, between: ", ",
		item:  unless("#", func(g *Gen, n string) string { return `{"FileFunction": "Copper,L1", "Path": ` + jsonText(n) + `}` }),
		noise: []string{`{"FileFunction": "Path"}`}},
	{File: "ro-crate-metadata.json", Ext: ".csv", head: `{"@context": "https://w3id.org/ro/crate/1.1/context", "@graph": [{"@id": "./", "@type": "Dataset"}`, tail: `]}`,
		item: always(func(g *Gen, n string) string {
			return `,{"@id": ` + jsonText(URI(n)) + `, "@type": ["File"], "name": "no.csv"}`
		}),
		noise: []string{`,{"@type": "Person", "@id": "#desk", "name": "no.csv"}`, `,{"@id": "sub/", "@type": "Dataset"}`}},
	{File: "x.xspf", Ext: ".wav", head: `<?xml version="1.0"?><playlist xmlns="http://xspf.org/ns/0/"><trackList>`, tail: `</trackList></playlist>`,
		item: always(func(g *Gen, n string) string {
			return g.pick([]string{"", "\n  "}) + `<track><title>no.wav</title><location>` + xmlText(URI(n)) + `</location></track>`
		}),
		noise: []string{"<track><annotation>no.wav</annotation><location/></track>", "<!-- <location>no.wav</location> -->", "<track><meta rel='x'>no.wav</meta></track>"}},
	{File: "x.dae", Ext: ".png", head: `<COLLADA version="1.4.1"><asset><contributor><source_data>no.png</source_data></contributor></asset><library_images>`, tail: `</library_images></COLLADA>`,
		item: always(func(g *Gen, n string) string {
			return fmt.Sprintf(`<image id="i%d"><init_from> %s </init_from></image>`, g.n, xmlText(URI(n)))
		}),
		noise: []string{`<x><surface><init_from>i1</init_from></surface></x>`, `<input source="#v"/>`}},
	{File: "x.mtlx", Ext: ".png", head: `<materialx version="1.39">`, tail: `</materialx>`,
		item: always(func(g *Gen, n string) string {
			return `<image name="i"><input type="filename" name="f" value="` + xmlText(n) + `"/></image>`
		}),
		noise: []string{`<input name="x" type="string" value="no.png"/>`, "<!-- value=\"no.png\" -->"}},
	{File: "x.x3d", Ext: ".png", head: `<X3D version="3.3"><Scene>`, tail: `</Scene></X3D>`,
		item: unless(`\`, func(g *Gen, n string) string {
			return `<ImageTexture url='"` + xmlText(URI(n)) + `"'/>`
		}),
		noise: []string{`<Anchor url='"no.html"'/>`, `<Text string='"no.png"'/>`}},
	{File: "x.wrl", Ext: ".wrl", head: "#VRML V2.0 utf8\n", tail: "\n",
		item:  always(func(g *Gen, n string) string { return `Inline { url [ "` + URI(n) + `" ] }` + "\n" }),
		noise: []string{"# url \"no.wrl\"\n", "Text { string [ \"no.wrl\" ] }\n", "Anchor { url \"no.html\" }\n"}},
	{File: "x.urdf", Ext: ".stl", head: `<robot name="r">`, tail: `</robot>`,
		item: always(func(g *Gen, n string) string {
			return `<link name="l"><visual><geometry><mesh scale="1 1 1" filename="` + xmlText(URI(n)) + `"/></geometry></visual></link>`
		}),
		noise: []string{`<joint name="no.stl" type="fixed"/>`, `<link name="no.stl"/>`}},
	{File: "x.svg", Ext: ".png", head: `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">`, tail: `</svg>`,
		item: always(func(g *Gen, n string) string {
			return `<image ` + g.pick([]string{"href", "xlink:href"}) + `="` + xmlText(URI(n)) + `"/>`
		}),
		noise: []string{`<a href="no.html"><text>no.png</text></a>`, `<use href="#own"/>`, `<rect fill="url(#own)"/>`, `<style>/* url(no.png) */</style>`}},
	{File: "x.css", Ext: ".png", head: "@charset \"utf-8\";\n", tail: "\n",
		item: unless(`'"\`, func(g *Gen, n string) string {
			return fmt.Sprintf(".c%d { background: url(%s%s%[2]s) }\n", g.n, g.quote(), URI(n))
		}),
		noise: []string{"/* url(no.png) */\n", ".x { content: \"url(no.png)\" }\n", ".y { fill: url(#own) }\n"}},
	{File: "x.qde", Ext: ".wav", head: `<Project xmlns="urn:QDA-XML:project:1.0" name="no.wav"><Sources>`, tail: `</Sources></Project>`,
		item: always(func(g *Gen, n string) string {
			return `<AudioSource name="no.wav" path="relative://` + xmlText(n) + `"/>`
		}),
		noise: []string{`<Description>no.wav</Description>`}},
	{File: "x.fodt", Ext: ".png", head: `<office:document xmlns:office="o" xmlns:draw="d" xmlns:text="t" xmlns:xlink="x">`, tail: `</office:document>`,
		item:  always(func(g *Gen, n string) string { return `<draw:image xlink:href="` + xmlText(URI(n)) + `"/>` }),
		noise: []string{`<text:a xlink:href="no.html">x</text:a>`, `<text:p>no.png</text:p>`}},
	{File: "x.mhl", Ext: ".mov", head: `<hashlist version="1.1"><creatorinfo><name>no.mov</name></creatorinfo>`, tail: `</hashlist>`,
		item: always(func(g *Gen, n string) string {
			return `<hash><file>` + xmlText(n) + `</file><size>9</size></hash>`
		}),
		noise: []string{`<note>no.mov</note>`}},
	{File: "x.m3u", Ext: ".wav", head: "#EXTM3U\n", tail: "",
		item: func(g *Gen, n string) (string, bool) {
			return g.pick([]string{"", "  "}) + n + g.pick([]string{"\n", "\r\n", "  \n"}), n[0] != '#'
		},
		noise: []string{"#EXTINF:12,no.wav\n", "\n", "# no.wav\r\n"}},
	{File: "x.m3u8", Ext: ".ts", head: "#EXTM3U\n#EXT-X-TARGETDURATION:10\n", tail: "#EXT-X-ENDLIST\n",
		item:  always(func(g *Gen, n string) string { return "#EXTINF:9.0,\n" + URI(n) + "\n" }),
		noise: []string{"#EXT-X-DISCONTINUITY\n", "#EXT-X-KEY:METHOD=NONE\n", "# no.ts\n"}},
	{File: "x.cue", Ext: ".wav", head: "TITLE \"no.wav\"\n", tail: "",
		item: unless(`"`, func(g *Gen, n string) string {
			return "FILE \"" + n + "\" WAVE\r\n  TRACK 01 AUDIO\r\n    TITLE \"FILE no.wav WAVE\"\r\n    INDEX 01 00:00:00\r\n"
		}),
		noise: []string{"REM FILE \"no.wav\" WAVE\n"}},
	{File: "x.sfz", Ext: ".wav", head: "// sample=no.wav\n<group> key=60\n", tail: "",
		item: func(g *Gen, n string) (string, bool) {
			return "<region> lokey=1 sample=" + n + g.pick([]string{" hikey=9\n", "\n", "<region>\n"}), !has(n, "<=$") && n[0] != '*'
		},
		noise: []string{"/* sample=no.wav */\n", "<region> sample=*sine\n", "<group> ampeg_release=1\n"}},
	{File: "x.obj", Ext: ".mtl", head: "# mtllib no.mtl\nv 0 0 0\n", tail: "f 1 1 1\n",
		item:  unless(`\`, func(g *Gen, n string) string { return "mtllib " + n + g.pick([]string{"\n", " \n"}) }),
		noise: []string{"o mtllib\n", "g no.mtl\n", "usemtl no.mtl\n", "v 1.0 2.0 3.0\n"}},
	{File: "x.mtl", Ext: ".png", head: "# map_Kd no.png\n", tail: "",
		item: func(g *Gen, n string) (string, bool) {
			return "newmtl m\nmap_Kd " + g.pick([]string{"", "-clamp on ", "-s 2 2 2 ", "-bm 0.5 "}) + n + "\n", n[0] != '-'
		},
		noise: []string{"Kd 1 1 1\n", "map_aat on\n", "illum 2\n"}},
	{File: "x.csv", Ext: ".wav", head: "note,path,owner\n", tail: "",
		item: always(func(g *Gen, n string) string {
			var b strings.Builder
			w := csv.NewWriter(&b)
			_ = w.Write([]string{"no.wav", n, ""}) // a builder takes everything
			w.Flush()
			return b.String()
		}),
		noise: []string{"no.wav,,\n", "\n"}},
	{File: "x.txt", Ext: ".wav", head: "first.wav\n", tail: "",
		item: always(func(g *Gen, n string) string { return n + g.pick([]string{"\n", "\r\n", " \n"}) }), noise: []string{"\n", "  \n"}},
	{File: "x.sha256", Ext: ".wav", head: "", tail: "",
		item: unless(`\`, func(g *Gen, n string) string {
			return strings.Repeat("0", 64) + g.pick([]string{"  ", " *"}) + n + "\n"
		})},
	{File: "x.edl", Ext: ".mov", Bare: true, head: "TITLE: no.mov\nFCM: NON-DROP FRAME\n", tail: "",
		item: always(func(g *Gen, n string) string {
			return fmt.Sprintf("%03d  AX       V     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: %s\n", g.n, n)
		}),
		noise: []string{"* COMMENT: no.mov\n", "999  BL       V     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n"}},
	{File: "x.adl", Ext: ".wav", head: "<ADL>\n<SOURCE_INDEX>\n", tail: "</SOURCE_INDEX>\n</ADL>\n",
		item: always(func(g *Gen, n string) string {
			return fmt.Sprintf(" (Index) %d (F) \"URL:%s\" \"_\" 00:00:00:00/0000 00:00:10:00/0000 \"no.wav\" N\n", g.n, URI(n))
		}),
		noise: []string{" (Comment) \"no.wav\"\n"}},
	{File: "x.usda", Ext: ".png", head: "#usda 1.0\n# @no.png@\n", tail: "",
		item: func(g *Gen, n string) (string, bool) {
			mark := "@"
			if has(n, "@") {
				mark = "@@@"
			}
			return fmt.Sprintf("def Shader \"s%d\" {\n    asset inputs:file = %s%s%[2]s\n}\n", g.n, mark, n), !strings.HasPrefix(n, "@") && !strings.Contains(n, "@@")
		},
		noise: []string{"def Scope \"a\" { string note = \"@no.png@\" }\n", "def Mesh \"m\" {\n  point3f[] points = [(0, 1, 2), (3, 4, 5)]\n  uniform token[] t = [\"@no.png@\", 'b']\n}\n", "def \"b\" ( doc = '''@no.png@''' ) {}\n"}},
	{File: "x.stp", Ext: ".stp", head: "ISO-10303-21;\nHEADER;\nFILE_NAME('no.stp','',(''),(''),'','','');\nENDSEC;\nDATA;\n", tail: "ENDSEC;\nEND-ISO-10303-21;\n",
		item: always(func(g *Gen, n string) string {
			return fmt.Sprintf("#%d=DOCUMENT_FILE(%s,'',$,'',$,$);\n", g.n, part21(n))
		}),
		noise: []string{"/* #9=DOCUMENT_FILE('no.stp','',$,'',$,$); */\n", "#7777=PRODUCT('no.stp','it''s; DOCUMENT_FILE','',(#1));\n"}},
	{File: "x.ifc", Ext: ".pdf", head: "ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n", tail: "ENDSEC;\nEND-ISO-10303-21;\n",
		item: always(func(g *Gen, n string) string {
			return fmt.Sprintf("#%d=IFCDOCUMENTREFERENCE(%s,'no.pdf',$,$,$);\n", g.n, part21(URI(n)))
		}),
		noise: []string{"#8888=IFCDOCUMENTREFERENCE('http://example.org/no.pdf',$,$,$,$);\n", "#9999=IFCDOCUMENTREFERENCE($,'no.pdf',$,$,$);\n"}},
	{File: "x.session", Ext: ".wav", head: "session\n", tail: "",
		item: func(g *Gen, n string) (string, bool) {
			return "clip \"" + n + "\"\n", !has(n, "\"<>|*?") && !strings.HasPrefix(n, "#")
		},
		noise: []string{"tempo 120.5\n", "see the manual, e.g. page 3.\n"}},
}

// Document draws a document and the names it was given.
func (m *Maker) Document(g *Gen) (text string, names []string) {
	var items []string
	for range g.IntN(12) {
		if g.IntN(3) == 0 && len(m.noise) > 0 {
			items = append(items, g.pick(m.noise))
			continue
		}
		n := g.Name(m.Ext, m.Bare)
		if item, ok := m.item(g, n); ok {
			items, names = append(items, item), append(names, n)
		}
	}
	if m.File == "x.txt" {
		names = append([]string{"first.wav"}, names...)
	}
	return m.head + strings.Join(items, m.between) + m.tail, names
}

// NewGen begins a row of chances that is the same every time.
func NewGen(seed, row uint64) *Gen { return &Gen{Rand: rand.New(rand.NewPCG(seed, row))} }
