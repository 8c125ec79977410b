package bag_test

import (
	"bytes"
	"strings"
	"testing"

	"boundcrate/core/text/bag"
)

// FuzzManifest: whatever a manifest holds, reading it ends; what was read is
// written and read again as the same (RFC 8493 §2.1.3).
func FuzzManifest(f *testing.F) {
	for _, s := range []string{"d41d8cd98f00b204e9800998ecf8427e  data/a.wav\n", "00 *data/a%0Ab\r\n", "zz\n", "", "00  ../x\n00  data/x\n", "\xEF\xBB\xBF00  data/x"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		list, _, err := bag.ReadManifest(bytes.NewReader(b))
		if err != nil {
			return
		}
		for name := range list {
			if !strings.HasPrefix(name, "data/") {
				delete(list, name) // what begins with a space or a point is written so by nobody
			}
		}
		var again bytes.Buffer
		if err := bag.WriteManifest(&again, list); err != nil {
			t.Fatal(err)
		}
		back, faults, err := bag.ReadManifest(&again)
		if err != nil || len(faults) > 0 || len(back) != len(list) {
			t.Fatalf("%q: %d lines became %d, %v %v", b, len(list), len(back), faults, err)
		}
		for name, sum := range list {
			if back[name] != sum {
				t.Fatalf("%q: %q is %q, was %q", b, name, back[name], sum)
			}
		}
	})
}

// FuzzInfo: reading bag-info.txt ends, whatever it holds (§2.2.2).
func FuzzInfo(f *testing.F) {
	for _, s := range []string{"Payload-Oxum: 3.1\n", "A: b\n  c\nA: d\n", ":\n", "no colon\n", "A:\r\n\tB"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		for label := range bag.ReadInfo(bytes.NewReader(b)) {
			if bytes.ContainsAny([]byte(label), "\r\n") {
				t.Fatalf("%q: a label holds a line end: %q", b, label)
			}
		}
	})
}
