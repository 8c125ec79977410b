package xmlscan

import "testing"

// TestRFC3986 holds all normal and abnormal examples of RFC 3986 §5.4, on a base
// that is a whole address.
func TestRFC3986(t *testing.T) {
	const base = "http://a/b/c/d;p?q"
	for ref, want := range map[string]string{
		// §5.4.1
		"g:h": "g:h", "g": "http://a/b/c/g", "./g": "http://a/b/c/g", "g/": "http://a/b/c/g/", "/g": "http://a/g", "//g": "http://g",
		"?y": "http://a/b/c/d;p?y", "g?y": "http://a/b/c/g?y", "#s": "http://a/b/c/d;p?q#s", "g#s": "http://a/b/c/g#s", "g?y#s": "http://a/b/c/g?y#s",
		";x": "http://a/b/c/;x", "g;x": "http://a/b/c/g;x", "g;x?y#s": "http://a/b/c/g;x?y#s", "": "http://a/b/c/d;p?q", ".": "http://a/b/c/", "./": "http://a/b/c/",
		"..": "http://a/b/", "../": "http://a/b/", "../g": "http://a/b/g", "../..": "http://a/", "../../": "http://a/", "../../g": "http://a/g",
		// §5.4.2
		"../../../g": "http://a/g", "../../../../g": "http://a/g", "/./g": "http://a/g", "/../g": "http://a/g", "g.": "http://a/b/c/g.", ".g": "http://a/b/c/.g",
		"g..": "http://a/b/c/g..", "..g": "http://a/b/c/..g", "./../g": "http://a/b/g", "./g/.": "http://a/b/c/g/", "g/./h": "http://a/b/c/g/h", "g/../h": "http://a/b/c/h",
		"g;x=1/./y": "http://a/b/c/g;x=1/y", "g;x=1/../y": "http://a/b/c/y", "g?y/./x": "http://a/b/c/g?y/./x", "g?y/../x": "http://a/b/c/g?y/../x",
		"g#s/./x": "http://a/b/c/g#s/./x", "g#s/../x": "http://a/b/c/g#s/../x", "http:g": "http:g",
	} {
		if got := join(base, ref); got != want {
			t.Errorf("%q gives %q, wanted %q", ref, got, want)
		}
	}
}

// TestRelativeBase: a base that is itself relative to the document gives names
// that stay so.
func TestRelativeBase(t *testing.T) {
	for _, c := range [][3]string{
		{"sound/", "a.wav", "sound/a.wav"}, {"sound/list.xspf", "a.wav", "sound/a.wav"}, {"sound", "a.wav", "a.wav"}, {"", "a.wav", "a.wav"}, {"sound/", "../a.wav", "a.wav"},
		{"sound/", "./a.wav", "sound/a.wav"}, {"sound/", "/a.wav", "/a.wav"}, {"sound/", "file:///a.wav", "file:///a.wav"}, {"/abs/", "a.wav", "/abs/a.wav"}, {"file:///m/", "b/../a%20b.wav", "file:///m/a%20b.wav"},
	} {
		if got := join(c[0], c[1]); got != c[2] {
			t.Errorf("%q on %q gives %q, wanted %q", c[1], c[0], got, c[2])
		}
	}
}
