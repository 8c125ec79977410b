package epub

import (
	"strings"
	"testing"

	"boundcrate/core/text/format/formattest"
)

const opf = `<?xml version="1.0"?><package xmlns="http://www.idpf.org/2007/opf" version="3.0"><metadata><link rel="record" href="meta/record.xml"/></metadata>
<manifest><item id="c1" href="ch1.xhtml" media-type="application/xhtml+xml"/><item id="plate" href="img/brass%20plate.png" media-type="image/png"/>
<item id="gone" href="img/gone.png" media-type="image/png"/><item id="far" href="https://example.org/bell.mp3" media-type="audio/mpeg"/><item id="none" media-type="image/png"/></manifest></package>`

const rootfiles = `<?xml version="1.0"?><container xmlns="urn:oasis:names:tc:opendocument:xmlns:container" version="1.0"><rootfiles><rootfile full-path="EPUB/package.opf" media-type="application/oebps-package+xml"/></rootfiles></container>`

var book = formattest.Zip("mimetype", "application/epub+zip", container, rootfiles, "EPUB/package.opf", opf, "EPUB/ch1.xhtml", "<html/>", "EPUB/img/brass plate.png", "\x89PNG\r\n\x1a\n")

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.epub", book,
		"listed (in EPUB/package.opf) record | meta/record.xml", "used (inside 7, in EPUB/package.opf) c1 | ch1.xhtml", "used (inside 8, in EPUB/package.opf) plate | img/brass%20plate.png",
		"used (in EPUB/package.opf) gone | img/gone.png", "used (in EPUB/package.opf) far | https://example.org/bell.mp3")
	formattest.Table(t, Format{}, "package.opf", opf,
		"listed record | meta/record.xml", "used c1 | ch1.xhtml", "used plate | img/brass%20plate.png", "used gone | img/gone.png", "used far | https://example.org/bell.mp3")
}

// TestHostile: a container without its package document, one that is cut off, members that lead out.
func TestHostile(t *testing.T) {
	formattest.Bad(t, Format{}, "x.epub", formattest.Zip("mimetype", "x", container, strings.Replace(rootfiles, "EPUB/", "OPS/", 1), "EPUB/package.opf", opf), "names no package document", 0)
	formattest.Bad(t, Format{}, "x.epub", formattest.Zip("mimetype", "x", container, rootfiles, "EPUB/package.opf", opf, "../out.png", "x"), "../out.png", 5)
	formattest.Bad(t, Format{}, "x.epub", book[:len(book)-30], "package cannot be read", 0)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.epub", []byte(book))
}
