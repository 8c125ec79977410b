package rules_test

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/drive"
	"boundcrate/core/rules"
)

// TestLearn: from a document of each carrier that nobody knows a rules file is
// proposed that can be used as it is, and finds what was guessed and nothing else.
func TestLearn(t *testing.T) {
	xml, json, text := "<tune edition=\"1.2\">\n", `{"name": "tune", "tracks": [`, "# a session\nversion 3\n"
	const n = 40
	files := map[string]string{}
	for i := range n {
		name := fmt.Sprintf("sound/take %02d.wav", i)
		if i%10 > 0 {
			files[name] = "x"
		}
		xml += fmt.Sprintf("<track no=\"%d\" title=\"horn\"><clip src=\"%s\" at=\"%d\"/><note>take %d is loud</note></track>\n", i, name, i*48000, i)
		if i > 0 {
			json += ","
		}
		json += fmt.Sprintf(`{"no": %d, "clip file": {"src": "%s"}, "title": "horn"}`, i, name)
		text += fmt.Sprintf("track %d clip = \"%s\" at %d\nnote %d: loud\n", i, name, i*48000, i)
	}
	for ext, c := range map[string]struct{ body, want string }{
		"tune": {xml + "</tune>\n", "at: /tune/track/clip/@src"}, "jtune": {json + "]}", "at: $.tracks[*]['clip file'].src"}, "session": {text, "match: "},
	} {
		files["x."+ext] = c.body
		dir := coretest.Lay(t, files)
		believed := func(v string) (rules.Believed, bool) {
			if !strings.HasSuffix(v, ".wav") || !strings.HasPrefix(v, "sound/") {
				return rules.Believed{}, false
			}
			_, there := files[v]
			return rules.Believed{Leads: there}, true
		}
		got := rules.Learn("x."+ext, []byte(c.body), believed)
		if len(got) == 0 || len(got) > 3 || !strings.Contains(got[0].Source, c.want) {
			t.Errorf("%s: %+v", ext, got)
			continue
		}
		if s := got[0].Shapes[0]; s.Values != n || s.Guessed != n || s.Leads != n-n/10 || s.Sample == "" {
			t.Errorf("%s: %+v", ext, s)
		}
		for _, p := range got {
			f, mistakes := rules.Parse("x", []byte(p.Source))
			if f == nil {
				t.Errorf("%s cannot be used: %v\n%s", ext, mistakes, p.Source)
				continue
			}
			finds, damage, err := rules.Try(f, drive.System{}, nil, filepath.Join(dir, "x."+ext))
			if err != nil || len(damage) > 0 || len(finds) != n {
				t.Errorf("%s: %d finds of %d, %v %v\n%s", ext, len(finds), n, damage, err, p.Source)
			}
		}
		delete(files, "x."+ext)
	}
	if got := rules.Learn("x.bin", []byte("\x00\x01sound/a.wav\x00"), func(string) (rules.Believed, bool) { return rules.Believed{}, true }); got != nil {
		t.Errorf("from bytes: %+v", got)
	}
	if got := rules.Learn("x.tune", []byte("<tune><a b='c'/></tune>"), func(string) (rules.Believed, bool) { return rules.Believed{}, false }); len(got) != 0 {
		t.Errorf("from nothing: %+v", got)
	}
}

// TestLearnMany: of very many values the first tell as much.
func TestLearnMany(t *testing.T) {
	var b strings.Builder
	b.WriteString("<s>")
	for i := range 300_000 {
		fmt.Fprintf(&b, `<c f="a/%d.wav"/>`, i)
	}
	b.WriteString("</s>")
	got := rules.Learn("x.s", []byte(b.String()), func(v string) (rules.Believed, bool) { return rules.Believed{}, strings.HasSuffix(v, ".wav") })
	if len(got) == 0 || got[0].Shapes[0].Values != 100_000 {
		t.Errorf("%+v", got)
	}
}
