package rules_test

import (
	"fmt"
	"strings"
	"testing"

	"boundcrate/core/road/rules"
	"boundcrate/core/text/format/formattest"
)

func parse(t testing.TB, source string) *rules.File {
	t.Helper()
	f, problems := rules.Parse("bench", []byte(source))
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return f
}

const console = `
title: Console session
extensions: [console]
carrier: xml
contains: <session
base: ../media
paths:
  - at: track/clip[@on="no"]/@file
    use: dormant
  - at: track/clip/@file
  - at: /session/print/target
    role: write
    base: prints
  - at: //plate
    spelling: uri
`

const board = `
extensions: .board
carrier: json
paths:
  - at: $.tracks[*].file
  - at: $.tracks[1]['alt file']
    use: listed
  - at: $..look
`

const script = `
extensions: [cues, CUE2]
carrier: text
paths:
  - match: '^load "([^"]+)"'
  - match: '^(?:print|dump) to (?P<path>\S+)'
    role: write
  - match: '(\w+\.wav)'
`

func TestCarriers(t *testing.T) {
	formattest.Table(t, parse(t, console), "x.console",
		`<session><track name="horn"><clip file="a.wav" on="no"/><clip file="b &amp; c.wav" other="no.wav"/><clip file=""/></track><print><target> mix.wav </target></print><deep id="d"><plate><![CDATA[file:///p/x%20y.png]]></plate></deep><target>no.wav</target></session>`,
		"dormant track 'horn' | a.wav → ../media/a.wav", "used track 'horn' | b & c.wav → ../media/b & c.wav",
		"used (write) target | mix.wav → prints/mix.wav", "used deep 'd' | file:///p/x%20y.png")
	formattest.Table(t, parse(t, board), "x.board",
		`{"tracks": [{"file": "a.wav", "no": "n.wav", "alt file": "no.wav"}, {"file": "", "alt file": "b\/c.wav", "look": {"look": "d.cube"}}], "file": "no.wav"}`,
		"used tracks[0].file | a.wav", "listed tracks[1].alt file | b/c.wav", "used tracks[1].look.look | d.cube")
	formattest.Table(t, parse(t, script), "x.cues",
		"# cues\nload \"sound/gull cry.wav\"\r\n  load \"no.png\"\nprint to mix/out.aif\nplay bell.wav then horn.wav\n",
		"used line 2 | sound/gull cry.wav", "used (write) line 4 | mix/out.aif", "used line 5 | bell.wav", "used line 5 | horn.wav")
}

// TestBase: names are said by the base folder, or refused.
func TestBase(t *testing.T) {
	f := parse(t, "extensions: x\ncarrier: text\nbase: media\npaths:\n  - match: ^f (.*)$\n")
	formattest.Table(t, f, "x.x", "f a.wav\nf ../b.wav\nf /c.wav\nf D:\\d.wav\n",
		"used line 1 | a.wav → media/a.wav", "used line 2 | ../b.wav → b.wav", "used line 3 | /c.wav", `used line 4 | D:\d.wav`)
	file, err := formattest.Open(f, "x.x", []byte("f a.wav\n"))
	if err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]string{"media/sub/n.wav": "f sub/n.wav\n", "other/n.wav": "f ../other/n.wav\n", "/abs/n.wav": "f /abs/n.wav\n"} {
		edits, err := file.Doc.Retarget(map[int]string{0: name})
		var b strings.Builder
		if err == nil {
			err = file.Rewrite(&b, edits)
		}
		if err != nil || b.String() != want {
			t.Errorf("%s: %q %v", name, b.String(), err)
		}
	}
}

// TestClaims: by extension and content, above every other format.
func TestClaims(t *testing.T) {
	f := parse(t, console)
	if f.Claims("a.Console", []byte("<session>")) < 96 || f.Claims("a.console", []byte("<other>")) != 0 || f.Claims("a.xml", []byte("<session>")) != 0 {
		t.Error("claims")
	}
}

// TestBad: what is wrong with a rules file is told with its line, all at once.
func TestBad(t *testing.T) {
	for name, c := range map[string]struct{ source, want string }{
		"empty":        {"", "it is empty; it must tell at least extensions, carrier and paths"},
		"no YAML":      {"title: x\n  - y: [", "line 2: it is no YAML: mapping values are not allowed in this context"},
		"no mapping":   {"- a\n", "line 1: a rules file must be a list of keys and values"},
		"unknown key":  {"extensions: x\ncarrier: text\nfolder: y\npaths:\n  - match: (a)\n", `line 3: there is no key "folder" in a rules file; there are base, carrier, contains, extensions, paths, title`},
		"carrier":      {"extensions: x\ncarrier: yaml\npaths:\n  - match: (a)\n", `line 2: carrier is "yaml"; it must be xml, json, text or binary|line 4: a place in`},
		"nothing told": {"title: x\n", "line 1: it does not tell which extensions it is for|line 1: it does not tell its carrier: xml, json, text or binary|line 1: it has no paths: a list of places where files are named"},
		"expression":   {"extensions: x\ncarrier: text\npaths:\n  - match: (a)\n  - match: '(b'\n", "line 5: it is no regular expression: missing closing ): `(b`"},
		"no group":     {"extensions: x\ncarrier: text\npaths:\n  - match: a+\n", "line 4: it needs a group in brackets around the path: “(…)”"},
		"wrong place":  {"extensions: x\ncarrier: xml\npaths:\n  - match: (a)\n  - at: a//@b\n  - at: a[b]\n  - at: ''\n", "line 4: a place in xml needs at: a path to it|line 5: |line 6: |line 7: "},
		"json path":    {"extensions: x\ncarrier: json\npaths:\n  - at: a.b\n  - at: $\n  - at: $.a[x]\n  - at: $.a[\n", "line 4: |line 5: |line 6: |line 7: "},
		"words":        {"extensions: [a/b]\ncarrier: text\npaths:\n  - match: (a)\n    role: both\n    use: maybe\n    use: used\n", `line 1: "a/b" is no extension|line 5: role is "both"; it must be read or write|line 6: use is "maybe"; it must be used, dormant or listed|line 7: "use" stands twice in a place`},
		"too long":     {strings.Repeat("#", rules.MaxSize+1), "it has more than"},
	} {
		f, problems := rules.Parse("x", []byte(c.source))
		said := make([]string, len(problems))
		for i, p := range problems {
			said[i] = p.String()
		}
		want := strings.Split(c.want, "|")
		ok := f == nil && len(said) == len(want)
		for i := range said {
			ok = ok && i < len(want) && strings.HasPrefix(said[i], want[i])
		}
		if !ok {
			t.Errorf("%s: got\n%s\nwant\n%s", name, strings.Join(said, "\n"), strings.Join(want, "\n"))
		}
	}
}

// TestDeep: paths that may begin anywhere cost what the document is long.
func TestDeep(t *testing.T) {
	f := parse(t, "extensions: x\ncarrier: xml\npaths:\n  - at: //a//a//a//a//a//b\n")
	depth := 2000
	text := strings.Repeat("<a>", depth) + "<b>x.wav</b>" + strings.Repeat("</a>", depth)
	file, err := formattest.Open(f, "x.x", []byte(text))
	if err != nil || len(file.Doc.Mentions) != 1 {
		t.Error(err)
	}
}

func FuzzRead(f *testing.F) {
	for i, source := range []string{console, board, script} {
		f.Add(i, source, "<session><track><clip file='a.wav'/></track></session>")
		f.Add(i, source, `{"tracks":[{"file":"a.wav"}]}`)
		f.Add(i, source, "load \"a b.wav\"\nprint to x.wav")
	}
	f.Fuzz(func(t *testing.T, which int, source, text string) {
		file, problems := rules.Parse("x", []byte(source))
		if (file == nil) == (len(problems) == 0) {
			t.Fatal("neither a file nor a problem, or both")
		}
		if file == nil {
			return
		}
		name := fmt.Sprintf("x.%s", file.Extensions[0])
		formattest.Damaged(t, file, name, []byte(text))
	})
}
