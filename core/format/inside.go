package format

import (
	"net/url"
	"path"
	"strings"

	"boundcrate/core/mention"
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
			m.Size, m.Data = size, open
			return true
		}
	}
	return false
}
