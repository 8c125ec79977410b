package store_test

import (
	"database/sql"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/app/fault"
	"boundcrate/store"
)

// TestTrouble: a database on a full disk, one that another program holds, and one of a later
// version are told for what they are; nothing of what was kept is lost.
func TestTrouble(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	s := open(t, data)
	must(0, s.PutDrive("Bench", "/bench", "fixed", false))
	p := must(s.AddProject("film", []string{"/bench/cut.m3u"}, "/bench", time.Now()))

	back := s.NoMoreRoom()
	err := s.SetOptions(p.ID, strings.Repeat("x", 4<<20))
	back()
	if f := fault.Explain(err); store.TroubleOf(err) != store.Full || f.Code != fault.Unavailable || !strings.Contains(f.Detail, "is full") {
		t.Errorf("%v: %+v", err, f)
	}
	if err := s.SetOptions(p.ID, strings.Repeat("x", 4<<20)); err != nil {
		t.Error("with room again:", err)
	}

	other := must(sql.Open("sqlite", filepath.Join(data, "boundcrate.db")))
	defer other.Close()
	other.SetMaxOpenConns(1)
	must(other.Exec("BEGIN EXCLUSIVE"))
	s.WaitsFor(50 * time.Millisecond)
	err = s.SetOptions(p.ID, "{}")
	if f := fault.Explain(err); store.TroubleOf(err) != store.Locked || f.Code != fault.Unavailable || !strings.Contains(f.Detail, "Another program") {
		t.Errorf("%v: %+v", err, f)
	}
	if got := must(s.Project(p.ID)); len(got.Options) != 4<<20 {
		t.Errorf("%d bytes are kept", len(got.Options)) // readers wait for nobody
	}
	must(other.Exec("ROLLBACK"))

	must(other.Exec("PRAGMA user_version = 9999"))
	if _, err := store.Open(data); err == nil || !strings.Contains(err.Error(), "later version") || !strings.Contains(err.Error(), "boundcrate.db") {
		t.Errorf("a database of a later version: %v", err)
	}
}
