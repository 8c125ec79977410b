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
	v, err := s.Setting(keepJobs)
	if err != nil || v == "" {
		return KeepJobs, err
	}
	return strconv.Atoi(v)
}

// Setting is the value of a setting; "" where there is none.
func (s *Store) Setting(name string) (v string, err error) {
	err = s.raw().QueryRow("SELECT value FROM settings WHERE name = ?", name).Scan(&v)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return v, err
}

// SetKeptJobs keeps how many jobs the log shows.
func (s *Store) SetKeptJobs(n int) error { return s.SetSetting(keepJobs, strconv.Itoa(n)) }

// SetSetting keeps the value of a setting.
func (s *Store) SetSetting(name, value string) error {
	_, err := s.writer().Exec("INSERT INTO settings (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value", name, value)
	return err
}
