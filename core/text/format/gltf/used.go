package gltf

import (
	"encoding/json"
	"fmt"
	"io"
	"sort"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
)

// spread carries use from the scenes down to buffers and images. Of several
// ways to one thing the liveliest wins.
func (r *reader) spread() {
	done := make([]mention.Use, len(r.nodes))
	for i := range done {
		done[i] = mention.Bystander
	}
	for _, list := range [][]resource{r.images, r.buffers} {
		for i := range list {
			list[i].use = mention.Listed
		}
	}
	walk := func(use mention.Use, stack []int) {
		for len(stack) > 0 {
			i := stack[len(stack)-1]
			stack = stack[:len(stack)-1]
			if i >= len(r.nodes) || done[i] >= use {
				continue
			}
			done[i] = use
			n := &r.nodes[i]
			r.useAccessors(use, n.accessors)
			r.useMesh(use, &n.beyond)
			if n.mesh >= 0 && n.mesh < len(r.meshes) {
				r.useMesh(use, &r.meshes[n.mesh])
			}
			if n.skin >= 0 && n.skin < len(r.skins) {
				r.useAccessors(use, []int{r.skins[n.skin]})
			}
			stack = append(stack, n.children...)
		}
	}
	for i, nodes := range r.scenes {
		use := mention.Used
		if r.scene >= 0 && i != r.scene {
			use = mention.Dormant
		}
		walk(use, append([]int(nil), nodes...))
	}
	if len(r.scenes) > 0 {
		for _, a := range r.anims {
			r.useAccessors(mention.Used, a)
		}
		r.useImages(mention.Used, r.lights)
		r.useMesh(mention.Used, &r.beyond)
	}
	for i := range r.nodes {
		walk(mention.Listed, []int{i})
	}
	for i := range r.meshes {
		r.useMesh(mention.Listed, &r.meshes[i])
	}
	for i := range r.images {
		r.useImages(mention.Listed, []int{i})
	}
	for i := range r.buffers {
		if !r.buffers[i].seen {
			// Nothing says what it is for; a loader fetches it all the same.
			r.buffers[i].use = mention.Used
		}
	}
}

func (r *reader) useMesh(use mention.Use, m *mesh) {
	r.useAccessors(use, m.accessors)
	r.useViews(use, m.views)
	for _, t := range m.textures {
		if t < len(r.textures) {
			r.useImages(use, r.textures[t])
		}
	}
	for _, i := range m.materials {
		r.useMaterial(use, i)
	}
	for _, i := range m.variants {
		r.useMaterial(min(use, mention.Dormant), i)
	}
}

func (r *reader) useMaterial(use mention.Use, i int) {
	if i >= len(r.materials) {
		return
	}
	for _, t := range r.materials[i] {
		if t < len(r.textures) {
			r.useImages(use, r.textures[t])
		}
	}
}

func (r *reader) useImages(use mention.Use, list []int) {
	for _, i := range list {
		if i < len(r.images) {
			im := &r.images[i]
			im.use = max(im.use, use)
			if im.view >= 0 {
				r.useViews(use, []int{im.view})
			}
		}
	}
}

func (r *reader) useAccessors(use mention.Use, list []int) {
	for _, i := range list {
		if i >= 0 && i < len(r.accessors) {
			r.useViews(use, r.accessors[i].views)
		}
	}
}

func (r *reader) useViews(use mention.Use, list []int) {
	for _, i := range list {
		if i < 0 || i >= len(r.views) {
			continue
		}
		for _, b := range r.views[i].buffers {
			if b < len(r.buffers) {
				r.buffers[b].use = max(r.buffers[b].use, use)
				r.buffers[b].seen = true
			}
		}
	}
}

func (r *reader) mentions() {
	var offs []int64
	add := func(res *resource, m mention.Mention, what string, i int) {
		m.Use = res.use
		m.Owner = fmt.Sprintf("%s %d", what, i)
		if res.name != "" {
			m.Owner = fmt.Sprintf("%s '%s'", what, res.name)
		}
		r.doc.Add(m)
		offs = append(offs, res.off)
	}
	named := func(res *resource) mention.Mention {
		m := mention.Mention{
			Pieces:   r.doc.One(res.uri, jsonscan.String),
			Spelling: mention.URI,
		}
		raw := r.t.Bytes[res.uri.Off+1 : res.uri.End-1]
		if len(raw) == 0 {
			m.Nature = mention.Unsaved
		}
		if format.Embed(&m, jsonscan.Value(r.t.Bytes[res.uri.Off:res.uri.End])) {
			m.Data.Say = mention.Instead(m.Pieces[0])
		}
		return m
	}
	data := make([]func() io.ReadCloser, len(r.buffers)) // of buffers whose bytes stand inside
	for i := range r.buffers {
		b := &r.buffers[i]
		if b.uri.End > 0 {
			m := named(b)
			if m.Inside() {
				data[i] = m.Data.Open
				m.Data.Type = "application/gltf-buffer"
			}
			add(b, m, "buffer", i)
		} else if i == 0 && r.t.Beside != nil {
			// §4.4.3.3: the first buffer without a uri is the BIN chunk.
			if size, open, ok := r.t.Beside(format.BinaryChunk); ok {
				data[i] = open
				add(b, mention.Mention{Data: &mention.Data{Open: open, Size: size}}, "buffer", i)
			}
		}
	}
	for i := range r.images {
		im := &r.images[i]
		if im.uri.End > 0 {
			add(im, named(im), "image", i)
		} else if im.view >= 0 && im.view < len(r.views) {
			v := r.views[im.view]
			if len(v.buffers) > 0 && v.buffers[0] < len(data) && data[v.buffers[0]] != nil {
				add(im, mention.Mention{Kind: kindOf(im.mime), Data: &mention.Data{Size: v.size, Type: im.mime, Open: cut(data[v.buffers[0]], v.off, v.size), Say: r.instead(im)}}, "image", i)
			}
		}
	}
	order := make([]int, len(offs))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return offs[order[a]] < offs[order[b]] })
	sorted := make([]mention.Mention, len(order))
	for k, i := range order {
		sorted[k] = r.doc.Mentions[i]
	}
	r.doc.Mentions = sorted
}

// instead puts a uri in the place of an image's buffer view: it has one or the
// other (§5.19).
func (r *reader) instead(im *resource) func(*mention.Doc, string) ([]mention.Edit, error) {
	at := im.at
	if at.End == 0 {
		return nil
	}
	return func(d *mention.Doc, name string) ([]mention.Edit, error) {
		if err := format.Outside(name); err != nil {
			return nil, &mention.CannotSayError{Name: name, Err: err}
		}
		text, err := json.Marshal(name)
		if err != nil {
			return nil, err
		}
		return []mention.Edit{{Span: at, New: append([]byte(`"uri":`), text...)}}, nil
	}
}

// cut opens size bytes of a stream, off bytes into it.
func cut(open func() io.ReadCloser, off, size int64) func() io.ReadCloser {
	return func() io.ReadCloser {
		rc := open()
		_, _ = io.CopyN(io.Discard, rc, off) // a stream that is too short reads as empty
		return struct {
			io.Reader
			io.Closer
		}{io.LimitReader(rc, size), rc}
	}
}
