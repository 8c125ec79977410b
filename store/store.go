// Package store keeps what the application remembers, in SQLite through GORM.
//
// There is one writer: its pool is limited to a single connection, so writes
// queue in the process and SQLite's busy timeout covers other processes. Readers
// have a pool of their own and wait for nobody (WAL). Tables of many rows are
// written with prepared statements; GORM has the small ones.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver, in Go alone
	sqlite3 "modernc.org/sqlite/lib"
)

// Store is the open database.
type Store struct {
	db   *gorm.DB // the writer
	read *gorm.DB
	dir  string

	catalogue catalogue
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

// Open opens or makes the database in a data folder, which is the user's alone.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder ‘%s’ cannot be made: %w", dir, err)
	}
	path := filepath.Join(dir, fileName)
	const pragmas = "?_pragma=journal_mode(WAL)&_pragma=foreign_keys(1)&_pragma=busy_timeout(10000)&_pragma=synchronous(NORMAL)&_pragma=cache_size(-16000)"
	db, err := connect("file:"+path+pragmas+"&_txlock=immediate", 1)
	if err != nil {
		return nil, unopened(path, "opened", err)
	}
	if err := migrate(db, path); err != nil {
		closeDB(db)
		return nil, unopened(path, "brought up to date", err)
	}
	if err := whole(db); err != nil {
		closeDB(db)
		return nil, &DamagedError{path, err}
	}
	read, err := connect("file:"+path+pragmas+"&_pragma=query_only(1)", 4)
	if err != nil {
		closeDB(db)
		return nil, fmt.Errorf("‘%s’ cannot be read: %w", path, err)
	}
	return &Store{db: db, read: read, dir: dir}, nil
}

// unopened tells a damaged database from one that only cannot be opened now.
func unopened(path, what string, err error) error {
	var code interface{ Code() int }
	if errors.As(err, &code) {
		switch code.Code() & 0xFF {
		case sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB, sqlite3.SQLITE_FORMAT, sqlite3.SQLITE_ERROR:
			return &DamagedError{path, err}
		}
	}
	return fmt.Errorf("‘%s’ cannot be %s: %w", path, what, err)
}

// DamagedError is a database that does not hold what it should.
type DamagedError struct {
	Path string
	Err  error
}

func (e *DamagedError) Error() string { return "‘" + e.Path + "’ is damaged: " + e.Err.Error() }

func (e *DamagedError) Unwrap() error { return e.Err }

// tables are those that every database of this release has.
var tables = []string{"drives", "projects", "decisions", "jobs", "seen", "uses", "traced", "folders", "was", "rules_switches", "acts", "declared", "health", "held", "listings"}

// whole tells a database whose tables are gone.
func whole(db *gorm.DB) error {
	var there []string
	if err := db.Raw("SELECT name FROM sqlite_master WHERE type = 'table'").Scan(&there).Error; err != nil {
		return err
	}
	for _, t := range tables {
		if !slices.Contains(there, t) {
			return fmt.Errorf("its table %s is gone", t)
		}
	}
	return nil
}

// Check reads the whole database and is a *DamagedError where SQLite finds it
// damaged.
func (s *Store) Check() error {
	var said []string
	err := s.read.Raw("PRAGMA quick_check(1)").Scan(&said).Error
	if err == nil && (len(said) != 1 || said[0] != "ok") {
		err = errors.New(strings.Join(said, "; "))
	}
	if err != nil {
		return &DamagedError{filepath.Join(s.dir, fileName), err}
	}
	return nil
}

// fileName is the database within the data folder.
const fileName = "boundcrate.db"

// Anew puts a damaged database aside under another name, where it is kept, and
// opens a new one. It returns where the old one is.
func Anew(dir string, now time.Time) (s *Store, kept string, err error) {
	kept = filepath.Join(dir, "boundcrate.damaged-"+now.Format("20060102-150405")+".db")
	for _, end := range []string{"", "-wal", "-shm"} {
		if rerr := os.Rename(filepath.Join(dir, fileName+end), kept+end); rerr != nil && !errors.Is(rerr, fs.ErrNotExist) {
			return nil, "", rerr
		}
	}
	s, err = Open(dir)
	return s, kept, err
}

func connect(dsn string, most int) (*gorm.DB, error) {
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{Logger: logger.Discard, PrepareStmt: true, SkipDefaultTransaction: true})
	if err != nil {
		return nil, err
	}
	raw, err := db.DB()
	if err != nil {
		return nil, err
	}
	raw.SetMaxOpenConns(most)
	return db, nil
}

func closeDB(db *gorm.DB) error {
	raw, err := db.DB()
	if err != nil {
		return err
	}
	return raw.Close()
}

// Readers bounds how many queries run at once; of fewer than there are, one that held its rows
// open while it asks another would wait for itself.
func (s *Store) Readers(most int) { s.raw().SetMaxOpenConns(most) }

// Ping asks the database whether it answers.
func (s *Store) Ping(ctx context.Context) error {
	var one int
	return s.raw().QueryRowContext(ctx, "SELECT 1").Scan(&one)
}

// Dir is the data folder.
func (s *Store) Dir() string { return s.dir }

// Journals is the folder of what is being written into documents.
func (s *Store) Journals() string { return filepath.Join(s.dir, "writing") }

// Close closes the database.
func (s *Store) Close() error { return errors.Join(closeDB(s.read), closeDB(s.db)) }

// raw is the pool of readers, writer that of the one writer, for prepared
// statements.
func (s *Store) raw() *sql.DB {
	db, _ := s.read.DB() // it is open
	return db
}

// tx runs f in one transaction of the writer.
func (s *Store) tx(f func(*sql.Tx) error) error {
	tx, err := s.writer().Begin()
	if err != nil {
		return err
	}
	defer tx.Rollback() // of a committed one it does nothing
	if err := f(tx); err != nil {
		return err
	}
	return tx.Commit()
}

func (s *Store) writer() *sql.DB {
	db, _ := s.db.DB()
	return db
}

// The migrations bring a database from version n-1 to n. They are never changed
// once they were released, only added to.
//
//go:embed migrations/*.sql
var migrations embed.FS

// ErrNewer: the database was made by a later version of the application.
var ErrNewer = errors.New("it was made by a later version of Bound Crate")

// keepBefore keeps a copy of a database of an earlier version beside it, before it is changed.
func keepBefore(raw *sql.DB, path string, version int) error {
	kept := fmt.Sprintf("%s.version-%d", path, version)
	if err := os.Remove(kept); err != nil && !errors.Is(err, fs.ErrNotExist) { // of a migration that was broken off
		return err
	}
	if _, err := raw.Exec("VACUUM INTO ?", kept); err != nil {
		return fmt.Errorf("its earlier state cannot be kept as ‘%s’: %w", kept, err)
	}
	return nil
}

func migrate(db *gorm.DB, path string) error {
	var version int
	if err := db.Raw("PRAGMA user_version").Scan(&version).Error; err != nil {
		return err
	}
	list, err := migrations.ReadDir("migrations")
	if err != nil {
		return err
	}
	if version > len(list) {
		return ErrNewer
	}
	raw, err := db.DB()
	if err != nil {
		return err
	}
	if version > 0 && version < len(list) {
		if err := keepBefore(raw, path, version); err != nil {
			return err
		}
	}
	for ; version < len(list); version++ {
		text, err := migrations.ReadFile("migrations/" + list[version].Name())
		if err != nil {
			return err
		}
		tx, err := raw.Begin()
		if err != nil {
			return err
		}
		if _, err := tx.Exec(string(text) + fmt.Sprintf("\nPRAGMA user_version = %d;", version+1)); err != nil {
			return errors.Join(fmt.Errorf("%s: %w", list[version].Name(), err), tx.Rollback())
		}
		if err := tx.Commit(); err != nil {
			return err
		}
	}
	return nil
}

// forgotten tells what was to be kept of a project that was forgotten meanwhile.
func forgotten(err error) error {
	var code interface{ Code() int }
	if errors.As(err, &code) && code.Code() == sqlite3.SQLITE_CONSTRAINT_FOREIGNKEY {
		return ErrNotFound
	}
	return err
}

// scan reads the columns of a row.
type scan func(columns ...any) error

// each calls one for every row that a query gives, to read it. The query ends before each does:
// one asks nothing meanwhile, since it may wait for ever for a connection.
func (s *Store) each(query string, args []any, one func(scan) error) error {
	rows, err := s.raw().Query(query, args...)
	return through(rows, err, one)
}

// every is each for a statement that was prepared.
func every(st *sql.Stmt, args []any, one func(scan) error) error {
	rows, err := st.Query(args...)
	return through(rows, err, one)
}

func through(rows *sql.Rows, err error, one func(scan) error) error {
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := one(rows.Scan); err != nil {
			return err
		}
	}
	return rows.Err()
}

// together is how many rows one statement inserts.
const together = 100

// many inserts a list of rows in one transaction, a hundred with each statement.
// The statement holds one row's marks: VALUES (?,?).
func (s *Store) many(before func(*sql.Tx) error, statement string, n int, row func(i int) []any) error {
	tx, err := s.writer().Begin()
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if before != nil {
		if err := before(tx); err != nil {
			return err
		}
	}
	at := strings.Index(statement, "VALUES (") + len("VALUES ")
	marks := statement[at : at+strings.IndexByte(statement[at:], ')')+1]
	for size := together; size > 0; size /= together {
		if n < size {
			continue
		}
		st, err := tx.Prepare(statement[:at] + strings.Repeat(marks+",", size-1) + statement[at:])
		if err != nil {
			return err
		}
		defer st.Close()
		from := 0
		if size == 1 {
			from = n - n%together
		}
		args := make([]any, 0, size*strings.Count(marks, "?"))
		for i := from; i+size <= n; i += size {
			args = args[:0]
			for k := range size {
				args = append(args, row(i+k)...)
			}
			if _, err := st.Exec(args...); err != nil {
				return forgotten(err)
			}
		}
	}
	return tx.Commit()
}
