package mend_test

import (
	"path/filepath"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/text/mention"
)

// TestProduct: of two parts of one name the one that is the product comes first, and
// the other says that it is not.
func TestProduct(t *testing.T) {
	part := func(name string) string {
		return "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=PRODUCT('" + name + "','','',(#9));\nENDSEC;\nEND-ISO-10303-21;\n"
	}
	dir := coretest.Lay(t, map[string]string{"a/wheel.stp": part("small wheel"), "b/wheel.stp": part("great wheel")})
	w := mend.Wanted{Expected: "/gone/wheel.stp", Kind: facts.Part, Told: &mention.Told{Product: "great wheel"}}
	got := find(t, dir, w, nil)
	if len(got) != 2 || got[0].Path != filepath.Join(dir, "b/wheel.stp") || !got[0].HasCode(mend.SameProduct) || !got[1].Warns(mend.OtherProduct) || got[0].Certainty != mend.Likely {
		t.Errorf("%q %+v", expectedFacts(got), got)
	}
}
