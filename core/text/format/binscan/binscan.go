// Package binscan finds strings in binary documents: runs of text whose length
// stands before them, in one byte or in two or four of either order, or which a NUL
// ends. What they mean is for the formats.
package binscan

import (
	"encoding/binary"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// Longest is how many bytes of a string are believed.
const Longest = 1024

// Each tells every string of a document that a count or a NUL bounds, as the
// document spells it (UTF-8, windows-1252 or UTF-16LE), with the byte it begins at. Of
// strings that could be meant at a place, take is asked until it takes one.
func Each(b []byte, take func(at int, s string) bool) {
	for i := 0; i < len(b); {
		if !Printable(b[i]) {
			i++
			continue
		}
		from := i
		if i+1 < len(b) && b[i+1] == 0 {
			if units, to := Wide(b, i); len(units) > 1 {
				i = to
				if s := string(utf16.Decode(units)); Ended(b, to, 2) || LengthBefore(b, from, len(units)) || LengthBefore(b, from, 2*len(units)) {
					take(from, s)
				}
				continue
			}
		}
		run, to, letters := Narrow(b, i)
		if i = max(to, from+1); to-from > 4*Longest {
			continue
		}
		if !letters && countedIn(b, from, to, take) {
			continue
		}
		if Ended(b, to, 1) || LengthBefore(b, from, to-from) {
			take(from, run)
		}
	}
}

// countedIn tells the strings of a run that a number before them counts; the byte
// that ends the number may itself look like text.
func countedIn(b []byte, from, to int, take func(int, string) bool) bool {
	for skip := range 2 {
		at := from + skip
		for _, n := range Lengths(b, at) {
			if n > 0 && n <= min(Longest, to-at) && utf8.Valid(b[at:at+n]) && take(at, string(b[at:at+n])) {
				return true
			}
		}
	}
	return false
}

// Lengths are the numbers that may stand before a place, 0 where there is none.
func Lengths(b []byte, at int) (list [5]int) {
	if at >= 1 {
		list[0] = int(b[at-1])
	}
	if at >= 2 {
		list[1], list[2] = int(binary.LittleEndian.Uint16(b[at-2:])), int(binary.BigEndian.Uint16(b[at-2:]))
	}
	if at >= 4 {
		list[3], list[4] = int(binary.LittleEndian.Uint32(b[at-4:])), int(binary.BigEndian.Uint32(b[at-4:]))
	}
	return list
}

// isWide tells that text of two bytes a letter begins: three of them, as one
// byte that ends a name may be followed by a small number.
func isWide(b []byte) bool {
	return len(b) > 5 && b[1] == 0 && b[2] >= 0x20 && b[3] == 0 && b[4] >= 0x20 && b[5] == 0
}

// Printable tells bytes that may stand in text.
func Printable(c byte) bool { return c >= 0x20 && c != 0x7F }

// Wide reads text of two bytes a letter from a place.
func Wide(b []byte, i int) (units []uint16, to int) {
	for i+1 < len(b) && (b[i+1] == 0 && Printable(b[i]) || b[i+1] != 0 && b[i+1] < 0xE0 && len(units) > 0 && b[i] != 0 && !Printable(b[i+1])) {
		units = append(units, uint16(b[i])|uint16(b[i+1])<<8)
		i += 2
	}
	return units, i
}

// Narrow reads text of one byte a letter, or UTF-8, from a place. letters tells
// that some of it could only be read in windows-1252.
func Narrow(b []byte, from int) (run string, to int, letters bool) {
	i := from
	for i < len(b) && Printable(b[i]) && !(i > from && isWide(b[i:])) {
		_, n := utf8.DecodeRune(b[i:])
		if n == 1 && b[i] >= 0x80 {
			// A letter with an accent between two others, as programs of one byte a
			// letter write it: no text else.
			if b[i] < 0xC0 || i == from || i+1 == len(b) || !letter(b[i-1]) || !letter(b[i+1]) {
				break
			}
			letters = true
		}
		i += n
	}
	if letters {
		text, _ := charmap.Windows1252.NewDecoder().Bytes(b[from:i])
		return string(text), i, true
	}
	return string(b[from:i]), i, false
}

func letter(c byte) bool {
	return c|0x20 >= 'a' && c|0x20 <= 'z' || c >= 0xC0 || strings.IndexByte(" _-./\\", c) >= 0
}

// Ended tells that a string ends at a place: at the end, or with a NUL of so
// many bytes.
func Ended(b []byte, at, size int) bool {
	for k := at; k < min(at+size, len(b)); k++ {
		if b[k] != 0 {
			return false
		}
	}
	return true
}

// LengthBefore tells that the number n stands right before a place, in one, two
// or four bytes of either order.
func LengthBefore(b []byte, at, n int) bool {
	for _, l := range Lengths(b, at) {
		if l == n {
			return true
		}
	}
	return false
}
