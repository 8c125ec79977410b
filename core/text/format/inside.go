package format

import (
	"io"
	"net/url"
	"path"
	"slices"
	"strings"

	"boundcrate/core/text/mention"
)

// Inside makes m a mention of bytes that stand in the package its text is a
// member of, and tells whether they do. name is relative to the member; URI
// escapes are undone where the plain name is not there.
func Inside(t mention.Text, m *mention.Mention, name string) bool {
	if !t.Member || t.Beside == nil || strings.HasPrefix(name, "/") || strings.Contains(name, "://") {
		return false
	}
	name, _, _ = strings.Cut(name, "#")
	plain, err := url.PathUnescape(name)
	if err != nil {
		plain = name
	}
	for _, n := range []string{name, plain} {
		at := path.Join(path.Dir(t.Name), n)
		if size, open, ok := t.Beside(at); ok {
			m.Data = &mention.Data{Size: size, Open: open}
			return true
		}
	}
	return false
}

// Held is Inside for packages that hold what they name: a relative name that leads
// into a folder of the package, one it has or one its standard gives it (own), is
// lost where the member is not there, and is never looked for beside the package. Of a
// package that holds all it names (Sealed) every relative name is such a one.
func Held(t mention.Text, m *mention.Mention, name string, own ...string) bool {
	if Inside(t, m, name) {
		return true
	}
	if !t.Member || t.Members == nil || strings.HasPrefix(name, "/") || strings.Contains(name, "://") {
		return false
	}
	folder := path.Dir(path.Join(path.Dir(t.Name), name))
	sealed := slices.Contains(own, Sealed) && folder != ".." && !strings.HasPrefix(folder, "../")
	if sealed {
		own = append(slices.Clone(own), folder)
	}
	if folder == "." && !sealed || !slices.Contains(own, folder) && !slices.ContainsFunc(t.Members(), func(n string) bool { return strings.HasPrefix(n, folder+"/") }) {
		return false
	}
	m.Nature, m.Pieces, m.Shown = mention.Lost, nil, &name
	m.Merge, m.Split = func([]string) string { return name }, nil
	return true
}

// Sealed as a folder of Held tells packages that hold all they name, by their standards:
// a USDZ package, an OTIO file bundle. They are never completed from outside.
const Sealed = "*"

// Frames is Inside for a sequence: its files are members of the package.
func Frames(t mention.Text, m *mention.Mention) bool {
	if !t.Member || t.Members == nil || m.Sequence == nil || strings.HasPrefix(m.Sequence.Head, "/") || strings.Contains(m.Sequence.Head, "://") {
		return false
	}
	plain := func(s string) string {
		if p, err := url.PathUnescape(s); err == nil {
			return p
		}
		return s
	}
	dir, head := path.Split(plain(m.Sequence.Head))
	dir, tail := path.Join(path.Dir(t.Name), dir), plain(m.Sequence.Tail)
	var size int64
	var first func() io.ReadCloser
	for _, name := range t.Members() {
		base := path.Base(name)
		if path.Dir(name) != dir || len(base) <= len(head)+len(tail) || !strings.HasPrefix(base, head) || !strings.HasSuffix(base, tail) {
			continue
		}
		if n, open, ok := t.Beside(name); ok {
			size += n
			if m.Sequence.Within = append(m.Sequence.Within, base); first == nil {
				first = open
			}
		}
	}
	if first == nil {
		return false
	}
	m.Data = &mention.Data{Size: size, Open: first}
	return true
}
