package recipe

import (
	"embed"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/stow"
)

//go:embed shipped/*.yaml
var shipped embed.FS

// Shipped are the recipes that come with the application, by their names.
var Shipped = func() map[string]Recipe {
	out := map[string]Recipe{}
	entries, err := shipped.ReadDir("shipped")
	if err != nil {
		panic(err) // a test holds it
	}
	for _, e := range entries {
		b, err := shipped.ReadFile("shipped/" + e.Name())
		if err != nil {
			panic(err)
		}
		r, err := Parse(b)
		if err != nil {
			panic(err)
		}
		out[strings.TrimSuffix(e.Name(), ".yaml")] = r
	}
	return out
}()

// written is a recipe's form on disk, its keys in the order of the contract.
type written struct {
	Title       string   `yaml:"title,omitempty"`
	Layout      string   `yaml:"layout"`
	Prefix      string   `yaml:"prefix,omitempty"`
	Suffix      string   `yaml:"suffix,omitempty"`
	Names       string   `yaml:"names"`
	Leave       []string `yaml:"leave,flow"`
	Drop        []string `yaml:"drop,flow,omitempty"`
	Keep        []string `yaml:"keep,flow,omitempty"`
	Also        []string `yaml:"also,flow"`
	Sound       *sound   `yaml:"sound,flow,omitempty"`
	Trim        *float64 `yaml:"trim,omitempty"`
	Interchange []string `yaml:"interchange,flow,omitempty"`
	Digests     []string `yaml:"digests,flow,omitempty"`
	Lists       []string `yaml:"lists,flow,omitempty"`
	Parts       string   `yaml:"parts,omitempty"`
	For         string   `yaml:"for,omitempty"`
	From        string   `yaml:"from,omitempty"`
	Note        string   `yaml:"note,omitempty"`
}

type sound struct {
	Type     string `yaml:"type,omitempty"`
	Rate     int    `yaml:"rate,omitempty"`
	Depth    string `yaml:"depth,omitempty"`
	Channels string `yaml:"channels,omitempty"`
}

// Write is a recipe as YAML, which Parse reads again. What goes by documents of one
// project alone is not in it.
func Write(r Recipe) ([]byte, error) {
	o := r.Stow
	w := written{Title: r.Title, Layout: string(o.Layout), Prefix: o.Prefix, Suffix: o.Suffix, Names: "portable", Leave: Leaves(o), Drop: o.Leave.Drop, Keep: o.Leave.Keep, Also: append([]string{}, r.Also...), For: r.For, From: r.From, Note: r.Note}
	if o.AnyNames {
		w.Names = "as-they-are"
	}
	if s := o.Sound; s != (pcm.Spec{}) {
		w.Sound = &sound{Type: string(s.Type), Rate: s.Rate, Channels: string(s.Channels)}
		switch {
		case s.Float:
			w.Sound.Depth = "32float"
		case s.Depth > 0:
			w.Sound.Depth = map[int]string{16: "16", 24: "24", 32: "32"}[s.Depth]
		}
	}
	w.Trim = o.Trim
	for _, f := range o.Interchange {
		w.Interchange = append(w.Interchange, string(f))
	}
	if r.SHA512 {
		w.Digests = []string{"sha256", "sha512"}
	}
	for _, k := range r.Lists {
		w.Lists = append(w.Lists, string(k))
	}
	w.Parts = parts(r)
	return yaml.Marshal(w)
}

func parts(r Recipe) string {
	if r.Parts == 0 {
		return ""
	}
	return sizeText(r.Parts)
}

// Leaves are the words of what stays behind.
func Leaves(o stow.Options) []string {
	list := []string{}
	for _, x := range []struct {
		on   bool
		word string
	}{{o.Leave.Dormant, "dormant"}, {o.Leave.Listed, "listed"}, {o.Leave.Rebuilt, "rebuildable"}, {o.Leave.Library, "library"}, {o.Leave.Store, "store"}, {o.Leave.Twice, "duplicates"}} {
		if x.on {
			list = append(list, x.word)
		}
	}
	kinds := slices.Clone(o.Leave.Kinds)
	slices.Sort(kinds)
	for _, k := range kinds {
		list = append(list, "kind:"+string(k))
	}
	return list
}

// Difference is one thing that two recipes say otherwise.
type Difference struct {
	Key  string
	A, B string // "" for nothing said
}

// Compare tells what two recipes say otherwise, in the order of the contract.
func Compare(a, b Recipe) []Difference {
	list := []Difference{}
	add := func(key, x, y string) {
		if x != y {
			list = append(list, Difference{key, x, y})
		}
	}
	names := func(r Recipe) string {
		if r.Stow.AnyNames {
			return "as-they-are"
		}
		return "portable"
	}
	forms := func(r Recipe) string {
		var s []string
		for _, f := range r.Stow.Interchange {
			s = append(s, string(f))
		}
		return strings.Join(s, ", ")
	}
	add("layout", string(a.Stow.Layout), string(b.Stow.Layout))
	add("prefix", a.Stow.Prefix, b.Stow.Prefix)
	add("suffix", a.Stow.Suffix, b.Stow.Suffix)
	add("names", names(a), names(b))
	add("leave", strings.Join(Leaves(a.Stow), ", "), strings.Join(Leaves(b.Stow), ", "))
	add("drop", strings.Join(a.Stow.Leave.Drop, ", "), strings.Join(b.Stow.Leave.Drop, ", "))
	add("keep", strings.Join(a.Stow.Leave.Keep, ", "), strings.Join(b.Stow.Leave.Keep, ", "))
	also := func(r Recipe) string {
		s := slices.Clone(r.Also)
		slices.Sort(s)
		return strings.Join(s, ", ")
	}
	add("also", also(a), also(b))
	add("sound", a.Stow.Sound.String(), b.Stow.Sound.String())
	trim := func(r Recipe) string {
		if r.Stow.Trim == nil {
			return ""
		}
		return strconv.FormatFloat(*r.Stow.Trim, 'f', -1, 64)
	}
	add("trim", trim(a), trim(b))
	add("interchange", forms(a), forms(b))
	digests := func(r Recipe) string {
		if r.SHA512 {
			return "sha256, sha512"
		}
		return "sha256"
	}
	add("digests", digests(a), digests(b))
	kinds := func(r Recipe) string {
		var names []string
		for _, k := range r.Lists {
			names = append(names, string(k))
		}
		return strings.Join(names, ", ")
	}
	add("lists", kinds(a), kinds(b))
	add("parts", parts(a), parts(b))
	add("for", a.For, b.For)
	add("from", a.From, b.From)
	return list
}
