package mend_test

import (
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/text/format/mhl"
	"boundcrate/core/text/mention"
)

// TestToldDigests: a file under another name is known by the digest that a media hash
// list tells, as independent programs computed it, and one of other bytes is not.
func TestToldDigests(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"a/B004.mov": "clip of deck", "b/C001.mov": "clip of hull"})
	for _, by := range []struct {
		element string
		program []string
	}{
		{"md5", []string{"md5sum"}}, {"sha1", []string{"sha1sum"}}, {"sha256", []string{"sha256sum"}}, {"sha512", []string{"sha512sum"}},
		{"xxh64", []string{"xxhsum", "-H1"}}, {"xxhash64be", []string{"xxhsum", "-H1"}}, {"xxh128", []string{"xxhsum", "-H2"}}, {"xxh3", []string{"xxhsum", "-H3"}},
	} {
		t.Run(by.element, func(t *testing.T) {
			if _, err := exec.LookPath(by.program[0]); err != nil {
				t.Skip(by.program[0] + " is not installed; make test installs it where it may")
			}
			out, err := exec.Command(by.program[0], append(by.program[1:], filepath.Join(dir, "a/B004.mov"))...).Output()
			said := strings.Fields(string(out))
			if err != nil || len(said) == 0 {
				t.Fatalf("%s %v", out, err)
			}
			sum := said[0]
			if strings.HasPrefix(sum, "XXH3") { // "XXH3 (file) = digest"
				sum = said[len(said)-1]
			}
			d, err := mhl.Format{}.Read(mention.Text{Bytes: []byte(`<hashlist><hash><file>A001.mov</file><size>12</size><` + by.element + `>` + sum + `</` + by.element + `></hash></hashlist>`)}, nil)
			if err != nil || d.Mentions[0].Told == nil {
				t.Fatalf("%+v %v", d, err)
			}
			w := mend.Wanted{Expected: "/gone/A001.mov", Kind: facts.Video, Told: d.Mentions[0].Told}
			got := find(t, dir, w, nil)
			if len(got) != 2 || got[0].Path != filepath.Join(dir, "a/B004.mov") || got[0].Certainty != mend.Certain || !got[1].Warns(mend.OtherToldContent) {
				t.Errorf("%q %+v", expectedFacts(got), got)
			}
		})
	}
}
