package pcm

import (
	"errors"
	"io"
	"iter"
	"math/bits"
	"strconv"

	"boundcrate/core/disk/drive"
)

// Channels is how the channels of a sound lie: in one file, each sample beside those of
// the others, or in a file each.
type Channels string

// The ways; nothing is as it is.
const (
	Interleaved Channels = "interleaved"
	Split       Channels = "split"
)

// ChannelEnds are what stands before the extension of the files that hold one channel
// each (common practice, no source): left and right, else their numbers from 1.
func ChannelEnds(channels int) []string {
	if channels == 2 {
		return []string{".L", ".R"}
	}
	list := make([]string, channels)
	for i := range list {
		list[i] = "." + strconv.Itoa(i+1)
	}
	return list
}

// single leaves of a sound one channel, from 1. Where the file says which speakers its
// channels are for, it stays told of that one.
func (s *Sound) single(n int) {
	s.wide, s.only, s.Channels, s.cut = s.Channels, n, 1, true
	if bits.OnesCount32(s.Mask) != s.wide { // channels beyond those of the mask are for no speaker
		s.Mask = 0
	}
	for range n - 1 {
		s.Mask &= s.Mask - 1
	}
	s.Mask &= -s.Mask
}

// ErrUneven: files that hold a channel each differ in rate, depth or length, or hold
// more than one.
var ErrUneven = errors.New("the channels differ in length, rate or depth")

// Join makes one sound of files that hold a channel each, in their order. What stands
// beside the first one's samples stands beside those of all. ErrUneven where they do not
// fit together to the sample.
func Join(parts []*Sound) (*Sound, error) {
	if len(parts) == 0 {
		return nil, ErrUneven
	}
	first := parts[0]
	s := &Sound{Type: first.Type, Rate: first.Rate, Channels: len(parts), Depth: first.Depth, Float: first.Float, Frames: first.Frames, chunks: first.chunks, cut: true, parts: parts}
	told := true // by every file, in the order of the speakers' bits
	for _, p := range parts {
		if p.Channels != 1 || p.Rate != s.Rate || p.Depth != s.Depth || p.Float != s.Float || p.Frames != s.Frames {
			return nil, ErrUneven
		}
		told = told && p.Mask > s.Mask
		s.Mask |= p.Mask
	}
	if !told {
		s.Mask = 0
	}
	return s, nil
}

// piece is some samples of one channel, or why there are none.
type piece struct {
	x   []float64
	err error
}

// joined reads the channels side by side.
func (s *Sound) joined(each func([][]float64) error) error {
	next := make([]func() (piece, bool), len(s.parts))
	for i, p := range s.parts {
		p.first, p.Frames = s.first, s.Frames
		pull, stop := iter.Pull(pieces(p))
		defer stop()
		next[i] = pull
	}
	held := make([][]float64, len(s.parts))
	for left := s.Frames; left > 0; {
		n := left
		for i := range held {
			for len(held[i]) == 0 {
				p, ok := next[i]()
				switch {
				case !ok:
					return io.ErrUnexpectedEOF
				case p.err != nil:
					return p.err
				}
				held[i] = p.x
			}
			n = min(n, int64(len(held[i])))
		}
		part := make([][]float64, len(held))
		for i := range held {
			part[i], held[i] = held[i][:n], held[i][n:]
		}
		if err := each(part); err != nil {
			return err
		}
		left -= n
	}
	return nil
}

var errEnough = errors.New("nobody reads on")

func pieces(s *Sound) iter.Seq[piece] {
	return func(yield func(piece) bool) {
		err := s.samples(func(x [][]float64) error {
			if !yield(piece{x: x[0]}) {
				return errEnough
			}
			return nil
		})
		if err != nil && !errors.Is(err, errEnough) {
			yield(piece{err: err})
		}
	}
}

// OpenFiles opens a sound, or several that hold a channel each as one. Close closes what
// it reads from.
func OpenFiles(reach drive.Reach, paths ...string) (s *Sound, close func(), err error) {
	var files []io.Closer
	close = func() {
		for _, f := range files {
			_ = f.Close() // they were only read
		}
	}
	var parts []*Sound
	for _, p := range paths {
		f, err := reach.Open(p)
		if err != nil {
			close()
			return nil, nil, &FileError{p, err}
		}
		files = append(files, f)
		one, err := Open(f, f.Size())
		if err != nil {
			close()
			return nil, nil, &FileError{p, err}
		}
		parts = append(parts, one)
	}
	if len(parts) == 1 {
		return parts[0], close, nil
	}
	if s, err = Join(parts); err != nil {
		close()
		return nil, nil, &FileError{paths[0], err}
	}
	return s, close, nil
}

// FileError is a file whose sound cannot be had.
type FileError struct {
	Path string
	Err  error
}

func (e *FileError) Error() string { return "‘" + e.Path + "’: " + e.Err.Error() }

// Unwrap is what was wrong.
func (e *FileError) Unwrap() error { return e.Err }
