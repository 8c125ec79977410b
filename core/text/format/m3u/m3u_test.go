package m3u

import (
	"testing"

	"boundcrate/core/text/format/formattest"
	"boundcrate/core/text/mention"
)

const sample = "#EXTM3U\r\n#EXT-X-VERSION:4\r\n#EXT-X-MEDIA:TYPE=AUDIO,GROUP-ID=\"a, b\",NAME=\"English\",URI=\"eng/audio%20only.m3u8\"\r\n#EXT-X-STREAM-INF:BANDWIDTH=1280000,AUDIO=\"a\"\r\nlow/video-only.m3u8\r\n#EXT-X-I-FRAME-STREAM-INF:BANDWIDTH=86000,URI=\"low/iframe.m3u8\"\r\n#EXT-X-KEY:METHOD=AES-128,URI=\"https://example.com/key?value=7\"\r\n#EXTINF:9.009,\r\n  first segment.ts  \r\n# a comment/that is none.ts\r\n"

// TestMentions holds the row of the table with the attributes of RFC 8216 §4.3.
func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.m3u8", sample,
		"used line 3, EXT-X-MEDIA | eng/audio%20only.m3u8",
		"used line 5 | low/video-only.m3u8",
		"used line 6, EXT-X-I-FRAME-STREAM-INF | low/iframe.m3u8",
		"used line 7, EXT-X-KEY | https://example.com/key?value=7",
		"used line 9 | first segment.ts",
	)
	formattest.Table(t, Format{}, "latin.m3u", "C:\\Music\\m\xF6we.mp3\n", "used line 1 | C:\\Music\\möwe.mp3")
	formattest.Table(t, Format{}, "bom.m3u", "\xEF\xBB\xBFbell.mp3", "used line 1 | bell.mp3")
}

// TestRFC8216 reads the examples of RFC 8216 §8 in full: §8.1, §8.4 and §8.6.
func TestRFC8216(t *testing.T) {
	formattest.Table(t, Format{}, "8.1.m3u8", "#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXT-X-VERSION:3\n#EXTINF:9.009,\nhttp://media.example.com/first.ts\n#EXTINF:9.009,\nhttp://media.example.com/second.ts\n#EXTINF:3.003,\nhttp://media.example.com/third.ts\n#EXT-X-ENDLIST\n",
		"used line 5 | http://media.example.com/first.ts", "used line 7 | http://media.example.com/second.ts", "used line 9 | http://media.example.com/third.ts")
	formattest.Table(t, Format{}, "8.4.m3u8", "#EXTM3U\n#EXT-X-STREAM-INF:BANDWIDTH=1280000,AVERAGE-BANDWIDTH=1000000\nhttp://example.com/low.m3u8\n#EXT-X-STREAM-INF:BANDWIDTH=65000,CODECS=\"mp4a.40.5\"\nhttp://example.com/audio-only.m3u8\n",
		"used line 3 | http://example.com/low.m3u8", "used line 5 | http://example.com/audio-only.m3u8")
	formattest.Table(t, Format{}, "8.6.m3u8", "#EXTM3U\n#EXT-X-MEDIA:TYPE=AUDIO,GROUP-ID=\"aac\",NAME=\"English\",DEFAULT=YES,AUTOSELECT=YES,LANGUAGE=\"en\",URI=\"main/english-audio.m3u8\"\n#EXT-X-MEDIA:TYPE=AUDIO,GROUP-ID=\"aac\",NAME=\"Commentary\",DEFAULT=NO,AUTOSELECT=NO,LANGUAGE=\"en\",URI=\"commentary/audio-only.m3u8\"\n#EXT-X-STREAM-INF:BANDWIDTH=1280000,CODECS=\"...\",AUDIO=\"aac\"\nlow/video-only.m3u8\n",
		"used line 2, EXT-X-MEDIA | main/english-audio.m3u8", "used line 3, EXT-X-MEDIA | commentary/audio-only.m3u8", "used line 5 | low/video-only.m3u8")
}

// TestPaths: a list that is called .m3u8 is one of URIs when it is a streaming playlist, or
// escapes characters; else it holds paths as players read them (common practice).
func TestPaths(t *testing.T) {
	for text, want := range map[string]mention.Spelling{
		"#EXTM3U\na b/100% gull.wav\n": mention.Path, "#EXTM3U\na%20b/gull.wav\n": mention.URI, "#EXTM3U\n#EXT-X-TARGETDURATION:1\na.ts\n": mention.URI,
	} {
		d, err := Format{}.Read(mention.Text{Name: "x.m3u8", Bytes: []byte(text)}, nil)
		if err != nil || d.Mentions[0].Spelling != want {
			t.Errorf("%q: %v %+v", text, err, d)
		}
	}
}

// TestParts: tags of later drafts, from memory of draft-pantos-hls-rfc8216bis §4.4.4.9,
// §4.4.5.3 and §4.4.5.4; one that nobody knows and that names a file is told.
func TestParts(t *testing.T) {
	const list = "#EXTM3U\n#EXT-X-PART:DURATION=0.3,URI=\"part1.mp4\"\n#EXT-X-PRELOAD-HINT:TYPE=PART,URI=\"part2.mp4\"\n#EXT-X-RENDITION-REPORT:URI=\"../low/list.m3u8\",LAST-MSN=3\n"
	formattest.Table(t, Format{}, "x.m3u8", list, "used line 2, EXT-X-PART | part1.mp4", "listed line 3, EXT-X-PRELOAD-HINT | part2.mp4", "listed line 4, EXT-X-RENDITION-REPORT | ../low/list.m3u8")
	formattest.Bad(t, Format{}, "x.m3u8", list+"#EXT-X-HARBOUR:URI=\"a.mp4\"\n", "line 5: unread-tag EXT-X-HARBOUR", 3)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.m3u8", []byte(sample))
}

// TestKeyInside: a key may stand in the playlist itself (RFC 8216 §4.3.2.4 wants
// a URI, RFC 2397 is one).
func TestKeyInside(t *testing.T) {
	formattest.Table(t, Format{}, "x.m3u8", "#EXTM3U\n#EXT-X-KEY:METHOD=AES-128,URI=\"data:text/plain;base64,QUJD\"\n#EXTINF:4,\nseg.ts\n",
		"used (inside 3) line 2, EXT-X-KEY | data:text/plain;base64,", "used line 4 | seg.ts")
}
