package rules_test

import (
	"encoding/binary"
	"fmt"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/rules"
	"boundcrate/core/text/mention"
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
	if len(got) == 0 || got[0].Shapes[0].Values != 50_000 {
		t.Errorf("%+v", got)
	}
}

// TestBinary: of a binary document whose names are counted or end with a NUL, all
// are taken, by what is learned from it; nothing in it can be said anew.
func TestBinary(t *testing.T) {
	names := []string{"sounds/bell buoy.wav", "sounds/rope.wav", "../late/häll.wav", "a.wav"}
	utf16le := func(s string) []byte {
		var b []byte
		for _, u := range utf16.Encode([]rune(s)) {
			b = binary.LittleEndian.AppendUint16(b, u)
		}
		return b
	}
	for form, say := range map[string]func(string) []byte{
		"one byte":   func(s string) []byte { return append([]byte{byte(len(s))}, s...) },
		"two, big":   func(s string) []byte { return append(binary.BigEndian.AppendUint16(nil, uint16(len(s))), s...) },
		"four":       func(s string) []byte { return append(binary.LittleEndian.AppendUint32(nil, uint32(len(s))), s...) },
		"NUL":        func(s string) []byte { return append([]byte(s), 0) },
		"UTF-16":     func(s string) []byte { return append(utf16le(s), 0, 0) },
		"both":       func(s string) []byte { return append(append([]byte{byte(len(s))}, s...), 0) },
		"with noise": func(s string) []byte { return append(append([]byte("kind\x00\x01\x02"), s...), 0) },
	} {
		doc := []byte("TAPE\x01\x00\x00\x00")
		for i, n := range names {
			doc = append(append(doc, 0, 0xFF, 0, byte(i)), say(n)...)
			doc = append(doc, 0, 0, 7)
		}
		got := rules.Learn("x.tape", doc, func(v string) (rules.Believed, bool) {
			return rules.Believed{}, strings.HasSuffix(v, ".wav")
		})
		if len(got) == 0 || !strings.Contains(got[0].Source, "carrier: binary") {
			t.Errorf("%s: %+v", form, got)
			continue
		}
		f, mistakes := rules.Parse("tape", []byte(got[0].Source))
		if len(mistakes) > 0 {
			t.Fatal(mistakes)
		}
		d, err := f.Read(mention.Text{Bytes: doc, Sealed: true}, nil)
		if err != nil {
			t.Fatal(err)
		}
		var found []string
		for i := range d.Mentions {
			found = append(found, d.Name(i))
			if _, err := d.Retarget(map[int]string{i: "other.wav"}); err == nil {
				t.Errorf("%s: a binary document was written", form)
			}
		}
		if !slices.Equal(found, names) {
			t.Errorf("%s: %q", form, found)
		}
		if !strings.Contains(f.About().Knows, "can only be read") {
			t.Error(f.About().Knows)
		}
	}
}

// TestLearnBounded: no text costs more questions than are worth it, nor more than 64 MB beside
// itself, whatever it is made of.
func TestLearnBounded(t *testing.T) {
	defer debug.SetGCPercent(debug.SetGCPercent(5)) // what is in use is nearly what is needed
	for name, text := range map[string]string{
		"signs": strings.Repeat(strings.Repeat(`a"=:,`, 800)+"\n", 500), "one line": strings.Repeat("a ", 1<<20), "json": `["` + strings.Repeat("x", 1<<22) + `"]`, "numbers": strings.Repeat("1", 1<<20),
		"open elements": "<a>" + strings.Repeat(`<b c="x/y.q">`, 1<<19), "open lists": strings.Repeat("[", 1<<20), "members": "{" + strings.Repeat(`"k/a.b":"v/x.q",`, 1<<19) + `"z":1}`, "lines": strings.Repeat("clip = a/b.wav\n", 1<<19),
		"places": manyPlaces(), "quotes": strings.Repeat(`"`, 1<<23),
	} {
		for _, yes := range []bool{false, true} {
			runtime.GC()
			asked, longest, most := 0, 0, uint64(0)
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			before := m.HeapAlloc
			rules.Learn("x.txt", []byte(text), func(v string) (rules.Believed, bool) {
				if asked, longest = asked+1, max(longest, len(v)); asked%5000 == 0 {
					runtime.ReadMemStats(&m)
					most = max(most, m.HeapAlloc)
				}
				return rules.Believed{}, yes
			})
			if asked > 200_000 || longest > 4096 || most > before+uint64(len(text))+64<<20 {
				t.Errorf("%s, %v: %d questions, of up to %d bytes, %d MB", name, yes, asked, longest, (most-before)>>20)
			}
		}
	}
}

// manyPlaces is a document in which every value stands at a place of its own.
func manyPlaces() string {
	var b strings.Builder
	b.WriteString("{")
	for i := range 200_000 {
		fmt.Fprintf(&b, `"k%d":"a/%d.wav",`, i, i)
	}
	return b.String() + `"z":1}`
}
