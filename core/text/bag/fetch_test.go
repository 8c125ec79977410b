package bag_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"reflect"
	"testing"

	"boundcrate/core/text/bag"
)

// TestNI: the name of "Hello World!" is that of RFC 6920 §8.1, with and without an authority.
func TestNI(t *testing.T) {
	sum := sha256.Sum256([]byte("Hello World!"))
	const value = "f4OxZX_x_FO5LcGBSKHWXfwtSx-j1ncoSt3SABJtkGk"
	want := hex.EncodeToString(sum[:])
	if got := bag.NI(want); got != "ni:///sha-256;"+value {
		t.Error(got)
	}
	for uri, ok := range map[string]bool{
		"ni:///sha-256;" + value: true, "ni://example.com/sha-256;" + value: true, "ni:///sha-256;" + value + "?ct=text/plain": true,
		"ni:///sha-256-32;f4OxZQ": false, "ni:///sha-512;" + value: false, "ni:///sha-256;" + value + "=": false, "http://example.com/a": false, "ni:///sha-256;": false, "ni://": false,
	} {
		if got, is := bag.OfNI(uri); is != ok || ok && got != want {
			t.Errorf("%s: %s %v", uri, got, is)
		}
	}
	if bag.NI("ff") != "" || bag.NI("zz") != "" {
		t.Error("what is no SHA-256 has a name")
	}
}

// TestFetch: what is written is read; the length may be a hyphen, and line ends and percent signs of
// a path are escaped (RFC 8493 §2.2.3).
func TestFetch(t *testing.T) {
	list := []bag.Fetch{{URI: "ni:///sha-256;x", Length: 12, Path: "data/50% of\nit.wav"}, {URI: "https://example.com/a%20b", Length: -1, Path: "data/z z"}}
	var b bytes.Buffer
	if err := bag.WriteFetch(&b, list); err != nil || b.String() != "ni:///sha-256;x 12 data/50%25 of%0Ait.wav\nhttps://example.com/a%20b - data/z z\n" {
		t.Errorf("%q %v", b.String(), err)
	}
	got, bad, err := bag.ReadFetch(b.Bytes())
	if err != nil || len(bad) != 0 || !reflect.DeepEqual(got, list) {
		t.Errorf("%v %v %v", got, bad, err)
	}
	got, bad, err = bag.ReadFetch([]byte("http://a/b\t5\tdata/a\r\n\nno\nx y data/a\nx -3 data/a\nx 1 \n"))
	if err != nil || len(got) != 1 || got[0].Path != "data/a" || !reflect.DeepEqual(bad, []int{3, 4, 5, 6}) {
		t.Errorf("%v %v %v", got, bad, err)
	}
}
