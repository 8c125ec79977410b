package export_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/export"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/format/otio"
	"boundcrate/core/text/mention"
)

func rt(v, rate float64) string {
	return fmt.Sprintf(`{"OTIO_SCHEMA":"RationalTime.1","rate":%g,"value":%g}`, rate, v)
}

func span(from, length, rate float64) string {
	return `{"OTIO_SCHEMA":"TimeRange.1","start_time":` + rt(from, rate) + `,"duration":` + rt(length, rate) + `}`
}

func clip(name, url string, from, length, rate float64, more string) string {
	return fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":"%s","source_range":%s,"active_media_reference_key":"DEFAULT_MEDIA","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"%s"}}%s}`, name, span(from, length, rate), url, more)
}

func tracks(rate float64, list ...string) string {
	return fmt.Sprintf(`{"OTIO_SCHEMA":"Timeline.1","name":"Tide","global_start_time":%s,"tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[%s]}}`, rt(3600*rate, rate), strings.Join(list, ","))
}

func trackOf(kind, name string, items ...string) string {
	return fmt.Sprintf(`{"OTIO_SCHEMA":"Track.1","kind":"%s","name":"%s","children":[%s]}`, kind, name, strings.Join(items, ","))
}

func gap(length, rate float64) string {
	return `{"OTIO_SCHEMA":"Gap.1","name":"g","source_range":` + span(0, length, rate) + `}`
}

// made exports a timeline that lies in a folder of its files.
func made(t *testing.T, as export.Form, text string, files ...string) (*export.Document, string) {
	t.Helper()
	lay := map[string]string{"cut.otio": text}
	for _, f := range files {
		lay[f] = f
	}
	dir := coretest.Lay(t, lay)
	o := trace.Options{Formats: all.Formats(), Reach: drive.System{}}
	g, err := trace.Run(context.Background(), o, filepath.Join(dir, "cut.otio"))
	if err != nil {
		t.Fatal(err)
	}
	doc, err := export.Make(export.Options{As: as, Graph: g, Says: says(t, o, g), Name: func(id graph.FileID) string {
		rel, err := filepath.Rel(dir, g.Files[id].Path)
		if err != nil {
			t.Fatal(err)
		}
		return rel
	}})
	if err != nil {
		t.Fatal(err)
	}
	return doc, dir
}

// says is the first document of a graph as its format read it.
func says(t *testing.T, o trace.Options, g *graph.Graph) *mention.Doc {
	t.Helper()
	file, err := o.Reopen(g, 0)
	if err != nil {
		t.Fatal(err)
	}
	return file.Doc
}

// event is a line of an edit decision list, as SMPTE ST 258 lays it out: a number of
// three figures, a reel of up to eight characters, channels, a transition, four addresses.
type event struct {
	number, reel, channel, cut string
	at                         [4]int // in frames
	clip, file                 string
}

var line = regexp.MustCompile(`^(\d{3})  ([A-Z0-9]{1,8}) {1,8}(V|A[2-4]?)\s+([CDW]\S*)\s+(\d\d[:;]\d\d[:;]\d\d[:;]\d\d) (\d\d[:;]\d\d[:;]\d\d[:;]\d\d) (\d\d[:;]\d\d[:;]\d\d[:;]\d\d) (\d\d[:;]\d\d[:;]\d\d[:;]\d\d)$`)

// parse reads a list by the standard alone, and knows nothing of the writer.
func parse(t *testing.T, b []byte, fps int, drop bool) (title, mode string, list []event) {
	t.Helper()
	frames := func(tc string) int {
		var v [4]int
		for i, p := range regexp.MustCompile(`[:;]`).Split(tc, -1) {
			v[i], _ = strconv.Atoi(p)
		}
		n := ((v[0]*60+v[1])*60+v[2])*fps + v[3]
		if drop { // ST 12-1: the numbers 0 and 1 are not there in minutes that are no tenth
			minutes := v[0]*60 + v[1]
			n -= 2 * (minutes - minutes/10)
			if v[2] == 0 && v[3] < 2 && v[1]%10 != 0 {
				t.Errorf("%s is no drop-frame address", tc)
			}
		}
		return n
	}
	s := bufio.NewScanner(bytes.NewReader(b))
	for s.Scan() {
		l := s.Text()
		switch m := line.FindStringSubmatch(l); {
		case strings.HasPrefix(l, "TITLE: "):
			title = l[7:]
		case strings.HasPrefix(l, "FCM: "):
			mode = l[5:]
		case strings.HasPrefix(l, "* FROM CLIP NAME: "):
			list[len(list)-1].clip = l[18:]
		case strings.HasPrefix(l, "* SOURCE FILE: "):
			list[len(list)-1].file = l[15:]
		case m != nil:
			e := event{number: m[1], reel: m[2], channel: m[3], cut: m[4]}
			for i := range e.at {
				e.at[i] = frames(m[5+i])
			}
			list = append(list, e)
		default:
			t.Errorf("no line of an edit decision list: %q", l)
		}
	}
	return title, mode, list
}

// TestEDL: every event is where the timeline has it, also around a gap and beyond ten
// minutes of drop-frame counting (17,982 frames, SMPTE ST 12-1), both sides are of one
// length, and reels are each file's own.
func TestEDL(t *testing.T) {
	for _, c := range []struct {
		fps   float64
		whole int
		mode  string
	}{{25, 25, ""}, {24, 24, ""}, {30000.0 / 1001, 30, "DROP FRAME"}} {
		t.Run(fmt.Sprint(c.fps), func(t *testing.T) {
			text := tracks(c.fps,
				trackOf("Video", "V1", clip("gull", "gull%20over%20stern.mov", 10, 100, c.fps, ""), gap(50, c.fps), clip("winch", "winch.mov", 18000, 20000, c.fps, ""), clip("gull again", "gull%20over%20stern.mov", 500, 7, c.fps, "")),
				trackOf("Audio", "A1", clip("horn", "gull%20over%20deck.wav", 0, 250, c.fps, "")), trackOf("Audio", "A2", gap(3, c.fps), clip("bell", "bell.wav", 1, 2, c.fps, "")))
			doc, _ := made(t, export.EDL, text, "gull over stern.mov", "winch.mov", "gull over deck.wav", "bell.wav")
			title, mode, list := parse(t, doc.Bytes, c.whole, c.mode == "DROP FRAME")
			hour := 3600 * c.whole // the address that counts as many frames as the timeline begins at
			if c.mode != "" {
				hour = 3600 * 30 // an hour of its rate is 107,892.1 frames; the timeline says 3600 times the rate
				hour = int(3600*c.fps + 0.5)
			}
			want := []event{
				{"001", "GULLOVER", "V", "C", [4]int{10, 110, hour, hour + 100}, "gull", "gull over stern.mov"},
				{"002", "WINCH", "V", "C", [4]int{18000, 38000, hour + 150, hour + 20150}, "winch", "winch.mov"},
				{"003", "GULLOVER", "V", "C", [4]int{500, 507, hour + 20150, hour + 20157}, "gull again", "gull over stern.mov"},
				{"004", "GULLOVE2", "A", "C", [4]int{0, 250, hour, hour + 250}, "horn", "gull over deck.wav"},
				{"005", "BELL", "A2", "C", [4]int{1, 3, hour + 3, hour + 5}, "bell", "bell.wav"},
			}
			if title != "Tide" || mode != c.mode || !slices.Equal(list, want) {
				t.Errorf("%q %q\n%+v, wanted\n%+v\n%s", title, mode, list, want, doc.Bytes)
			}
		})
	}
}

// TestLosses: what each form cannot carry is counted, and nothing else is.
func TestLosses(t *testing.T) {
	f := 25.0
	marker := `,"markers":[{"OTIO_SCHEMA":"Marker.2","name":"m","marked_range":` + span(0, 1, f) + `}]`
	text := tracks(f,
		trackOf("Video", "V1",
			clip("a", "a.mov", 0, 10, f, marker), `{"OTIO_SCHEMA":"Transition.1","name":"x","in_offset":`+rt(2, f)+`,"out_offset":`+rt(2, f)+`}`,
			clip("b", "b.mov", 0, 10, f, `,"effects":[{"OTIO_SCHEMA":"LinearTimeWarp.1","name":"w","time_scalar":2},{"OTIO_SCHEMA":"Effect.1","name":"glow"}]`),
			gap(5, f), clip("off", "a.mov", 0, 10, f, `,"enabled":false`),
			`{"OTIO_SCHEMA":"Stack.1","name":"nest","source_range":`+span(0, 10, f)+`,"children":[]}`,
			`{"OTIO_SCHEMA":"Clip.2","name":"bars","source_range":`+span(0, 10, f)+`,"active_media_reference_key":"DEFAULT_MEDIA","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"GeneratorReference.1","generator_kind":"SMPTEBars"}}}`,
			`{"OTIO_SCHEMA":"Clip.2","name":"two","metadata":{"x":1},"source_range":`+span(0, 10, f)+`,"active_media_reference_key":"DEFAULT_MEDIA","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"a.mov"},"low":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"b.mov"}}}`),
		trackOf("Video", "V2", clip("over", "b.mov", 0, 3, f, "")))
	for _, c := range []struct {
		as   export.Form
		want string
	}{
		{export.EDL, "nested-timeline 1, effect 1, speed 1, transition 1, generator 1, alternative-media 1, marker 1, extra-track 1, disabled 1, metadata 1, name-changed 0"},
		{export.ADL, "nested-timeline 1, effect 1, speed 1, transition 1, generator 1, alternative-media 1, marker 1, extra-track 2, disabled 1, metadata 1"},
		{export.M3U, "nested-timeline 1, effect 1, speed 1, transition 1, generator 1, alternative-media 1, gap 1, marker 1, extra-track 1, disabled 1, metadata 1"},
		{export.OTIO1, "alternative-media 1, disabled 1"},
	} {
		doc, _ := made(t, c.as, text, "a.mov", "b.mov")
		var got []string
		for _, l := range doc.Losses {
			got = append(got, fmt.Sprintf("%s %d", l.Code, l.Count))
		}
		want := strings.TrimSuffix(c.want, ", name-changed 0")
		if s := strings.Join(got, ", "); s != want {
			t.Errorf("%s: %s, wanted %s", c.as, s, want)
		}
	}
	// The first schemas: nothing of later ones is left (OpenTimelineIO's own names).
	doc, _ := made(t, export.OTIO1, text, "a.mov", "b.mov")
	var root any
	if err := json.Unmarshal(doc.Bytes, &root); err != nil {
		t.Fatal(err)
	}
	for _, later := range []string{"Clip.2", "Marker.2", "media_references", "marked_range", "enabled"} {
		if bytes.Contains(doc.Bytes, []byte(later)) {
			t.Errorf("%s is still there", later)
		}
	}
}

// TestReadBack: what is written names the very files that play, by other readers:
// net/url and encoding/xml for a playlist of URIs, lines for a plain one, and the
// application's own for all.
func TestReadBack(t *testing.T) {
	f := 25.0
	files := []string{"a b#1.wav", "ü/horn & bell.wav", "c%20d.wav"}
	var items []string
	for i, n := range files {
		items = append(items, clip(fmt.Sprint("clip ", i), (&url.URL{Path: n}).String(), float64(i), 50, f, ""))
	}
	text := tracks(f, trackOf("Audio", "A1", items...))
	for _, as := range []export.Form{export.EDL, export.ADL, export.M3U, export.XSPF, export.OTIO1, export.List} {
		doc, dir := made(t, as, text, files...)
		var got []string
		switch as {
		case export.XSPF:
			var x struct {
				Tracks []struct {
					Location string `xml:"location"`
					Duration int    `xml:"duration"`
				} `xml:"trackList>track"`
			}
			if err := xml.Unmarshal(doc.Bytes, &x); err != nil {
				t.Fatal(err)
			}
			for _, tr := range x.Tracks {
				u, err := url.Parse(tr.Location)
				if err != nil || tr.Duration != 2000 {
					t.Errorf("%+v %v", tr, err)
				}
				got = append(got, u.Path)
			}
		case export.M3U:
			for _, l := range strings.Split(strings.TrimSpace(string(doc.Bytes)), "\n") {
				if !strings.HasPrefix(l, "#") {
					got = append(got, l)
				}
			}
		}
		if got != nil && !slices.Equal(got, files) {
			t.Errorf("%s: %q", as, got)
		}
		p := filepath.Join(dir, "simple"+as.Ext())
		if err := os.WriteFile(p, doc.Bytes, 0o644); err != nil {
			t.Fatal(err)
		}
		g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, p)
		if err != nil {
			t.Fatal(err)
		}
		have := map[string]bool{}
		for i := range g.Files {
			if g.Files[i].State.Found() {
				rel, _ := filepath.Rel(dir, g.Files[i].Path)
				have[rel] = true
			}
		}
		for _, n := range files {
			if !have[n] {
				t.Errorf("%s does not lead to %q:\n%s", as, n, doc.Bytes)
			}
		}
	}
}

// TestNoTimeline: an edit list cannot be made of a playlist; a playlist can.
func TestNoTimeline(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"all.m3u": "a.wav\n", "a.wav": "a"})
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "all.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	name := func(id graph.FileID) string { return filepath.Base(g.Files[id].Path) }
	if _, err := export.Make(export.Options{As: export.EDL, Graph: g, Name: name}); !errors.Is(err, export.ErrNoTimeline) {
		t.Error(err)
	}
	if doc, err := export.Make(export.Options{As: export.XSPF, Graph: g, Name: name}); err != nil || !bytes.Contains(doc.Bytes, []byte("<location>a.wav</location>")) {
		t.Errorf("%v", err)
	}
}

// TestChannels: an audio list gives a track as many channels as its widest clip has; a file
// for each is an entry each, one channel sounds on all, and a file that is counted from a
// time of day is told to begin there, also when it was cut: read again, the part is the same
// seconds of the file.
func TestChannels(t *testing.T) {
	from := func(s string) string {
		return strings.Replace(s, `"target_url"`, `"available_range":`+span(24*36000, 24*60, 24)+`,"target_url"`, 1)
	}
	text := tracks(24, trackOf("Audio", "A1", clip("two", "two.wav", 24*3, 24, 24, ""), clip("one", "one.wav", 0, 24, 24, "")), trackOf("Audio", "A2", from(clip("day", "day.wav", 24*36010, 24, 24, "")), clip("apart", "apart.wav", 24*8, 24, 24, "")))
	lay := map[string]string{"cut.otio": text}
	for _, n := range []string{"two", "one", "day", "apart"} {
		lay[n+".wav"] = n
	}
	dir := coretest.Lay(t, lay)
	o := trace.Options{Formats: all.Formats(), Reach: drive.System{}}
	g, err := trace.Run(context.Background(), o, filepath.Join(dir, "cut.otio"))
	if err != nil {
		t.Fatal(err)
	}
	name := func(id graph.FileID) string { return filepath.Base(g.Files[id].Path) }
	doc, err := export.Make(export.Options{
		As: export.ADL, Graph: g, Says: says(t, o, g), Name: name,
		Channels: func(id graph.FileID) (int, []string) {
			switch name(id) {
			case "two.wav":
				return 2, nil
			case "apart.wav":
				return 3, []string{"apart.1.wav", "apart.2.wav", "apart.3.wav"}
			}
			return 1, nil
		},
		Cut: func(id graph.FileID) float64 {
			return map[string]float64{"two.wav": 2, "day.wav": 5}[name(id)]
		},
	})
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for l := range strings.Lines(string(doc.Bytes)) {
		if f := strings.Fields(l); len(f) > 6 && f[0] == "(Entry)" {
			got = append(got, strings.Join(f[4:8], " "))
		}
	}
	// Of five channels the first two are the first track's.
	want := []string{
		"0001 1~2 1~2 00:00:01:00/0000", "0002 1 1 00:00:00:00/0000", "0002 1 2 00:00:00:00/0000",
		"0003 1 3 10:00:10:00/0000", "0003 1 4 10:00:10:00/0000", "0003 1 5 10:00:10:00/0000",
		"0004 1 3 00:00:08:00/0000", "0005 1 4 00:00:08:00/0000", "0006 1 5 00:00:08:00/0000",
	}
	if !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	if n := strings.Count(string(doc.Bytes), "(Track)"); n != 5 {
		t.Errorf("%d channels", n)
	}
	if !strings.Contains(string(doc.Bytes), "\"URL:day.wav\"\t\"_\"\t10:00:05:00/0000") {
		t.Errorf("where the cut file begins is not told: %s", doc.Bytes)
	}
	back := coretest.Lay(t, map[string]string{"cut.adl": string(doc.Bytes), "day.wav": "d", "two.wav": "t"})
	again, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(back, "cut.adl"))
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range again.References {
		if want, asked := map[string]float64{"day.wav": 5, "two.wav": 1}[r.Written]; asked && (r.Range == nil || r.Range.Start != want || r.Range.Duration != 1) {
			t.Errorf("%s uses %+v", r.Written, r.Range)
		}
	}
}

// TestOlderNames: an older timeline names its files, sequences too, where they will lie,
// read again by the format; the same text twice leads each to the file that its own place
// names.
func TestOlderNames(t *testing.T) {
	images := `{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"frames/","name_prefix":"tide.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":25,"frame_zero_padding":4,"available_range":` + span(0, 2, 25) + `}`
	shot := `{"OTIO_SCHEMA":"Clip.2","name":"tide","active_media_reference_key":"DEFAULT_MEDIA","media_references":{"DEFAULT_MEDIA":` + images + `}}`
	text := tracks(25, trackOf("Video", "V1", shot), trackOf("Audio", "A1", clip("a", "a.wav", 0, 5, 25, ""), clip("b", "b%20c.wav", 0, 5, 25, "")))
	dir := coretest.Lay(t, map[string]string{"cut.otio": text, "a.wav": "a", "b c.wav": "b", "frames/tide.0001.png": "1", "frames/tide.0002.png": "2"})
	o := trace.Options{Formats: all.Formats(), Reach: drive.System{}}
	g, err := trace.Run(context.Background(), o, filepath.Join(dir, "cut.otio"))
	if err != nil {
		t.Fatal(err)
	}
	doc, err := export.Make(export.Options{
		As: export.OTIO1, Graph: g, Says: says(t, o, g),
		Name: func(id graph.FileID) string { return "new/" + filepath.Base(g.Files[id].Path) },
		Frames: func(id graph.FileID) (graph.Pattern, bool) {
			p, ok := graph.ParsePattern(g.Files[id].Path)
			p.Dir, p.Head = "../new frames", "wave."
			return p, ok
		},
	})
	if err != nil {
		t.Fatal(err)
	}
	back, err := otio.Format{}.Read(mention.Text{Bytes: doc.Bytes}, nil)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for i := range back.Mentions {
		got = append(got, back.Name(i))
	}
	if want := []string{"../new%20frames/wave.####.png", "new/a.wav", "new/b%20c.wav"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
}

// TestOddTimes: rates that an edit decision list is not made for and addresses of more than a
// day are written so that every line has its form, and told as losses.
func TestOddTimes(t *testing.T) {
	for _, c := range []struct {
		rate  float64
		start float64 // seconds
		want  []export.Code
	}{
		{25, 3600, nil}, {24, 0, nil}, {30000.0 / 1001, 3600, nil}, {24000.0 / 1001, 3600, nil},
		{12.5, 0, []export.Code{export.OddRate}}, {50, 0, []export.Code{export.OddRate}}, {120, 3600, []export.Code{export.OddRate}}, {240, 3600, []export.Code{export.OddRate}},
		{25, 86399.5, []export.Code{export.PastMidnight}}, {120, 90000, []export.Code{export.OddRate, export.PastMidnight}},
	} {
		text := strings.Replace(tracks(c.rate, trackOf("Video", "V1", clip("a", "a.mov", 0, 2*c.rate, c.rate, ""))), rt(3600*c.rate, c.rate), rt(c.start*c.rate, c.rate), 1)
		doc, _ := made(t, export.EDL, text, "a.mov")
		var got []export.Code
		for _, l := range doc.Losses {
			if l.Code == export.OddRate || l.Code == export.PastMidnight {
				got = append(got, l.Code)
			}
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%v at %v: %q, wanted %q", c.rate, c.start, got, c.want)
		}
		for _, l := range strings.Split(strings.TrimSpace(string(doc.Bytes)), "\n") {
			if !strings.HasPrefix(l, "TITLE:") && !strings.HasPrefix(l, "FCM:") && !strings.HasPrefix(l, "* ") && !line.MatchString(l) {
				t.Errorf("%v at %v: %q", c.rate, c.start, l)
			}
		}
	}
}

// TestPlaylistLines: a name that a playlist would read as a comment, or without its first
// blank, is said from its folder.
func TestPlaylistLines(t *testing.T) {
	text := tracks(25, trackOf("Audio", "A1", clip("a", "%231.wav", 0, 5, 25, ""), clip("b", "%20two.wav", 0, 5, 25, "")))
	doc, dir := made(t, export.M3U, text, "#1.wav", " two.wav")
	p := filepath.Join(dir, "list.m3u8")
	if err := os.WriteFile(p, doc.Bytes, 0o644); err != nil {
		t.Fatal(err)
	}
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, p)
	if err != nil || len(g.References) != 2 || g.References[0].State != graph.Here || g.References[1].State != graph.Here {
		t.Errorf("%v %+v\n%s", err, g, doc.Bytes)
	}
}
