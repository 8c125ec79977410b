package mhl

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<?xml version="1.0" encoding="UTF-8"?><hashlist version="2.0"><creatorinfo><tool>path</tool></creatorinfo><hashes>
<hash><path size="5">Clips/A &amp; B.mov</path><xxh64 action="original">0ea03b369a463d9d</xxh64></hash>
<hash><file>Sidecar.txt</file><size>5</size></hash><directoryhash><path>Clips</path></directoryhash></hashes></hashlist>`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.mhl", sample, "used hash | Clips/A & B.mov", "used hash | Sidecar.txt")
	formattest.Table(t, Format{}, "0001_deck.mhl", `<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0"><hashes><hash><path>Clips/A.mov</path></hash></hashes></hashlist>`, "used hash | Clips/A.mov → ../Clips/A.mov")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.mhl", []byte(sample))
}
