package server_test

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
	"boundcrate/core/disk/fileset"
)

// TestRecoveredIsAnAct: a writing that is killed after it was decided, and finished by the next
// start, can be put back like any other; one whose act was kept before the end is one act.
func TestRecoveredIsAnAct(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "lib/a.wav": "a"})
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	doc := filepath.Join(c.dir, "film/cut.m3u")
	before, err := os.ReadFile(doc)
	if err != nil {
		t.Fatal(err)
	}
	// As the writing of a document stands the moment after its commit.
	after := strings.Replace(string(before), "a.wav", "../lib/a.wav", 1)
	sum := func(b []byte) string { s := sha256.Sum256(b); return hex.EncodeToString(s[:]) }
	data := filepath.Dir(c.store.Journals())
	edition := filepath.Join(data, "editions", fmt.Sprint(p.ID), "cut.m3u")
	fresh := filepath.Join(c.dir, "film", ".boundcrate-writing-x-1")
	list, _ := json.Marshal([]fileset.Place{{Path: doc, Fresh: fresh, Edition: edition, Was: sum(before), Becomes: sum([]byte(after))}})
	for path, text := range map[string]string{edition: string(before), fresh: after, filepath.Join(c.store.Journals(), "0123456789abcdef.writing"): `{"id":"x"}` + "\n" + string(list) + "\n"} {
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	again := c.anew()
	if b, err := os.ReadFile(doc); err != nil || string(b) != after {
		t.Fatalf("%s %v", b, err)
	}
	act := get[tracing.Summary](again, at).LastAct
	if act == nil || len(act.Documents) != 1 || !strings.Contains(act.Say, "interrupted") {
		t.Fatalf("%+v", act)
	}
	journal := fmt.Sprintf("{\"id\":\"x\"}\n%s\n", list)
	if err := os.WriteFile(filepath.Join(c.store.Journals(), "0123456789abcdef.writing"), []byte(journal), 0o644); err != nil {
		t.Fatal(err)
	}
	again = c.anew()
	if same := get[tracing.Summary](again, at).LastAct; same == nil || same.ID != act.ID {
		t.Errorf("%+v is not %+v", same, act)
	}
	if status, body, _ := again.ask("POST", at+"/putback", api.PutBack{Act: act.ID}); status != 204 {
		t.Fatal(status, body)
	}
	if b, err := os.ReadFile(doc); err != nil || string(b) != string(before) {
		t.Errorf("%s %v", b, err)
	}
}
