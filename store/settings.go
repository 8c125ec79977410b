package store

import (
	"database/sql"
	"errors"
	"strconv"
)

// KeepJobs is how many ended jobs the log shows, unless a person said otherwise.
const KeepJobs = 20

const keepJobs = "keep-jobs"

// KeptJobs is how many jobs the log shows.
func (s *Store) KeptJobs() (int, error) {
	var v string
	err := s.raw().QueryRow("SELECT value FROM settings WHERE name = ?", keepJobs).Scan(&v)
	if errors.Is(err, sql.ErrNoRows) {
		return KeepJobs, nil
	}
	if err != nil {
		return KeepJobs, err
	}
	return strconv.Atoi(v)
}

// SetKeptJobs keeps how many jobs the log shows.
func (s *Store) SetKeptJobs(n int) error {
	_, err := s.raw().Exec("INSERT INTO settings (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value", keepJobs, strconv.Itoa(n))
	return err
}
