// Package store keeps what the application remembers, in SQLite through GORM.
//
// One writer: the connection pool is limited to a single connection, so writes
// queue in the process and SQLite's busy timeout covers other processes.
package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver, in Go alone
)

// Store is the open database.
type Store struct {
	db  *gorm.DB
	dir string
}

// DefaultDir is the user's data folder: XDG_DATA_HOME, else below HOME, else
// the system's own place.
func DefaultDir() (string, error) {
	if d := os.Getenv("XDG_DATA_HOME"); d != "" {
		return filepath.Join(d, "boundcrate"), nil
	}
	if h := os.Getenv("HOME"); h != "" {
		return filepath.Join(h, ".local", "share", "boundcrate"), nil
	}
	d, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("no data folder is known; give one with --data: %w", err)
	}
	return filepath.Join(d, "boundcrate"), nil
}

// Open opens or makes the database in a data folder.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("the data folder ‘%s’ cannot be made: %w", dir, err)
	}
	path := filepath.Join(dir, "boundcrate.db")
	dsn := "file:" + path + "?_pragma=journal_mode(WAL)&_pragma=foreign_keys(1)&_pragma=busy_timeout(10000)&_pragma=synchronous(NORMAL)&_txlock=immediate"
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{Logger: logger.Discard, TranslateError: false, PrepareStmt: true})
	if err != nil {
		return nil, fmt.Errorf("‘%s’ cannot be opened: %w", path, err)
	}
	raw, err := db.DB()
	if err != nil {
		return nil, err
	}
	raw.SetMaxOpenConns(1)
	s := &Store{db, dir}
	if err := s.migrate(); err != nil {
		raw.Close()
		return nil, fmt.Errorf("‘%s’ cannot be brought up to date: %w", path, err)
	}
	return s, nil
}

// Dir is the data folder.
func (s *Store) Dir() string { return s.dir }

// Close closes the database.
func (s *Store) Close() error {
	raw, err := s.db.DB()
	if err != nil {
		return err
	}
	return raw.Close()
}

// migrations bring a database from version i to i+1. They are never changed
// once they were released, only added to.
var migrations = []func(*gorm.DB) error{
	func(db *gorm.DB) error {
		return db.AutoMigrate(&Seen{}, &Drive{}, &Project{}, &Repair{}, &Override{}, &Job{})
	},
	func(db *gorm.DB) error { return db.AutoMigrate(&RulesSwitch{}) },
}

// ErrNewer: the database was made by a later version of the application.
var ErrNewer = errors.New("it was made by a later version of Bound Crate")

func (s *Store) migrate() error {
	var version int
	if err := s.db.Raw("PRAGMA user_version").Scan(&version).Error; err != nil {
		return err
	}
	if version > len(migrations) {
		return ErrNewer
	}
	for ; version < len(migrations); version++ {
		err := s.db.Transaction(func(tx *gorm.DB) error {
			if err := migrations[version](tx); err != nil {
				return err
			}
			return tx.Exec(fmt.Sprintf("PRAGMA user_version = %d", version+1)).Error
		})
		if err != nil {
			return err
		}
	}
	return nil
}
