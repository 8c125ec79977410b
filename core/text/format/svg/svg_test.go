package svg

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<?xml version="1.0" encoding="UTF-8"?>
<?xml-stylesheet href="ink.css" type="text/css"?>
<?xml-stylesheet alternate="yes" href="night.css"?>
<!DOCTYPE svg [<!ENTITY ns "x">]>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">
  <style>@import "type.css"; .p { fill: url(patterns.svg#wave) } /* url(no.png) */</style>
  <style><![CDATA[.q { background: url("grain <1>.png") }]]></style>
  <image id="plate" href="../stills/brass%20plate.png" xlink:href="old.png"/>
  <image xlink:href="data:image/png;base64,iVBORw0KGgo=" display="none"/>
  <g visibility="hidden"><use xlink:href="symbols.svg#bell"/><use href="#own"/></g>
  <a href="http://example.org/page"><text>x</text></a>
  <rect fill="url(#local)" stroke="url('hatch.svg#a')" style="mask: url(mask.svg#m)"/>
  <text style="font-family:&quot;Deck Hand&quot;;fill:url(&quot;a &amp;amp; b.svg#w&quot;);stroke:url(&apos;c.svg#d&apos;)">x</text>
  <filter id="f"><feImage href="http://example.org/noise.png"/></filter>
</svg>
`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.svg", sample,
		"used xml-stylesheet | ink.css", "dormant xml-stylesheet | night.css",
		"used style | type.css", "used style | patterns.svg#wave", "used style | grain <1>.png",
		"used image 'plate' | ../stills/brass%20plate.png", "used (inside 8) image | data:image/png;base64,", "used use | symbols.svg#bell",
		"used rect stroke | hatch.svg#a", "used rect style | mask.svg#m", "used text style | a &amp; b.svg#w", "used text style | c.svg#d", "used feImage | http://example.org/noise.png",
	)
	// Drawing programs declare their namespaces so; no name needs them.
	formattest.Table(t, Format{}, "x.svg", `<!DOCTYPE svg [<!ENTITY ns "http://www.w3.org/2000/svg">]><svg xmlns="&ns;"><image href="a.png"/></svg>`, "used image | a.png")
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.svg", `<svg xmlns="http://www.w3.org/2000/svg"><image href="a.png"/><image href="&cut;`, "in the middle", 1)
	formattest.Bad(t, Format{}, "x.svg", `<!DOCTYPE svg [<!ENTITY e SYSTEM "secret.txt">]><svg xmlns="http://www.w3.org/2000/svg"><image href="a.png"/><image href="&e;"/></svg>`, "entity-outside &e;", 2)
}

// TestFirst: what SVG 1.1 names by elements that SVG 2 has no more (§10.6, §20.8.3); a
// reference into the drawing itself is no file in any manner of writing it.
func TestFirst(t *testing.T) {
	formattest.Table(t, Format{}, "x.svg", `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><font-face><font-face-src><font-face-uri xlink:href="hand.svg#f"/></font-face-src></font-face><text><tref xlink:href="words.svg#a"/><tref xlink:href="#own"/></text><use href="url(#own)"/></svg>`,
		"used font-face-uri | hand.svg#f", "used tref | words.svg#a")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.svg", []byte(sample))
}
