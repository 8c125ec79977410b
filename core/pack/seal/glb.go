package seal

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"boundcrate/core/pack/content"
	"boundcrate/core/road/graph"
)

// Chunks of a GLB (glTF 2.0 §4.4.3).
const (
	glbMagic  = 0x46546C67
	chunkJSON = 0x4E4F534A
	chunkBIN  = 0x004E4942
	maxGLB    = 1 << 31 // what is put together in memory
)

type object = map[string]any

// writeGLB puts a glTF asset with its buffers and images into one file. What is missing keeps its name.
func (s *sealer) writeGLB(ctx context.Context, f *os.File, root item, items []item) error {
	doc, bin, err := s.gltf(root.from)
	if err != nil {
		return err
	}
	byName := map[string]item{}
	for i := range s.Plan.Graph.References {
		r := &s.Plan.Graph.References[i]
		if r.File == graph.None {
			continue
		}
		for _, it := range items {
			if it.from == s.Plan.Graph.Files[r.File].Path {
				byName[r.Written] = it
			}
		}
	}
	a := &assembling{s: s, ctx: ctx, doc: doc, own: bin, byName: byName, used: map[string]bool{}}
	if err := a.run(); err != nil {
		return err
	}
	for _, it := range items {
		if it.to != root.to && !a.used[it.to] {
			return &Refusal{Out: s.Out, Code: OutNotHeld, Detail: it.from}
		}
	}
	var text bytes.Buffer
	w := json.NewEncoder(&text)
	w.SetEscapeHTML(false)
	if err := w.Encode(doc); err != nil {
		return err
	}
	js := bytes.TrimRight(text.Bytes(), "\n")
	js = append(js, bytes.Repeat([]byte{' '}, (4-len(js)%4)%4)...)
	bin = append(a.bin, make([]byte, (4-len(a.bin)%4)%4)...)
	size := 12 + 8 + len(js)
	if len(bin) > 0 {
		size += 8 + len(bin)
	}
	var out bytes.Buffer
	put := func(list ...uint32) {
		for _, n := range list {
			_ = binary.Write(&out, binary.LittleEndian, n)
		}
	}
	put(glbMagic, 2, uint32(size), uint32(len(js)), chunkJSON)
	out.Write(js)
	if len(bin) > 0 {
		put(uint32(len(bin)), chunkBIN)
		out.Write(bin)
	}
	h := sha256.Sum256(js)
	s.glb, s.glbText = a.parts, hex.EncodeToString(h[:])
	s.keep(root.to, digest{sum: s.glbText, size: int64(len(js))})
	if _, err := f.Write(out.Bytes()); err != nil {
		return &WriteError{s.Out, err}
	}
	return nil
}

// gltf reads the JSON of an asset, and the binary chunk of one that is a GLB.
func (s *sealer) gltf(p string) (doc object, bin []byte, err error) {
	f, err := s.Trace.Reach.Open(p)
	if err != nil {
		return nil, nil, &content.ReadError{Path: p, Err: err}
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxGLB))
	if err != nil {
		return nil, nil, &content.ReadError{Path: p, Err: err}
	}
	js, bin := chunksOf(b)
	dec := json.NewDecoder(bytes.NewReader(js))
	dec.UseNumber()
	if err := dec.Decode(&doc); err != nil {
		return nil, nil, &content.ReadError{Path: p, Err: err}
	}
	return doc, bin, nil
}

// chunksOf parts a GLB; of plain JSON it is the whole.
func chunksOf(b []byte) (js, bin []byte) {
	if len(b) < 20 || binary.LittleEndian.Uint32(b) != glbMagic {
		return b, nil
	}
	for at := 12; at+8 <= len(b); {
		n, kind := int(binary.LittleEndian.Uint32(b[at:])), binary.LittleEndian.Uint32(b[at+4:])
		end := at + 8 + n
		if n < 0 || end > len(b) {
			break
		}
		switch kind {
		case chunkJSON:
			js = b[at+8 : end]
		case chunkBIN:
			bin = b[at+8 : end]
		}
		at = end
	}
	return js, bin
}

// part is a piece of the binary chunk, and what it must be.
type part struct {
	at, size int
	sum      string
}

// assembling is a GLB under way.
type assembling struct {
	s      *sealer
	ctx    context.Context
	doc    object
	own    []byte // the asset's own binary chunk
	byName map[string]item
	used   map[string]bool // items that are in it
	bin    []byte
	parts  []part
}

func list(o object, name string) []any { l, _ := o[name].([]any); return l }

func (a *assembling) run() error {
	views := list(a.doc, "bufferViews")
	where, kept, err := a.buffers()
	if err != nil {
		return err
	}
	for _, v := range views {
		view, _ := v.(object)
		if view["extensions"] != nil {
			return &Refusal{Out: a.s.Out, Code: OutNotHeld, Detail: "bufferView extensions"}
		}
		n := number(view["buffer"])
		if n < 0 || n >= len(where) {
			continue
		}
		view["buffer"] = where[n].buffer
		if where[n].buffer == 0 {
			view["byteOffset"] = number(view["byteOffset"]) + where[n].offset
		}
	}
	for _, i := range list(a.doc, "images") {
		image, _ := i.(object)
		uri, named := image["uri"].(string)
		if !named {
			continue
		}
		b, ok, err := a.bytes(uri)
		if err != nil {
			return err
		}
		if !ok {
			continue // it is missing, and stays so
		}
		kind := imageType(b)
		if kind == "" {
			return &Refusal{Out: a.s.Out, Code: OutNotHeld, Detail: uri}
		}
		at := a.add(b)
		views = append(views, object{"buffer": 0, "byteOffset": at, "byteLength": len(b)})
		delete(image, "uri")
		image["bufferView"], image["mimeType"] = len(views)-1, kind
	}
	if len(views) > 0 {
		a.doc["bufferViews"] = views
	}
	if len(a.bin) > 0 {
		kept = append([]any{object{"byteLength": len(a.bin)}}, kept...)
	} else if len(kept) > 0 {
		return &Refusal{Out: a.s.Out, Code: OutNotHeld, Detail: "buffers"}
	}
	if len(kept) > 0 {
		a.doc["buffers"] = kept
	}
	return nil
}

type moved struct{ buffer, offset int }

// buffers puts all buffers that are there together; those that are missing stay beside.
func (a *assembling) buffers() (where []moved, kept []any, err error) {
	for i, x := range list(a.doc, "buffers") {
		buffer, _ := x.(object)
		uri, named := buffer["uri"].(string)
		b := a.own
		if i > 0 || named {
			var ok bool
			if b, ok, err = a.bytes(uri); err != nil {
				return nil, nil, err
			}
			if !ok {
				kept = append(kept, buffer)
				where = append(where, moved{len(kept), 0})
				continue
			}
		}
		if n := number(buffer["byteLength"]); n >= 0 && n < len(b) {
			b = b[:n]
		}
		where = append(where, moved{0, a.add(b)})
	}
	return where, kept, nil
}

// add puts bytes at the next multiple of four.
func (a *assembling) add(b []byte) int {
	a.bin = append(a.bin, make([]byte, (4-len(a.bin)%4)%4)...)
	at := len(a.bin)
	a.bin = append(a.bin, b...)
	sum := sha256.Sum256(b)
	a.parts = append(a.parts, part{at, len(b), hex.EncodeToString(sum[:])})
	return at
}

// bytes are those that a URI leads to; not ok where it is missing.
func (a *assembling) bytes(uri string) ([]byte, bool, error) {
	if rest, ok := strings.CutPrefix(uri, "data:"); ok {
		head, data, _ := strings.Cut(rest, ",")
		if !strings.HasSuffix(head, ";base64") {
			text, err := url.PathUnescape(data)
			return []byte(text), err == nil, nil
		}
		b, err := base64.StdEncoding.DecodeString(data)
		return b, err == nil, nil
	}
	it, ok := a.byName[uri]
	if !ok {
		return nil, false, nil
	}
	if int64(len(a.bin))+it.size > maxGLB {
		return nil, false, &Refusal{Out: a.s.Out, Code: OutTooLarge, Detail: it.from, Needs: it.size}
	}
	var b bytes.Buffer
	if err := a.s.take(a.ctx, it, &b); err != nil {
		return nil, false, err
	}
	a.used[it.to] = true
	return b.Bytes(), true, nil
}

// number is a whole number of JSON, 0 where there is none.
func number(v any) int {
	switch n := v.(type) {
	case json.Number:
		i, err := n.Int64()
		if err != nil {
			return -1
		}
		return int(i)
	case int:
		return n
	}
	return 0
}

// proveGLB reads the file again: its chunks, and every part of the binary one byte for byte.
func (s *sealer) proveGLB(ctx context.Context, f io.ReaderAt, size int64) error {
	b, err := io.ReadAll(io.NewSectionReader(f, 0, size))
	if err != nil {
		return &WriteError{s.Out, err}
	}
	js, bin := chunksOf(b)
	var doc object
	if binary.LittleEndian.Uint32(b[8:]) != uint32(len(b)) || json.Unmarshal(js, &doc) != nil {
		return &WriteError{s.Out, ErrReadBack}
	}
	for _, p := range s.glb {
		if p.at+p.size > len(bin) {
			return &WriteError{s.Out, ErrReadBack}
		}
		sum := sha256.Sum256(bin[p.at : p.at+p.size])
		if hex.EncodeToString(sum[:]) != p.sum {
			return &WriteError{s.Out, ErrReadBack}
		}
	}
	sum := sha256.Sum256(js)
	if hex.EncodeToString(sum[:]) != s.glbText {
		return &WriteError{s.Out, ErrReadBack}
	}
	for _, d := range s.sums {
		s.back.Add(d.size)
	}
	// Its own trace tells whether anything is still outside of it.
	v := newVault(s.Out+"!", s.Trace.Formats)
	defer v.close()
	name := filepath.Base(s.Out)
	if err := v.take(name, bytes.NewReader(b)); err != nil {
		return err
	}
	s.proof, err = prove(ctx, evidence{formats: s.Trace.Formats, reach: v, data: v.root, docs: []string{filepath.Join(v.root, name)}})
	if err == nil && len(s.proof.left) > 0 {
		s.proof.Complete = false
	}
	return err
}
