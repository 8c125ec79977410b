package mend

import (
	"path/filepath"
	"regexp"
	"strings"

	"boundcrate/core/text/names"
)

// Habit is one manner in which files are renamed.
type Habit string

// The habits.
const (
	Kept      Habit = ""          // not at all
	Before    Habit = "before"    // From, before the name, became To
	After     Habit = "after"     // From, after the name, became To
	Within    Habit = "within"    // From, in the name, became To
	Dated     Habit = "dated"     // a date before the name came or went
	Numbered  Habit = "numbered"  // a number before the name came or went
	Padded    Habit = "padded"    // its numbers have other leading zeros
	Respelled Habit = "respelled" // letter case, or what parts its words
)

// Renaming is a transformation of names that many files can have in common: what
// became of the name, and of the extension, with its dot.
type Renaming struct {
	Habit          Habit
	From, To       string
	OldExt, NewExt string // both empty: it is as it was
}

// Same tells that nothing was renamed.
func (r Renaming) Same() bool { return r == Renaming{} }

var (
	dateBefore   = regexp.MustCompile(`^(19|20)\d\d[-_. ]?\d\d[-_. ]?\d\d[-_. ]+`)
	numberBefore = regexp.MustCompile(`^\d{1,4}[-_. ]+`)
)

var numbering = []struct {
	habit Habit
	at    *regexp.Regexp
}{{Dated, dateBefore}, {Numbered, numberBefore}}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// renamingOf tells by which transformation a name became another; ok is false where
// it would be none that other files could share.
func renamingOf(from, to string) (r Renaming, ok bool) {
	if from == to {
		return r, true
	}
	a, extA := names.Split(from)
	b, extB := names.Split(to)
	if extA != extB {
		r.OldExt, r.NewExt = strings.ToLower(extA), strings.ToLower(extB)
		if r.OldExt == r.NewExt {
			r.OldExt, r.NewExt = extA, extB
		}
	}
	switch {
	case a == b:
		return r, true
	case a == "" || b == "":
		return r, false
	}
	for _, p := range numbering {
		if !digit(a[0]) && !digit(b[0]) {
			break
		}
		if withoutMark(p.at, a) == withoutMark(p.at, b) {
			if p.habit == Numbered && p.at.MatchString(a) && p.at.MatchString(b) {
				return r, false // another number is another thing
			}
			r.Habit = p.habit
			return r, true
		}
	}
	switch {
	case strings.HasSuffix(b, a):
		r.Habit, r.To = Before, b[:len(b)-len(a)]
		return r, true
	case strings.HasSuffix(a, b):
		r.Habit, r.From = Before, a[:len(a)-len(b)]
		return r, true
	case strings.HasPrefix(b, a):
		r.Habit, r.To = After, b[len(a):]
		return r, true
	case strings.HasPrefix(a, b):
		r.Habit, r.From = After, a[len(b):]
		return r, true
	case unpadded(a) == unpadded(b):
		r.Habit = Padded
		return r, true
	case names.Loose(a) == names.Loose(b):
		r.Habit = Respelled
		return r, true
	}
	return r.within(a, b)
}

// within takes the words off both ends that two stems share.
func (r Renaming) within(a, b string) (Renaming, bool) {
	n := 0
	for n < min(len(a), len(b)) && a[n] == b[n] {
		n++
	}
	m := 0
	for m < min(len(a), len(b))-n && a[len(a)-1-m] == b[len(b)-1-m] {
		m++
	}
	x, y := a[n:len(a)-m], b[n:len(b)-m]
	if n+m < 3 || digitsOnly(x) && digitsOnly(y) {
		return r, false
	}
	for n > 0 && !strings.ContainsRune(" _-.", rune(a[n-1])) {
		n-- // the word that changed, whole: a letter alone stands in many
	}
	x, y = a[n:len(a)-m], b[n:len(b)-m]
	if len(x) == len(a) || len(y) == len(b) || len(x) > 24 || len(y) > 24 {
		return r, false
	}
	r.Habit, r.From, r.To = Within, x, y
	return r, true
}

func withoutMark(at *regexp.Regexp, s string) string {
	if i := at.FindStringIndex(s); i != nil && i[1] < len(s) {
		return s[i[1]:]
	}
	return s
}

// unpadded takes the zeros before numbers away.
func unpadded(s string) string { return numbers(s, "", true) }

// numbers puts something in the place of each number, or with keep the number
// without its zeros behind it.
func numbers(s, in string, keep bool) string {
	out := make([]byte, 0, len(s)+len(in))
	for i := 0; i < len(s); {
		k := i
		for k < len(s) && s[k] >= '0' && s[k] <= '9' {
			k++
		}
		if k == i {
			out = append(out, s[i])
			i++
			continue
		}
		out = append(out, in...)
		for keep && i < k-1 && s[i] == '0' {
			i++
		}
		if keep {
			out = append(out, s[i:k]...)
		}
		i = k
	}
	return string(out)
}

// Apply gives a name the one that the renaming makes of it; ok is false where it
// cannot be told.
func (r Renaming) Apply(name string) (renamed string, ok bool) {
	stem, ext := names.Split(name)
	switch r.Habit {
	case Kept:
	case Before:
		if !strings.HasPrefix(stem, r.From) {
			return "", false
		}
		stem = r.To + stem[len(r.From):]
	case After:
		if !strings.HasSuffix(stem, r.From) {
			return "", false
		}
		stem = stem[:len(stem)-len(r.From)] + r.To
	case Within:
		if r.From == "" || strings.Count(stem, r.From) != 1 {
			return "", false
		}
		stem = strings.Replace(stem, r.From, r.To, 1)
	default:
		return "", false
	}
	if r.NewExt != "" || r.OldExt != "" {
		if !strings.EqualFold(ext, r.OldExt) {
			return "", false
		}
		ext = r.NewExt
	}
	return stem + ext, stem != ""
}

// otherNumber tells names that are the same but for the value of a number: another
// take, another version, another page.
func otherNumber(a, b string) bool {
	a, _ = names.Split(a)
	b, _ = names.Split(b)
	a, b = names.Loose(a), names.Loose(b)
	return a != b && numbers(a, "#", false) == numbers(b, "#", false) && unpadded(a) != unpadded(b)
}

// tailsShared counts the folders at the ends of two paths that are called alike.
func tailsShared(a, b string) int {
	n := 0
	for n < 8 && names.Fold(filepath.Base(a)) == names.Fold(filepath.Base(b)) && filepath.Base(a) != string(filepath.Separator) {
		a, b = filepath.Dir(a), filepath.Dir(b)
		n++
	}
	return n
}
