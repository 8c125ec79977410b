package mention

import "strings"

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
}

// Digest is a way to compute a digest of a file's bytes.
type Digest string

// The digests that are understood: RFC 1321, FIPS 180-4.
const (
	MD5    Digest = "md5"
	SHA1   Digest = "sha1"
	SHA256 Digest = "sha256"
	SHA512 Digest = "sha512"
)

// digests are those that only one of the understood ways gives, by their length in
// hex digits.
var digests = map[int]Digest{32: MD5, 40: SHA1, 64: SHA256, 128: SHA512}

// SayDigest takes a digest in hex; by its length where nobody says what computed
// it.
func (t *Told) SayDigest(by Digest, hex string) {
	hex = strings.ToLower(strings.TrimSpace(hex))
	if at, ok := digests[len(hex)]; ok && (by == "" || by == at) && strings.Trim(hex, "0123456789abcdef") == "" {
		t.Digest, t.By = hex, at
	}
}

// OrNil is nil where nothing is told.
func (t Told) OrNil() *Told {
	if t == (Told{}) {
		return nil
	}
	return &t
}
