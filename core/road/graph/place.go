// Package graph is what a trace found, as plain data: no texts, no open files,
// no functions. It can be stored, sent, compared and searched from both ends.
package graph

import (
	"path/filepath"
	"strconv"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/text/mention"
)

// State is where a file stands.
type State string

// The states, in the words of the command line's contract.
const (
	Here       State = "here"       // inside the project folder
	Away       State = "away"       // found outside it
	Missing    State = "missing"    // not found
	Unplugged  State = "unplugged"  // on a known drive that is not connected
	Twins      State = "twins"      // more than one file could be meant
	Unsaved    State = "unsaved"    // a place kept for a file never written
	Inside     State = "inside"     // the bytes are in the document itself
	Unreadable State = "unreadable" // found, and not to be read
)

// Found tells states that have a file to carry.
func (s State) Found() bool { return s == Here || s == Away }

// Why is the reason of a state, as a code.
type Why string

// The reasons.
const (
	OnNetwork     Why = "on-network"     // an address on the network, not fetched
	NotInPackage  Why = "not-in-package" // the package that names it does not hold it
	LacksMember   Why = "lacks-member"   // the package is there, and the part that is meant is not in it
	OtherContent  Why = "other-content"  // another spelling is there, with other content than when last seen
	OutsideDrives Why = "outside-drives"
	Denied        Why = "permission-denied"
	LinkLoop      Why = "link-loop"    // a link that leads to itself
	IsFolder      Why = "is-folder"    // a folder stands there
	IsSpecial     Why = "is-special"   // a pipe, socket or device stands there
	OtherSystem   Why = "other-system" // a path of another system
	Damaged       Why = "damaged"      // it is there and makes no sense as what it is
	Failed        Why = "failed"       // the system could not read it
)

// Place is where a mention leads. Mentions that say the same share one.
type Place struct {
	State    State
	Why      Why
	Path     string     // the file, absolute; empty unless one was found
	Files    []string   // of a sequence, or the twins
	Sizes    []int64    // of Files of a sequence
	Gaps     []Gap      // of a sequence, rising
	Expected string     // the first place the name means; a Pattern for sequences
	Also     []string   // of what is missing, further places the name may mean
	Info     drive.Info // of Path
	Loose    bool       // found under another spelling of the same name
	Repaired bool       // found through a repair
	Search   string     // the search folder it was found through; "" through none
}

// Network tells an address on the network, which is not fetched.
func (p *Place) Network() bool { return p.Why == OnNetwork }

// Target is what several references may share: the file, the pattern of a
// sequence, or the place that is expected; "" for none of them.
func (p *Place) Target() string {
	if p.Path != "" {
		return p.Path
	}
	return p.Expected
}

// Lacks is how many numbers a sequence lacks.
func (p *Place) Lacks() (n int) {
	for _, g := range p.Gaps {
		n += g.Len()
	}
	return n
}

// Gap is a run of numbers that a sequence lacks: First, First+Step … Last.
type Gap struct{ First, Last, Step int }

// Len is how many numbers the gap holds.
func (g Gap) Len() int { return (g.Last-g.First)/g.Step + 1 }

// Tiles of a grid are numbers beyond any frame: GridBase + v×GridRow + u.
const (
	GridBase = 1 << 41
	GridRow  = 10_000
)

// Label is a number as people read it: a frame's, or a tile's "u3_v1".
func Label(n int) string {
	if n < GridBase {
		return strconv.Itoa(n)
	}
	n -= GridBase
	return "u" + strconv.Itoa(n%GridRow) + "_v" + strconv.Itoa(n/GridRow)
}

// tile reads a label of the grid.
func tile(s string) (int, bool) {
	a, b, ok := strings.Cut(s, "_v")
	a, isU := strings.CutPrefix(a, "u")
	u, err := strconv.Atoi(a)
	v, err2 := strconv.Atoi(b)
	n := GridBase + v*GridRow + u
	return n, ok && isU && err == nil && err2 == nil && u > 0 && v > 0 && u < GridRow && v < GridRow && Label(n) == s
}

// Numbers lists the numbers of gaps, or ok false when there are more than most.
func Numbers(gaps []Gap, most int) (ns []int, ok bool) {
	ns = []int{}
	for _, g := range gaps {
		if g.Len() > most-len(ns) {
			return nil, false
		}
		for n := g.First; n <= g.Last; n += g.Step {
			ns = append(ns, n)
		}
	}
	return ns, true
}

// Pattern is the place of a sequence: the files Dir/Head NUMBER Tail, the
// number zero-padded to Digits. Its text form, with the number of digits in
// angle brackets, is what repairs and places of sequences are keyed by:
// /film/sunrise/sun.<4>.png.
type Pattern struct {
	Dir, Head, Tail string
	Digits          int
}

func (p Pattern) String() string {
	return filepath.Join(p.Dir, p.Head+"<"+DigitsWord(p.Digits)+">"+p.Tail)
}

// DigitsWord is what stands in the brackets of a pattern's text form.
func DigitsWord(digits int) string {
	if digits == mention.Grid {
		return "u_v"
	}
	return strconv.Itoa(digits)
}

// Shown is the pattern's name for people and documents: sun.####.png.
func (p Pattern) Shown() string {
	if p.Digits == mention.Grid {
		return p.Head + "u#_v#" + p.Tail
	}
	return p.Head + strings.Repeat("#", p.Digits) + p.Tail
}

// Name is the file name of one number.
func (p Pattern) Name(n int) string {
	if p.Digits == mention.Grid {
		return p.Head + Label(n) + p.Tail
	}
	sign := ""
	if n < 0 {
		sign, n = "-", -n
	}
	s := strconv.Itoa(n)
	return p.Head + sign + strings.Repeat("0", max(0, p.Digits-len(s))) + s + p.Tail
}

// ParsePattern reads the text form.
func ParsePattern(s string) (Pattern, bool) {
	dir, base := filepath.Split(s)
	open := strings.LastIndexByte(base, '<')
	if open < 0 {
		return Pattern{}, false
	}
	num, tail, ok := strings.Cut(base[open+1:], ">")
	digits, err := strconv.Atoi(num)
	if num == DigitsWord(mention.Grid) {
		return Pattern{filepath.Clean(dir), base[:open], tail, mention.Grid}, ok
	}
	if !ok || err != nil || digits < 0 {
		return Pattern{}, false
	}
	return Pattern{filepath.Clean(dir), base[:open], tail, digits}, true
}

// Shown is a place for people: of a sequence, its path with number signs.
func Shown(place string) string {
	if p, ok := ParsePattern(place); ok {
		return filepath.Join(p.Dir, p.Shown())
	}
	return place
}

// Number reads the number of a file name of the pattern.
func (p Pattern) Number(name string) (int, bool) {
	mid, ok := strings.CutPrefix(name, p.Head)
	if !ok {
		return 0, false
	}
	if mid, ok = strings.CutSuffix(mid, p.Tail); !ok || mid == "" {
		return 0, false
	}
	if p.Digits == mention.Grid {
		return tile(mid)
	}
	digits := strings.TrimPrefix(mid, "-")
	if digits == "" || len(digits) > 12 || len(digits) < p.Digits || len(digits) > max(1, p.Digits) && digits[0] == '0' {
		return 0, false
	}
	for _, c := range []byte(digits) {
		if c < '0' || c > '9' {
			return 0, false
		}
	}
	n, err := strconv.Atoi(mid)
	return n, err == nil
}

// HeadOf returns what stands before the number in a file name of a pattern
// with the same tail and number of digits.
func (p Pattern) HeadOf(name string) (string, bool) {
	rest, ok := strings.CutSuffix(name, p.Tail)
	if !ok {
		return "", false
	}
	if p.Digits == mention.Grid {
		i := strings.LastIndexByte(rest, 'u')
		if i < 0 {
			return "", false
		}
		_, ok := tile(rest[i:])
		return rest[:i], ok
	}
	i := len(rest)
	for i > 0 && rest[i-1] >= '0' && rest[i-1] <= '9' {
		i--
	}
	digits := len(rest) - i
	if digits == 0 || digits < p.Digits {
		return "", false
	}
	return strings.TrimSuffix(rest[:i], "-"), true
}
