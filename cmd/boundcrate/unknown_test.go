package main

import (
	"encoding/binary"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
)

// strangers are documents of programs nobody knows, each naming files by the
// paths of another machine.
func strangers(names []string) map[string]string {
	xml, wide, narrow := "<show>\n", "\x07\x00\x01\x00SHOW", "\x00\x01\x02SHOW\x00"
	for i, n := range names {
		xml += fmt.Sprintf(" <take n=\"%d\" file=\"/Volumes/Old Disk/tide/%s\"/>\n", i, n)
		full := `E:\Jobs\tide\` + n
		wide += string(binary.LittleEndian.AppendUint32(nil, uint32(2*len(full))))
		for _, u := range utf16.Encode([]rune(full)) {
			wide += string([]byte{byte(u), byte(u >> 8)})
		}
		wide += "\x00\x00\x01\xFF"
		narrow += string(binary.BigEndian.AppendUint16(nil, uint16(len(full)))) + full + "\x00\x03\xFE"
	}
	return map[string]string{"show.strange": xml + "</show>\n", "show.wide": wide, "show.narrow": narrow}
}

// TestUnknownDocuments: what nobody knows is never an all-clear: every name is
// kept, what lies beside it is offered and never taken unasked, and a crate says
// that it guessed.
func TestUnknownDocuments(t *testing.T) {
	var names []string
	files := map[string]string{}
	for i := range 18 {
		names = append(names, fmt.Sprintf("sound take %02d.wav", i))
		if i < 12 {
			files["job/pool/"+names[i]] = fmt.Sprint("take ", i)
		}
	}
	for doc, text := range strangers(names) {
		files["job/"+doc] = text
	}
	dir, data := coretest.Lay(t, files), t.TempDir()
	for doc := range strangers(nil) {
		at := filepath.Join(dir, "job", doc)
		tr := answer[report.Trace](t, data, 1, "trace", "--json", at)
		missing := 0
		for _, r := range tr.References {
			if r.State == "missing" && r.Guessed {
				missing++
			}
		}
		if missing != 18 || !slices.ContainsFunc(tr.Warnings, func(w report.Warning) bool { return w.Code == "guessed" }) {
			t.Errorf("%s: %d of 18 are missing and guessed: %+v", doc, missing, tr)
		}
		m := answer[report.Mend](t, data, 1, "mend", "--json", "--search", filepath.Join(dir, "job"), at)
		offered := 0
		for _, w := range m.Missing {
			if len(w.Candidates) > 0 && strings.HasPrefix(w.Candidates[0].Path, filepath.Join(dir, "job", "pool")) && filepath.Base(w.Candidates[0].Path) == filepath.Base(strings.ReplaceAll(w.Expected, `\`, "/")) {
				offered++
			}
		}
		if offered != 12 {
			t.Errorf("%s: %d of 12 are offered", doc, offered)
		}
		code, out, errs := invoke(t, data, "seal", "--json", "--out", filepath.Join(dir, "crate "+doc), at)
		if code == 0 || decode(t, out)["complete"] != false || decode(t, out)["guessed"] != 1.0 {
			t.Errorf("%s: sealed: %d %s %s", doc, code, out, errs)
		}
	}
	// Nothing recognised: told, and never complete.
	empty := coretest.Write(t, filepath.Join(dir, "job", "empty.strange"), "<show>\n<take n='1' name='first'/>\n</show>\n")
	tr := answer[report.Trace](t, data, 1, "trace", "--json", empty)
	if len(tr.Warnings) != 1 || tr.Warnings[0].Code != "nothing-recognised" {
		t.Errorf("%+v", tr.Warnings)
	}
	code, out, _ := invoke(t, data, "seal", "--json", "--out", filepath.Join(dir, "crate empty"), empty)
	if code == 0 || decode(t, out)["complete"] != false {
		t.Errorf("%d %s", code, out)
	}
}

// TestRulesLearn: what is proposed from a document nobody knows can be used as it
// is: with it the document's format is known and every name is sure.
func TestRulesLearn(t *testing.T) {
	files := map[string]string{}
	var names []string
	for i := range 18 {
		names = append(names, fmt.Sprintf("take %02d.wav", i))
	}
	files["job/show.strange"] = strings.ReplaceAll(strangers(names)["show.strange"], "/Volumes/Old Disk/tide/", "pool/")
	for _, n := range names {
		files["job/pool/"+n] = n
	}
	dir, data := coretest.Lay(t, files), t.TempDir()
	doc := filepath.Join(dir, "job/show.strange")
	rep := answer[rulesLearned](t, data, allWell, "rules", "learn", "--json", doc)
	if rep.Guessed != 18 || len(rep.Proposals) == 0 || rep.Proposals[0].Shapes[0].At != "/show/take/@file" || rep.Proposals[0].Shapes[0].Leads != 18 {
		t.Fatalf("%+v", rep)
	}
	rules := coretest.Write(t, filepath.Join(dir, "learned.yaml"), rep.Proposals[0].Source)
	tr := answer[report.Trace](t, data, allWell, "trace", "--json", "--rules", rules, doc)
	if len(tr.References) != 18 || tr.References[0].Guessed || len(tr.Warnings) > 0 {
		t.Errorf("%+v", tr)
	}
	if code, _, errs := invoke(t, data, "rules", "learn", "--rules", rules, doc); code != notDone || !strings.Contains(errs, "nothing to learn") && !strings.Contains(errs, "Nothing to learn") && !strings.Contains(errs, "already") {
		t.Errorf("%d %s", code, errs)
	}
	bytesOnly := coretest.Write(t, filepath.Join(dir, "job/b.bin2"), "\x00\x01\x12\x00pool/take 01.wav.\x00")
	if code, out, _ := invoke(t, data, "rules", "learn", bytesOnly); code != needPerson || out != "" {
		t.Errorf("%d %s", code, out)
	}
}

// TestGuessIsNotWhole: a crate of a guessed document is not complete while names in it that lead to
// files were not followed, and check knows it later; with none of them it is.
func TestGuessIsNotWhole(t *testing.T) {
	for extra, want := range map[string]int{"": 0, "load lib/code.mjs\n": 1} {
		dir := coretest.Lay(t, map[string]string{"job/a.session": "clip sound/gull.wav\n" + extra, "job/sound/gull.wav": "gull", "job/lib/code.mjs": "x"})
		at := func(p string) string { return filepath.Join(dir, p) }
		rep := answer[report.Seal](t, t.TempDir(), want, "seal", "--json", "--out", at("crate"), at("job/a.session"))
		again := answer[report.Seal](t, t.TempDir(), want, "check", "--json", at("crate"))
		if rep.Complete != (want == 0) || again.Complete != (want == 0) || len(rep.Problems) != want {
			t.Errorf("%q: %+v, %+v", extra, rep, again)
		}
	}
}
