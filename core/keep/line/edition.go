// Package line keeps editions: the state of all of a project's own documents together, with a note. The
// store is open: plain zstd files by their SHA-256, and one line of JSON for each edition (docs/editions.md).
package line

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
)

// By is what an edition was made by.
type By string

// What makes editions.
const (
	Hand          By = "hand"
	Interval      By = "interval"
	BeforeWriting By = "before-writing"
	BeforeRestore By = "before-restore"
	Sealing       By = "sealing"
	TakenIn       By = "taken-in" // a save that somebody numbered by hand
)

// Edition is one state of a project's documents. It is one line of JSON.
type Edition struct {
	ID   int       `json:"id"`
	From int       `json:"from"` // the edition it came from; 0 of the first
	Line string    `json:"line"` // "1" is the first; alternatives have the next numbers
	By   By        `json:"by"`
	At   time.Time `json:"at"`
	Note string    `json:"note,omitempty"`
	// Root is the project's folder at that time, Given the documents that were given; Places the same by
	// drive, where it is known.
	Root      string     `json:"root"`
	Given     []string   `json:"given"`
	Places    []string   `json:"places,omitempty"`
	Documents []Document `json:"documents"`
	Outside   []Document `json:"outside,omitempty"` // outside the root: listed, not kept
	Material  Material   `json:"material"`
	Since     *Since     `json:"since,omitempty"` // what changed since From; nil where that cannot be told
	Sealed    []Sealed   `json:"-"`               // crates that were sealed from it
}

// Document is a document of an edition.
type Document struct {
	Path     string    `json:"path"` // from the root, with slashes; of one outside absolute
	SHA256   string    `json:"sha256"`
	Bytes    int64     `json:"bytes"`
	Mode     uint32    `json:"mode,omitempty"` // its permissions
	Modified time.Time `json:"modified"`
}

// Material is what the documents named: how much was there, and under which digest the list of it is kept.
type Material struct {
	Files  int    `json:"files"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256,omitempty"` // "" where the documents could not be traced
}

// Since counts what came, went and changed since the edition that one came from.
type Since struct {
	Came      int `json:"came"`
	Went      int `json:"went"`
	Changed   int `json:"changed"`
	Documents int `json:"documents"` // changed, come or gone
}

// Sealed is a crate that was sealed from an edition.
type Sealed struct {
	Edition int       `json:"sealed"`
	Crate   string    `json:"crate"`
	At      time.Time `json:"at"`
}

// moved says that another edition is the current one since.
type moved struct {
	Current int       `json:"current"`
	At      time.Time `json:"at"`
}

// noted gives an edition another note.
type noted struct {
	Noted int    `json:"noted"`
	Note  string `json:"note"`
}

// thinned are numbers that stand for nothing any more. They are not given again.
type thinned struct {
	Thinned []int `json:"thinned"`
}

// checkAt begins what ends every line: the SHA-256 of all before it.
const checkAt = `,"check":"`

const checkLength = len(checkAt) + 2*sha256.Size + len(`"}`)

var errLine = errors.New("a line of the edition store is damaged")

// seal makes a line of a value.
func seal(v any) ([]byte, error) {
	b, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	b = b[:len(b)-1]
	sum := sha256.Sum256(b)
	return fmt.Appendf(b, "%s%x\"}\n", checkAt, sum), nil
}

// unseal reads a line; one bit that is another is errLine.
func unseal(line []byte) ([]byte, error) {
	n := len(line) - checkLength
	if n < 1 || !bytes.HasPrefix(line[n:], []byte(checkAt)) {
		return nil, errLine
	}
	sum := sha256.Sum256(line[:n])
	if hex.EncodeToString(sum[:]) != string(line[n+len(checkAt):len(line)-2]) {
		return nil, errLine
	}
	return append(slices.Clone(line[:n]), '}'), nil
}

// Line is all that is kept of a project.
type Line struct {
	key      string
	Editions []Edition // oldest first
	Current  int       // the edition the documents came from last; 0 where there is none
	Damaged  int       // lines that cannot be read: as many editions, notes or moves are lost
	spent    int       // the highest number ever given
}

// Edition is the one of a number.
func (l *Line) Edition(id int) (*Edition, bool) {
	for i := range l.Editions {
		if l.Editions[i].ID == id {
			return &l.Editions[i], true
		}
	}
	return nil, false
}

// Last is the youngest edition; nil where there is none.
func (l *Line) Last() *Edition {
	if len(l.Editions) == 0 {
		return nil
	}
	return &l.Editions[len(l.Editions)-1]
}

// read takes in the lines of a file.
func (l *Line) read(text []byte) {
	type any struct {
		ID      int   `json:"id"`
		Current int   `json:"current"`
		Noted   int   `json:"noted"`
		Sealed  int   `json:"sealed"`
		Thinned []int `json:"thinned"`
	}
	n := 0
	for text := range bytes.Lines(text) {
		n++
		if !bytes.HasSuffix(text, []byte("\n")) {
			continue // its writing was ended in the middle: nobody was told that it is kept
		}
		b, err := unseal(bytes.TrimSuffix(text, []byte("\n")))
		var is any
		if err != nil || json.Unmarshal(b, &is) != nil {
			l.Damaged++
			continue
		}
		switch {
		case is.ID > 0:
			var e Edition
			if json.Unmarshal(b, &e) == nil {
				l.Editions, l.Current, l.spent = append(l.Editions, e), e.ID, max(l.spent, e.ID)
			}
		case is.Noted > 0:
			var x noted
			if e, ok := l.Edition(is.Noted); ok && json.Unmarshal(b, &x) == nil {
				e.Note = x.Note
			}
		case is.Sealed > 0:
			var x Sealed
			if e, ok := l.Edition(is.Sealed); ok && json.Unmarshal(b, &x) == nil {
				e.Sealed = append(e.Sealed, x)
			}
		case is.Current > 0:
			l.Current = is.Current
		case len(is.Thinned) > 0:
			l.spent = max(l.spent, slices.Max(is.Thinned))
		}
	}
	l.spent = max(l.spent, len(l.Editions)+l.Damaged)
	if _, ok := l.Edition(l.Current); !ok && len(l.Editions) > 0 {
		l.Current = l.Last().ID // the one that was current is damaged
	}
}

// names tells that an edition is of a project: all of some documents were given to it.
func (e *Edition) names(docs []string, drives []drive.Drive) bool {
	return !slices.ContainsFunc(docs, func(d string) bool { return e.given(d, drives) < 0 })
}

// given is which of the documents that were given one is; −1: none. On a drive that is known it is the one
// at the same place there, wherever the drive is now; else the one of the same path.
func (e *Edition) given(doc string, drives []drive.Drive) int {
	at := drive.At(drives, doc)
	for i, p := range e.Given {
		if i < len(e.Places) {
			place := drive.ParsePath(e.Places[i])
			if slices.ContainsFunc(drives, func(d drive.Drive) bool { return place.Drive != "" && d.ID == place.Drive }) {
				if place == at {
					return i
				}
				continue
			}
		}
		if p == doc {
			return i
		}
	}
	return -1
}

// Stands is where the project of an edition stands now, of which one document is known: its folder, and all
// documents that were given.
func (e *Edition) Stands(doc string, drives []drive.Drive) (root string, given []string) {
	i := e.given(doc, drives)
	if i < 0 {
		return e.Root, e.Given
	}
	rel, err := filepath.Rel(e.Root, e.Given[i])
	root, ok := strings.CutSuffix(doc, string(filepath.Separator)+rel)
	if err != nil || !ok {
		return e.Root, e.Given
	}
	for _, p := range e.Given {
		if rel, err := filepath.Rel(e.Root, p); err == nil && filepath.IsLocal(rel) {
			p = filepath.Join(root, rel)
		}
		given = append(given, p)
	}
	return root, given
}
