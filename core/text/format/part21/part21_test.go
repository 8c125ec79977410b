package part21

import (
	"testing"
)

// TestStrings holds the examples of ISO 10303-21 §6.4.3 (tables of string
// control directives, from memory of the standard's text).
func TestStrings(t *testing.T) {
	for raw, want := range map[string]string{
		`''`: "", `'CAT'`: "CAT", `'Don''t'`: "Don't", `''''`: "'", `'\S\Dsterreich'`: "Ä" + "sterreich", `'\X\D3'`: "Ó", `'\X2\03C0\X0\'`: "π",
		`'see \X\A7 4.1'`: "see § 4.1", `'\X4\0001F41A\X0\'`: "\U0001F41A", `'\X2\D83DDC1A\X0\'`: "\U0001F41A", `'back\\slash'`: `back\slash`, `'\PB\plain'`: "plain", `'ü'`: "ü",
	} {
		got, err := String.Decode([]byte(raw))
		if err != nil || got != want {
			t.Errorf("%s: %q, %v, wanted %q", raw, got, err, want)
		}
		again, err := String.Encode(got, []byte(raw), nil)
		if err != nil {
			t.Fatal(err)
		}
		if back, err := String.Decode(again); err != nil || back != got {
			t.Errorf("%s: written %s, read %q %v", raw, again, back, err)
		}
	}
}

func TestArgs(t *testing.T) {
	var got []string
	err := Scan([]byte("ISO-10303-21;DATA;#7 = a_b ( 'x,(', (#1,#2) , .T., IDENTIFIER('it''s') /* , */, $ ) ;ENDSEC;END-ISO-10303-21;"), Handler{
		Instance: func(in Instance) {
			if in.ID != 7 || in.Name != "A_B" {
				t.Errorf("%+v", in)
			}
			for _, a := range in.Args() {
				got = append(got, string(a.Raw))
			}
			if s := in.Args()[3].Inner(); s.Text() != "it's" {
				t.Errorf("%q", s.Raw)
			}
		},
	})
	want := []string{"'x,('", "(#1,#2)", ".T.", "IDENTIFIER('it''s') /* , */", "$"}
	if err != nil || len(got) != len(want) {
		t.Fatal(got, err)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("%q, wanted %q", got[i], want[i])
		}
	}
}
