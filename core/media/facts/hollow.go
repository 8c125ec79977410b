package facts

import (
	"bytes"
	"errors"
	"io"
	"slices"
)

// Hollow is what is wrong with what a file holds, whatever its name and size say.
type Hollow string

// What may be wrong.
const (
	NotHollow Hollow = ""
	Empty     Hollow = "empty"     // no bytes, or zeros alone
	WebPage   Hollow = "page"      // what a server answers in place of a file
	Pointer   Hollow = "pointer"   // a pointer of a large-file store in git, in place of the content
	BrokenOff Hollow = "broken"    // its header contradicts itself, or what it claims is not there
	CutShort  Hollow = "cut-short" // the end of what it claims is not there; Seconds are those that are
)

// media are the kinds of files that hold something by a header of their own.
var media = []Kind{Audio, Video, Image, Geometry, Part}

// tail is how much of a file's end is looked at.
const tail = 512

// HollowOf looks at the beginning and the end of a file that its name calls media. err is
// what reading its facts gave.
func HollowOf(name string, r io.ReaderAt, size int64, head []byte, got Facts, err error) Hollow {
	kind := KindOfName(name)
	if !slices.Contains(media, kind) {
		return NotHollow
	}
	end := make([]byte, min(tail, size))
	if n, _ := r.ReadAt(end, size-int64(len(end))); n < len(end) {
		return NotHollow // it cannot be read now
	}
	switch {
	case zeros(head) && zeros(end):
		return Empty
	case IsPointer(head):
		return Pointer
	case page(head):
		return WebPage
	case errors.Is(err, ErrDamaged) && got.Seconds > 0:
		return CutShort
	case errors.Is(err, ErrDamaged):
		return BrokenOff
	case bytes.HasPrefix(head, []byte("\x89PNG\r\n\x1a\n")) && !bytes.Contains(end, []byte("IEND")),
		(bytes.HasPrefix(head, []byte("\xFF\xD8\xFF")) || bytes.HasPrefix(head, []byte("GIF8"))) && zeros(end):
		return BrokenOff // PNG: its last chunk is IEND (ISO/IEC 15948 §5.6); the others end in no zeros
	}
	return NotHollow
}

// pointer begins every pointer of a large-file store in git: its first line is the address of
// the version of the pointers' specification, whose keys follow in lines (specification from memory).
var pointer = []byte("version https://git-")

// IsPointer tells by its beginning that a file is such a pointer and not the content it stands for.
func IsPointer(head []byte) bool {
	return bytes.HasPrefix(head, pointer) && bytes.Contains(head, []byte("\noid sha256:"))
}

func zeros(b []byte) bool { return len(bytes.TrimLeft(b, "\x00")) == 0 }

// page tells what begins as HTML does.
func page(head []byte) bool {
	b := bytes.ToLower(bytes.TrimLeft(bytes.TrimPrefix(head[:min(len(head), 512)], []byte("\uFEFF")), " \t\r\n"))
	return bytes.HasPrefix(b, []byte("<!doctype html")) || bytes.HasPrefix(b, []byte("<html"))
}
