package back

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/relocate"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// documents works out what the crate's documents would be in the project: as they were before they were sealed,
// where the record tells that, and naming their files where these are here.
func (s *Source) documents(ctx context.Context) error {
	if s.was == nil {
		return nil
	}
	s.excuse()
	lies := s.lies()
	for i := range s.was.Documents {
		if id := graph.DocID(i); s.was.Documents[i].Host == id {
			if err := s.before(ctx, id); err != nil {
				return err
			}
		}
	}
	lay := func(texts map[string]string) {
		for place, at := range texts {
			if _, ok := lies[place]; ok {
				lies[place] = relocate.File{Reach: drive.System{}, Path: at}
			}
		}
	}
	lay(s.texts)
	o := s.Trace
	o.Root, o.Readings, o.Doubt, o.Index, o.Repairs, o.Unlooked = s.Root, nil, nil, nil, nil, true
	goal := func(place string) string {
		if it := s.items[place]; it != nil {
			return it.To
		}
		return ""
	}
	m := &relocate.Move{Was: s.was, Trace: o, Place: s.place, Goal: goal, Lies: lies, Under: s.Trace.Reach}
	changes, unsaid, err := m.Plan(ctx)
	if err != nil {
		return err
	}
	places := map[string]string{}
	for i := range s.Items {
		if it := &s.Items[i]; it.To != "" {
			places[it.To] = it.Place
		}
	}
	for _, c := range changes {
		place := places[c.Document.Path]
		is, ok := lies[place]
		if !ok {
			continue // a document of the project that the crate does not bring
		}
		at, err := s.write(is.Reach, is.Path, c.File, c.Edits)
		if err != nil {
			return err
		}
		s.texts[place], s.items[place].Written = at, true
	}
	lay(s.texts)
	final := map[string]relocate.File{}
	for place, is := range lies {
		final[goal(place)] = is
	}
	bad, err := m.Failing(ctx, final)
	if err != nil {
		return err
	}
	for _, u := range unsaid {
		bad[u.Document] = true
	}
	for place, at := range s.texts {
		it := s.items[place]
		if it.SHA256, it.Bytes, err = sumOf(at); err != nil {
			return err
		}
	}
	for at := range bad {
		if it := s.items[places[at]]; it != nil && it.Document && it.Why == "" {
			it.Why = CannotSay
		}
	}
	return nil
}

// excuse tells documents that use what was made for the crate alone, or what has no place here: named where they
// came from, these would be others.
func (s *Source) excuse() {
	for i := range s.was.References {
		r := &s.was.References[i]
		at, _ := s.place(s.was.Documents[r.Doc].Path)
		doc := s.items[at]
		if doc == nil || doc.Why != "" || r.File == graph.None {
			continue
		}
		if s.crate.Thinned && r.IsSequence() {
			doc.Why = Converted
		}
		for _, p := range s.paths(&s.was.Files[r.File]) {
			if place, ok := s.place(p); ok && s.items[place] != nil {
				switch s.items[place].Why {
				case Converted:
					doc.Why = Converted
				case NoPlace:
					doc.Why = CannotSay
				}
			}
		}
	}
}

// before makes a document, and the texts it includes, say what they said before they were sealed, where our record
// tells it and they go back to where they came from.
func (s *Source) before(ctx context.Context, id graph.DocID) error {
	g := s.was
	place, ok := s.place(g.Documents[id].Path)
	if !ok || s.items[place] == nil || s.items[place].To != s.crate.Origins[place].From {
		return nil
	}
	said := map[seal.Said][]string{}
	for k := range g.Documents {
		if at, ok := s.place(g.Documents[k].Path); ok && g.Documents[k].Host == id {
			for _, t := range s.crate.Said[at] {
				said[seal.Said{Owner: t.Owner, New: t.New}] = append(said[seal.Said{Owner: t.Owner, New: t.New}], t.Old)
			}
		}
	}
	if len(said) == 0 || ctx.Err() != nil {
		return ctx.Err()
	}
	o := trace.Options{Formats: s.Trace.Formats, Reach: s.crate.Reach, Root: s.crate.Data, Unlooked: true}
	file, err := o.Reopen(g, id)
	if err != nil {
		return err
	}
	want := map[int]string{}
	restore := func(owner string, mention int32) {
		k := int(mention)
		if k >= len(file.Doc.Mentions) || want[k] != "" {
			return
		}
		key := seal.Said{Owner: owner, New: file.Doc.Name(k)}
		if old := said[key]; len(old) > 0 {
			want[k] = old[0]
			if len(old) > 1 {
				said[key] = old[1:]
			}
		}
	}
	for i := range g.References {
		if r := &g.References[i]; g.Documents[r.Doc].Host == id {
			restore(r.Owner, r.Mention)
		}
	}
	for i := range g.WritePoints {
		if w := &g.WritePoints[i]; g.Documents[w.Doc].Host == id {
			restore(w.Owner, w.Mention)
		}
	}
	edits, err := writing.Prove(file, want)
	if err != nil {
		return nil // it stays as it was sealed, and is made to name its files where they are here
	}
	for k := range g.Documents {
		d := &g.Documents[k]
		at, ok := s.place(d.Path)
		mine := writing.EditsOf(d, edits)
		if d.Host != id || !ok || s.items[at] == nil || len(mine) == 0 {
			continue
		}
		if s.texts[at], err = s.write(s.crate.Reach, d.Path, trace.Part(g, graph.DocID(k), file), mine); err != nil {
			return err
		}
	}
	return nil
}

// write writes a document that is read from a place with edits, aside.
func (s *Source) write(reach drive.Reach, from string, f *format.File, edits []mention.Edit) (at string, err error) {
	src, err := reach.Open(from)
	if err != nil {
		return "", err
	}
	defer src.Close()
	s.written++
	at = filepath.Join(s.dir, strconv.Itoa(s.written))
	dst, err := os.Create(at)
	if err != nil {
		return "", err
	}
	return at, errors.Join(f.RewriteFrom(src, dst, slices.Clone(edits)), dst.Close())
}

// sumOf is the SHA-256 of a file, and how long it is.
func sumOf(at string) (string, int64, error) {
	f, err := os.Open(at)
	if err != nil {
		return "", 0, err
	}
	defer f.Close()
	h := sha256.New()
	n, err := io.Copy(h, f)
	return hex.EncodeToString(h.Sum(nil)), n, err
}
