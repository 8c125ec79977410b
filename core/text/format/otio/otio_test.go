package otio

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"reflect"
	"strings"
	"testing"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/formattest"
	"boundcrate/core/text/mention"
)

func sample(t testing.TB, name string) []byte {
	b, err := os.ReadFile("testdata/" + name)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func TestLaws(t *testing.T) {
	for _, name := range []string{"film.otio", "collection.otio"} {
		formattest.Laws(t, Format{}, name, sample(t, name))
	}
	// A byte order mark and no white space at all.
	squeezed := bytes.ReplaceAll(bytes.ReplaceAll(sample(t, "collection.otio"), []byte("\n"), nil), []byte("  "), nil)
	formattest.Laws(t, Format{}, "x.otio", append([]byte("\xEF\xBB\xBF"), squeezed...))
}

// TestMentions holds the traps of the format's table row, one line each.
func TestMentions(t *testing.T) {
	file, err := formattest.Open(Format{}, "film.otio", sample(t, "film.otio"))
	if err != nil {
		t.Fatal(err)
	}
	want := []string{
		"used unsaved=false Track A1 / clip 'gull' | sound/gull%20cry.wav",
		"dormant unsaved=false Track A1 / clip 'horn' (proxy) | proxy/horn.mp3",
		"used unsaved=false Track A1 / clip 'horn' (DEFAULT_MEDIA) | file:///library/horn.wav",
		"dormant unsaved=false Track A1 / clip 'off' | sound/off.wav",
		"used unsaved=true Track A1 / clip 'lost' | ",
		"used unsaved=true Track A1 / clip 'empty' | ",
		"used unsaved=false Track V1 / clip 'sunrise' | sunrise/sun.####.png",
		"dormant unsaved=false Track quiet / clip 'under' | a\\b ü.wav",
		"used unsaved=false Track 4 / clip 2 | old.wav",
	}
	var got []string
	for i := range file.Doc.Mentions {
		m := &file.Doc.Mentions[i]
		got = append(got, fmt.Sprintf("%s unsaved=%v %s | %s", m.Use, m.Nature == mention.Unsaved, m.Owner, file.Doc.Written(i)))
	}
	if strings.Join(got, "\n") != strings.Join(want, "\n") {
		t.Errorf("got\n%s\nwant\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
	seq := file.Doc.Mentions[6].Sequence
	if !reflect.DeepEqual(*seq, mention.Sequence{Head: "sunrise/sun.", Tail: ".png", Digits: 4, First: 101, Step: 2, Count: 12}) {
		t.Errorf("sequence %+v", *seq)
	}
	if r := file.Doc.Mentions[0].Range; r == nil || *r != (mention.Range{Start: 2, Duration: 1.5}) {
		t.Errorf("used range %+v", r)
	}
}

// TestCollection: a clip straight in a collection is used, a reference in it
// is only listed.
func TestCollection(t *testing.T) {
	file, err := formattest.Open(Format{}, "c.json", sample(t, "collection.otio"))
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for i := range file.Doc.Mentions {
		got = append(got, file.Doc.Mentions[i].Use.String()+" "+file.Doc.Written(i))
	}
	if s := strings.Join(got, ", "); s != "used take.wav, listed bin.wav, used img#.png" {
		t.Error(s)
	}
	if n := file.Doc.Name(2); n != "img#.png" {
		t.Error(n)
	}
}

func TestSequenceBase(t *testing.T) {
	doc := `{"OTIO_SCHEMA":"Clip.2","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ImageSequenceReference.1",
		"target_url_base":"frames","name_prefix":"a","name_suffix":".exr","frame_zero_padding":%d}}}`
	for _, c := range []struct {
		pad                  int
		written, name, moved string
	}{
		{3, "framesa###.exr", "frames/a###.exr", "new/place/b###.exr"},
		{0, "framesa.exr", "frames/a.exr", "new/place/b.exr"},
	} {
		file, err := formattest.Open(Format{}, "x.otio", fmt.Appendf(nil, doc, c.pad))
		if err != nil {
			t.Fatal(err)
		}
		if w, n := file.Doc.Written(0), file.Doc.Name(0); w != c.written || n != c.name {
			t.Errorf("padding %d: written %q, name %q", c.pad, w, n)
		}
		formattest.Retarget(t, Format{}, "x.otio", file, map[int]string{0: c.moved})
		edits, err := file.Doc.Retarget(map[int]string{0: c.moved})
		if err != nil || len(edits) != 2 {
			t.Errorf("padding %d: %d edits, %v", c.pad, len(edits), err)
		}
	}
}

func TestBadInput(t *testing.T) {
	clip := `{"OTIO_SCHEMA":"Clip.2","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":%s}}}`
	for _, c := range []struct {
		name, text string
		mentions   int
		problems   int
		line       int
		fails      bool
	}{
		{"empty", "", 0, 0, 0, true},
		{"not JSON", "hello", 0, 0, 1, true},
		{"no schema", `{"a":1}`, 0, 0, 1, true},
		{"wrong type", "\n" + fmt.Sprintf(clip, "5"), 0, 1, 2, false},
		{"children no list", `{"OTIO_SCHEMA":"Stack.1","children":{}}`, 0, 1, 1, false},
		{"truncated with something read", `{"OTIO_SCHEMA":"Stack.1","children":[` + fmt.Sprintf(clip, `"a.wav"`) + ",\n{", 1, 1, 2, false},
		{"nothing active", `{"OTIO_SCHEMA":"Clip.2","active_media_reference_key":"x","media_references":{"y":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"a"}}}`, 1, 1, 1, false},
		{"too deep", `{"OTIO_SCHEMA":"Stack.1","children":` + strings.Repeat(`[`, 100_000), 0, 0, 1, true},
		{"deep objects", strings.Repeat(`{"OTIO_SCHEMA":"Stack.1","children":[`, 100_000), 0, 0, 1, true},
		{"special numbers", `{"OTIO_SCHEMA":"Stack.1","x":[NaN,Infinity,-Infinity],"children":[` + fmt.Sprintf(clip, `"a.wav"`) + `]}`, 1, 0, 0, false},
	} {
		file, err := formattest.Open(Format{}, "x.otio", []byte(c.text))
		if c.fails {
			var m *format.MalformedError
			if !errors.As(err, &m) {
				t.Errorf("%s: %v", c.name, err)
			} else if m.Line != c.line && c.line != 0 && m.Line != 0 {
				t.Errorf("%s: line %d", c.name, m.Line)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		if len(file.Doc.Mentions) != c.mentions || len(file.Doc.Problems) != c.problems {
			t.Errorf("%s: %d mentions, problems %v", c.name, len(file.Doc.Mentions), file.Doc.Problems)
		} else if c.problems > 0 && file.Doc.Problems[0].Line != c.line {
			t.Errorf("%s: line %d", c.name, file.Doc.Problems[0].Line)
		}
	}
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.otio", sample(f, "film.otio"), sample(f, "collection.otio"), both)
}

// both is a clip with one medium and keyed ones, as no standard allows and files have.
var both = []byte(`{"OTIO_SCHEMA":"Clip.2","name":"a","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"a.wav"},"media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"b.wav"}}}`)

// dense is a timeline of n clips.
func dense(n int) []byte {
	var b bytes.Buffer
	b.WriteString(`{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[`)
	for i := range n {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprintf(&b, `{"OTIO_SCHEMA":"Clip.2","name":"c%d","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"sound/take %d.wav","available_range":null,"metadata":{}}},"active_media_reference_key":"DEFAULT_MEDIA"}`, i, i)
	}
	b.WriteString(`]}]}}`)
	return b.Bytes()
}

func BenchmarkRead(b *testing.B) {
	sparse := bytes.Replace(dense(1), []byte(`"metadata":{}`), []byte(`"metadata":{"x":[`+strings.Repeat(`{"k":"value","n":1.25},`, 2_000_000)+`0]}`), 1)
	for _, c := range []struct {
		name string
		doc  []byte
	}{{"dense", dense(200_000)}, {"sparse", sparse}} {
		b.Run(c.name, func(b *testing.B) {
			b.SetBytes(int64(len(c.doc)))
			b.ReportAllocs()
			n := 0
			for b.Loop() {
				d, err := Format{}.Read(mention.Text{Bytes: c.doc}, nil)
				if err != nil {
					b.Fatal(err)
				}
				n = len(d.Mentions)
			}
			b.ReportMetric(float64(n), "mentions")
		})
	}
}

func BenchmarkRetarget(b *testing.B) {
	doc := dense(400_000)
	d, err := Format{}.Read(mention.Text{Bytes: doc}, nil)
	if err != nil {
		b.Fatal(err)
	}
	want := map[int]string{}
	for i := range d.Mentions {
		want[i] = fmt.Sprintf("crate/audio/take-%d.wav", i)
	}
	for b.Loop() {
		if _, err := d.Retarget(want); err != nil {
			b.Fatal(err)
		}
	}
}

// TestBundle: in a bundle the media stand inside; what is not there is looked
// for beside it.
func TestBundle(t *testing.T) {
	doc := `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[
		{"OTIO_SCHEMA":"Clip.1","name":"a","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/gull%20cry.wav"}},
		{"OTIO_SCHEMA":"Clip.1","name":"b","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/gone.wav"}}]}]}}`
	formattest.Table(t, Format{}, "x.otioz", formattest.Zip("version.txt", "1.0.0", "content.otio", doc, "media/gull cry.wav", "gull"),
		"used (inside 4, in content.otio) Track A1 / clip 'a' | media/gull%20cry.wav",
		"used (in content.otio) Track A1 / clip 'b' | media/gone.wav")
}

// TestRecordTo: where a track records to is a write point, nested or under one
// dotted key, a path or a URL; on anything but a track it is no more than
// metadata.
func TestRecordTo(t *testing.T) {
	for _, c := range []struct{ schema, metadata, want string }{
		{"Track.1", `{"bound_crate":{"record_to":"takes/of today"}}`, "takes/of today"},
		{"Track.1", `{"other":{"record_to":"no"},"bound_crate.record_to":"file:///Bench/of%20today"}`, "file:///Bench/of%20today"},
		{"Track.1", `{"bound_crate":{"record_to":null}}`, ""},
		{"Track.1", `{"bound_crate":{"record_to":""}}`, ""},
		{"Track.1", `{"bound_crate":"record_to"}`, ""},
		{"Clip.1", `{"bound_crate":{"record_to":"takes"}}`, ""},
	} {
		for _, order := range []string{`{"metadata":%s,"OTIO_SCHEMA":"%s","name":"A1","children":[]}`, `{"OTIO_SCHEMA":"%[2]s","name":"A1","children":[],"metadata":%[1]s}`} {
			text := mention.Text{Bytes: fmt.Appendf(nil, order, c.metadata, c.schema)}
			d, err := Format{}.Read(text, nil)
			if err != nil {
				t.Fatal(err)
			}
			if c.want == "" {
				if len(d.Mentions) != 0 {
					t.Errorf("%s %s: %d mentions", c.schema, c.metadata, len(d.Mentions))
				}
				continue
			}
			if len(d.Mentions) != 1 || d.Mentions[0].Nature != mention.WritePoint || d.Mentions[0].Owner != "Track A1" || d.Name(0) != c.want {
				t.Errorf("%s: %+v", c.metadata, d.Mentions)
			}
		}
	}
}
