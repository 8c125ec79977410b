package drive

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
)

// Fingerprint is the SHA-256 of a file's whole content, in hex (FIPS 180-4).
// read is told the bytes as they go by.
func Fingerprint(ctx context.Context, reach Reach, path string, read func(n int64)) (string, error) {
	f, err := reach.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close()
	return Sum(ctx, f, read)
}

// Sum is Fingerprint of a file that is open, from its beginning.
func Sum(ctx context.Context, f File, read func(n int64)) (string, error) {
	h := sha256.New()
	buf := make([]byte, min(1<<18, f.Size()+1)) // one more than it has, so that its end is met
	for {
		if err := ctx.Err(); err != nil {
			return "", err
		}
		n, err := f.Read(buf)
		h.Write(buf[:n])
		if read != nil {
			read(int64(n))
		}
		if err == io.EOF {
			return hex.EncodeToString(h.Sum(nil)), nil
		}
		if err != nil {
			return "", err
		}
	}
}
