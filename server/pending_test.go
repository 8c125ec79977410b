package server_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
	"boundcrate/core/coretest"
	"boundcrate/core/mend/writing"
)

// TestPendingAct: a writing that the database could not take when it was done is taken in
// later, in its order, and can be put back.
func TestPendingAct(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "new.wav\n", "film/editions/cut.m3u": "old.wav\n"})
	p := c.open("film/cut.m3u")
	sums := coretest.Sums(t, c.dir)
	doc, kept := filepath.Join(c.dir, "film/cut.m3u"), filepath.Join(c.dir, "film/editions/cut.m3u")
	b, err := json.Marshal(map[string]any{"Project": p.ID, "Kind": "repairs", "At": time.Now(), "Written": []writing.Written{{Document: doc, Edition: kept, Mentions: 1, SHA256: fmt.Sprintf("%x", sums[doc]), Was: fmt.Sprintf("%x", sums[kept])}}})
	if err != nil {
		t.Fatal(err)
	}
	coretest.Write(t, filepath.Join(c.store.Dir(), "acts", "1.json"), string(b))
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	s := get[tracing.Summary](c, base)
	if s.LastAct == nil || len(s.LastAct.Documents) != 1 {
		t.Fatalf("%+v", s.LastAct)
	}
	if left, _ := os.ReadDir(filepath.Join(c.store.Dir(), "acts")); len(left) != 0 {
		t.Errorf("%v stay", left)
	}
	send[struct{}](c, "POST", base+"/putback", api.PutBack{Act: s.LastAct.ID})
	if b, err := os.ReadFile(doc); err != nil || string(b) != "old.wav\n" {
		t.Errorf("%q %v", b, err)
	}
}
