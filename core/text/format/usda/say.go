package usda

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

func (r *reader) assigned(key, value word) {
	holder := r.holder()
	switch {
	case r.depth() > 0 && r.top().what == variants:
		if holder != nil && value.quoted {
			if holder.selects == nil {
				holder.selects = map[string]string{}
			}
			holder.selects[string(key.b)] = string(value.b)
			r.note(r.path()+"{"+string(key.b)+"}", string(value.b))
		}
	case r.depth() > 0 && r.top().clips != nil:
		r.top().clips.set(key, value)
	case key.is("defaultPrim") && r.depth() == 1 && value.quoted:
		r.doc.Default = "/" + string(value.b)
	case key.is("active"):
		// Of a prim's metadata; an attribute of that name is only called so.
		off := value.is("false") || value.is("0")
		if r.prim == nil || r.depth() == 0 || r.top().what != metadata {
			return
		}
		r.prim.off = off
		if off {
			r.note(r.path(), mention.Off)
		} else {
			r.note(r.path(), mention.On)
		}
	case key.is("productName") && value.quoted && len(value.b) > 0 && holder != nil && holder.typ == "RenderProduct":
		m := r.placed("productName")
		m.Pieces, m.Nature = r.doc.One(value.span, written), mention.WritePoint
		r.doc.Add(m)
	}
}

// note keeps what the layer says of a name. What a variant says holds only while
// it is selected, so it stays within this layer.
func (r *reader) note(name, value string) {
	if len(r.when()) > 0 {
		return
	}
	r.doc.Says[name] = value
}

// when are the variants around the present place, as choices.
func (r *reader) when() (list []string) {
	prims, set := "", ""
	for i := range r.stack {
		switch f := &r.stack[i]; f.what {
		case prim:
			if f.name != "" {
				prims = f.path
			}
		case variantSet:
			set = f.name
		case variant:
			list = append(list, prims+"{"+set+"}="+f.name)
		}
	}
	if r.variant != "" && r.prim == nil { // its metadata stands before its body
		list = append(list, prims+"{"+set+"}="+r.variant)
	}
	return list
}

// holder is the prim that metadata belongs to.
func (r *reader) holder() *frame {
	if r.prim != nil {
		return r.prim
	}
	for i := len(r.stack) - 1; i >= 0; i-- {
		if r.stack[i].what == prim {
			return &r.stack[i]
		}
	}
	return nil
}

// shut closes a bracket: what stands in a prim that is switched off, or in a
// variant that is not selected, is dormant.
func (r *reader) shut() {
	f := *r.top()
	if f.clips != nil {
		r.template(f.clips)
	}
	r.stack = r.stack[:len(r.stack)-1]
	dormant, settled := false, false
	switch f.what {
	case prim:
		dormant = f.off
		settled = f.off && len(r.when()) > 0
	case variant:
		set := ""
		for i := len(r.stack) - 1; i >= 0 && set == ""; i-- {
			if r.stack[i].what == variantSet {
				set = r.stack[i].name
			}
		}
		p := r.holder()
		dormant = p == nil || p.selects[set] != f.name
	}
	if dormant {
		for i := f.first; i < len(r.doc.Mentions); i++ {
			r.doc.Mentions[i].Use = mention.Dormant
			if sc := r.doc.Mentions[i].Scope; sc != nil {
				sc.Settled = sc.Settled || settled
			}
		}
	}
}

// asset reads @…@ or @@@…@@@.
func (r *reader) asset() error {
	from, mark := r.pos, 1
	if bytes.HasPrefix(r.b[r.pos:], []byte("@@@")) {
		mark = 3
	}
	i := r.pos + mark
	for ; i < len(r.b); i++ {
		if mark == 3 && r.b[i] == '\\' && bytes.HasPrefix(r.b[i+1:], []byte("@@@")) {
			i += 3
			continue
		}
		if r.b[i] == '@' && (mark == 1 || bytes.HasPrefix(r.b[i:], []byte("@@@"))) {
			break
		}
		if r.b[i] == '\n' && mark == 1 {
			return r.fail(from, "an asset path is not closed")
		}
	}
	if i >= len(r.b) {
		return r.fail(len(r.b), "an asset path is not closed")
	}
	if mark == 3 {
		// Up to two more signs belong to the path: @@@a@@@@@ ends with the last three.
		for k := 0; k < 2 && i+3 < len(r.b) && r.b[i+3] == '@'; k++ {
			i++
		}
	}
	r.pos = i + mark
	for i := range r.stack {
		if r.stack[i].quiet {
			return nil
		}
	}
	if r.has("delete") {
		return nil
	}
	r.add(mention.Span{Off: int64(from), End: int64(r.pos)})
	return nil
}

// The codings of asset paths: what is empty stays empty, and a member stays in
// its package.
var (
	named  = kept(func(s string) bool { return s != "" && !packed(s) })
	empty  = kept(func(s string) bool { return s == "" })
	member = kept(packed)
	// stuck stands before a further at sign, which would join a new path.
	stuck = mention.Only{Coding: Asset, Not: func(string) error { return problem.No(problem.AtSigns) }}
)

func kept(like func(string) bool) mention.Coding {
	return mention.Only{Coding: Asset, Not: func(s string) error {
		if like(s) {
			return nil
		}
		return problem.No(problem.AsOther)
	}}
}

// placed is a mention at the present place, by the word that names it there.
func (r *reader) placed(what string) mention.Mention {
	in := &mention.Scope{Under: r.path(), When: r.when()}
	in.Settled = len(in.When) > 1 // what a variant selects within another holds only there
	m := mention.Mention{Spelling: mention.Path, Scope: in, Owner: in.Under}
	if what != "" {
		m.Owner += " " + what
		in.Under = m.Owner[:len(in.Under)]
	}
	return m
}

func (r *reader) add(span mention.Span) {
	path, _ := Asset.Decode(r.b[span.Off:span.End])
	what := r.what()
	m := r.placed(what)
	coding := named
	switch _, rest, _ := strings.Cut(path, "["); {
	case path == "":
		m.Nature, coding = mention.Unsaved, empty
	case packed(path):
		m.Member, coding = strings.TrimSuffix(rest, "]"), member
		end := "[" + rest
		m.Shown = &path
		m.Merge = func(parts []string) string { return strings.TrimSuffix(parts[0], end) }
		m.Split = func(name string) ([]string, error) { return []string{name + end}, nil }
	case format.Inside(r.t, &m, path):
		coding = nil
		m.Shown = &path
	}
	if coding != nil && r.pos < len(r.b) && r.b[r.pos] == '@' {
		coding = stuck
	}
	if coding != nil {
		m.Pieces = r.doc.One(span, coding)
	}
	switch what {
	case "subLayers":
		m.Scope.Graft, m.Scope.Under = &mention.Graft{Layer: true}, ""
	case "references", "payload":
		m.Scope.Graft = &mention.Graft{At: m.Scope.Under}
	}
	r.fresh = r.doc.Add(m)
	if m.Pieces != nil && m.Member == "" && strings.Contains(path, udim) {
		format.Tiles(r.doc, r.fresh, udim, 4)
	}
}

// packed tells asset paths that name a member of a package: pack.usdz[inner.png].
func packed(path string) bool {
	pack, rest, ok := strings.Cut(path, "[")
	return ok && strings.HasSuffix(rest, "]") && strings.HasSuffix(strings.ToLower(pack), ".usdz")
}

// path is that of the prims around the present place.
func (r *reader) path() string {
	if r.prim != nil {
		return r.prim.path
	}
	if above := r.above(); above != "" {
		return above
	}
	return "/"
}

// above is the path of the prim that the present place is in, "" for none.
func (r *reader) above() string {
	for i := len(r.stack) - 1; i >= 0; i-- {
		if f := &r.stack[i]; f.what == prim && f.name != "" {
			return f.path
		}
	}
	return ""
}

// what is the attribute or list an asset stands in.
func (r *reader) what() string {
	if r.depth() > 0 && (r.top().what == list || r.top().what == samples) {
		return r.top().name
	}
	return r.subject()
}

// subject is the word of a statement that is neither a type nor a list edit.
func (r *reader) subject() string {
	for _, w := range r.stmt {
		if w.quoted {
			continue
		}
		switch string(w.b) {
		case "=", "prepend", "append", "add", "delete", "reorder", "asset", "asset[]", "uniform", "custom":
			continue
		}
		return string(w.b)
	}
	return ""
}

// Asset is the coding of an asset path, at signs included.
var Asset mention.Coding = asset{}

type asset struct{}

func (asset) Decode(raw []byte) (string, error) {
	n := len(raw)
	switch {
	case n >= 6 && bytes.HasPrefix(raw, []byte("@@@")) && bytes.HasSuffix(raw, []byte("@@@")):
		return strings.ReplaceAll(string(raw[3:n-3]), `\@@@`, "@@@"), nil
	case n >= 2 && raw[0] == '@' && raw[n-1] == '@':
		return string(raw[1 : n-1]), nil
	}
	return "", fmt.Errorf("no asset path")
}

func (asset) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if !utf8.ValidString(s) || strings.ContainsFunc(s, func(r rune) bool { return r < 0x20 || r == 0x7F || !fits(r) }) {
		return nil, problem.No(problem.Awkward)
	}
	if !strings.Contains(s, "@") && !bytes.HasPrefix(old, []byte("@@@")) {
		return []byte("@" + s + "@"), nil
	}
	if strings.HasSuffix(s, "@") || strings.HasSuffix(s, `\`) || strings.HasPrefix(s, "@") || strings.Contains(s, "@@@") {
		return nil, problem.No(problem.AtSigns)
	}
	return []byte("@@@" + s + "@@@"), nil
}
