package usda

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"io"
	"testing"

	"boundcrate/core/text/format"
)

// packAligned is a USDZ package: stored, the data of each member at a multiple of 64 bytes.
func packAligned(t *testing.T, members ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	zw := zip.NewWriter(&b)
	for i := 0; i < len(members); i += 2 {
		name, data := members[i], members[i+1]
		if err := zw.Flush(); err != nil {
			t.Fatal(err)
		}
		h := &zip.FileHeader{Name: name, Method: zip.Store, CRC32: crc32.ChecksumIEEE([]byte(data)), CompressedSize64: uint64(len(data)), UncompressedSize64: uint64(len(data))}
		pad := (64 - (b.Len()+30+len(name)+4)%64) % 64
		h.Extra = binary.LittleEndian.AppendUint16([]byte{0x86, 0x19}, uint16(pad))
		h.Extra = append(h.Extra, make([]byte, pad)...)
		w, err := zw.CreateRaw(h)
		if err == nil {
			_, err = io.WriteString(w, data)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := zw.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestAligned: a package that is read in place can be read in place once its layer names
// other files (USDZ specification: stored, data at multiples of 64 bytes).
func TestAligned(t *testing.T) {
	layer := "#usda 1.0\ndef X \"a\" { asset f = @tex/a.png@\nasset g = @gone.png@\nasset h = @/abs/c.png@\n}\n"
	raw := packAligned(t, "deck.usda", layer, "tex/a.png", "png", "tex/more.png", "another")
	file, err := format.Set{Format{}}.Open("x.usdz", bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	which := -1
	for i := range file.Doc.Mentions {
		if len(file.Doc.Mentions[i].Pieces) > 0 && file.Doc.Name(i) == "/abs/c.png" {
			which = i
		}
	}
	edits, err := file.Doc.Retarget(map[int]string{which: "/a/much/longer/name/of a/picture.png"})
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := file.Rewrite(&out, edits); err != nil {
		t.Fatal(err)
	}
	zr, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range zr.File {
		at, err := f.DataOffset()
		if err != nil || at%64 != 0 || f.Method != zip.Store || f.Flags&8 != 0 {
			t.Errorf("%s begins at %d, method %d, flags %x (%v)", f.Name, at, f.Method, f.Flags, err)
		}
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if b, err := io.ReadAll(r); err != nil || f.Name == "tex/more.png" && string(b) != "another" {
			t.Errorf("%s: %q %v", f.Name, b, err)
		}
	}
	// What the package does not hold is not looked for beside it.
	for i := range file.Doc.Mentions {
		if m := &file.Doc.Mentions[i]; file.Doc.Written(i) == "gone.png" && len(m.Pieces) != 0 {
			t.Errorf("%+v", m)
		}
	}
}
