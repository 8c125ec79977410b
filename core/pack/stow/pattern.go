package stow

import (
	"fmt"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
)

// Tokens are what a pattern may hold in braces; n may have a width after a colon.
var Tokens = []string{"kind", "document", "owner", "folder", "origin", "name", "n", "date"}

// PatternError is a pattern that cannot be followed, with its column, counted in
// characters from 1.
type PatternError struct {
	Column int
	Code   PatternCode
	Word   string
}

// PatternCode is what is wrong with a pattern.
type PatternCode string

// The codes.
const (
	NoToken     PatternCode = "no-token"     // no such token
	NotClosed   PatternCode = "not-closed"   // a brace that nothing closes, or that closes nothing
	BadWidth    PatternCode = "bad-width"    // of a number: 1 to 9
	NoFileName  PatternCode = "no-file-name" // it ends with a slash, or is empty
	LeadsOut    PatternCode = "leads-out"    // a folder called . or .., or none
	NothingOwn  PatternCode = "nothing-own"  // the name holds neither {name} nor {n}: all would be one
	WrongLetter PatternCode = "wrong-letter" // one that no name has
)

func (e *PatternError) Error() string {
	return fmt.Sprintf("column %d: %s %q", e.Column, e.Code, e.Word)
}

// piece is text or a token of a pattern.
type piece struct {
	text  string
	token string
	width int
}

// IsPattern tells a layout that is a pattern from those with a name.
func (l Layout) IsPattern() bool { return !slices.Contains(Layouts, l) }

// parsePattern reads "{kind}/{n:3} {name}": folders and a name without extension.
func parsePattern(text string) (segments [][]piece, err error) {
	column := func(i int) int { return len([]rune(text[:i])) + 1 }
	fail := func(i int, code PatternCode, word string) ([][]piece, error) {
		return nil, &PatternError{column(i), code, word}
	}
	at := []piece{}
	begin := 0
	own := false
	close := func(i int) error {
		if s := text[begin:i]; strings.TrimSpace(s) == "" || s == "." || s == ".." {
			return &PatternError{column(begin), LeadsOut, s}
		}
		segments, at, begin, own = append(segments, at), []piece{}, i+1, false
		return nil
	}
	if strings.TrimSpace(text) == "" || strings.HasSuffix(text, "/") {
		return fail(len(text), NoFileName, "")
	}
	for i := 0; i < len(text); {
		switch c := text[i]; {
		case c == '/':
			if err := close(i); err != nil {
				return nil, err
			}
			i++
		case c == '{':
			end := strings.IndexByte(text[i:], '}')
			if end < 0 {
				return fail(i, NotClosed, text[i:])
			}
			name, width, has := strings.Cut(text[i+1:i+end], ":")
			p := piece{token: name, width: 1}
			if !slices.Contains(Tokens, name) {
				return fail(i, NoToken, text[i:i+end+1])
			}
			if has {
				n, err := strconv.Atoi(width)
				if name != "n" || err != nil || n < 1 || n > 9 {
					return fail(i, BadWidth, text[i:i+end+1])
				}
				p.width = n
			}
			own = own || name == "name" || name == "n"
			at = append(at, p)
			i += end + 1
		case c == '}':
			return fail(i, NotClosed, "}")
		case c == '\\' || c < ' ':
			return fail(i, WrongLetter, text[i:i+1])
		default:
			n := strings.IndexAny(text[i:], "/{}\\")
			if n < 0 {
				n = len(text) - i
			}
			at = append(at, piece{text: text[i : i+n]})
			i += n
		}
	}
	if !own {
		return fail(begin, NothingOwn, text[begin:])
	}
	if err := close(len(text)); err != nil {
		return nil, err
	}
	return segments, nil
}

// CheckLayout tells whether a layout can be followed; the error is a *PatternError.
func CheckLayout(l Layout) error {
	if !l.IsPattern() {
		return nil
	}
	_, err := parsePattern(string(l))
	return err
}

// patterned is where a pattern puts a file, the nth of the crate. Its extension stays.
func (p *planner) patterned(id graph.FileID, file string, kindFolder string, n int) (dir, name string) {
	f := &p.Graph.Files[id]
	stem, ext := names.Split(path.Base(filepath.ToSlash(file)))
	document, owner := "", ""
	if len(f.Refs) > 0 {
		r := &p.Graph.References[f.Refs[0]]
		document, _ = names.Split(filepath.Base(p.Graph.Documents[r.Doc].Path))
		owner = r.Owner
	}
	value := func(t piece) string {
		switch t.token {
		case "kind":
			return kindFolder
		case "document":
			return document
		case "owner":
			return owner
		case "folder":
			return filepath.Base(filepath.Dir(file))
		case "origin":
			return string(p.Judged.File(p.Graph, id).Origin)
		case "name":
			return stem
		case "n":
			return fmt.Sprintf("%0*d", t.width, n)
		case "date":
			if f.Stamp.Mod == 0 {
				return "no date"
			}
			return time.Unix(0, f.Stamp.Mod).UTC().Format(time.DateOnly)
		}
		return t.text
	}
	said := make([]string, len(p.pattern))
	for i, segment := range p.pattern {
		var b strings.Builder
		for _, t := range segment {
			b.WriteString(strings.NewReplacer("/", "_", "\\", "_").Replace(value(t)))
		}
		if said[i] = strings.TrimSpace(b.String()); said[i] == "" || strings.Trim(said[i], ".") == "" {
			said[i] = "_"
		}
	}
	last := len(said) - 1
	return path.Join(said[:last]...), said[last] + ext
}
