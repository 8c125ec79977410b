package xmlscan

import (
	"net/url"
	"path"
	"strings"

	"boundcrate/core/text/mention"
)

// Base is an xml:base attribute as a shared piece (XML Base; RFC 3986 §5). The
// joined name stays relative where the base is relative to the document.
func Base(a Attr) mention.Shared {
	return mention.Shared{
		Piece: a.Piece(), Neutral: "", Join: join,
		Strip: func(base, name string) (string, bool) {
			if absolute(name) {
				return name, true
			}
			dir := folder(base)
			if own, ok := strings.CutPrefix(name, dir); ok {
				return own, own != ""
			}
			if absolute(dir) || strings.Contains(dir, "..") {
				return "", false
			}
			return strings.Repeat("../", strings.Count(path.Clean(dir)+"/", "/")) + name, true
		},
		Move: func(name, own string) (string, bool) {
			if absolute(own) {
				return "", false
			}
			return strings.CutSuffix(name, own)
		},
	}
}

func folder(base string) string { return base[:strings.LastIndexByte(base, '/')+1] }

// absolute tells references that no base changes.
func absolute(ref string) bool {
	if strings.HasPrefix(ref, "/") {
		return true
	}
	scheme, _, ok := strings.Cut(ref, ":")
	return ok && scheme != "" && !strings.ContainsAny(scheme, "/?#")
}

func join(base, own string) string {
	if b, err := url.Parse(base); err == nil && b.Scheme != "" {
		if r, err := b.Parse(own); err == nil {
			return r.String()
		}
	}
	dir := folder(base)
	switch {
	case dir == "" || own == "" || absolute(own):
		return own
	case strings.HasPrefix(own, "./"), strings.HasPrefix(own, "../"):
		return path.Join(dir, own)
	}
	return dir + own
}
