package format

import (
	"bytes"
	"compress/gzip"
	"errors"
	"io"
	"io/fs"
	"strings"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Envelope unwraps a file into texts and turns edits of them into a new file.
type Envelope interface {
	// Text is the text a document begins with.
	Text() (mention.Text, error)
	// Include opens another text of the file and gives it the next number.
	Include(member string) (mention.Text, error)
	// Problems are what was refused while unwrapping.
	Problems() []problem.Problem
	// Wrap writes the file; without edits, the bytes that were read.
	Wrap(w io.Writer, edits []mention.Edit) error
	// From is the same envelope over the same file, opened again.
	From(src Source) Envelope
}

const (
	maxDocument = 1 << 30 // bytes of one text that are read into memory
	maxRatio    = 100     // how far a packed text may grow when it is unpacked
)

var errTooLarge = errors.New("a document of more than 1 GiB is not read into memory")

var errBomb = errors.New("unpacked it is more than 100 times as large, which no document is; it was not unpacked further")

func unwrap(f Format, name string, head []byte, src Source) (Envelope, error) {
	if bytes.HasPrefix(head, []byte("glTF")) {
		return openGLB(src)
	}
	if p, ok := f.(Packed); ok && bytes.HasPrefix(head, []byte(zipMagic)) {
		return openPack(p, src)
	}
	if src.Size() > maxDocument {
		return nil, errTooLarge
	}
	b, err := readAll(src, 0, src.Size())
	if err != nil {
		return nil, err
	}
	if bytes.HasPrefix(b, []byte(gzipMagic)) {
		return openGzip(name, b)
	}
	return openText(name, b), nil
}

func readAll(src io.ReaderAt, off, size int64) ([]byte, error) {
	b := make([]byte, size)
	if n, err := src.ReadAt(b, off); int64(n) < size {
		if err == nil || err == io.EOF {
			err = io.ErrUnexpectedEOF
		}
		return nil, err
	}
	return b, nil
}

// bounded reads what unpacks from packed bytes, up to the limits.
func bounded(r io.Reader, packed int64) ([]byte, error) {
	most := min(int64(maxDocument), max(packed*maxRatio, 1<<20))
	b, err := io.ReadAll(io.LimitReader(r, most+1))
	if int64(len(b)) > most {
		return nil, errBomb
	}
	return b, err
}

// text is a file that is its own text, in some encoding: text number n of its
// document, which is 0 but for texts that another one is read with.
type text struct {
	n   int
	raw []byte
	enc *charset // nil: UTF-8, the bytes are the text
	t   mention.Text
}

func openText(name string, raw []byte) *text {
	unwrapped, enc, sure := decode(raw)
	e := &text{raw: raw, enc: enc, t: mention.Text{Name: name, Bytes: unwrapped}}
	e.t.Sealed = !sure
	if enc != nil {
		e.t.Fits = enc.fits
	}
	return e
}

func (e *text) Text() (mention.Text, error) { return e.t, nil }

func (e *text) Include(string) (mention.Text, error) { return mention.Text{}, fs.ErrNotExist }

func (e *text) Problems() []problem.Problem { return mislabelled(e.t.Bytes, e.enc) }

func (e *text) From(Source) Envelope { return e }

func (e *text) Wrap(w io.Writer, edits []mention.Edit) error {
	return e.wrap(w, e.n, mention.OfText(edits, e.n))
}

// asText is the text of an envelope that holds one, nil for packages.
func asText(env Envelope) *text {
	switch e := env.(type) {
	case *text:
		return e
	case *zipped:
		return e.text
	}
	return nil
}

// wrap writes the text as text number n of a file.
func (e *text) wrap(w io.Writer, n int, edits []mention.Edit) error {
	if len(edits) == 0 {
		_, err := w.Write(e.raw)
		return err
	}
	if e.enc == nil {
		return mention.Splice(w, n, e.t.Bytes, edits)
	}
	var b bytes.Buffer
	if err := mention.Splice(&b, n, e.t.Bytes, edits); err != nil {
		return err
	}
	out, err := e.enc.encode(b.Bytes())
	if err != nil {
		return err
	}
	_, err = w.Write(out)
	return err
}

const gzipMagic = "\x1F\x8B"

// zipped is a text under gzip (RFC 1952). Its header is kept when it is
// written anew.
type zipped struct {
	*text
	packed   []byte
	header   gzip.Header
	problems []problem.Problem
}

func openGzip(name string, b []byte) (Envelope, error) {
	zr, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	raw, err := bounded(zr, int64(len(b)))
	if err != nil && len(raw) == 0 {
		return nil, err
	}
	e := &zipped{openText(name, raw), b, zr.Header, nil}
	if err != nil {
		e.t.Sealed = true
		e.problems = []problem.Problem{{Kind: problem.CutOff, Args: []string{err.Error()}}}
	}
	return e, nil
}

func (e *zipped) Problems() []problem.Problem { return append(e.problems, e.text.Problems()...) }

func (e *zipped) From(Source) Envelope { return e }

func (e *zipped) Wrap(w io.Writer, edits []mention.Edit) error {
	if len(mention.OfText(edits, e.n)) == 0 {
		_, err := w.Write(e.packed)
		return err
	}
	zw := gzip.NewWriter(w)
	zw.Header = e.header
	if err := e.text.Wrap(zw, edits); err != nil {
		return err
	}
	return zw.Close()
}

// unwrapHead looks under gzip and text encodings at a file's beginning, so that
// formats know their own whatever it is wrapped in.
func unwrapHead(name string, head []byte) (string, []byte) {
	if bytes.HasPrefix(head, []byte(gzipMagic)) {
		if zr, err := gzip.NewReader(bytes.NewReader(head)); err == nil {
			b := make([]byte, HeadSize)
			n, _ := io.ReadFull(zr, b)
			head = b[:n]
		}
		if len(name) > 3 && strings.EqualFold(name[len(name)-3:], ".gz") {
			name = name[:len(name)-3]
		}
	}
	if enc := declared(head); enc != nil {
		head = enc.decode(head)
	}
	return name, head
}
