package seal

import (
	"io"
	"os"
	"sync"

	"boundcrate/core/disk/drive"
)

// followBytes is how much of an archive is written between two times it is made
// safe and read back.
const followBytes = 64 << 20

// follower lets an archive be read back while it is still being written: it
// writes through, makes what was written safe from time to time, and its reader
// waits until what it asks for is on the disk.
type follower struct {
	f       *os.File
	written int64 // by the writer alone

	mu     sync.Mutex
	moved  *sync.Cond
	asked  int64 // to be made safe
	safe   int64 // bytes on the disk
	whole  bool
	err    error
	hands  sync.WaitGroup
	reader followReader
}

type followReader struct {
	of *follower
	at int64
}

func follow(f *os.File) *follower {
	w := &follower{f: f}
	w.moved, w.reader.of = sync.NewCond(&w.mu), w
	w.hands.Go(w.sync)
	return w
}

// Write implements io.Writer.
func (w *follower) Write(b []byte) (int, error) {
	n, err := w.f.Write(b)
	if w.written += int64(n); w.written-w.asked >= followBytes {
		w.mu.Lock()
		w.asked = w.written
		w.mu.Unlock()
		w.moved.Broadcast()
	}
	return n, err
}

func (w *follower) sync() {
	w.mu.Lock()
	defer w.mu.Unlock()
	for {
		for w.asked <= w.safe && !w.whole && w.err == nil {
			w.moved.Wait()
		}
		if w.whole || w.err != nil {
			return
		}
		to := w.asked
		w.mu.Unlock()
		err := w.f.Sync()
		drive.Forget(w.f) // so that what is read comes from the disk
		w.mu.Lock()
		if err != nil {
			w.err = err
		} else if !w.whole {
			w.safe = to
		}
		w.moved.Broadcast()
	}
}

// end says that the archive is whole and safe, or why it will not be.
func (w *follower) end(err error) {
	w.mu.Lock()
	if w.safe, w.whole = w.written, true; err != nil && w.err == nil {
		w.err = err
	}
	w.mu.Unlock()
	w.moved.Broadcast()
	w.hands.Wait()
}

// Read implements io.Reader.
func (r *followReader) Read(b []byte) (int, error) {
	w := r.of
	w.mu.Lock()
	for r.at >= w.safe && !w.whole && w.err == nil {
		w.moved.Wait()
	}
	left, whole, err := w.safe-r.at, w.whole, w.err
	w.mu.Unlock()
	switch {
	case err != nil:
		return 0, err
	case left <= 0 && whole:
		return 0, io.EOF
	}
	n, err := w.f.ReadAt(b[:min(int64(len(b)), left)], r.at)
	r.at += int64(n)
	return n, err
}

// Seek goes back to the beginning, which is all that is asked of it.
func (r *followReader) Seek(offset int64, _ int) (int64, error) {
	r.at = offset
	return offset, nil
}
