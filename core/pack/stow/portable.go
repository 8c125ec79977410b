package stow

import (
	"path"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// maxName is the longest name every common system takes, in bytes.
const maxName = 255

// Portable makes one name survive any system: reserved characters and names
// (Windows naming rules, FAT32), control characters, trailing dots and spaces,
// Unicode NFC, at most 255 bytes. The percent sign goes too: a bag's manifest
// must escape it (RFC 8493 §2.1.3), and then sha256sum would not find the file.
// The extension is kept.
func Portable(name string) string {
	if plain(name) {
		return name
	}
	if !utf8.ValidString(name) {
		name = strings.ToValidUTF8(name, "_")
	}
	name = norm.NFC.String(name)
	name = strings.Map(func(r rune) rune {
		if r < 0x20 || r == 0x7F || strings.ContainsRune(`<>:"/\|?*%`, r) {
			return '_'
		}
		return r
	}, name)
	if t := strings.TrimRight(name, ". "); t != name {
		name = t + "_"
	}
	if strings.HasPrefix(name, " ") {
		name = "_" + strings.TrimLeft(name, " ")
	}
	stem, _, _ := strings.Cut(name, ".")
	if reserved(stem) {
		name = stem + "_" + name[len(stem):]
	}
	if len(name) > maxName {
		ext := path.Ext(name)
		if len(ext) > 32 {
			ext = ""
		}
		cut := name[:maxName-len(ext)]
		for !utf8.ValidString(cut) {
			cut = cut[:len(cut)-1]
		}
		name = cut + ext
	}
	return name
}

// plain tells names of which nothing has to be changed at a glance: most are.
func plain(name string) bool {
	if len(name) == 0 || len(name) > maxName || name[0] == ' ' {
		return false
	}
	stem := len(name)
	for i := 0; i < len(name); i++ {
		switch c := name[i]; {
		case c < 0x20 || c >= 0x7F || strings.IndexByte(`<>:"/\|?*%`, c) >= 0:
			return false
		case c == '.' && stem == len(name):
			stem = i
		}
	}
	last := name[len(name)-1]
	return stem > 4 && last != '.' && last != ' '
}

func reserved(stem string) bool {
	s := strings.ToUpper(strings.TrimRight(stem, " "))
	switch s {
	case "CON", "PRN", "AUX", "NUL":
		return true
	}
	return len(s) == 4 && (s[:3] == "COM" || s[:3] == "LPT") && s[3] >= '1' && s[3] <= '9'
}

// portableDir makes each folder of a path portable.
func portableDir(dir string) string {
	if dir == "" {
		return ""
	}
	parts := strings.Split(dir, "/")
	for i, p := range parts {
		parts[i] = Portable(p)
	}
	return strings.Join(parts, "/")
}
