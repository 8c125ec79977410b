package store

import (
	"errors"

	sqlite3 "modernc.org/sqlite/lib"
)

// Trouble is why the database cannot be used at present, though it is sound.
type Trouble string

// The troubles.
const (
	NoTrouble  Trouble = ""
	Locked     Trouble = "locked"     // another program holds it for longer than is waited
	Full       Trouble = "full"       // its disk has no room
	Unwritable Trouble = "unwritable" // its folder cannot be written, or read
)

// TroubleOf tells whether an error is one of those.
func TroubleOf(err error) Trouble {
	var code interface{ Code() int }
	if !errors.As(err, &code) {
		return NoTrouble
	}
	switch code.Code() & 0xFF {
	case sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED:
		return Locked
	case sqlite3.SQLITE_FULL:
		return Full
	case sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_IOERR, sqlite3.SQLITE_PERM:
		return Unwritable
	}
	return NoTrouble
}
