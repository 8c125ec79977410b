package facts

import (
	"crypto/md5"  // what documents tell files by, not what anything is trusted by
	"crypto/sha1" // the same
	"crypto/sha256"
	"crypto/sha512"
	"hash"

	"github.com/cespare/xxhash/v2"
	"github.com/zeebo/xxh3"

	"boundcrate/core/text/mention"
)

// Hash computes a digest; nil for one that is not understood.
func Hash(by mention.Digest) hash.Hash {
	switch by {
	case mention.MD5:
		return md5.New()
	case mention.SHA1:
		return sha1.New()
	case mention.SHA256:
		return sha256.New()
	case mention.SHA512:
		return sha512.New()
	case mention.XXH64:
		return xxhash.New()
	case mention.XXH3:
		return xxh3.New()
	case mention.XXH128:
		return wide{xxh3.New()}
	}
	return nil
}

// wide is xxHash of 128 bits, most significant byte first.
type wide struct{ *xxh3.Hasher }

func (w wide) Sum(b []byte) []byte {
	sum := w.Sum128().Bytes()
	return append(b, sum[:]...)
}
