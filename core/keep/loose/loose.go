// Package loose keeps loose sets: a project with no document. What was gathered, with its title, author, note, groups
// and order, is RO-Crate 1.1 metadata in the folder, which any tool for that reads, and a document like any other.
package loose

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/sift"
)

// Name is the file that a set is kept in: the specification fixes it.
const Name = "ro-crate-metadata.json"

// Group is a part of a set.
type Group struct {
	Name     string
	Patterns []string // new files that they match belong to it; from the set's folder, with slashes
	Files    []string // absolute, in their order
}

// Set is a loose set.
type Set struct {
	Title, Author, Note string
	Patterns            []string // of the files in no group
	Files               []string // in no group, absolute
	Groups              []Group
	Made                time.Time
}

// ErrNotOurs: metadata that this program did not write stands there. It is not written over.
var ErrNotOurs = errors.New("it was not made by this program")

// ErrNothing: a pattern that matches nothing, or nothing was named.
var ErrNothing = errors.New("no file matches")

type id struct {
	ID string `json:"@id"`
}

type entity map[string]any

// gathering is the id of the action that marks sets of ours.
const gathering = "#gathering"

// Write keeps a set. What stands there must be a set of ours, or nothing.
func Write(at string, s Set) error {
	switch _, err := os.Lstat(at); {
	case errors.Is(err, fs.ErrNotExist):
	case err != nil:
		return err
	default:
		if _, err := Read(at); err != nil {
			return err
		}
	}
	text, err := s.text(filepath.Dir(at))
	if err != nil {
		return err
	}
	return fileset.Replace(at, 0o644, func(w io.Writer) error { _, err := w.Write(text); return err })
}

// text is the metadata (RO-Crate 1.1: root data entity, §3.2; files and datasets, §4.2).
func (s Set) text(dir string) ([]byte, error) {
	when := s.Made.UTC().Format(time.RFC3339)
	note := s.Note
	if note == "" {
		note = s.Title
	}
	root := entity{"@id": "./", "@type": "Dataset", "name": s.Title, "description": note, "datePublished": when, "mentions": id{gathering}}
	graph := []entity{
		{"@id": Name, "@type": "CreativeWork", "conformsTo": id{"https://w3id.org/ro/crate/1.1"}, "about": id{"./"}}, root,
	}
	action := entity{"@id": gathering, "@type": "CreateAction", "name": "Gathering the files", "instrument": id{"#software"}, "endTime": when, "result": id{"./"}}
	if s.Author != "" {
		root["author"] = id{"#author"}
		action["agent"] = id{"#author"}
		graph = append(graph, entity{"@id": "#author", "@type": "Person", "name": s.Author})
	}
	known := map[string]bool{}
	add := func(files []string) (parts []id) {
		for _, f := range files {
			at := where(dir, f)
			parts = append(parts, id{at})
			if !known[at] {
				known[at] = true
				graph = append(graph, entity{"@id": at, "@type": "File", "name": filepath.Base(f), "encodingFormat": lists.MediaType(f)})
			}
		}
		return parts
	}
	patterns := func(e entity, of string, list []string) {
		var ids []id
		for i, p := range list {
			at := fmt.Sprintf("#pattern-%s%d", of, i+1)
			ids = append(ids, id{at})
			graph = append(graph, entity{"@id": at, "@type": "PropertyValue", "name": "pattern", "value": p})
		}
		if ids != nil {
			e["additionalProperty"] = ids
		}
	}
	var parts []id
	for i, g := range s.Groups {
		at := "#group-" + url.PathEscape(g.Name)
		e := entity{"@id": at, "@type": "Dataset", "name": g.Name}
		graph = append(graph, e)
		if list := add(g.Files); list != nil {
			e["hasPart"] = list
		}
		patterns(e, fmt.Sprintf("%d-", i+1), g.Patterns)
		parts = append(parts, id{at})
	}
	parts = append(parts, add(s.Files)...)
	root["hasPart"] = parts
	patterns(root, "", s.Patterns)
	graph = append(graph, action, entity{"@id": "#software", "@type": "SoftwareApplication", "name": "Bound Crate"})
	var b bytes.Buffer
	w := json.NewEncoder(&b)
	w.SetEscapeHTML(false)
	w.SetIndent("", " ")
	err := w.Encode(map[string]any{"@context": "https://w3id.org/ro/crate/1.1/context", "@graph": graph})
	return b.Bytes(), err
}

// where is a file as an entity is called: relative to the folder, or as a file URI of what lies outside.
func where(dir, p string) string {
	if rel, err := filepath.Rel(dir, p); err == nil && filepath.IsLocal(rel) {
		return lists.Reference(filepath.ToSlash(rel))
	}
	return (&url.URL{Scheme: "file", Path: filepath.ToSlash(p)}).String()
}

// back is the file of an entity; false where it is none of the disk.
func back(dir, id string) (string, bool) {
	u, err := url.Parse(id)
	switch {
	case err != nil || id == "" || strings.HasPrefix(id, "#"):
		return "", false
	case u.Scheme == "file":
		return filepath.FromSlash(u.Path), true
	case u.Scheme != "":
		return "", false
	}
	return filepath.Join(dir, filepath.FromSlash(u.Path)), true
}

// refs are one or several {"@id": …}.
type refs []string

func (r *refs) UnmarshalJSON(b []byte) error {
	var one id
	if json.Unmarshal(b, &one) == nil && one.ID != "" {
		*r = refs{one.ID}
		return nil
	}
	var list []id
	if err := json.Unmarshal(b, &list); err != nil {
		return err
	}
	for _, x := range list {
		*r = append(*r, x.ID)
	}
	return nil
}

// read is an entity as far as a set asks of it. Types may be lists in others' metadata, which is none of ours.
type read struct {
	ID      string `json:"@id"`
	Type    string `json:"@type"`
	Name    string `json:"name"`
	About   string `json:"description"`
	Date    string `json:"datePublished"`
	Value   string `json:"value"`
	Parts   refs   `json:"hasPart"`
	Extra   refs   `json:"additionalProperty"`
	Authors refs   `json:"author"`
}

// Read reads a set of ours. Other metadata is ErrNotOurs.
func Read(at string) (*Set, error) {
	text, err := os.ReadFile(at)
	if err != nil {
		return nil, err
	}
	var doc struct {
		Graph []read `json:"@graph"`
	}
	of := map[string]*read{}
	if err := json.Unmarshal(text, &doc); err != nil {
		return nil, &fs.PathError{Op: "read", Path: at, Err: ErrNotOurs}
	}
	for i := range doc.Graph {
		of[doc.Graph[i].ID] = &doc.Graph[i]
	}
	root := of["./"]
	if root == nil || of[gathering] == nil {
		return nil, &fs.PathError{Op: "read", Path: at, Err: ErrNotOurs}
	}
	s := &Set{Title: root.Name, Note: root.About}
	if s.Note == s.Title {
		s.Note = ""
	}
	if s.Made, err = time.Parse(time.RFC3339, root.Date); err != nil {
		s.Made = time.Time{}
	}
	for _, a := range root.Authors {
		if of[a] != nil {
			s.Author = of[a].Name
		}
	}
	dir := filepath.Dir(at)
	patterns := func(e *read) (list []string) {
		for _, x := range e.Extra {
			if p := of[x]; p != nil && p.Name == "pattern" {
				list = append(list, p.Value)
			}
		}
		return list
	}
	s.Patterns = patterns(root)
	for _, part := range root.Parts {
		if e := of[part]; e != nil && e.Type == "Dataset" {
			g := Group{Name: e.Name, Patterns: patterns(e)}
			for _, f := range e.Parts {
				if p, ok := back(dir, f); ok {
					g.Files = append(g.Files, p)
				}
			}
			s.Groups = append(s.Groups, g)
		} else if p, ok := back(dir, part); ok {
			s.Files = append(s.Files, p)
		}
	}
	return s, nil
}

// Find are the files that a pattern matches, in order of names: from a folder, with slashes; ** stands for any
// folders. The metadata itself is none of them.
func Find(dir, pattern string) ([]string, error) {
	full := path.Join(filepath.ToSlash(dir), pattern)
	if path.IsAbs(pattern) {
		full = path.Clean(pattern)
	}
	if fi, err := os.Stat(filepath.FromSlash(full)); err == nil {
		if fi.IsDir() {
			return nil, &fs.PathError{Op: "gather", Path: full, Err: fs.ErrInvalid}
		}
		return []string{filepath.FromSlash(full)}, nil
	}
	base := full
	for strings.ContainsAny(base, "*?[") {
		base = path.Dir(base)
	}
	glob := strings.TrimPrefix(strings.TrimPrefix(full, base), "/")
	var list []string
	err := filepath.WalkDir(filepath.FromSlash(base), func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			if p == filepath.FromSlash(base) {
				return fs.SkipAll
			}
			return nil // what cannot be read matches nothing
		}
		rel, rerr := filepath.Rel(filepath.FromSlash(base), p)
		if e.Type().IsRegular() && e.Name() != Name && rerr == nil && sift.Match(glob, filepath.ToSlash(rel)) {
			list = append(list, p)
		}
		return nil
	})
	slices.Sort(list)
	return list, err
}

// New are the files that a set's patterns match and that are not in it yet, by group; "" for those in none.
func (s *Set) New(dir string) (map[string][]string, error) {
	have := map[string]bool{}
	for _, f := range s.Files {
		have[f] = true
	}
	for _, g := range s.Groups {
		for _, f := range g.Files {
			have[f] = true
		}
	}
	found := map[string][]string{}
	look := func(group string, patterns []string) error {
		for _, p := range patterns {
			list, err := Find(dir, p)
			if err != nil {
				return err
			}
			for _, f := range list {
				if !have[f] {
					have[f] = true
					found[group] = append(found[group], f)
				}
			}
		}
		return nil
	}
	for _, g := range s.Groups {
		if err := look(g.Name, g.Patterns); err != nil {
			return nil, err
		}
	}
	return found, look("", s.Patterns)
}
