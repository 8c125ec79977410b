package main

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
	"boundcrate/core/say/report"
)

// TestLentMemory: what one document saw under a path is no memory of another that never
// found anything there: that one is not mended unasked by it, and never against what it
// tells and uses. The one that saw it is.
func TestLentMemory(t *testing.T) {
	clipOf := func(seconds int) string {
		return timelineOf([]string{fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":0},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%d}},"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"../card/0001.wav","available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":0},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":%d}}}}`, 24*seconds, 24*seconds)})
	}
	second := string(mendtest.Wave(make([]byte, 2000)))
	dir, data := coretest.Lay(t, map[string]string{"card/0001.wav": second, "one/cut.otio": clipOf(1), "shelf/.keep": ""}), t.TempDir()
	one := filepath.Join(dir, "one/cut.otio")
	answer[report.Trace](t, data, 0, "trace", "--json", one)
	moved := filepath.Join(dir, "shelf/0001.wav")
	if err := os.Rename(filepath.Join(dir, "card/0001.wav"), moved); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		text    string
		certain bool
	}{"two": {clipOf(20), false}, "three": {clipOf(1), false}, "one": {clipOf(1), true}} {
		doc := coretest.Write(t, filepath.Join(dir, name, "cut.otio"), c.text)
		m := answer[report.Mend](t, data, 1, "mend", "--json", "--search", dir, doc)
		if len(m.Missing) != 1 || len(m.Missing[0].Candidates) != 1 || m.Missing[0].Candidates[0].Path != moved {
			t.Fatalf("%s: %+v", name, m.Missing)
		}
		best := m.Missing[0].Candidates[0]
		if got := best.Certainty == mend.Certain; got != c.certain {
			t.Errorf("%s: %+v", name, best)
		}
		if name == "two" && (!slices.Contains(best.Codes, mend.TooShort) || best.Certainty != mend.Possible) {
			t.Errorf("what it uses has no say: %+v", best)
		}
		code, _, _ := invoke(t, data, "mend", "--write", "--search", dir, doc)
		after, err := os.ReadFile(doc)
		if err != nil || (string(after) != c.text) != c.certain || (code == 0) != c.certain {
			t.Errorf("%s: exit %d, written: %v %v", name, code, string(after) != c.text, err)
		}
	}
}
