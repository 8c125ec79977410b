package store_test

import (
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
	"boundcrate/core/survey/survey"
	"boundcrate/store"
)

// TestReleaseBefore: a database that the release before made (its own dump) opens
// with its repairs and uses, and takes what is new in this one.
func TestReleaseBefore(t *testing.T) {
	text := string(must(os.ReadFile(filepath.Join("testdata", "release-4.sql"))))
	data := t.TempDir()
	db := must(sql.Open("sqlite", filepath.Join(data, "boundcrate.db")))
	if _, err := db.Exec(text); err != nil {
		t.Fatal(err)
	}
	db.Close()
	s := open(t, data)
	drives := must(s.CoreDrives())
	log := must(s.Decisions(1))
	if repairs := log.Repairs(drives); len(repairs) != 1 || repairs[0].To != "/lightship/bench/attic/gull cry.wav" {
		t.Errorf("repairs %+v", repairs)
	}
	p := must(s.Project(1))
	if p.Name != "Tide Clock film" || len(p.Search) != 0 || len(p.Documents) != 1 || !strings.HasPrefix(p.Documents[0], p.Root+"/") {
		t.Errorf("%+v", p)
	}
	// They are kept by their drive now, and go where that goes.
	bench := must(s.Drives())[0]
	if err := s.PutDrive(bench.Name, "/elsewhere", bench.Kind, false); err != nil {
		t.Fatal(err)
	}
	if moved := must(s.Project(1)); moved.Documents[0] != "/elsewhere"+strings.TrimPrefix(p.Documents[0], bench.Dir) || moved.Root != "/elsewhere"+strings.TrimPrefix(p.Root, bench.Dir) {
		t.Errorf("%+v", moved)
	}
	if err := s.PutDrive(bench.Name, bench.Dir, bench.Kind, false); err != nil {
		t.Fatal(err)
	}
	// What the database was before it was changed is kept beside it.
	kept := must(sql.Open("sqlite", filepath.Join(data, "boundcrate.db.version-4")))
	defer kept.Close()
	var version, projects int
	if err := kept.QueryRow("SELECT (SELECT user_version FROM pragma_user_version), (SELECT COUNT(*) FROM projects)").Scan(&version, &projects); err != nil || version != 4 || projects != 1 {
		t.Error(version, projects, err)
	}
	if lean := must(s.Leaning(drives[0].ID)); len(lean) != 1 || lean[0].Files != 2 {
		t.Errorf("%+v", lean)
	}
	// What was written into documents holds no more, and holds again once put back.
	now := time.Now()
	if err := s.Wrote(1, store.WroteRepairs, []writing.Written{{Document: "/x", Edition: "/y", SHA256: "z"}}, []int64{log[0].ID}, now); err != nil {
		t.Fatal(err)
	}
	if left := must(s.Decisions(1)); len(left) != 0 {
		t.Errorf("%+v still holds", left)
	}
	act := must(s.LastAct(1))
	if len(act.Written) != 1 || act.Written[0].Edition != "/y" {
		t.Errorf("%+v", act)
	}
	if err := s.PutBack(act); err != nil {
		t.Fatal(err)
	}
	if again := must(s.Decisions(1)); len(again) != 1 {
		t.Errorf("%d hold again", len(again))
	}
	if _, err := s.LastAct(1); err != store.ErrNotFound {
		t.Error(err)
	}
}

// TestDriveSaid: what a person said of a drive outlives its coming back under
// another mount, and what was declared of a folder moves with it.
func TestDriveSaid(t *testing.T) {
	s := open(t, t.TempDir())
	for _, err := range []error{s.PutDrive("Bench", "/a", drive.Fixed, false)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	id := must(s.Drives())[0].ID
	for _, err := range []error{
		s.SetKind(id, drive.Synced), s.Measured(id, 5_000_000, time.Now()),
		s.Declare(drive.Path{Drive: id, Path: "/parts"}, origin.AsStore),
		s.KeepHealth(0, drive.Path{Drive: id, Path: "/x.otio"}, survey.Health{Tally: tally.Tally{Missing: 3}}, time.Now()),
		s.PutDrive("Bench", "/b", drive.Removable, false),
	} {
		if err != nil {
			t.Fatal(err)
		}
	}
	d := must(s.CoreDrives())
	if len(d) != 1 || d[0].ID != id || d[0].Dir != "/b" || d[0].Kind != drive.Synced || d[0].Gives != 5_000_000 {
		t.Errorf("%+v", d)
	}
	if list := must(s.Declared(d)); len(list) != 1 || list[0].Path != "/b/parts" || list[0].Kind != origin.AsStore {
		t.Errorf("%+v", list)
	}
	if list := must(s.Healths(d)); len(list) != 1 || list[0].Document != "/b/x.otio" || list[0].Says.Missing != 3 {
		t.Errorf("%+v", list)
	}
	if err := s.Slow(id, 1000); err != nil { // it is no stand-in
		if err != store.ErrNotFound {
			t.Error(err)
		}
	} else {
		t.Error("a real drive was slowed")
	}
}
