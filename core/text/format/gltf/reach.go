package gltf

import (
	"strings"
)

// deep collects every number under the wanted key, however deep it stands.
func (r *reader) deep(key, want string, list *[]int) error {
	switch r.s.Peek() {
	case '{':
		return r.s.Object(func(k string) error { return r.deep(k, want, list) })
	case '[':
		return r.s.Array(func(int) error { return r.deep(key, want, list) })
	}
	if key == want {
		return r.push(list)
	}
	return r.skip()
}

// texture tells members that hold a texture's reference, as textureInfo has it (§5.29): the
// core's end with "Texture", those of extensions are called in their own manner.
func texture(key string) bool { return strings.Contains(strings.ToLower(key), "texture") }

// reach collects what an extension leads to that nobody here knows: textures by their index,
// accessors, buffer views.
func (r *reader) reach(key string, m *mesh) error {
	switch r.s.Peek() {
	case '{':
		return r.s.Object(func(k string) error {
			if k == "index" && texture(key) {
				return r.push(&m.textures)
			}
			if texture(key) && !texture(k) && r.s.Peek() == '{' {
				k = key + "/" + k // a table of textures by their names
			}
			return r.reach(k, m)
		})
	case '[':
		return r.s.Array(func(int) error { return r.reach(key, m) })
	}
	switch {
	case strings.HasSuffix(strings.ToLower(key), "texture"):
		return r.push(&m.textures)
	case key == "bufferView":
		return r.push(&m.views)
	case key == "accessor":
		return r.push(&m.accessors)
	}
	return r.skip()
}
