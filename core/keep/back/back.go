// Package back brings files and documents of a backup, or of a crate that anybody sealed, back into a project: it
// tells of each how it stands to what is in the project, and writes what is chosen, all or nothing.
package back

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/pack/relocate"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/bag"
)

// Standing is how a file of the crate stands to the project.
type Standing string

// The ways.
const (
	Same  Standing = "same"
	Other Standing = "other"
	Lost  Standing = "lost" // it is not in the project
)

// Why is why a file cannot be brought back, as an error.
type Why string

// The reasons.
const (
	Elsewhere Why = "elsewhere"  // a difference crate leaves it to another crate
	Converted Why = "converted"  // its sound was made anew for the crate: it is not what stood there
	NoPlace   Why = "no-place"   // nobody knows where it belongs
	Unplugged Why = "unplugged"  // it belongs on a drive that does not answer
	Hidden    Why = "hidden"     // somebody else's crate has it in a hidden folder, or it is hidden: programs read such files unasked
	CannotSay Why = "cannot-say" // the document cannot be made to name its files where they are here
)

func (w Why) Error() string { return string(w) }

// Item is a file of the crate, or a document.
type Item struct {
	Place    string // below data/, with slashes
	To       string // where it belongs, absolute; "" where nobody knows
	SHA256   string // of what would stand there; "" where that cannot be told
	Bytes    int64
	Modified time.Time // in the crate; zero: not told
	Document bool
	Written  bool // a document that is made to name its files where they are here
	Now      Standing
	Here     time.Time // when what stands there was changed; zero: nothing does
	Why      Why       // "": it can be brought back
	// Of a document: the places of files that it uses and that are not in the project, or are another there; and
	// those that are not in the project and cannot be brought either.
	Lost, Others, Absent []string
}

// Options is what to look into, and for which project.
type Options struct {
	Crate     string
	Documents []string     // the project's, absolute
	Root      string       // its folder
	Graph     *graph.Graph // as it is traced now; nil where it cannot be
	// Trusted tells that this program made the crate of this project: its files belong where they came from.
	// Of any other they belong in the project's folder, or where the project names them.
	Trusted bool
	// Editions are documents of which an edition holds what stands there: they are written over.
	Editions []string
	Trace    trace.Options // how the project is traced
	Digest   func(ctx context.Context, path string) (string, error)
}

// Source is a crate that was looked into. It must be closed.
type Source struct {
	Options
	Items []Item // documents first, by their places

	crate *seal.Opened
	was   *graph.Graph    // its documents; nil where it has none
	known map[string]bool // paths that the project's documents name
	goals map[string]string
	items map[string]*Item
	dir   string            // of documents as they would be written
	texts map[string]string // those, by their places
	// written counts them.
	written int
}

// Close lets go of it.
func (s *Source) Close() {
	if s.dir != "" {
		os.RemoveAll(s.dir)
	}
	s.crate.Close()
}

// Look looks into a crate.
func Look(ctx context.Context, o Options) (s *Source, err error) {
	crate, err := seal.Open(ctx, o.Crate, o.Trace.Formats)
	if err != nil {
		return nil, err
	}
	s = &Source{Options: o, crate: crate, goals: map[string]string{}, items: map[string]*Item{}, texts: map[string]string{}}
	defer func() {
		if err != nil {
			s.Close()
		}
	}()
	if s.dir, err = os.MkdirTemp("", "boundcrate-back-"); err != nil {
		return nil, err
	}
	if len(crate.Documents) > 0 {
		s.was, err = trace.Run(ctx, trace.Options{Formats: o.Trace.Formats, Reach: crate.Reach, Root: crate.Data, Unlooked: true}, crate.Documents...)
		if err != nil {
			return nil, err
		}
	}
	if err := s.belong(ctx); err != nil {
		return nil, err
	}
	s.list()
	if err := s.documents(ctx); err != nil {
		return nil, err
	}
	return s, s.stand(ctx)
}

// place is the place below data/ of a path in the crate.
func (s *Source) place(p string) (string, bool) {
	rel, err := filepath.Rel(s.crate.Data, p)
	return filepath.ToSlash(rel), err == nil && filepath.IsLocal(rel)
}

// at is a file of the crate as its reach calls it.
func (s *Source) at(place string) string {
	return filepath.Join(s.crate.Data, filepath.FromSlash(place))
}

// list makes the items, as far as the crate's list tells.
func (s *Source) list() {
	docs := map[string]bool{}
	if s.was != nil {
		for i := range s.was.Documents {
			if at, ok := s.place(s.was.Documents[i].Path); ok {
				docs[at] = true
			}
		}
	}
	taken := map[string]bool{}
	for place, sum := range s.crate.Sums {
		if bag.Unsafe(path.Join(bag.Payload, place)) != "" {
			continue
		}
		it := Item{Place: place, To: s.goals[place], SHA256: sum, Modified: s.crate.Origins[place].Modified, Document: docs[place], Now: Lost}
		if info, err := s.crate.Reach.Stat(s.at(place)); err == nil {
			it.Bytes = info.Size
			if it.Modified.IsZero() && info.ModTime.Year() > 1970 {
				it.Modified = info.ModTime
			}
		}
		switch {
		case s.crate.Elsewhere[place]:
			it.Why = Elsewhere
		case s.crate.Origins[place].Made:
			it.Why = Converted
		case !s.Trusted && !s.known[it.To] && hidden(place):
			it.Why = Hidden
		}
		s.Items = append(s.Items, it)
	}
	slices.SortFunc(s.Items, func(x, y Item) int {
		if x.Document != y.Document {
			return map[bool]int{true: -1, false: 1}[x.Document]
		}
		return strings.Compare(x.Place, y.Place)
	})
	for i := range s.Items {
		it := &s.Items[i]
		s.items[it.Place] = it
		if it.Why == "" && (it.To == "" || taken[it.To]) {
			it.Why, it.To = NoPlace, "" // of two that would stand at one place neither is guessed: the first is told
		}
		taken[it.To] = true
	}
}

// hidden tells places of which a part begins with a dot.
func hidden(place string) bool {
	return slices.ContainsFunc(strings.Split(place, "/"), func(part string) bool { return strings.HasPrefix(part, ".") })
}

// stand tells how each file stands to what is in the project.
func (s *Source) stand(ctx context.Context) error {
	for i := range s.Items {
		it := &s.Items[i]
		if it.To == "" {
			continue
		}
		info, err := s.Trace.Reach.Stat(it.To)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			continue
		case err != nil:
			if it.Why == "" {
				it.Why = Unplugged
			}
			continue
		}
		it.Now, it.Here = Other, info.ModTime
		if !info.Mode.IsRegular() || it.SHA256 == "" {
			continue
		}
		if info.Size != it.Bytes && !it.Written {
			continue
		}
		sum, err := s.Digest(ctx, it.To)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err == nil && sum == it.SHA256 {
			it.Now = Same
		}
	}
	if s.was == nil {
		return nil
	}
	for i := range s.was.References {
		r := &s.was.References[i]
		at, _ := s.place(s.was.Documents[r.Doc].Path)
		doc := s.items[at]
		if doc == nil || r.File == graph.None {
			continue
		}
		for _, p := range s.paths(&s.was.Files[r.File]) {
			place, ok := s.place(p)
			if f := s.items[place]; ok && f != nil && f != doc {
				switch {
				case f.Now == Lost && f.Why != "":
					doc.Absent = append(doc.Absent, place)
				case f.Now == Lost:
					doc.Lost = append(doc.Lost, place)
				case f.Now == Other:
					doc.Others = append(doc.Others, place)
				}
			}
		}
	}
	for i := range s.Items {
		it := &s.Items[i]
		for _, list := range []*[]string{&it.Lost, &it.Others, &it.Absent} { // many places of a document name one file
			slices.Sort(*list)
			*list = slices.Compact(*list)
		}
	}
	return nil
}

// paths are the files of one thing that travels.
func (s *Source) paths(f *graph.File) []string {
	if f.Frames != nil {
		return f.Frames.Files
	}
	return []string{f.Path}
}

// lies are the files of the crate, by their places.
func (s *Source) lies() map[string]relocate.File {
	list := map[string]relocate.File{}
	for i := range s.Items {
		if it := &s.Items[i]; it.To != "" {
			list[it.Place] = relocate.File{Reach: s.crate.Reach, Path: s.at(it.Place)}
		}
	}
	return list
}
