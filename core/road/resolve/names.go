package resolve

import (
	"path"
	"path/filepath"
	"strings"

	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
)

// meaning is one way to read the text of a mention as a path.
type meaning struct {
	path   string // absolute; slashes only
	second bool   // not the first way this spelling is read: loosely spelled
	alien  bool   // a path of another system; only a drive's known name can make it ours
}

// meanings lists the ways to read a name, in order. network tells that the
// name is an address on the network and no file.
func meanings(sp mention.Spelling, name, dir string) (ms []meaning, network bool) {
	uri := sp == mention.URI || sp == mention.Pattern
	add := func(p string, second bool) {
		if p == "" {
			return
		}
		m := meaning{path: slashed(p), second: second, alien: isAlien(p)}
		if !m.alien {
			if !strings.HasPrefix(p, "/") {
				p = filepath.Join(dir, p)
			}
			m.path = filepath.Clean(p)
		}
		for _, old := range ms {
			if old.path == m.path {
				return
			}
		}
		ms = append(ms, m)
	}
	// both adds a text and, where it has backslashes, the text with slashes.
	both := func(p string, second bool) {
		add(p, second)
		if strings.Contains(p, `\`) {
			add(slashed(p), second)
		}
	}
	scheme, rest := splitScheme(name)
	switch {
	case scheme == "file":
		p, host := filePath(rest)
		if host != "" {
			p = "//" + host + p
		}
		for _, q := range withoutQuery(p) {
			both(names.Unescape(q), false)
		}
		both(p, true)
		return ms, false
	case scheme != "" && strings.HasPrefix(rest, "//"):
		return nil, true
	case scheme != "" && uri:
		// "mailto:x" or a file called "gull:cry.wav"; the file must be there.
		add("./"+name, true)
		return ms, false
	}
	if uri {
		for _, q := range withoutQuery(name) {
			both(names.Unescape(q), false)
		}
		both(name, true)
	} else {
		both(name, false)
		both(names.Unescape(name), true)
	}
	return ms, false
}

// splitScheme cuts a URI's scheme off (RFC 3986 §3.1). One letter is a drive
// letter of another system and no scheme.
func splitScheme(s string) (scheme, rest string) {
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c == ':' && i > 1:
			return strings.ToLower(s[:i]), s[i+1:]
		case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z':
		case i > 0 && (c >= '0' && c <= '9' || c == '+' || c == '-' || c == '.'):
		default:
			return "", s
		}
	}
	return "", s
}

// filePath reads what follows "file:" (RFC 8089 §2 and appendices E.2, E.3).
// host is empty for this machine.
func filePath(rest string) (p, host string) {
	switch {
	case strings.HasPrefix(rest, "////"): // file:////host/share, appendix E.3.2
		host, p, _ = strings.Cut(strings.TrimLeft(rest, "/"), "/")
		return "/" + p, host
	case strings.HasPrefix(rest, "//"):
		host, p, _ = strings.Cut(rest[2:], "/")
		p = "/" + p
		if strings.EqualFold(host, "localhost") {
			host = ""
		} else if driveLetter(host) { // file://c:/x, a common slip
			return host + p, ""
		}
	default:
		p = rest
	}
	// file:///c:/x and file:///c|/x, appendix E.2
	if q := strings.TrimPrefix(p, "/"); len(q) >= 2 && (driveLetter(q[:2]) || q[1] == '|') {
		p = q[:1] + ":" + q[2:]
	}
	return p, host
}

func driveLetter(s string) bool {
	return len(s) >= 2 && s[1] == ':' && (s[0]|0x20 >= 'a' && s[0]|0x20 <= 'z')
}

// isAlien tells paths with a drive letter or a server name.
func isAlien(p string) bool {
	return driveLetter(p) || strings.HasPrefix(p, `\\`) || strings.HasPrefix(p, "//")
}

func slashed(p string) string { return strings.ReplaceAll(p, `\`, "/") }

// withoutQuery lists a URI reference without its fragment, first with its
// query taken as part of the name, then without it.
func withoutQuery(s string) []string {
	s, _, _ = strings.Cut(s, "#")
	if q, _, ok := strings.Cut(s, "?"); ok {
		return []string{s, q}
	}
	return []string{s}
}

// tail returns the fragment of a URI reference with its number sign.
func fragment(s string) string {
	if i := strings.IndexByte(s, '#'); i >= 0 {
		return s[i:]
	}
	return ""
}

// Manner is an old name as Say shall follow it: where the file that it led to is called
// as the name is written, a number sign in that begins no fragment.
func Manner(old, found string) string {
	if i := strings.IndexByte(old, '#'); i >= 0 && path.Base(slashed(old)) == path.Base(found) {
		return old[:i]
	}
	return old
}

// Say spells a target path for the document in whose folder dir it is written,
// in the manner of the old name: relative names stay relative, absolute ones
// absolute, file: URLs stay file: URLs; a fragment is kept.
func Say(sp mention.Spelling, old, dir, target string) string {
	if sp != mention.URI && sp != mention.Pattern {
		if strings.HasPrefix(old, "/") || isAlien(old) {
			return target
		}
		return relative(dir, target)
	}
	scheme, rest := splitScheme(old)
	switch {
	case scheme == "file":
		prefix := "file://"
		if strings.HasPrefix(strings.ToLower(rest), "//localhost/") {
			prefix = "file://" + rest[2:11]
		}
		return prefix + escape(old, target) + fragment(old)
	case strings.HasPrefix(old, "/") || isAlien(old):
		return escape(old, target) + fragment(old)
	}
	return SayRelative(sp, old, dir, target)
}

// SayRelative spells a target path relative to dir, whatever the old name was.
func SayRelative(sp mention.Spelling, old, dir, target string) string {
	rel := relative(dir, target)
	switch sp {
	case mention.URI, mention.Pattern:
		s := escape(old, rel)
		if first, _, _ := strings.Cut(s, "/"); strings.Contains(first, ":") {
			s = "./" + s // RFC 3986 §4.2: else it would read as a scheme
		}
		return s + fragment(old)
	case mention.Bare:
		return path.Base(rel)
	}
	return rel
}

func relative(dir, target string) string {
	rel, err := filepath.Rel(dir, target)
	if err != nil {
		return target
	}
	return filepath.ToSlash(rel)
}

// escape percent-encodes a path. A text that was written with bare spaces or
// bare letters beyond ASCII, and no escapes, goes on like that: only what would
// otherwise be read as something else is escaped.
func escape(old, p string) string {
	bare := strings.ContainsFunc(old, func(r rune) bool { return r == ' ' || r >= 0x80 }) && names.Unescape(old) == old
	var b strings.Builder
	for i := 0; i < len(p); i++ {
		c := p[i]
		keep := c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || strings.IndexByte("-._~!$&'()*+,;=:@/", c) >= 0
		if bare {
			keep = c != '#' && c != '?' && c != '\\' && !(c == '%' && names.Unescape(p[i:min(i+3, len(p))]) != p[i:min(i+3, len(p))])
		}
		if keep {
			b.WriteByte(c)
		} else {
			b.WriteByte('%')
			b.WriteByte("0123456789ABCDEF"[c>>4])
			b.WriteByte("0123456789ABCDEF"[c&15])
		}
	}
	return b.String()
}

// SayPattern spells the sequence mention m names in the manner of the old name:
// the number stands as the mention's token, everything else is escaped.
func SayPattern(m *mention.Mention, old, dir string, p graph.Pattern) string {
	return sayPattern(m, Say(spelled(m), withoutNumber(m, old), dir, filepath.Join(p.Dir, "x")), old, p)
}

// SayPatternRelative is SayPattern, always relative to dir.
func SayPatternRelative(m *mention.Mention, old, dir string, p graph.Pattern) string {
	return sayPattern(m, SayRelative(spelled(m), withoutNumber(m, old), dir, filepath.Join(p.Dir, "x")), old, p)
}

func spelled(m *mention.Mention) mention.Spelling {
	if m.Spelling == mention.Pattern {
		return mention.URI
	}
	return m.Spelling
}

func sayPattern(m *mention.Mention, at, old string, p graph.Pattern) string {
	folder := strings.TrimSuffix(at, "x")
	token := m.Sequence.Token
	if token == "" {
		token = strings.Repeat("#", p.Digits)
	}
	if spelled(m) != mention.URI {
		return folder + p.Head + token + p.Tail
	}
	head := escape(withoutNumber(m, old), p.Head)
	if folder == "" && strings.Contains(head, ":") {
		folder = "./"
	}
	return folder + head + token + escape(withoutNumber(m, old), p.Tail)
}

// withoutNumber drops what stands for the number of a pattern.
func withoutNumber(m *mention.Mention, old string) string {
	if t := m.Sequence.Token; t != "" {
		return strings.ReplaceAll(old, t, "")
	}
	return strings.ReplaceAll(old, "#", "")
}
