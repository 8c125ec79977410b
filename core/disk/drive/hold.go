package drive

import (
	"context"
	"io"
	"os"
)

// Hold opens a file or folder that exists and takes it for this process. held is
// false where another has it, or has put something else in its place meanwhile;
// then it is closed again.
func Hold(path string, flag int) (f *os.File, held bool, err error) {
	if f, err = os.OpenFile(path, flag, 0o644); err != nil {
		return nil, false, err
	}
	if held, err = Lock(f); err == nil && held {
		a, err1 := f.Stat()
		b, err2 := os.Stat(path)
		held = err1 == nil && err2 == nil && os.SameFile(a, b)
	}
	if err != nil || !held {
		f.Close()
		return nil, false, err
	}
	return f, true, nil
}

// ContextReader is r until ctx ends.
func ContextReader(ctx context.Context, r io.Reader) io.Reader { return contextReader{ctx, r} }

type contextReader struct {
	ctx context.Context
	r   io.Reader
}

func (c contextReader) Read(b []byte) (int, error) {
	if err := c.ctx.Err(); err != nil {
		return 0, err
	}
	return c.r.Read(b)
}
