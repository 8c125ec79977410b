package mend_test

import (
	"encoding/binary"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
)

// broadcast is a Broadcast Wave of a second with the originator's reference that a
// recorder wrote (EBU Tech 3285 §2.3: 32 ASCII characters at 288 of the chunk).
func broadcast(reference string, samples int) string {
	bext := make([]byte, 602)
	copy(bext[288:], reference)
	chunk := func(id string, b []byte) string {
		return id + string(binary.LittleEndian.AppendUint32(nil, uint32(len(b)))) + string(b)
	}
	form := binary.LittleEndian.AppendUint16(nil, 1)
	form = binary.LittleEndian.AppendUint16(form, 1)
	form = binary.LittleEndian.AppendUint32(form, 8000)
	form = binary.LittleEndian.AppendUint32(form, 16000)
	form = binary.LittleEndian.AppendUint16(form, 2)
	form = binary.LittleEndian.AppendUint16(form, 16)
	body := "WAVE" + chunk("bext", bext) + chunk("fmt ", form) + chunk("data", []byte(strings.Repeat("so", samples)))
	return chunk("RIFF", []byte(body))
}

// A recording that was renamed and trimmed is found by the identifier it carries, which
// proves nothing by itself: another of the same name without it is not taken for it.
func TestIdentify(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"was/gull.wav":     broadcast("ZZLS0001260412", 8000),
		"new/A003_T07.wav": broadcast("ZZLS0001260412", 5000), "new/A003_T08.wav": broadcast("ZZLS0002260412", 8000), "new/other/gull.wav": broadcast("ZZLS0003260412", 7000),
	})
	src, err := os.Open(filepath.Join(dir, "was/gull.wav"))
	if err != nil {
		t.Fatal(err)
	}
	defer src.Close()
	info, err := src.Stat()
	if err != nil {
		t.Fatal(err)
	}
	known, err := facts.Read(src, info.Size())
	if err != nil || known.ID == "" {
		t.Fatalf("%+v %v", known, err)
	}
	w := mend.Wanted{Expected: "/gone/gull.wav", Kind: facts.Audio, Last: &mend.Seen{Size: info.Size(), SHA256: hashOf(t, src.Name()), Facts: known}}
	list := find(t, filepath.Join(dir, "new"), w, nil)
	at := slices.IndexFunc(list, func(c mend.Candidate) bool { return filepath.Base(c.Path) == "A003_T07.wav" })
	if at < 0 || !list[at].HasCode(mend.SameID) || list[at].Certainty == mend.Certain {
		t.Errorf("%+v", list)
	}
	for _, c := range list {
		if filepath.Base(c.Path) == "A003_T08.wav" || filepath.Base(c.Path) == "gull.wav" && (c.Certainty != mend.Possible || !c.Warns(mend.OtherID)) {
			t.Errorf("%+v", c)
		}
	}
	if _, sure := mend.Sure(list); sure {
		t.Error("an identifier alone is taken for certain")
	}
}
