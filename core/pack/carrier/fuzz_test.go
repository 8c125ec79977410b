package carrier_test

import (
	"bytes"
	"context"
	"io"
	"testing"
	"time"

	"boundcrate/core/pack/carrier"
)

// FuzzArchive: reading whatever calls itself an archive ends, with an error or
// without, and hands on no more than it holds.
func FuzzArchive(f *testing.F) {
	kinds := []carrier.Kind{carrier.Zip, carrier.Tar, carrier.TarGzip, carrier.TarZstd}
	for i, k := range kinds {
		var b bytes.Buffer
		w, err := carrier.NewArchive(k, &b, "c", time.Unix(1e9, 0))
		if err != nil {
			f.Fatal(err)
		}
		for _, name := range []string{"bagit.txt", "data/a.wav"} {
			if err := w.Add(carrier.File{Name: name, Size: 5, Mode: 0o644}, func(w io.Writer) error { _, err := w.Write([]byte("sound")); return err }); err != nil {
				f.Fatal(err)
			}
		}
		if err := w.Close(); err != nil {
			f.Fatal(err)
		}
		f.Add(byte(i), b.Bytes())
	}
	f.Fuzz(func(t *testing.T, k byte, b []byte) {
		const most = 64 << 20 // more than any small archive of ours unpacks to: compressed zeros
		var read int64
		_ = carrier.ReadArchive(context.Background(), bytes.NewReader(b), int64(len(b)), kinds[int(k)%len(kinds)], func(m carrier.Member, r io.Reader) error {
			if r == nil {
				return nil
			}
			n, err := io.Copy(io.Discard, io.LimitReader(r, most-read))
			if read += n; read >= most {
				return io.ErrShortBuffer
			}
			return err
		})
	})
}
