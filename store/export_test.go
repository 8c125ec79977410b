package store

import (
	"fmt"
	"time"
)

// Exec runs a statement, for tests that damage a database.
func Exec(s *Store, sql string) error { return s.db.Exec(sql).Error }

// NoMoreRoom lets the database grow no more until back is called, as a full disk does.
func (s *Store) NoMoreRoom() (back func()) {
	limit := func(pages string) {
		if _, err := s.writer().Exec("PRAGMA max_page_count = " + pages); err != nil {
			panic(err)
		}
	}
	var pages string
	if err := s.writer().QueryRow("PRAGMA page_count").Scan(&pages); err != nil {
		panic(err)
	}
	limit(pages)
	return func() { limit("4294967294") }
}

// WaitsFor is how long another program's lock is waited for.
func (s *Store) WaitsFor(d time.Duration) {
	if _, err := s.writer().Exec(fmt.Sprintf("PRAGMA busy_timeout = %d", d.Milliseconds())); err != nil {
		panic(err)
	}
}
