package odf

import (
	"strings"
	"testing"

	"boundcrate/core/text/format/formattest"
)

const head = `xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:text="t" xmlns:meta="m" xmlns:style="s"`

const content = `<?xml version="1.0" encoding="UTF-8"?><office:document-content ` + head + `><office:body>
<draw:image xlink:href="Pictures/1.png"/><draw:image xlink:href="../stills/brass%20plate.png"/><draw:image xlink:href="Pictures/gone.png"/>
<draw:object xlink:href="./Object 1"/><text:a xlink:href="https://example.org/">x</text:a><text:section-source xlink:href="../../notes/log.odt"/>
<draw:plugin xlink:href="/Users/x/bell.wav"/><draw:image href="none.png"/></office:body></office:document-content>`

var sample = formattest.Zip("mimetype", "application/vnd.oasis.opendocument.text", "content.xml", content,
	"styles.xml", `<office:document-styles `+head+`><style:background-image xlink:href="../paper.png"/></office:document-styles>`,
	"meta.xml", `<office:document-meta `+head+`><meta:template xlink:href="../letter.ott"/><meta:auto-reload xlink:href="../other.odt"/></office:document-meta>`,
	"Pictures/1.png", "\x89PNG\r\n\x1a\n", "Object 1/content.xml", object("../../deep.png", "../Pictures/1.png"), "Object 1/styles.xml", "<x/>", "Object 1/Object 3/content.xml", object("../../../deeper.png"), "Object 2/content.xml", object("../../left.png"), "META-INF/manifest.xml", "<m/>")

// object is what embeds one further object, Object 3, and links pictures.
func object(pictures ...string) string {
	s := `<office:document-content ` + head + `><draw:object xlink:href="./Object%203"/>`
	for _, p := range pictures {
		s += `<draw:image xlink:href="` + p + `"/>`
	}
	return s + `</office:document-content>`
}

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.odt", sample,
		"used (inside 8, in content.xml) image | Pictures/1.png",
		"used (in content.xml) image | ../stills/brass%20plate.png → stills/brass%20plate.png",
		"used (in content.xml) image | Pictures/gone.png → ",
		"used (inside 392, in content.xml) object | ./Object 1",
		"used (in content.xml) section-source | ../../notes/log.odt → ../notes/log.odt",
		"used (in content.xml) plugin | /Users/x/bell.wav",
		"used (in styles.xml) background-image | ../paper.png → paper.png",
		"listed (in meta.xml) template | ../letter.ott → letter.ott",
		"used (inside 353, in Object 1/content.xml) object | ./Object%203", "used (in Object 1/content.xml) image | ../../deep.png → deep.png", "used (inside 8, in Object 1/content.xml) image | ../Pictures/1.png",
		"listed (in Object 2/content.xml) object | ./Object%203 → ", "listed (in Object 2/content.xml) image | ../../left.png → left.png",
		"used (in Object 1/Object 3/content.xml) object | ./Object%203 → ", "used (in Object 1/Object 3/content.xml) image | ../../../deeper.png → deeper.png",
	)
	flat := strings.ReplaceAll(content, "document-content", "document")
	formattest.Table(t, Format{}, "x.fodt", `<office:document `+head+`><draw:image><office:binary-data>iVBO
		Rw0KGgo=</office:binary-data></draw:image><draw:image xlink:href="a.png"/></office:document>`, "used (inside 8) image | ", "used image | a.png")
	formattest.Table(t, Format{}, "x.fodt", flat,
		"used image | Pictures/1.png", "used image | ../stills/brass%20plate.png", "used image | Pictures/gone.png", "used object | ./Object 1",
		"used section-source | ../../notes/log.odt", "used plugin | /Users/x/bell.wav")
}

// TestHostile: members that lead out are refused by name, a bomb is not
// unpacked, and neither costs the rest.
func TestHostile(t *testing.T) {
	formattest.Bad(t, Format{}, "x.odt", formattest.Zip("mimetype", "x", "content.xml", content, "../out.txt", "x", "/abs.txt", "x"), "../out.txt", 6)
	formattest.Bad(t, Format{}, "x.odt", formattest.Zip("mimetype", "x", "content.xml", content+strings.Repeat(" ", 30<<20)), "100 times as large", 0)
	formattest.Bad(t, Format{}, "x.odt", sample[:len(sample)-40], "package cannot be read", 0)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.odt", []byte(sample))
}
