package mention

import (
	"slices"
	"strings"
)

// Told is what a document tells of a file it names, beside the name; zero values
// are not told.
type Told struct {
	Size    int64   // bytes
	Seconds float64 // the whole playing time
	Rate    int     // samples a second
	Product string  // of a part, the product that it is (ISO 10303-41)
	Reel    string  // the reel or tape that it is from, in an edit list at most eight characters of it
	Digest  string  // hex, in lower case
	By      Digest  // what it was computed by
	Beyond  bool    // it tells a digest, too, that is not understood
}

// Says are the places where a document tells of a file's bytes. Few documents do, so that a
// mention holds but a pointer.
type Says []Said

// OrNil is nil where there are none.
func (s Says) OrNil() *Says {
	if len(s) == 0 {
		return nil
	}
	return &s
}

// Said is a place where a document tells a digest, in hex, or the size of a file's bytes.
type Said struct {
	Piece
	By Digest // what computed it, also one that is not understood; "" of a size in bytes
}

// Digest is a way to compute a digest of a file's bytes.
type Digest string

// The digests that are understood: RFC 1321, FIPS 180-4, and those of xxHash with the
// seed 0, most significant byte first, as media hash lists tell them.
const (
	MD5    Digest = "md5"
	SHA1   Digest = "sha1"
	SHA256 Digest = "sha256"
	SHA512 Digest = "sha512"
	XXH64  Digest = "xxh64"
	XXH3   Digest = "xxh3" // of 64 bits
	XXH128 Digest = "xxh128"
)

// digests are the understood ones with their lengths in hex digits, the strongest
// first.
var digests = []digestOf{{SHA512, 128}, {SHA256, 64}, {SHA1, 40}, {MD5, 32}, {XXH128, 32}, {XXH3, 16}, {XXH64, 16}}

// ByLength is what computes a digest of so many hex digits where nobody says it, which is
// never xxHash; "" of other lengths.
func ByLength(hex int) Digest {
	for _, d := range digests {
		if d.hex == hex && hex > 16 {
			return d.by
		}
	}
	return ""
}

type digestOf struct {
	by  Digest
	hex int
}

// SayDigest takes a digest in hex. Of several told of one file the strongest is kept.
func (t *Told) SayDigest(by Digest, hex string) {
	hex = strings.ToLower(strings.TrimSpace(hex))
	if !slices.ContainsFunc(digests, func(d digestOf) bool { return d.by == by }) {
		t.Beyond = true
		return
	}
	for _, d := range digests {
		if d.by == t.By { // what is told already is as strong
			return
		}
		if len(hex) == d.hex && by == d.by && strings.Trim(hex, "0123456789abcdef") == "" {
			t.Digest, t.By = hex, d.by
			return
		}
	}
}

// OrNil is nil where nothing is told.
func (t Told) OrNil() *Told {
	if t == (Told{}) {
		return nil
	}
	return &t
}

// OfBytes tells that a digest or a size is told, which is true of these very bytes alone.
func (t *Told) OfBytes() bool { return t != nil && (t.Digest != "" || t.Size > 0 || t.Beyond) }
