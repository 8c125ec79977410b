package cssscan

import (
	"strings"
	"testing"
)

// TestScan: what is a name and what only looks like one (CSS Syntax Level 3).
func TestScan(t *testing.T) {
	for text, want := range map[string]string{
		`a{b:url(x.png)}`: "x.png", `a{b:url( "x y.png" )}`: `"x y.png"`, `a{b:url('x\'y.png')}`: `'x\'y.png'`, `a{b:url(x\)y.png)}`: `x\)y.png`,
		`/* url(x.png) */`: "", `a{content:"url(x.png)"}`: "", `@import "a.css"; b{c:url(d)}`: `@"a.css" d`, `@IMPORT URL(a.css) screen;`: "@a.css",
		`a{b:myurl(x.png)}`: "", `a{b:url(x.png`: "", `a{b:"open`: "", `a{b:url()}`: "", `a{b:url(a),url(b)}`: "a b", `@import url("a")`: `@"a"`, `@media print { a{b:url(c)} }`: "c",
	} {
		var got []string
		for _, r := range Scan([]byte(text)) {
			s := text[r.Off:r.End]
			if r.Import {
				s = "@" + s
			}
			got = append(got, s)
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%s: %q, wanted %q", text, got, want)
		}
	}
}

// TestCoding: escapes of §4.3.7, and that whatever is written is read again.
func TestCoding(t *testing.T) {
	for raw, want := range map[string]string{`a\ b`: "a b", `"a\"b"`: `a"b`, `\26 B`: "&B", `\000026B`: "&B", `'\1F41A x'`: "\U0001F41Ax", `"a\
b"`: "ab", `\0`: "\uFFFD"} {
		if got, err := (Coding{}).Decode([]byte(raw)); err != nil || got != want {
			t.Errorf("%s: %q %v, wanted %q", raw, got, err, want)
		}
	}
	all := func(rune) bool { return true }
	for _, s := range []string{"a b.png", `q"u'o.png`, "a)b(c", `back\slash`, "tab\there", "a&b<c>", "ü日\U0001F41A", "000", "a\nb"} {
		for _, old := range []string{`"x"`, `'x'`, "x"} {
			for _, xml := range []bool{false, true} {
				raw, err := (Coding{xml}).Encode(s, []byte(old), all)
				if err != nil {
					t.Fatal(err)
				}
				if got, err := (Coding{}).Decode(raw); err != nil || got != s {
					t.Errorf("%q for %s: %s reads %q %v", s, old, raw, got, err)
				}
				if xml && strings.ContainsAny(strings.Trim(string(raw), `"'`), `&<>"'`) {
					t.Errorf("%q stands in XML as %s", s, raw)
				}
				if refs := Scan([]byte("a{b:url(" + string(raw) + ")}")); len(refs) != 1 || refs[0].End-refs[0].Off != len(raw) {
					t.Errorf("%q for %s: %s is not found whole", s, old, raw)
				}
			}
		}
	}
	if _, err := (Coding{}).Encode("", []byte("x"), all); err == nil {
		t.Error("an empty name was written")
	}
}
