package origin

import (
	_ "embed"
	"fmt"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
)

// Habits are what programs and people do with files: common practice, no source,
// and everybody's own. A rule that ends with a slash names a folder.
type Habits struct {
	Rebuildable []string // files that a program makes again
	Companions  []string // what stands beside a file and belongs to it; NAME and FULL stand for its name
	Dumps       []string // folders where things are tidied away
	Renders     []string // folders where what was made of a project is put
}

//go:embed habits.yaml
var shipped []byte

// Shipped are the habits that hold where nobody said otherwise, as YAML with
// remarks.
func Shipped() []byte { return shipped }

// DefaultHabits are those.
var DefaultHabits = func() Habits {
	h, err := parseHabits(shipped, Habits{})
	if err != nil {
		panic(err) // a test holds it
	}
	return h
}()

// HabitsError is a line of habits that cannot be followed, 1-based.
type HabitsError struct {
	Line int
	Word string // what stands there
	Err  error
}

func (e *HabitsError) Error() string { return fmt.Sprintf("line %d: %q: %v", e.Line, e.Word, e.Err) }

func (e *HabitsError) Unwrap() error { return e.Err }

// errHabit: a key that is not known, or no list of texts.
var errHabit = fmt.Errorf("rebuildable, companions, dumps and renders are lists of names")

// ParseHabits reads habits from YAML. A list that is not there is as shipped.
func ParseHabits(b []byte) (Habits, error) { return parseHabits(b, DefaultHabits) }

func parseHabits(b []byte, h Habits) (Habits, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(b, &doc); err != nil {
		return h, &HabitsError{Err: err}
	}
	if len(doc.Content) == 0 {
		return h, nil
	}
	top := doc.Content[0]
	if top.Kind != yaml.MappingNode {
		return h, &HabitsError{top.Line, top.Value, errHabit}
	}
	for i := 0; i+1 < len(top.Content); i += 2 {
		key, list := top.Content[i], top.Content[i+1]
		var to *[]string
		switch key.Value {
		case "rebuildable":
			to = &h.Rebuildable
		case "companions":
			to = &h.Companions
		case "dumps":
			to = &h.Dumps
		case "renders":
			to = &h.Renders
		default:
			return h, &HabitsError{key.Line, key.Value, errHabit}
		}
		*to = []string{}
		if list.Kind != yaml.SequenceNode {
			return h, &HabitsError{list.Line, list.Value, errHabit}
		}
		for _, n := range list.Content {
			name := strings.TrimSuffix(n.Value, "/")
			if _, err := path.Match(name, "x"); n.Kind != yaml.ScalarNode || err != nil || name == "" || strings.Contains(name, "/") {
				return h, &HabitsError{n.Line, n.Value, errHabit}
			}
			*to = append(*to, n.Value)
		}
	}
	return h, nil
}

// Rebuilt tells files that a program makes again, by their names and by those of
// the folders they stand in below a root, or on their drive.
func (h Habits) Rebuilt(root string) func(file string) bool {
	return newHabit(h.Rebuildable, root).holds
}

// Rendered tells files that were made of a project, by the same.
func (h Habits) Rendered(root string) func(file string) bool { return newHabit(h.Renders, root).holds }

// oneHabit holds many files below a root against the rules of one habit.
type oneHabit struct {
	root           string
	files, folders []string        // the rules for names of either, in small letters
	met            map[string]bool // of folders that were asked for: they, or one above them, follow a rule
}

func newHabit(rules []string, root string) *oneHabit {
	h := &oneHabit{root: root, met: map[string]bool{}}
	for _, r := range rules {
		if rule, folder := strings.CutSuffix(strings.ToLower(r), "/"); folder {
			h.folders = append(h.folders, rule)
		} else {
			h.files = append(h.files, rule)
		}
	}
	return h
}

func (h *oneHabit) holds(file string) bool {
	dir, name := filepath.Split(file)
	return matches(h.files, name) || h.below(filepath.Clean(dir))
}

// below tells that a folder, or one above it and below the root, follows a rule.
func (h *oneHabit) below(dir string) bool {
	if dir == h.root || dir == filepath.Dir(dir) {
		return false
	}
	v, known := h.met[dir]
	if !known {
		v = matches(h.folders, filepath.Base(dir)) || h.below(filepath.Dir(dir))
		h.met[dir] = v
	}
	return v
}

// matches tells whether a name follows one of the rules, which are in small letters.
func matches(rules []string, name string) bool {
	name = strings.ToLower(name)
	return slices.ContainsFunc(rules, func(rule string) bool {
		ok, _ := path.Match(rule, name)
		return ok
	})
}

// beside is what a companion's rule makes of a file's name.
func beside(rule, base string) (name string, folder bool) {
	name, folder = strings.CutSuffix(rule, "/")
	if before, after, ok := strings.Cut(name, "FULL"); ok {
		return before + base + after, folder
	}
	if before, after, ok := strings.Cut(name, "NAME"); ok {
		return before + strings.TrimSuffix(base, filepath.Ext(base)) + after, folder
	}
	return name, folder
}

// companions finds what belongs to documents and files: beside them, or left
// behind where the project, or the document, was.
func (j *judge) companions(moved []Move) (list []Companion) {
	listed := map[string]map[string]bool{} // folder → name → is a folder
	in := func(dir string) map[string]bool {
		names, ok := listed[dir]
		if !ok {
			names = map[string]bool{}
			entries, _ := j.Reach.ReadDir(dir) // what cannot be listed holds nothing we know of
			for _, e := range entries {
				names[e.Name()] = e.IsDir()
			}
			listed[dir] = names
		}
		return names
	}
	named := map[string]bool{}
	for i := range j.g.Files {
		named[j.g.Files[i].Path] = true
		for _, p := range j.g.Files[i].Also {
			named[p] = true
		}
	}
	const sep = string(filepath.Separator)
	met := map[string]bool{}
	of := func(file string, was []string) {
		dir, base := filepath.Split(file)
		dir = filepath.Clean(dir)
		here, parent := in(dir), strings.TrimSuffix(dir, sep)+sep
		for _, rule := range j.Habits.Companions {
			name, folder := beside(rule, base)
			c := Companion{Of: file, Path: parent + name, Rule: strings.TrimSuffix(rule, "/")}
			if name == base || met[c.Path] || named[c.Path] {
				continue
			}
			if isDir, there := here[name]; there && isDir == folder {
				c.State = graph.Here
			} else if c.Found = j.elsewhere(in, was, dir, name, base, folder); c.Found != "" {
				c.State = apart
			} else if j.Once != nil && j.Once(c.Path) {
				c.State = graph.Missing
			} else {
				continue
			}
			met[c.Path] = true
			list = append(list, c)
		}
	}
	for i := range j.g.Files {
		f := &j.g.Files[i]
		if !f.Carried || f.Frames != nil {
			continue
		}
		var was []string
		if f.Doc != graph.None {
			if d := &j.g.Documents[f.Doc]; d.Was != "" {
				was = append(was, filepath.Dir(d.Was))
			}
		}
		if rel, err := filepath.Rel(j.g.Root, filepath.Dir(f.Path)); err == nil && drive.Within(j.g.Root, f.Path) {
			for _, m := range moved {
				was = append(was, filepath.Join(m.From, rel))
			}
		}
		of(f.Path, was)
	}
	return list
}

// elsewhere is where a companion stayed behind: where its file was before, else the
// one place the index knows, unless another file of that name stands there, whose
// companion it is.
func (j *judge) elsewhere(in func(string) map[string]bool, was []string, dir, name, base string, folder bool) string {
	for _, old := range was {
		if isDir, there := in(old)[name]; there && isDir == folder && old != dir {
			return filepath.Join(old, name)
		}
	}
	if j.Called == nil || j.asked >= maxCalled || folder && !j.given[filepath.Join(dir, base)] {
		return ""
	}
	j.asked++
	found := j.Called(name, folder)
	if len(found) != 1 {
		return ""
	}
	if _, own := in(filepath.Dir(found[0]))[base]; own {
		return ""
	}
	return found[0]
}

// maxCalled bounds how many companions the index is asked for; data folders are
// asked for of the given documents alone, whose programs make them.
const maxCalled = 4000

// apart is the state of a companion that stayed behind.
const apart graph.State = "apart"
