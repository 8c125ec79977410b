package format

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// glb is the binary form of glTF 2.0, ISO/IEC 12113 §4.4: a 12-byte header,
// then chunks, the first of them JSON.
type glb struct {
	src  Source
	json []byte
	rest int64 // where the chunks after JSON begin
	bin  [2]int64
}

const (
	glbHeader  = 12
	chunkHead  = 8
	chunkJSON  = 0x4E4F534A
	chunkBIN   = 0x004E4942
	jsonMember = "JSON"
)

// BinaryChunk is the name under which a GLB's BIN chunk stands beside its text.
const BinaryChunk = "BIN"

func openGLB(src Source) (Envelope, error) {
	h, err := readAll(src, 0, min(src.Size(), glbHeader+chunkHead))
	if err != nil || len(h) < glbHeader+chunkHead {
		return nil, errors.New("the file ends within its header")
	}
	u32 := func(off int) int64 { return int64(binary.LittleEndian.Uint32(h[off:])) }
	if v := u32(4); v != 2 {
		return nil, fmt.Errorf("binary glTF version %d is not read, only 2", v)
	}
	if n := u32(8); n != src.Size() {
		return nil, fmt.Errorf("its header says %d bytes, the file has %d", n, src.Size())
	}
	n := u32(12)
	if u32(16) != chunkJSON {
		return nil, errors.New("its first chunk is not JSON")
	}
	g := &glb{src: src, rest: glbHeader + chunkHead + n}
	if g.rest > src.Size() {
		return nil, fmt.Errorf("its JSON chunk says %d bytes, more than the file holds", n)
	}
	if g.json, err = readAll(src, glbHeader+chunkHead, n); err != nil {
		return nil, err
	}
	for at := g.rest; at+chunkHead <= src.Size(); {
		c, err := readAll(src, at, chunkHead)
		if err != nil {
			return nil, err
		}
		size := int64(binary.LittleEndian.Uint32(c))
		if at+chunkHead+size > src.Size() {
			return nil, fmt.Errorf("a chunk at byte %d says %d bytes, more than the file holds", at, size)
		}
		if binary.LittleEndian.Uint32(c[4:]) == chunkBIN && g.bin[1] == 0 {
			g.bin = [2]int64{at + chunkHead, size}
		}
		at += chunkHead + size
	}
	return g, nil
}

func (g *glb) Text() (mention.Text, error) {
	return mention.Text{Name: jsonMember, Bytes: g.json, Beside: g.beside}, nil
}

func (g *glb) Include(string) (mention.Text, error) { return mention.Text{}, fs.ErrNotExist }

func (g *glb) Problems() []problem.Problem { return nil }

func (g *glb) From(src Source) Envelope {
	again := *g
	again.src = src
	return &again
}

func (g *glb) beside(name string) (int64, func() io.ReadCloser, bool) {
	if name != BinaryChunk || g.bin[0] == 0 {
		return 0, nil, false
	}
	return g.bin[1], func() io.ReadCloser {
		return io.NopCloser(io.NewSectionReader(g.src, g.bin[0], g.bin[1]))
	}, true
}

// Wrap writes the header anew where the JSON's length changed; it is padded
// with spaces to a multiple of four as §4.4.3.2 asks. All other chunks are
// copied as they are.
func (g *glb) Wrap(w io.Writer, edits []mention.Edit) error {
	if len(edits) == 0 {
		_, err := io.Copy(w, io.NewSectionReader(g.src, 0, g.src.Size()))
		return err
	}
	var text bytes.Buffer
	if err := mention.Splice(&text, 0, g.json, edits); err != nil {
		return err
	}
	for text.Len()%4 != 0 {
		text.WriteByte(' ')
	}
	h := make([]byte, glbHeader+chunkHead)
	copy(h, "glTF")
	binary.LittleEndian.PutUint32(h[4:], 2)
	binary.LittleEndian.PutUint32(h[8:], uint32(g.src.Size()-g.rest+int64(len(h)+text.Len())))
	binary.LittleEndian.PutUint32(h[12:], uint32(text.Len()))
	binary.LittleEndian.PutUint32(h[16:], chunkJSON)
	if _, err := w.Write(h); err != nil {
		return err
	}
	if _, err := w.Write(text.Bytes()); err != nil {
		return err
	}
	_, err := io.Copy(w, io.NewSectionReader(g.src, g.rest, g.src.Size()-g.rest))
	return err
}
