package store_test

import (
	"context"
	"database/sql"
	"errors"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/origin"
	"boundcrate/core/survey/survey"
	"boundcrate/store"
)

// TestForgotten: whatever has a project goes with it, in every table there is, and comes back with
// none; what was known of a forgotten drive goes, too.
func TestForgotten(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	s := open(t, data)
	now := time.Now()
	must(0, s.PutDrive("Bench", "/bench", "fixed", false))
	must(0, s.PutDrive("Shelf", "/shelf", "fixed", false))
	p := must(s.AddProject("film", []string{"/bench/cut.m3u"}, "/bench", now))
	at := drive.At(must(s.CoreDrives()), "/shelf/library")
	for _, err := range []error{
		s.Decide(p.ID, decide.Decision{Kind: decide.Move, From: at, To: at, At: now}),
		s.Wrote(p.ID, store.WroteHome, []writing.Written{{Document: "/bench/cut.m3u"}}, nil, now),
		s.PutJob(store.Job{ID: "1", ProjectID: store.OfProject(p.ID), State: "done"}),
		s.PutJob(store.Job{ID: "2", State: "done"}),
		s.KeepHealth(p.ID, drive.Path{}, survey.Health{}, now),
		s.KeepHealth(0, at, survey.Health{}, now),
		s.Declare(at, origin.AsLibrary),
	} {
		if err != nil {
			t.Fatal(err)
		}
	}
	db := must(sql.Open("sqlite", filepath.Join(data, "boundcrate.db")))
	defer db.Close()
	count := func(table, condition string) (n int) {
		t.Helper()
		if err := db.QueryRow("SELECT COUNT(*) FROM " + table + " WHERE " + condition).Scan(&n); err != nil {
			t.Fatal(table, err)
		}
		return n
	}
	tables := must(db.Query("SELECT m.name FROM sqlite_master m, pragma_table_info(m.name) c WHERE m.type = 'table' AND c.name = 'project_id'"))
	defer tables.Close()
	var ofProjects []string
	for tables.Next() {
		var name string
		must(0, tables.Scan(&name))
		ofProjects = append(ofProjects, name)
	}
	if len(ofProjects) < 5 {
		t.Fatal(ofProjects)
	}
	before := 0
	for _, table := range ofProjects {
		before += count(table, "project_id IS NOT NULL")
		if count("pragma_foreign_key_list('"+table+"')", `"table" = 'projects' AND on_delete = 'CASCADE'`) != 1 {
			t.Errorf("what %s has of a project does not go with it", table)
		}
	}
	if before != 4 {
		t.Errorf("%d rows of the project", before)
	}
	if err := s.DeleteProject(p.ID); err != nil {
		t.Fatal(err)
	}
	for _, table := range ofProjects {
		if n := count(table, "project_id IS NOT NULL"); n != 0 {
			t.Errorf("%s has %d rows of a forgotten project", table, n)
		}
	}
	for _, err := range []error{
		s.Decide(p.ID, decide.Decision{Kind: decide.Move, At: now}), s.Wrote(p.ID, store.WroteHome, []writing.Written{{}}, nil, now),
		s.PutJob(store.Job{ID: "3", ProjectID: store.OfProject(p.ID)}),
	} {
		if !errors.Is(err, store.ErrNotFound) {
			t.Errorf("of a forgotten project: %v", err)
		}
	}
	if len(must(s.Jobs(9))) != 1 || len(must(s.Healths(must(s.CoreDrives())))) != 1 {
		t.Error("what is of no project went, too")
	}
	if err := errors.Join(s.DropDrive(at.Drive), s.Prune(context.Background())); err != nil {
		t.Fatal(err)
	}
	if n := count("declared", "1") + count("health", "1"); n != 0 {
		t.Errorf("%d rows of a forgotten drive", n)
	}
}
