package xspf

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<?xml version="1.0" encoding="UTF-8"?>
<playlist version="1" xmlns="http://xspf.org/ns/0/" xml:base="sound/">
  <!-- <location>not/me.wav</location> -->
  <location>http://example.org/this-playlist</location>
  <image>cover%20art.png</image>
  <info>http://example.org/info</info>
  <trackList>
    <track>
      <location>file:///music/one.flac</location>
      <location> take%201 &amp; 2.wav
      </location>
      <image>../stills/one.png</image>
      <link rel="http://example.org/rel">http://example.org/link</link>
    </track>
    <track xml:base="bells/"><location><![CDATA[bell <A>.wav]]></location><location/></track>
  </trackList>
</playlist>
`

// TestMentions holds the row of the table; the playlist is after the examples
// of the XSPF 1 specification §4.
func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.xspf", sample,
		"used playlist | cover%20art.png → sound/cover%20art.png",
		"used (alt 1) track 1 | file:///music/one.flac",
		"used (alt 1) track 1 | take%201 & 2.wav → sound/take%201 & 2.wav",
		"used track 1 | ../stills/one.png → stills/one.png",
		"used (alt 2) track 2 | bell <A>.wav → sound/bells/bell <A>.wav",
	)
	// xml:base of the outer element leans on nothing but what it says itself.
	formattest.Table(t, Format{}, "latin.xspf", "<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?><playlist xmlns=\"http://xspf.org/ns/0/\"><trackList><track><location>m\xF6we.wav</location></track></trackList></playlist>",
		"used (alt 1) track 1 | möwe.wav")
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.xspf", "", "it is empty", 0)
	formattest.Bad(t, Format{}, "x.xspf", "<playlist><track><location>a.wav</location></trakc>", "</trakc> ends nothing: <track> is open", 1)
	formattest.Bad(t, Format{}, "x.xspf", "<!DOCTYPE p [<!ENTITY x \"y\">]><playlist><track><location>&x;</location></track></playlist>", "line 1: entity-in-name &x;", 1)
	formattest.Bad(t, Format{}, "x.xspf", "<!DOCTYPE p [<!ENTITY x SYSTEM \"file:///etc/hostname\">]>\n<playlist><note>&x;</note><track><location>a.wav</location></track></playlist>", "line 2: entity-outside &x;", 1)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.xspf", []byte(sample))
}
