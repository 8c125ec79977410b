package xmlscan

import (
	"encoding/xml"
	"fmt"
	"strings"
	"testing"

	"boundcrate/core/text/mention"
)

// ours and theirs list elements, attributes and text as events.
func ours(b []byte) (string, error) {
	var out strings.Builder
	var bad error
	err := Scan(b, Handler{
		Start: func(e *Element) error {
			fmt.Fprintf(&out, "<%s", e.Local)
			for _, a := range e.Attrs {
				if a.Name != "xmlns" && !strings.HasPrefix(a.Name, "xmlns:") {
					fmt.Fprintf(&out, " %s=%q", Local(a.Name), a.Value())
				}
			}
			out.WriteString(">")
			return nil
		},
		Text: func(_ *Element, s mention.Span, isCDATA bool) error {
			c := Text
			if isCDATA {
				c = CDATA
			}
			t, err := c.Decode(b[s.Off:s.End])
			if err != nil {
				bad = err
			}
			out.WriteString(strings.ReplaceAll(strings.ReplaceAll(t, "\r\n", "\n"), "\r", "\n"))
			return nil
		},
		End: func(e *Element) error { fmt.Fprintf(&out, "</%s>", e.Local); return nil },
	})
	if err == nil {
		err = bad
	}
	return out.String(), err
}

func theirs(b []byte) (string, error) {
	d := xml.NewDecoder(strings.NewReader(strings.TrimPrefix(string(b), "\xEF\xBB\xBF")))
	var out strings.Builder
	depth := 0
	for {
		t, err := d.Token()
		if t == nil {
			if err != nil && err.Error() == "EOF" {
				err = nil
			}
			return out.String(), err
		}
		switch t := t.(type) {
		case xml.StartElement:
			depth++
			fmt.Fprintf(&out, "<%s", t.Name.Local)
			for _, a := range t.Attr {
				if a.Name.Local != "xmlns" && a.Name.Space != "xmlns" {
					fmt.Fprintf(&out, " %s=%q", a.Name.Local, spaces.Replace(a.Value))
				}
			}
			out.WriteString(">")
		case xml.EndElement:
			depth--
			fmt.Fprintf(&out, "</%s>", t.Name.Local)
		case xml.CharData:
			if depth > 0 {
				out.Write(t)
			}
		}
	}
}

// TestOracle: where Go's own decoder reads a text, ours reads the same.
func TestOracle(t *testing.T) {
	for _, s := range []string{
		`<a/>`, `<a b="1" c='2'>x<b/>y</a>`, "\xEF\xBB\xBF<a>&lt;&amp;&#65;&#x42;&apos;</a>", `<!DOCTYPE a [<!ELEMENT a (b)> <!-- > ] -->]><a x="&quot;"/>`,
		"<a>\r\nx\ry</a>", `<a><![CDATA[<b>&amp;]]></a>`, `<?xml version="1.0"?><!-- c --><n:a xmlns:n="u" n:b="c"></n:a>`, `<a b = "1"
			c="x	y"></a >`, `<a><b></a></b>`, `<a`, `<a>`, `<a b></a>`, `<a b=1/>`, ``, `x`, `<a/><b/>`, `<a>&x;</a>`,
	} {
		want, werr := theirs([]byte(s))
		got, gerr := ours([]byte(s))
		if werr == nil && s != "" && s != "x" && s != `<a/><b/>` && (gerr != nil || got != want) {
			t.Errorf("%q: %q %v, wanted %q", s, got, gerr, want)
		}
		if werr != nil && gerr == nil {
			t.Errorf("%q was read as %q; Go's decoder says %v", s, got, werr)
		}
	}
	deep := strings.Repeat("<a>", 100_000)
	if _, err := ours([]byte(deep)); err == nil || !strings.Contains(err.Error(), "deeper") {
		t.Error(err)
	}
}

// FuzzOracle holds both to each other on whatever the fuzzer finds.
func FuzzOracle(f *testing.F) {
	f.Add([]byte(`<a b="1">x<![CDATA[y]]><c/></a>`))
	f.Fuzz(func(t *testing.T, b []byte) {
		want, werr := theirs(b)
		got, gerr := ours(b)
		// What ours takes and theirs refuses (names, versions, characters) names no
		// file wrongly; what theirs takes, ours must read the same.
		if werr == nil && gerr == nil && got != want {
			t.Errorf("%q: %q, wanted %q", b, got, want)
		}
	})
}

// BenchmarkScan: 50 MB, an attribute-heavy document.
func BenchmarkScan(b *testing.B) {
	text := []byte("<r>" + strings.Repeat(`<track id="1"><location>sound/take 0001.wav</location><n v="1"/></track>`+"\n", 700_000) + "</r>")
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		n := 0
		if err := Scan(text, Handler{Start: func(*Element) error { n++; return nil }}); err != nil || n != 2_100_001 {
			b.Fatal(n, err)
		}
	}
}
