package back

import (
	"context"
	"maps"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
)

// belong tells of every file of the crate where it belongs in the project.
func (s *Source) belong(ctx context.Context) error {
	s.known = s.named()
	if s.own() {
		for place := range s.crate.Sums {
			from := s.crate.Origins[place].From
			if s.Trusted && filepath.IsAbs(from) || drive.Within(s.Root, from) || s.known[from] {
				s.goals[place] = from
			}
		}
		if s.Trusted {
			return nil
		}
	}
	if err := s.byContent(ctx); err != nil {
		return err
	}
	pairs := s.pairs()
	for place, doc := range pairs {
		if s.goals[place] == "" {
			s.goals[place] = doc
		}
	}
	for place, at := range s.byReferences(pairs) {
		if s.goals[place] == "" {
			s.goals[place] = at
		}
	}
	// What the project does not name yet lies to its document as it does in the crate.
	for place := range s.crate.Sums {
		if s.goals[place] == "" {
			s.goals[place] = s.beside(place, pairs)
		}
	}
	return nil
}

// byContent finds files that the project has under the same name, byte for byte.
func (s *Source) byContent(ctx context.Context) error {
	if s.Graph == nil {
		return nil
	}
	mine := map[string][]string{}
	for i := range s.Graph.Files {
		f := &s.Graph.Files[i]
		if f.Doc != graph.None || !f.State.Found() {
			continue
		}
		for _, p := range s.paths(f) {
			k := strings.ToLower(filepath.Base(p))
			mine[k] = append(mine[k], p)
		}
	}
	for _, place := range slices.Sorted(maps.Keys(s.crate.Sums)) {
		is, err := s.crate.Reach.Stat(s.at(place))
		if err != nil || s.goals[place] != "" {
			continue
		}
		for _, p := range mine[strings.ToLower(path.Base(place))] {
			if here, err := s.Trace.Reach.Stat(p); err != nil || here.Size != is.Size {
				continue
			}
			sum, err := s.Digest(ctx, p)
			if ctx.Err() != nil {
				return ctx.Err()
			}
			if err == nil && sum == s.crate.Sums[place] {
				s.goals[place] = p
				break
			}
		}
	}
	return nil
}

// own tells that the crate was sealed from this project's documents, where they are now.
func (s *Source) own() bool {
	if s.Trusted {
		return true
	}
	mine := map[string]bool{}
	for _, d := range s.Documents {
		mine[d] = true
	}
	n := 0
	for _, d := range s.crate.Documents {
		if place, ok := s.place(d); ok && mine[s.crate.Origins[place].From] {
			n++
		}
	}
	return n > 0 && n == len(s.crate.Documents)
}

// named are the paths that the project's documents name.
func (s *Source) named() map[string]bool {
	list := map[string]bool{}
	if s.Graph == nil {
		return list
	}
	for i := range s.Graph.Files {
		for _, p := range s.paths(&s.Graph.Files[i]) {
			list[p] = true
		}
	}
	for i := range s.Graph.References {
		list[s.Graph.References[i].Expected] = true
	}
	delete(list, "")
	return list
}

// pairs are the documents of the crate that the project has by the same name, where only one on each side has it.
func (s *Source) pairs() map[string]string {
	mine := map[string][]string{}
	add := func(p string) {
		k := strings.ToLower(filepath.Base(p))
		for _, is := range mine[k] {
			if is == p {
				return
			}
		}
		mine[k] = append(mine[k], p)
	}
	for _, d := range s.Documents {
		add(d)
	}
	if s.Graph != nil {
		for i := range s.Graph.Documents {
			add(s.Graph.Documents[i].Path)
		}
	}
	theirs := map[string][]string{}
	if s.was != nil {
		for i := range s.was.Documents {
			if at, ok := s.place(s.was.Documents[i].Path); ok {
				k := strings.ToLower(path.Base(at))
				theirs[k] = append(theirs[k], at)
			}
		}
	}
	out := map[string]string{}
	for k, list := range theirs {
		if len(list) == 1 && len(mine[k]) == 1 {
			out[list[0]] = mine[k][0]
		}
	}
	return out
}

// place of a reference in a document, whatever it leads to.
type spot struct {
	document, owner string
	nth             int32
}

// byReferences pairs files that stand at the same place of the same document under the same name.
func (s *Source) byReferences(pairs map[string]string) map[string]string {
	out := map[string]string{}
	if s.Graph == nil || s.was == nil {
		return out
	}
	here := map[spot]*graph.Reference{}
	twice := map[spot]bool{}
	for i := range s.Graph.References {
		r := &s.Graph.References[i]
		k := spot{s.Graph.Documents[r.Doc].Path, r.Owner, r.Mention}
		twice[k] = here[k] != nil
		here[k] = r
	}
	for i := range s.was.References {
		r := &s.was.References[i]
		at, ok := s.place(s.was.Documents[r.Doc].Path)
		k := spot{pairs[at], r.Owner, r.Mention}
		mine := here[k]
		if !ok || pairs[at] == "" || mine == nil || twice[k] || r.File == graph.None {
			continue
		}
		dir, name := filepath.Split(mine.Expected)
		if mine.File != graph.None && s.Graph.Files[mine.File].State.Found() {
			dir, name = filepath.Split(s.Graph.Files[mine.File].Path)
		}
		frames := s.was.Files[r.File].Frames != nil
		for _, p := range s.paths(&s.was.Files[r.File]) {
			place, ok := s.place(p)
			if ok && dir != "" && (frames && mine.IsSequence() || strings.EqualFold(filepath.Base(p), name)) {
				out[place] = filepath.Join(dir, filepath.Base(p))
			}
		}
	}
	return out
}

// beside is where a file goes that the project does not know: it lies to the nearest document of the crate as it
// does there, or in the project's folder.
func (s *Source) beside(place string, pairs map[string]string) string {
	best, at := -1, ""
	for _, theirs := range slices.Sorted(maps.Keys(pairs)) {
		dir := strings.TrimPrefix(path.Dir(theirs)+"/", "./")
		rel, in := strings.CutPrefix(place, dir)
		if n := len(dir); in && n > best {
			best, at = n, filepath.Join(filepath.Dir(pairs[theirs]), filepath.FromSlash(rel))
		}
	}
	if at == "" || !drive.Within(s.Root, at) {
		at = filepath.Join(s.Root, filepath.FromSlash(place))
	}
	return at
}
