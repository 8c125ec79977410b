package facts_test

import (
	"slices"
	"strings"
	"testing"

	"boundcrate/core/media/facts"
)

// TestProducts: numbers and names of products are read with their syntax undone
// (ISO 10303-21 §6.4.3), from what is whole of a file.
func TestProducts(t *testing.T) {
	const part = "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=PRODUCT('W-7','great ''wheel''','',(#9));\n#2=DIRECTION('',(0.,0.,1.));\n#3=PRODUCT('\\X2\\00C4\\X0\\chse','','',());\nENDSEC;\nEND-ISO-10303-21;\n"
	for _, c := range []struct {
		text string
		want []string
	}{
		{part, []string{"W-7", "great 'wheel'", "Ächse"}},
		{part[:strings.Index(part, "#3=")+12], []string{"W-7", "great 'wheel'"}},
		{"solid of something else", nil},
		{"", nil},
	} {
		if got := facts.Products(strings.NewReader(c.text), int64(len(c.text))); !slices.Equal(got, c.want) {
			t.Errorf("%q of %.60q, wanted %q", got, c.text, c.want)
		}
	}
}
