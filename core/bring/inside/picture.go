package inside

import (
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"io"
	"os"
	"strings"

	"golang.org/x/image/tiff"

	"boundcrate/core/media/facts"
	"boundcrate/core/text/mention"
)

// ErrPicture: what stands in a document as a picture cannot be read as one. It stays where
// it is.
var ErrPicture = errors.New("the picture in the document cannot be read")

// pictures are the media types whose bytes are decoded before a document lets go of them.
var pictures = map[string]string{"image/png": "png", "image/jpeg": "jpeg", "image/gif": "gif", "image/bmp": "bmp", "image/tiff": "tiff", "image/webp": "webp"}

// proved decodes a picture once from the document and once from the file that was written:
// both must be whole, of the type that the document says, and of the same size and pixels.
func proved(tmp string, d *mention.Data) (err error) {
	kind, known := pictures[strings.ToLower(d.Type)]
	defer func() {
		if p := recover(); p != nil { // decoders are not ours
			err = fmt.Errorf("%w: %v", ErrPicture, p)
		}
	}()
	f, err := os.Open(tmp)
	if err != nil {
		return err
	}
	defer f.Close()
	c, is, err := image.DecodeConfig(f)
	if !known && err != nil {
		return nil // no picture
	}
	if err != nil || known && is != kind {
		return fmt.Errorf("%w: it is no %s", ErrPicture, kind)
	}
	if c.Width <= 0 || c.Height <= 0 || c.Width > facts.MaxPixels/c.Height {
		return nil // too large to be decoded here; its header is whole
	}
	rc := d.Open()
	defer rc.Close()
	inside, err := decoded(rc)
	if err != nil || inside == nil {
		return err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	outside, err := decoded(f)
	if err != nil {
		return err
	}
	if inside.Bounds() != outside.Bounds() {
		return ErrPicture
	}
	b := inside.Bounds()
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			if inside.At(x, y) != outside.At(x, y) {
				return fmt.Errorf("%w: the file that was written shows another", ErrPicture)
			}
		}
	}
	return nil
}

// decoded is nil where a picture may be whole and is of a kind that is not decoded here.
func decoded(r io.Reader) (image.Image, error) {
	m, _, err := image.Decode(r)
	var (
		j jpeg.UnsupportedError
		p png.UnsupportedError
		t tiff.UnsupportedError
	)
	switch {
	case errors.As(err, &j), errors.As(err, &p), errors.As(err, &t):
		return nil, nil
	case err != nil:
		return nil, fmt.Errorf("%w: %v", ErrPicture, err)
	}
	return m, nil
}
