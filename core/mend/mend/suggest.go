package mend

import (
	"cmp"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
)

// Reason is why a folder is worth looking in.
type Reason string

// The reasons, the best first.
const (
	Told     Reason = "told"     // another project found N of the missing files there
	Theirs   Reason = "theirs"   // N of the missing names stand there, and another project names those files
	Named    Reason = "named"    // the drive index knows N of the missing names there
	Led      Reason = "led"      // N earlier repairs led there
	Siblings Reason = "siblings" // N files of the same documents are there
	Root     Reason = "root"     // it is the project's own
	Above    Reason = "above"    // it is the one above the project's
	Drive    Reason = "drive"    // it is a drive
)

// Suggestion is a folder worth looking in, and why.
type Suggestion struct {
	Path string
	Why  Reason
	N    int
}

// maxSuggested is how many folders of one reason are told, maxNames how many of the
// missing names the index is asked for, maxSame how many files of one name other
// projects are asked of.
const (
	maxSuggested = 2
	maxNames     = 2000
	maxSame      = 20
)

// Known is what suggestions are made of beside a graph.
type Known struct {
	Repairs []resolve.Repair       // the project's own
	Told    []string               // where other projects found what this one misses
	Index   index.Index            // nil: none
	Named   func(path string) bool // another project names that file; nil: nobody knows
	Drives  []drive.Drive
}

// Suggest lists folders worth looking in and why: where other projects found the same
// files, where the drive index knows the missing names, where earlier repairs led, where
// other files of the project are, its own folder, the one above it, the drives. Nothing
// is searched unasked.
func Suggest(g *graph.Graph, reach drive.Reach, k Known) []Suggestion {
	var list []Suggestion
	add := func(dir string, why Reason, n int) {
		if slices.ContainsFunc(list, func(s Suggestion) bool { return s.Path == dir }) {
			return
		}
		if info, err := reach.Stat(dir); err == nil && info.Mode.IsDir() {
			list = append(list, Suggestion{dir, why, n})
		}
	}
	top := func(count map[string]int, why Reason) {
		dirs := make([]string, 0, len(count))
		for d, n := range count {
			if d != g.Root && n > 0 {
				dirs = append(dirs, d)
			}
		}
		slices.SortFunc(dirs, func(a, b string) int { return cmp.Or(cmp.Compare(count[b], count[a]), strings.Compare(a, b)) })
		for _, d := range dirs[:min(len(dirs), maxSuggested)] {
			add(d, why, count[d])
		}
	}
	told, led, beside := map[string]int{}, map[string]int{}, map[string]int{}
	for _, p := range k.Told {
		told[filepath.Dir(p)]++
	}
	top(told, Told)
	if k.Index != nil {
		all, theirs := named(g, k)
		top(theirs, Theirs)
		top(all, Named)
	}
	for _, r := range k.Repairs {
		if r.Prefix {
			led[r.To]++
		} else {
			led[filepath.Dir(r.To)]++
		}
	}
	top(led, Led)
	for i := range g.Files {
		if f := &g.Files[i]; len(f.Refs) > 0 && f.State == graph.Away && f.Frames == nil {
			beside[filepath.Dir(f.Path)]++
		}
	}
	top(beside, Siblings)
	add(g.Root, Root, 0)
	add(filepath.Dir(g.Root), Above, 0)
	for _, d := range k.Drives {
		add(d.Dir, Drive, 0)
	}
	return list
}

// named counts the missing names an index knows, by folders, and of those the files
// that another project names. Below a folder that holds several of them, those within
// are counted together.
func named(g *graph.Graph, k Known) (count, theirs map[string]int) {
	count, theirs = map[string]int{}, map[string]int{}
	asked := 0
	for i := range g.Files {
		f := &g.Files[i]
		if len(f.Refs) == 0 || f.State != graph.Missing || f.Frames != nil {
			continue
		}
		if asked++; asked > maxNames {
			break
		}
		met := map[string]bool{}
		entries, err := k.Index.Named(filepath.Base(f.Path))
		if err != nil {
			return nil, nil
		}
		for n, e := range entries {
			if dir := filepath.Dir(e.Path); !met[dir] && e.Path != f.Path {
				met[dir] = true
				count[dir]++
				if k.Named != nil && n < maxSame && k.Named(e.Path) {
					theirs[dir]++
				}
			}
		}
	}
	for dir := range count {
		if up := filepath.Dir(dir); count[up] == 0 && siblings(count, up) {
			total := 0
			for d, n := range count {
				if filepath.Dir(d) == up {
					total += n
				}
			}
			count[up] = total
		}
	}
	return count, theirs
}

// siblings tells that several folders in one hold missing names.
func siblings(count map[string]int, up string) bool {
	n := 0
	for d := range count {
		if filepath.Dir(d) == up {
			n++
		}
	}
	return n > 1
}
