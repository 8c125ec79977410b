package mend_test

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// wav is a WAVE file (EBU Tech 3285) of so many seconds at 8 kHz, 8 bit, one channel.
func wav(seconds int) string {
	data := strings.Repeat("\x80", 8000*seconds)
	u32 := func(n int) string { return string(binary.LittleEndian.AppendUint32(nil, uint32(n))) }
	return "RIFF" + u32(36+len(data)) + "WAVEfmt " + u32(16) + "\x01\x00\x01\x00" + u32(8000) + u32(8000) + "\x01\x00\x08\x00data" + u32(len(data)) + data
}

// TestExamined: a candidate that cannot be what is used says so, whatever its
// name says, and is not likely; nor is it taken unasked.
func TestExamined(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"new/short.wav": wav(3), "new/long.wav": wav(20), "new/plate.wav": "\x89PNG\r\n\x1a\n and so on", "new/hurt.wav": wav(3)[:30], "new/used.wav": wav(20),
		"cut.otio": `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[` +
			strings.Join([]string{clip("short", 2, 4), clip("long", 2, 4), clip("plate", 0, 1), clip("hurt", 0, 1), clip("clock", 36000, 4), `{"OTIO_SCHEMA":"Clip.1","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"new/used.wav"}}`, clip("used", 0, 1)}, ",") + `]}]}}`,
		"new/clock.wav": wav(3),
	})
	o := trace.Options{Formats: all.Formats(), Reach: drive.System{}}
	g, err := trace.Run(context.Background(), o, filepath.Join(dir, "cut.otio"))
	if err != nil {
		t.Fatal(err)
	}
	x, err := index.Build(context.Background(), index.Options{Reach: drive.System{}, Dirs: []string{filepath.Join(dir, "new")}})
	if err != nil {
		t.Fatal(err)
	}
	rd := reading(nil)
	rd.Used = mend.Used(g)
	wanted := mend.Missing(g, nil, mend.Nothing)
	offered, err := mend.Find(context.Background(), x, wanted, rd, nil)
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]struct {
		certainty mend.Certainty
		warn      mend.Code
	}{
		"short.wav": {mend.Possible, mend.TooShort}, "long.wav": {mend.Likely, ""}, "plate.wav": {mend.Possible, mend.OtherKind}, "hurt.wav": {mend.Possible, mend.Harmed},
		"clock.wav": {mend.Possible, mend.TooShort}, "used.wav": {mend.Possible, mend.UsedAlready},
	}
	for i, w := range wanted {
		name := filepath.Base(w.Expected)
		c := offered[i][0]
		if x := want[name]; c.Certainty != x.certainty || x.warn != "" && !c.Warns(x.warn) || x.warn == "" && len(c.Against) > 0 || filepath.Base(c.Path) != name {
			t.Errorf("%s: %+v", name, c)
		}
		if _, sure := mend.Sure(offered[i]); sure {
			t.Errorf("%s is taken unasked", name)
		}
		delete(want, name)
	}
	if len(want) > 0 {
		t.Errorf("not looked for: %v", want)
	}
}

func clip(name string, start, seconds int) string {
	return fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","value":%d,"rate":25},"duration":{"OTIO_SCHEMA":"RationalTime.1","value":%d,"rate":25}},"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"old/%s.wav"}}`, 25*start, 25*seconds, name)
}

// TestNamesChanged: two files of one size and one time that changed names: each
// is known by its content, which is read, and not by what is remembered of the
// place it stands at now.
func TestNamesChanged(t *testing.T) {
	at := time.Now().Add(-time.Hour)
	dir := coretest.Lay(t, map[string]string{"old/a.wav": "gull", "old/b.wav": "horn"})
	a, b := filepath.Join(dir, "old/a.wav"), filepath.Join(dir, "old/b.wav")
	for _, p := range []string{a, b} {
		if err := os.Chtimes(p, at, at); err != nil {
			t.Fatal(err)
		}
	}
	rd := reading(nil)
	seen := map[string]*mend.Seen{}
	for _, p := range []string{a, b} {
		sum, err := rd.Hash(context.Background(), p)
		if err != nil {
			t.Fatal(err)
		}
		seen[p] = &mend.Seen{Size: 4, SHA256: sum, ModTime: at}
	}
	coretest.Write(t, filepath.Join(dir, "new/x"), "")
	if err := errors.Join(os.Rename(a, filepath.Join(dir, "new/b.wav")), os.Rename(b, filepath.Join(dir, "new/a.wav"))); err != nil {
		t.Fatal(err)
	}
	x, err := index.Build(context.Background(), index.Options{Reach: drive.System{}, Dirs: []string{dir}})
	if err != nil {
		t.Fatal(err)
	}
	wanted := []mend.Wanted{{Expected: a, Kind: facts.Audio, Last: seen[a]}, {Expected: b, Kind: facts.Audio, Last: seen[b]}}
	offered, err := mend.Find(context.Background(), x, wanted, reading(nil), nil)
	if err != nil {
		t.Fatal(err)
	}
	for i, name := range []string{"new/b.wav", "new/a.wav"} {
		if c, sure := mend.Sure(offered[i]); !sure || c.Path != filepath.Join(dir, name) {
			t.Errorf("%s: %+v", wanted[i].Expected, offered[i])
		}
	}
}

// TestTwice: a document that names one file under two names, of which one is read
// otherwise than it stands, may have meant two files; two letter cases of one name, two
// documents, or one name twice are none.
func TestTwice(t *testing.T) {
	for _, c := range []struct {
		name string
		docs map[string]string
		want bool
	}{
		{"two spellings", map[string]string{"all.m3u": "a/gull%20far.wav\na/gull far.wav\n"}, true},
		{"two cases", map[string]string{"all.m3u": "a/Gull far.wav\na/gull far.wav\n"}, false},
		{"one spelling twice", map[string]string{"all.m3u": "a/gull%20far.wav\na/gull%20far.wav\n"}, false},
		{"two documents", map[string]string{"all.m3u": "other.m3u\na/gull far.wav\n", "other.m3u": "a/gull%20far.wav\n"}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.docs["a/gull far.wav"] = wav(1)
			dir := coretest.Lay(t, c.docs)
			g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "all.m3u"))
			if err != nil {
				t.Fatal(err)
			}
			suspect := mend.Suspects(g, nil, nil, nil)
			for i := range g.Files {
				if f := &g.Files[i]; f.Kind == facts.Audio && slices.Contains(suspect[graph.FileID(i)], graph.UsedTwice) != c.want {
					t.Errorf("%s: %v", f.Path, suspect[graph.FileID(i)])
				}
			}
		})
	}
}
