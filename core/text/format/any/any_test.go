package any

import (
	"bytes"
	"database/sql"
	"encoding/binary"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"boundcrate/core/text/format/formattest"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

const sample = "# session\nclip = sound/gull cry.wav\nplate: \"stills/brass plate.png\" in=10\n'C:\\media\\bell.wav', other.mov; see https://example.org/page.png\nVersion 1.2.3. Thank you.\nbare.flac (and more text)\n/abs/with space/file name.tif\n"

func TestPlain(t *testing.T) {
	formattest.Table(t, Format{}, "x.session", sample,
		"used (guessed) line 2 | sound/gull cry.wav", "used (shaped) line 3 | stills/brass plate.png", `used (shaped) line 4 | C:\media\bell.wav`,
		"used (guessed) line 4 | other.mov", "used (guessed) line 6 | bare.flac", "used (guessed) line 7 | /abs/with space/file name.tif")
}

func TestCarriers(t *testing.T) {
	formattest.Table(t, Format{}, "x.proj", `{"v": "1.2", "clips": [{"src": "a b\/c.wav", "note": "see x. It is y.wav"}, "file:///m/d%20e.mp4", 7]}`,
		"used (shaped) line 1 | a b/c.wav", "used (shaped) line 1 | file:///m/d%20e.mp4")
	formattest.Table(t, Format{}, "x.proj", "<p><c src='a &amp; b.wav'>\n stills/one.png </c><![CDATA[two.png]]></p>",
		"used (guessed) line 1 | a & b.wav", "used (shaped) line 2 | stills/one.png", "used (guessed) line 2 | two.png")
	wide := "\x00\x01\x02head"
	for _, c := range []byte(`D:\takes\horn.wav`) {
		wide += string([]byte{c, 0})
	}
	formattest.Table(t, Format{}, "x.bin2", wide+"\x00\x00\x03\xFFsound/bell A.wav\x00\xFE\x10",
		`used (shaped) byte 7 | D:\takes\horn.wav`, "used (shaped) byte 45 | sound/bell A.wav")
}

// TestCounted: many programs write a string's length before it, and the next
// thing right behind it.
func TestCounted(t *testing.T) {
	name := "sound/a long enough gull cry.wav" // 32 bytes: the length is a space
	formattest.Table(t, Format{}, "x.bin2", "\x00\x01"+string(rune(len(name)))+name+"DATA\x00\x00\x00\x08horn.wavnext\x08\x00\x00\x00bell.wav#\x00\x00\x04\x02$"+strings.ReplaceAll(name, "cry", "cry two")+"\x00horn.wav\x00",
		"used (shaped) byte 3 | "+name, "used (guessed) byte 43 | horn.wav", "used (guessed) byte 59 | bell.wav", "used (shaped) byte 73 | sound/a long enough gull cry two.wav", "used (guessed) byte 110 | horn.wav")
}

// TestProved: of the names a line could hold, the longest that leads to a file
// is meant; and it can be said anew.
func TestProved(t *testing.T) {
	there := map[string]bool{"sound/gull (take 2).wav": true, "sound/gull cry.wav": true, "cry.wav": true, "sound/it's.wav": true, "tex/x=y.png": true, "horn.wav": true}
	text := "load(sound/gull (take 2).wav)\nplay sound/gull cry.wav at 10\nsound/gull cry.wav,horn.wav\nother=sound/it's.wav, tex/x=y.png\nsound/lost horn.wav now\nthen loud horn.wav\na\tsound/one gone.wav\t7\n"
	read := func(text string, there map[string]bool) (*mention.Doc, []string) {
		d, err := Format{}.Read(mention.Text{Bytes: []byte(text), Exists: func(name string) bool { return there[name] }}, nil)
		if err != nil {
			t.Fatal(err)
		}
		var names []string
		for i := range d.Mentions {
			names = append(names, d.Name(i))
		}
		return d, names
	}
	d, names := read(text, there)
	want := []string{"sound/gull (take 2).wav", "sound/gull cry.wav", "sound/gull cry.wav", "horn.wav", "sound/it's.wav", "tex/x=y.png", "horn.wav", "horn.wav", "sound/one gone.wav"}
	if !slices.Equal(names, want) {
		t.Fatalf("%q", names)
	}
	// Carried elsewhere, where every name leads to a file, all are found again.
	wish, after := map[int]string{}, map[string]bool{}
	for i := range names {
		want[i] = "audio 2/" + filepath.Base(names[i])
		if i == len(names)-1 { // one that led nowhere will not be proved there either
			want[i] = "audio/gone.wav"
		}
		wish[i], after[want[i]] = want[i], true
	}
	edits, err := d.Retarget(wish)
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := mention.Splice(&b, 0, []byte(text), edits); err != nil {
		t.Fatal(err)
	}
	if _, names = read(b.String(), after); !slices.Equal(names, want) {
		t.Errorf("%q\n%s", names, b.String())
	}
}

// TestWithin: of a value that says more than a name, only what leads to a file
// is taken, and it is said anew without leaving the value.
func TestWithin(t *testing.T) {
	there := func(name string) bool { return name == "sound/gull cry.wav" || name == "b c.png" }
	for text, want := range map[string]string{
		`{"do": "load sound/gull cry.wav at 7", "no": "see horn.wav, later", "esc": "say \"x\" sound/gull cry.wav"}`:               `{"do": "load new/a b.wav at 7", "no": "see horn.wav, later", "esc": "say \"x\" sound/gull cry.wav"}`,
		"<a do='b c.png; sound/gull cry.wav'>file: sound/gull cry.wav (loud)<![CDATA[horn.wav, b c.png]]>a &amp; b c.png here</a>": "<a do='new/a b.wav; new/a b.wav'>file: new/a b.wav (loud)<![CDATA[horn.wav, new/a b.wav]]>a &amp; b c.png here</a>",
	} {
		d, err := Format{}.Read(mention.Text{Bytes: []byte(text), Exists: there}, nil)
		if err != nil {
			t.Fatal(err)
		}
		wish := map[int]string{}
		for i := range d.Mentions {
			wish[i] = "new/a b.wav"
			for _, bad := range []string{"a'b.wav", `a"b.wav`, "a&b.wav", `a\b.wav`, "a<b.wav"} {
				if _, err := d.Retarget(map[int]string{i: bad}); !errors.Is(err, problem.ErrCannotSay) {
					t.Errorf("%s can be said: %v", bad, err)
				}
			}
		}
		edits, err := d.Retarget(wish)
		if err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		if err := mention.Splice(&b, 0, []byte(text), edits); err != nil || b.String() != want {
			t.Errorf("%s\n%v\nwant\n%s", b.String(), err, want)
		}
	}
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.session", []byte(sample))
}

// BenchmarkRead scans 10 MB, most of it prose.
func BenchmarkRead(b *testing.B) {
	text := []byte(strings.Repeat("clip = sound/gull cry.wav\nSome words. And more words, e.g. 1.5 of them; nothing here.\n", 115_000))
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		if d, err := (Format{}).Read(mention.Text{Bytes: bytes.Clone(text)}, nil); err != nil || len(d.Mentions) != 115_000 {
			b.Fatal(len(d.Mentions), err)
		}
	}
}

// TestPackages: the text members of a package nobody knows are read, and say
// where in it they stand; what is in the package is inside.
func TestPackages(t *testing.T) {
	formattest.Table(t, Format{}, "x.session", formattest.Zip(
		"preview.png", "png", "head.json", `{"clip": "../sound/gull cry.wav", "inner": "takes/one.wav"}`,
		"notes/a.txt", "see maps/deck.png\n", "takes/one.wav", "RIFF", "blob.bin", "\x00\x01sound/none.wav"),
		"used (shaped, in head.json) line 1 | ../sound/gull cry.wav", "used (inside 4, shaped, in head.json) line 1 | takes/one.wav",
		"used (guessed, in notes/a.txt) line 1 | maps/deck.png")
}

// TestDatabases reads a database that SQLite itself wrote.
func TestDatabases(t *testing.T) {
	p := filepath.Join(t.TempDir(), "x.library")
	db, err := sql.Open("sqlite", p)
	if err != nil {
		t.Fatal(err)
	}
	for _, q := range []string{
		"PRAGMA journal_mode = WAL", `CREATE TABLE "the clips" (id INTEGER, path TEXT, note BLOB)`, "CREATE TABLE state (data TEXT)", "CREATE VIEW v AS SELECT path FROM \"the clips\"",
		`INSERT INTO "the clips" VALUES (1, 'sound/gull cry.wav', NULL), (2, 'no path', x'00'), (3, 'file:///bench/low%20horn.wav', 7)`,
		`INSERT INTO state VALUES ('{"look": "luts/night.cube"}')`,
	} {
		if _, err := db.Exec(q); err != nil {
			t.Fatal(q, err)
		}
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(p)
	if err != nil {
		t.Fatal(err)
	}
	formattest.Table(t, Format{}, "x.library", string(b),
		"used (shaped) table the clips, row 1, path | sound/gull cry.wav", "used (shaped) table the clips, row 3, path | file:///bench/low%20horn.wav",
		"used (shaped) table state, row 1, data | luts/night.cube")
	for at := 100; at < len(b); at += 97 { // damaged anywhere, it ends
		hurt := bytes.Clone(b)
		hurt[at] ^= 0x5A
		formattest.Damaged(t, Format{}, "x.library", hurt)
	}
}

// TestChance hides names that lead to files in prose, tables, calls and bytes
// made by chance: all are found, in order, and nothing else is.
func TestChance(t *testing.T) {
	names := []string{
		"sound/gull cry.wav", "cry.wav", "sound/gull (take 2).wav", "stills/it's late.png", "a,b;c.wav", "tex/x=y.png", "../Quay/horn, far.flac", "/abs/with space/film.mov",
		`C:\media\bell.wav`, "deep/er/than/this/one.tif", "Möwe über See.wav", "seven words that are only one name.wav", "v1.2/cut.04.mxf", "été/é.wav",
	}
	there := map[string]bool{}
	for _, n := range names {
		there[n] = true
	}
	words := strings.Fields("play then load at the end e.g. 3.5 of it (loud) [x] {y} key=7 a, b; c: no.thing lost.wav? and/or 12:30 \u2026")
	rng := rand.New(rand.NewPCG(11, 13))
	pick := func(list []string) string { return list[rng.IntN(len(list))] }
	around := [][2]string{{" ", " "}, {" \"", "\" "}, {"(", ")"}, {"\t", "\t"}, {"=", "\n"}, {", ", ", "}, {"[", "]"}, {"\n", "\n"}, {" ", "; "}, {"<", ">"}, {"|", "|"}, {": ", "\n"}}
	for range 300 {
		var text strings.Builder
		var want []string
		text.WriteString("begin ")
		for range 1 + rng.IntN(30) {
			if rng.IntN(3) > 0 {
				text.WriteString(pick(words) + " ")
				continue
			}
			n, by := pick(names), around[rng.IntN(len(around))]
			if by[1] == "\" " && strings.Contains(n, `\`) {
				continue // what a backslash means within quotes, nobody knows
			}
			text.WriteString(by[0] + n + by[1])
			want = append(want, n)
		}
		d, err := Format{}.Read(mention.Text{Bytes: []byte(text.String()), Exists: func(name string) bool { return there[name] }}, nil)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for i := range d.Mentions {
			if n := d.Name(i); there[n] {
				got = append(got, n) // what leads nowhere the trace does not believe
			}
		}
		if !slices.Equal(got, want) {
			t.Fatalf("%q\nfound %q\nwanted %q", text.String(), got, want)
		}
		// Each can take the name of each other and is found under it.
		wish, renamed := map[int]string{}, []string{}
		for i := range d.Mentions {
			if there[d.Name(i)] {
				wish[i] = "audio/" + strings.ReplaceAll(filepath.Base(strings.ReplaceAll(d.Name(i), `\`, "/")), "'", "")
				renamed = append(renamed, wish[i])
			}
		}
		edits, err := d.Retarget(wish)
		if err != nil {
			t.Fatalf("%q: %v", text.String(), err)
		}
		var b bytes.Buffer
		if err := mention.Splice(&b, 0, []byte(text.String()), edits); err != nil {
			t.Fatal(err)
		}
		back, err := Format{}.Read(mention.Text{Bytes: b.Bytes(), Exists: func(name string) bool { return slices.Contains(renamed, name) }}, nil)
		if err != nil {
			t.Fatal(err)
		}
		got = nil
		for i := range back.Mentions {
			if n := back.Name(i); slices.Contains(renamed, n) {
				got = append(got, n)
			}
		}
		if !slices.Equal(got, renamed) {
			t.Fatalf("%q\nfound %q\nwanted %q", b.String(), got, renamed)
		}
	}
}

// TestChanceBytes hides names in bytes, behind lengths in several manners, or
// before a NUL, in UTF-8 or UTF-16.
func TestChanceBytes(t *testing.T) {
	names := []string{"sound/gull cry.wav", `D:\takes\horn near, second.wav`, "Möwe.wav", "seven words that are only one name.wav", "x/y.png"}
	rng := rand.New(rand.NewPCG(17, 19))
	for range 300 {
		b := []byte{0, 1, 2}
		var want []string
		for range 1 + rng.IntN(12) {
			n := names[rng.IntN(len(names))]
			switch rng.IntN(6) {
			case 0: // numbers
				b = binary.BigEndian.AppendUint64(append(b, 0), rng.Uint64()&0x0F0F0F0F0F0F0F0F)
				b = append(b, 0)
				continue
			case 1:
				b = append(append(b, 0, byte(len(n))), n...)
			case 2:
				b = append(binary.BigEndian.AppendUint16(append(b, 0), uint16(len(n))), n...)
			case 3:
				b = append(binary.LittleEndian.AppendUint32(append(b, 0), uint32(len(n))), n...)
			case 4:
				b = append(append(append(b, 0, 3), n...), 0)
			case 5:
				b = append(b, 0, 0, 3, 0xFF)
				for _, u := range utf16.Encode([]rune(n)) {
					b = binary.LittleEndian.AppendUint16(b, u)
				}
				b = append(b, 0, 0)
			}
			want = append(want, n)
		}
		b = append(b, 0, 0xFF)
		d, err := Format{}.Read(mention.Text{Bytes: b, Exists: func(name string) bool { return slices.Contains(names, name) }}, nil)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for i := range d.Mentions {
			got = append(got, d.Name(i))
		}
		if !slices.Equal(got, want) {
			t.Fatalf("%q\nfound %q\nwanted %q", b, got, want)
		}
	}
}

// TestShape: what is believed where it leads nowhere. Drive letters, shares and
// the folders of other systems are common practice; file URLs are RFC 8089.
func TestShape(t *testing.T) {
	for name, want := range map[string][2]mention.Nature{ // within a text, and as a whole value
		`D:\takes\horn near.wav`:              {mention.Shaped, mention.Shaped},
		"d:/takes/horn.wav":                   {mention.Shaped, mention.Shaped},
		`\\studio\takes\horn.wav`:             {mention.Shaped, mention.Shaped},
		"/Volumes/Bench 2/film/cut-04.otio":   {mention.Shaped, mention.Shaped},
		"/Users/me/film/horn.wav":             {mention.Shaped, mention.Shaped},
		"/home/me/film/horn.wav":              {mention.Shaped, mention.Shaped},
		"file:///bench/low%20horn.wav":        {mention.Shaped, mention.Shaped},
		"sound/gull cry.wav":                  {mention.Guess, mention.Shaped},
		`..\sound\gull cry.wav`:               {mention.Guess, mention.Shaped},
		"v1.2/cut.04.mxf":                     {mention.Guess, mention.Shaped},
		"/images/logo.png":                    {mention.Guess, mention.Shaped},
		"gull cry.wav":                        {mention.Guess, mention.Guess}, // a name alone
		"www.example.org/logo.png":            {mention.Guess, mention.Guess}, // pages
		"https://example.org/a/logo.png":      {mention.Guess, mention.Guess},
		"example.org/a/logo.png":              {mention.Guess, mention.Guess},
		"Look at a/b. It is there/c.wav":      {mention.Guess, mention.Guess}, // prose
		"one/a.wav, two/b.wav":                {mention.Guess, mention.Guess},
		"lib/settings.json":                   {mention.Guess, mention.Guess}, // includes
		"2026/11/26":                          {mention.Guess, mention.Guess}, // dates
		"1.2/3.4":                             {mention.Guess, mention.Guess}, // versions
		"text/html":                           {mention.Guess, mention.Guess},
		"takes/{n}.wav":                       {mention.Guess, mention.Guess}, // patterns
		"takes/%s.wav":                        {mention.Guess, mention.Guess},
		"$(SOUNDS)/horn.wav":                  {mention.Guess, mention.Guess},
		`C:\Program Files\Thing\thing.config`: {mention.Guess, mention.Guess},
	} {
		if got := [2]mention.Nature{nature(name, false), nature(name, true)}; got != want {
			t.Errorf("%s: %v, want %v", name, got, want)
		}
	}
}

// TestOneByte: names of programs that write one byte a letter are read whole.
func TestOneByte(t *testing.T) {
	formattest.Table(t, Format{}, "x.bin2", "\x00\x01\x02\x00D:\\T\xF6ne\\M\xF6we \xFCber See.wav\x00\xFF\xFE\x00\x10\x00Ger\xE4usche/Uhr.wav\x00\x00",
		`used (shaped) byte 4 | D:\Töne\Möwe über See.wav`, "used (shaped) byte 35 | Geräusche/Uhr.wav")
}

// TestUnfollowed: of names that were not taken for any, those that lead to files are told, however
// they are written; prose, addresses, and what was read are not.
func TestUnfollowed(t *testing.T) {
	there := map[string]bool{"theme.css": true, "lib/code.mjs": true, "data/run": true, "gull.wav": true, "a b.woff": true, "x.session": true, "v1.2": true, "note": true, "sub": true}
	for _, x := range []struct{ text, want string }{
		{`load "theme.css"`, "1 theme.css"}, {"theme.css, lib/code.mjs; data/run", "3 theme.css"}, {"{\"a\": \"lib/code.mjs\"}", "1 lib/code.mjs"},
		{"<a href='theme.css?v=3'/>", "1 theme.css"}, {"url(lib/code.mjs#x)", "1 lib/code.mjs"}, {"See theme.css.", "1 theme.css"}, {"file://theme.css", "1 theme.css"},
		{"see note, and sub", ""}, {"v1.2", ""}, {"https://theme.css lib/gone.mjs none.css", ""}, {"clip gull.wav", ""}, {"x.session", ""}, {"a b.woff", ""},
		{"\x00\x01theme.css\x00", "1 theme.css"}, {"\x00\x01gull.wav\x00", ""},
	} {
		d, err := Format{}.Read(mention.Text{Name: "x.session", Bytes: []byte(x.text), Exists: func(name string) bool { return there[name] }}, nil)
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		for _, p := range d.Problems {
			if p.Kind == problem.Unfollowed {
				got = strings.Join(p.Args, " ")
			}
		}
		if got != x.want {
			t.Errorf("%q: %q, want %q", x.text, got, x.want)
		}
	}
}

// TestUnasked: where there are more words than are looked for, that is told; bytes that are no text
// are no words.
func TestUnasked(t *testing.T) {
	var many strings.Builder
	for i := range maxAsked + 1 {
		fmt.Fprintf(&many, "word%d.of ", i)
	}
	noise := make([]byte, 1<<20)
	rng := rand.NewChaCha8([32]byte{1})
	_, _ = rng.Read(noise)
	for text, want := range map[string]bool{many.String(): true, many.String()[:1000]: false, string(noise): false} {
		d, err := Format{}.Read(mention.Text{Name: "x.session", Bytes: []byte(text), Exists: func(string) bool { return false }}, nil)
		if err != nil {
			t.Fatal(err)
		}
		if got := slices.ContainsFunc(d.Problems, func(p problem.Problem) bool { return p.Kind == problem.Unasked }); got != want {
			t.Errorf("%.20q: %v", text, got)
		}
	}
}
