package facts

import (
	"encoding/binary"
	"errors"
	"fmt"
	_ "image/gif"  // frame sizes
	_ "image/jpeg" // frame sizes
	_ "image/png"  // frame sizes
	"io"
)

// Facts is what a header tells; zero values are unknown.
type Facts struct {
	Seconds  float64 `json:"seconds,omitempty"`  // playing time
	Rate     int     `json:"rate,omitempty"`     // samples a second
	Depth    int     `json:"depth,omitempty"`    // bits a sample; 0 where the coding has none
	Channels int     `json:"channels,omitempty"` // of sound
	Width    int     `json:"width,omitempty"`    // pixels
	Height   int     `json:"height,omitempty"`
	Vertices int     `json:"vertices,omitempty"` // of a model
	Faces    int     `json:"faces,omitempty"`
	ID       string  `json:"id,omitempty"`       // written into the file itself: a UMID in hex, a recorder's identifier
	Clock    int64   `json:"clock,omitempty"`    // of a recording: its first sample, counted from midnight
	Family   string  `json:"family,omitempty"`   // of a recording kept in several files: what they share (iXML 2.10, FILE_SET, from memory)
	FamilyOf int     `json:"familyOf,omitempty"` // how many files those are
	Starts   float64 `json:"starts,omitempty"`   // where its timecode begins, in seconds after midnight
	Reel     string  `json:"reel,omitempty"`     // the tape or reel a recording says it is on
	Decoded  string  `json:"decoded,omitempty"`  // Decoded, where somebody asked for it
	Unclosed bool    `json:"unclosed,omitempty"` // its header does not say where its sound ends: it was read to the end of the file
	Hollow   Hollow  `json:"hollow,omitempty"`   // what is wrong with what it holds, where it was looked at
}

// Begins is where material begins, in seconds after midnight: by its timecode, else by
// its first sample's clock.
func (f *Facts) Begins() (seconds float64, told bool) {
	switch {
	case f.Starts > 0:
		return f.Starts, true
	case f.Clock > 0 && f.Rate > 0:
		return float64(f.Clock) / float64(f.Rate), true
	}
	return 0, false
}

// ErrDamaged: the header is of a known kind and contradicts itself.
var ErrDamaged = errors.New("damaged header")

// Read reads the facts of a file; an unknown kind gives none and no error.
func Read(r io.ReaderAt, size int64) (f Facts, err error) {
	defer Border(&err)
	head := make([]byte, min(headSize, size))
	if n, err := r.ReadAt(head, 0); n < len(head) {
		if err == io.EOF {
			err = nil
		}
		return Facts{}, err
	}
	for _, k := range readers {
		if len(head) >= max(12, k.off+len(k.sig)) && string(head[k.off:k.off+len(k.sig)]) == k.sig {
			return k.read(r, size, head)
		}
	}
	return stl(size, head), nil
}

// WAV is the layout of a RIFF, RF64 or BW64 WAVE file (EBU Tech 3306,
// ITU-R BS.2088).
type WAV struct {
	Facts
	Format   int   // 1 linear, 3 float
	Data     int64 // where the samples begin
	DataSize int64 // bytes of samples
	Block    int   // bytes of one sample of all channels
}

// ReadWAV walks the chunks up to the sample data.
func ReadWAV(r io.ReaderAt, size int64) (w WAV, err error) {
	defer Border(&err)
	var ds64 int64
	perSecond := 0
	chunk := make([]byte, 40)
	for at := int64(12); at+8 <= size; {
		n, err := r.ReadAt(chunk, at)
		if n < 8 {
			return w, err
		}
		for i := n; i < len(chunk); i++ {
			chunk[i] = 0
		}
		length := int64(binary.LittleEndian.Uint32(chunk[4:]))
		switch string(chunk[:4]) {
		case "ds64":
			ds64 = int64(binary.LittleEndian.Uint64(chunk[16:]))
		case "fmt ":
			if length < 16 {
				return w, fmt.Errorf("%w: its fmt chunk has %d bytes", ErrDamaged, length)
			}
			w.Format = int(binary.LittleEndian.Uint16(chunk[8:]))
			w.Channels = int(binary.LittleEndian.Uint16(chunk[10:]))
			w.Rate = int(binary.LittleEndian.Uint32(chunk[12:]))
			perSecond = int(binary.LittleEndian.Uint32(chunk[16:]))
			w.Block = int(binary.LittleEndian.Uint16(chunk[20:]))
			w.Depth = int(binary.LittleEndian.Uint16(chunk[22:]))
			if w.Format == 0xFFFE && length >= 26 {
				w.Format = int(binary.LittleEndian.Uint16(chunk[32:]))
			}
		case "bext", "iXML":
			b := make([]byte, min(length, 1<<16, size-at-8))
			if _, err := r.ReadAt(b, at+8); err != nil && err != io.EOF {
				return w, err
			}
			if chunk[0] == 'b' {
				w.bext(b)
			} else {
				w.ixml(b)
			}
		case "data":
			if w.Unclosed = unclosed(r, at, size, length, ds64); w.Unclosed {
				length = size - at - 8
			} else if length == 0xFFFFFFFF {
				length = ds64
			}
			w.Data, w.DataSize = at+8, min(length, size-at-8)
			if perSecond > 0 {
				w.Seconds = float64(w.DataSize) / float64(perSecond)
			}
			if w.ID == "" && at+8+length+length&1+8 <= size { // what tells it may stand behind the sound
				w.behind(r, at+8+length+length&1, size)
			}
			if length > size-at-8 {
				return w, fmt.Errorf("%w: its sound is cut off, %d bytes of %d are there", ErrDamaged, w.DataSize, length)
			}
			return w, nil
		}
		at += 8 + length + length&1
	}
	return w, fmt.Errorf("%w: it has no sound data", ErrDamaged)
}

// unclosed tells a data chunk whose length was never written: into a pipe, or by a recorder
// that lost its power. Then all behind it is sound.
func unclosed(r io.ReaderAt, at, size, length, ds64 int64) bool {
	left := size - at - 8
	switch {
	case length == 0xFFFFFFFF:
		return ds64 <= 0 || ds64 > left && ds64 >= 0x7FFFFFFFFFFFFFFF-16
	case length != 0 || left < 16:
		return false
	}
	next := make([]byte, 8) // or an empty one, before other chunks
	if _, err := r.ReadAt(next, at+8); err != nil {
		return false
	}
	for _, c := range next[:4] {
		if c < ' ' || c > '~' {
			return true
		}
	}
	return int64(binary.LittleEndian.Uint32(next[4:])) > left-8
}

// behind looks for identifiers after the sound.
func (w *WAV) behind(r io.ReaderAt, at, size int64) {
	head := make([]byte, 8)
	for n := 0; at+8 <= size && n < 64; n++ {
		if _, err := r.ReadAt(head, at); err != nil {
			return
		}
		length := int64(binary.LittleEndian.Uint32(head[4:]))
		if name := string(head[:4]); name == "bext" || name == "iXML" {
			b := make([]byte, min(length, 1<<16, size-at-8))
			if _, err := r.ReadAt(b, at+8); err != nil {
				return
			}
			if name == "bext" {
				w.bext(b)
			} else {
				w.ixml(b)
			}
		}
		at += 8 + length + length&1
	}
}
