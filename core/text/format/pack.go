package format

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"io/fs"
	"strings"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

const zipMagic = "PK\x03\x04"

// pack is a zip package: some members are texts of the document, all others
// are copied as they are packed.
type pack struct {
	src      Source
	zr       *zip.Reader
	members  map[string]*zip.File // by name, the first of each
	main     string
	texts    []*text
	names    []string
	problems []problem.Problem
	unpacked int64 // bytes of all texts
	damaged  bool  // a member is not where the package says: it can be read, and not written anew
}

func memberNames(zr *zip.Reader) []string {
	list := make([]string, 0, len(zr.File))
	for _, f := range zr.File {
		list = append(list, f.Name)
	}
	return list
}

// headMembers reads the names of the first members from a file's beginning
// (APPNOTE 4.3.7).
func headMembers(head []byte) []string {
	var list []string
	for len(head) >= 30 && string(head[:4]) == zipMagic {
		size := int(binary.LittleEndian.Uint32(head[18:]))
		name, extra := int(binary.LittleEndian.Uint16(head[26:])), int(binary.LittleEndian.Uint16(head[28:]))
		if 30+name > len(head) {
			break
		}
		list = append(list, string(head[30:30+name]))
		next := 30 + name + extra + size
		if head[6]&8 != 0 || next <= 0 || next >= len(head) {
			break // sizes follow the data, or the rest is not here
		}
		head = head[next:]
	}
	return list
}

func unsafeMember(name string) bool {
	return strings.HasPrefix(name, "/") || strings.Contains(name, `\`) || len(name) > 1 && name[1] == ':' || !fs.ValidPath(strings.TrimSuffix(name, "/"))
}

func openPack(f Packed, src Source) (Envelope, error) {
	zr, err := zip.NewReader(src, src.Size())
	if err != nil {
		return nil, fmt.Errorf("its package cannot be read: %w", err)
	}
	p := &pack{src: src, zr: zr}
	seen := map[string]bool{}
	var names []string
	for _, m := range zr.File {
		if at, err := m.DataOffset(); err != nil || at+int64(m.CompressedSize64) > src.Size() || int64(m.CompressedSize64) < 0 {
			p.damaged = true
			p.problems = append(p.problems, problem.Problem{Kind: problem.MemberMoved, Args: []string{m.Name}})
		}
		switch {
		case unsafeMember(m.Name):
			p.problems = append(p.problems, problem.Problem{Kind: problem.MemberOutside, Args: []string{m.Name}})
		case seen[m.Name]:
			p.problems = append(p.problems, problem.Problem{Kind: problem.MemberTwice, Args: []string{m.Name}})
		default:
			seen[m.Name] = true
			names = append(names, m.Name)
		}
	}
	if p.main = f.Main(names); p.main == "" {
		if o, ok := f.(Opaque); ok && o.Opaque(names) != "" {
			return nil, &opaqueError{o.Opaque(names)}
		}
		return nil, errors.New("its package holds no document")
	}
	return p, nil
}

func (p *pack) find(name string) *zip.File {
	if p.members == nil {
		p.members = make(map[string]*zip.File, len(p.zr.File))
		for _, f := range p.zr.File {
			if p.members[f.Name] == nil && !unsafeMember(f.Name) {
				p.members[f.Name] = f
			}
		}
	}
	return p.members[name]
}

func (p *pack) Text() (mention.Text, error) { return p.Include(p.main) }

func (p *pack) Include(member string) (mention.Text, error) {
	f := p.find(member)
	if f == nil {
		return mention.Text{}, fs.ErrNotExist
	}
	r, err := f.Open()
	if err != nil {
		return mention.Text{}, fmt.Errorf("its member %s cannot be read: %w", member, err)
	}
	defer r.Close()
	raw, err := bounded(r, max(int64(f.CompressedSize64), p.src.Size()))
	if err != nil {
		return mention.Text{}, fmt.Errorf("its member %s cannot be read: %w", member, err)
	}
	if p.unpacked += int64(len(raw)); p.unpacked > max(p.src.Size()*maxRatio, 1<<20) || p.unpacked > maxDocument {
		return mention.Text{}, fmt.Errorf("its member %s cannot be read: %w", member, errBomb)
	}
	e := openText(member, raw)
	e.t.Sealed = e.t.Sealed || p.damaged
	e.t.Member, e.t.Beside, e.t.Members = true, p.beside, func() []string { return memberNames(p.zr) }
	p.texts, p.names = append(p.texts, e), append(p.names, member)
	return e.t, nil
}

// beside opens any other member of the package.
func (p *pack) beside(name string) (int64, func() io.ReadCloser, bool) {
	f := p.find(name)
	if f == nil {
		return 0, nil, false
	}
	return int64(f.UncompressedSize64), func() io.ReadCloser {
		r, err := f.Open()
		if err != nil {
			return io.NopCloser(failing{err})
		}
		return r
	}, true
}

type failing struct{ err error }

func (f failing) Read([]byte) (int, error) { return 0, f.err }

func (p *pack) Problems() (list []problem.Problem) {
	list = append(list, p.problems...)
	for _, e := range p.texts {
		list = append(list, e.Problems()...)
	}
	return list
}

func (p *pack) From(src Source) Envelope {
	again := *p
	again.src = src
	if zr, err := zip.NewReader(src, src.Size()); err == nil {
		again.zr, again.members = zr, nil
	}
	return &again
}

// Wrap copies every member as it is packed and packs anew only the texts that
// change; a stored member stays stored.
func (p *pack) Wrap(w io.Writer, edits []mention.Edit) error {
	if len(edits) == 0 {
		_, err := io.Copy(w, io.NewSectionReader(p.src, 0, p.src.Size()))
		return err
	}
	changed := map[string]int{}
	for _, e := range edits {
		changed[p.names[e.Text]] = e.Text
	}
	at := &counted{w: w}
	zw := zip.NewWriter(at)
	if err := zw.SetComment(p.zr.Comment); err != nil {
		return err
	}
	aligned := p.aligned()
	for _, f := range p.zr.File {
		n, ok := changed[f.Name]
		if !ok {
			if err := copyMember(zw, at, f, aligned); err != nil {
				return err
			}
			continue
		}
		var mine []mention.Edit
		for _, e := range edits {
			if e.Text == n {
				mine = append(mine, e)
			}
		}
		var b bytes.Buffer
		if err := p.texts[n].wrap(&b, n, mine); err != nil {
			return err
		}
		h := zip.FileHeader{Name: f.Name, Method: f.Method, Modified: f.Modified, ExternalAttrs: f.ExternalAttrs, Comment: f.Comment}
		if aligned {
			h.CRC32 = crc32.ChecksumIEEE(b.Bytes())
			h.CompressedSize64, h.UncompressedSize64 = uint64(b.Len()), uint64(b.Len())
			if err := rawMember(zw, at, h, &b); err != nil {
				return err
			}
			continue
		}
		m, err := zw.CreateHeader(&h)
		if err != nil {
			return err
		}
		if _, err := m.Write(b.Bytes()); err != nil {
			return err
		}
	}
	return zw.Close()
}

// alignment is at which multiples of bytes the data of a package's members begins that is
// read in place (USDZ specification, "Layout"). A rewritten one keeps to it.
const alignment = 64

// aligned tells packages whose members are all stored, each at such a place.
func (p *pack) aligned() bool {
	for _, f := range p.zr.File {
		at, err := f.DataOffset()
		if err != nil || f.Method != zip.Store || at%alignment != 0 {
			return false
		}
	}
	return len(p.zr.File) > 0
}

// copyMember copies a member as it is packed.
func copyMember(zw *zip.Writer, at *counted, f *zip.File, aligned bool) error {
	if strings.HasSuffix(f.Name, "/") { // a folder, which may be written as two packed bytes of nothing
		h := f.FileHeader
		h.Method, h.CRC32, h.CompressedSize64, h.UncompressedSize64 = zip.Store, 0, 0, 0
		h.Flags &^= 0x8
		_, err := zw.CreateRaw(&h)
		return err
	}
	if !aligned {
		return zw.Copy(f)
	}
	r, err := f.OpenRaw()
	if err != nil {
		return err
	}
	return rawMember(zw, at, f.FileHeader, r)
}

// rawMember writes a stored member at an aligned place, with its sizes before it: there is
// nothing behind it that a reader in place would have to pass over.
func rawMember(zw *zip.Writer, at *counted, h zip.FileHeader, r io.Reader) error {
	if err := zw.Flush(); err != nil {
		return err
	}
	const localHead, padHead, padID = 30, 4, 0x1986
	h.Flags &^= 0x8
	h.Extra = nil
	before := at.n + localHead + int64(len(h.Name)) + padHead
	pad := (alignment - before%alignment) % alignment
	h.Extra = binary.LittleEndian.AppendUint16(h.Extra, padID)
	h.Extra = binary.LittleEndian.AppendUint16(h.Extra, uint16(pad))
	h.Extra = append(h.Extra, make([]byte, pad)...)
	m, err := zw.CreateRaw(&h)
	if err != nil {
		return err
	}
	_, err = io.Copy(m, r)
	return err
}

// counted tells how many bytes were written.
type counted struct {
	w io.Writer
	n int64
}

func (c *counted) Write(b []byte) (int, error) {
	n, err := c.w.Write(b)
	c.n += int64(n)
	return n, err
}
