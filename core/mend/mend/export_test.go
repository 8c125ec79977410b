package mend

import (
	"slices"

	"boundcrate/core/media/facts"
	"boundcrate/core/text/names"
)

// Assign is for tests outside the package.
var Assign = assign

// Likeness is for tests outside the package.
var Likeness = likeness

// RenamingOf is for tests outside the package.
var RenamingOf = renamingOf

// Calibrated is for tests outside the package.
var Calibrated = calibrated

// Relation tells tests outside the package how a name is like a wanted one, and what is
// other about it; "" where it is not offered.
func Relation(wanted, name string) (code Code, more []Code) {
	s := &search{spelled: spell(wanted), w: &Wanted{}, dir: "/gone/harbour"}
	is := spell(name)
	switch {
	case wanted == name:
		code = Name
	case is.stem == s.stem && is.ext == s.ext:
		code = NameParted
	default:
		s.w.Kind = facts.KindOfName(wanted)
		e, ok := s.resembles(name, &is)
		if !ok {
			return "", nil
		}
		code = e.Code
	}
	c := &Candidate{Path: "/there/" + name}
	s.named(c)
	return code, c.Codes()
}

// SameParts tells tests outside the package that two stems are read alike.
func SameParts(a, b string) bool {
	return slices.Equal(spell(a+".x").parts, spell(b+".x").parts)
}

// Compact is for tests outside the package.
func Compact(stem string) string {
	text, _ := compact(names.Loose(stem), nil, nil)
	return string(text)
}
