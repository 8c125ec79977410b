package main

import (
	"crypto/sha1"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/mend/mend"
	"boundcrate/core/say/report"
)

var woods = []string{"gull over stern", "winch close", "low horn", "deck steps", "rope creak", "bell far"}

// lost lays a timeline of six sounds in foley/wood, which are elsewhere.
func lost(t *testing.T, form string, more map[string]string) (dir, doc string) {
	t.Helper()
	var clips []string
	files := map[string]string{}
	for _, n := range woods {
		clips = append(clips, `{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"foley/wood/`+strings.ReplaceAll(n, " ", "%20")+`.wav"}}`)
		files[fmt.Sprintf(form, n)] = "of " + n
	}
	for name, text := range more {
		files[name] = text
	}
	files["film/cut.otio"] = timelineOf(clips)
	dir = coretest.Lay(t, files)
	return dir, filepath.Join(dir, "film", "cut.otio")
}

// TestGroups: a folder that moved is one group; by names alone, renamed or not, it is
// likely, and written only where that is accepted.
func TestGroups(t *testing.T) {
	dir, doc := lost(t, "attic/wood/%s.wav", nil)
	m := answer[report.Mend](t, t.TempDir(), 1, "mend", "--json", "--search", dir, doc)
	if len(m.Groups) != 1 || m.Groups[0].Files != 6 || m.Groups[0].Certainty != mend.Likely || m.Groups[0].From != filepath.Join(dir, "film", "foley") && m.Groups[0].From != filepath.Join(dir, "film", "foley", "wood") || len(m.Groups[0].Reasons) == 0 || m.Read.Files == 0 {
		t.Errorf("%+v", m.Groups)
	}
	for _, w := range m.Missing {
		if len(w.Candidates) == 0 || !slices.Contains(w.Candidates[0].Codes, mend.InOneMove) {
			t.Errorf("%+v", w)
		}
	}
	if code, out, errs := invoke(t, t.TempDir(), "mend", "--write", "--search", dir, doc); code != 1 {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if code, out, errs := invoke(t, t.TempDir(), "mend", "--write", "--accept", "likely", "--search", dir, doc); code != 0 {
		t.Errorf("%d %s %s", code, out, errs)
	}

	dir, doc = lost(t, "attic/wood/HF %s.wav", nil)
	before, err := os.ReadFile(doc)
	if err != nil {
		t.Fatal(err)
	}
	m = answer[report.Mend](t, t.TempDir(), 1, "mend", "--json", "--write", "--search", dir, doc)
	if len(m.Groups) != 1 || m.Groups[0].Certainty != mend.Likely || m.Groups[0].Renamed != "with “HF ” before the name" || len(m.Written) != 0 {
		t.Errorf("%+v", m)
	}
	if after, err := os.ReadFile(doc); err != nil || string(after) != string(before) {
		t.Error("what is likely was written without being accepted", err)
	}
	for _, args := range [][]string{{"--accept", "likely"}, {"--accept", "possible", "--write"}} {
		if code, _, _ := invoke(t, t.TempDir(), append([]string{"mend", "--search", dir, doc}, args...)...); code != 2 {
			t.Errorf("%q: %d", args, code)
		}
	}
	m = answer[report.Mend](t, t.TempDir(), 0, "mend", "--json", "--write", "--accept", "likely", "--search", dir, doc)
	if len(m.Written) != 1 {
		t.Errorf("%+v", m)
	}
	tr := answer[report.Trace](t, t.TempDir(), 0, "trace", "--json", doc)
	for _, r := range tr.References {
		if !strings.Contains(r.Written, "HF%20") {
			t.Errorf("%+v", r)
		}
	}
}

// TestToldDigest: a checksum list tells the content of what it names (FIPS 180-4):
// found under any name, it is certain, and of two namesakes the other is not taken.
func TestToldDigest(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"found/a/gull.wav": "not this one", "found/b/gull.wav": "the very gull", "film/x.txt": ""})
	doc := coretest.Write(t, filepath.Join(dir, "film", "SHA1SUMS"), fmt.Sprintf("%x  gull.wav\n", sha1.Sum([]byte("the very gull"))))
	m := answer[report.Mend](t, t.TempDir(), 1, "mend", "--json", "--search", filepath.Join(dir, "found"), doc)
	if len(m.Missing) != 1 || len(m.Missing[0].Candidates) != 2 || m.Missing[0].Candidates[0].Path != filepath.Join(dir, "found/b/gull.wav") || m.Missing[0].Candidates[0].Certainty != mend.Certain ||
		!slices.Contains(m.Missing[0].Candidates[1].Codes, mend.OtherToldContent) {
		t.Errorf("%+v", m.Missing)
	}
}

// TestSameCut: where a playlist and an edit list of one cut are in one project, a file that the
// playlist finds is a likely candidate for the edit list, which tells names alone; that it is used
// already does not count against it. Where both tell folders it does.
func TestSameCut(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/cut.m3u": "#EXTM3U\n../lib/horn.wav\n", "film/again.m3u": "#EXTM3U\nold/horn.wav\n", "lib/horn.wav": "horn",
		"film/cut.edl": "TITLE: x\nFCM: NON-DROP FRAME\n\n001  AX       A     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: horn.wav\n",
	})
	for second, want := range map[string]mend.Code{"cut.edl": mend.InProject, "again.m3u": mend.UsedAlready} {
		m := answer[report.Mend](t, t.TempDir(), 1, "mend", "--json", "--search", filepath.Join(dir, "lib"), filepath.Join(dir, "film/cut.m3u"), filepath.Join(dir, "film", second))
		if len(m.Missing) != 1 || len(m.Missing[0].Candidates) != 1 || !slices.Contains(m.Missing[0].Candidates[0].Codes, want) || (m.Missing[0].Candidates[0].Certainty == mend.Likely) != (want == mend.InProject) {
			t.Errorf("%s: %+v", second, m.Missing)
		}
	}
}
