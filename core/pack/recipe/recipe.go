// Package recipe reads saved choices for a kind of handoff: YAML (YAML 1.2, of
// which JSON is a part), written by the application and by hand. A key that is
// not known is refused with its line, never ignored.
package recipe

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"github.com/dustin/go-humanize"
	"go.yaml.in/yaml/v3"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
)

// Recipe is saved choices.
type Recipe struct {
	Title string
	Stow  stow.Options
	For   string
	From  string
	Note  string
	Also  []string       // what goes along: sift.Alongs and globs
	Lines map[string]int // of the globs, by themselves
	// SHA512 asks for manifests of SHA-512 beside those of SHA-256.
	SHA512 bool
	Lists  []lists.Kind // what others read the crate by
	Parts  int64        // bytes that no archive is larger than; 0: it is one
}

// PartsOf is Parts for a crate that goes to a place: a folder is one, whatever a recipe says of
// archives.
func (r Recipe) PartsOf(out string) int64 {
	if k, _ := carrier.KindOf(out); k == carrier.Folder {
		return 0
	}
	return r.Parts
}

// LeastPart is the least size of a part, in bytes.
const LeastPart = 1_000_000

// Size reads a size as people write it: 2GB, 650 MB, 4.7 GB, 4 GiB, or bytes.
func Size(text string) (int64, bool) {
	n, err := humanize.ParseBytes(text)
	return int64(n), err == nil && n >= LeastPart && n < 1<<50
}

// sizeText is a size as Size reads it, to the byte.
func sizeText(n int64) string {
	for _, u := range []struct {
		of   int64
		name string
	}{{1_000_000_000, "GB"}, {1 << 30, "GiB"}, {1_000_000, "MB"}} {
		if n%u.of == 0 {
			return strconv.FormatInt(n/u.of, 10) + u.name
		}
	}
	return strconv.FormatInt(n, 10)
}

// Default is what holds where no recipe says anything.
func Default() Recipe {
	return Recipe{Stow: stow.Options{Layout: stow.ByKind}, Lines: map[string]int{}}
}

// Trouble is what is wrong with a recipe's line.
type Trouble string

// The troubles.
const (
	Unknown   Trouble = "unknown"    // no such key or word
	NoText    Trouble = "no-text"    // a text was wanted
	NoMap     Trouble = "no-map"     // keys and values were wanted
	NoList    Trouble = "no-list"    // a list of texts was wanted
	BadGlob   Trouble = "bad-glob"   // a pattern that cannot be read
	BadLayout Trouble = "bad-layout" // Err is a *stow.PatternError
	NotKept   Trouble = "not-kept"   // sounds are cut in a crate that is to keep everything
	NoRecipe  Trouble = "no-recipe"
	Twice     Trouble = "twice"
	Alias     Trouble = "alias"        // what stands elsewhere is meant
	Second    Trouble = "second"       // a second document follows
	NoNumber  Trouble = "not-a-number" // or an infinite one
)

// Error is the first line of a recipe that cannot be followed.
type Error struct {
	Line    int // 1-based; 0: the whole of it
	Key     string
	Trouble Trouble
	Word    string   // what stands there
	Words   []string // what may stand there
	Err     error
}

func (e *Error) Error() string {
	return fmt.Sprintf("line %d, %s: %s %q", e.Line, e.Key, e.Trouble, e.Word)
}

func (e *Error) Unwrap() error { return e.Err }

// Parse reads a recipe.
func Parse(text []byte) (Recipe, error) {
	r := Default()
	var root, more yaml.Node
	d := yaml.NewDecoder(bytes.NewReader(text))
	if err := d.Decode(&root); errors.Is(err, io.EOF) {
		return r, nil // an empty file chooses nothing
	} else if err != nil {
		return r, &Error{Trouble: NoRecipe, Err: err}
	}
	if err := d.Decode(&more); !errors.Is(err, io.EOF) {
		return r, &Error{Line: max(more.Line, 1), Trouble: Second}
	}
	m := root.Content[0]
	if err := plain(m); err != nil {
		return r, err
	}
	if m.Kind != yaml.MappingNode {
		return r, &Error{Line: m.Line, Trouble: NoRecipe, Err: errors.New("it is no list of keys and values")}
	}
	for i := 0; i+1 < len(m.Content); i += 2 {
		key, value := m.Content[i], m.Content[i+1]
		if err := r.set(key, value); err != nil {
			return r, err
		}
	}
	if r.Stow.Trim != nil && sift.Keeps(r.Also) {
		return r, &Error{Line: m.Line, Key: "trim", Trouble: NotKept}
	}
	return r, nil
}

// plain refuses what a recipe does not need and people misread: aliases, keys that stand twice
// at any depth, numbers that are none.
func plain(n *yaml.Node) error {
	switch {
	case n.Kind == yaml.AliasNode || n.Anchor != "":
		return &Error{Line: n.Line, Key: n.Value, Trouble: Alias, Word: n.Anchor + n.Value}
	case n.Kind == yaml.ScalarNode && n.Tag == "!!float":
		if v, err := strconv.ParseFloat(n.Value, 64); err != nil || v-v != 0 {
			return &Error{Line: n.Line, Trouble: NoNumber, Word: n.Value}
		}
	case n.Kind == yaml.MappingNode:
		met := map[string]bool{}
		for i := 0; i+1 < len(n.Content); i += 2 {
			key := n.Content[i]
			if met[key.Value] {
				return &Error{Line: key.Line, Key: key.Value, Trouble: Twice}
			}
			met[key.Value] = true
		}
	}
	for _, c := range n.Content {
		if err := plain(c); err != nil {
			return err
		}
	}
	return nil
}

func (r *Recipe) set(key, value *yaml.Node) error {
	e := entry{r, key, value}
	switch key.Value {
	case "title":
		return e.text(&r.Title)
	case "for":
		return e.text(&r.For)
	case "from":
		return e.text(&r.From)
	case "note":
		return e.text(&r.Note)
	case "prefix":
		return e.text(&r.Stow.Prefix)
	case "suffix":
		return e.text(&r.Stow.Suffix)
	case "also":
		return e.globs(&r.Also)
	case "drop":
		return e.globs(&r.Stow.Leave.Drop)
	case "keep":
		return e.globs(&r.Stow.Leave.Keep)
	case "leave":
		return e.each(func(n *yaml.Node) error { return r.leave(key.Value, n) })
	case "sound":
		return r.sound(key, value)
	case "layout":
		return e.layout()
	case "interchange":
		return e.each(func(n *yaml.Node) error {
			f := export.Form(n.Value)
			if !slices.Contains(export.Forms, f) {
				return &Error{Line: n.Line, Key: key.Value, Trouble: Unknown, Word: n.Value, Words: []string{"edl", "adl", "m3u", "xspf", "otio-1", "list"}}
			}
			r.Stow.Interchange = append(r.Stow.Interchange, f)
			return nil
		})
	case "digests":
		return e.each(func(n *yaml.Node) error {
			switch n.Value {
			case "sha256": // it is always there
			case "sha512":
				r.SHA512 = true
			default:
				return &Error{Line: n.Line, Key: key.Value, Trouble: Unknown, Word: n.Value, Words: []string{"sha256", "sha512"}}
			}
			return nil
		})
	case "lists":
		return e.each(r.list)
	case "trim":
		n, err := strconv.ParseFloat(value.Value, 64)
		if err != nil || n < 0 || n > 3600 {
			return e.fail(Unknown, value.Value, "a number of seconds")
		}
		r.Stow.Trim = &n
		return nil
	case "names":
		switch value.Value {
		case "portable":
			r.Stow.AnyNames = false
		case "as-they-are":
			r.Stow.AnyNames = true
		default:
			return e.fail(Unknown, value.Value, "portable", "as-they-are")
		}
		return nil
	case "parts":
		n, ok := Size(value.Value)
		if !ok {
			return e.fail(Unknown, value.Value, "2GB", "650 MB", "a size of at least 1 MB")
		}
		r.Parts = n
		return nil
	}
	return &Error{Line: key.Line, Key: key.Value, Trouble: Unknown}
}

// entry is one key of a recipe with its value.
type entry struct {
	r          *Recipe
	key, value *yaml.Node
}

func (e entry) fail(t Trouble, word string, words ...string) error {
	return &Error{Line: e.value.Line, Key: e.key.Value, Trouble: t, Word: word, Words: words}
}

func (e entry) text(to *string) error {
	if e.value.Kind != yaml.ScalarNode || e.value.Tag == "!!null" {
		return e.fail(NoText, "")
	}
	*to = e.value.Value
	return nil
}

// each goes through a list of words.
func (e entry) each(do func(n *yaml.Node) error) error {
	if e.value.Kind != yaml.SequenceNode || slices.ContainsFunc(e.value.Content, func(n *yaml.Node) bool { return n.Kind != yaml.ScalarNode }) {
		return e.fail(NoList, "")
	}
	for _, n := range e.value.Content {
		if err := do(n); err != nil {
			return err
		}
	}
	return nil
}

func (e entry) globs(to *[]string) error {
	return e.each(func(n *yaml.Node) error {
		if !sift.Readable(n.Value) {
			return &Error{Line: n.Line, Key: e.key.Value, Trouble: BadGlob, Word: n.Value}
		}
		e.r.Lines[n.Value] = n.Line
		*to = append(*to, n.Value)
		return nil
	})
}

func (e entry) layout() error {
	var s string
	if err := e.text(&s); err != nil {
		return err
	}
	l := stow.Layout(s)
	if l.IsPattern() && !strings.ContainsAny(s, "{}") {
		return e.fail(Unknown, s, "kind", "flat", "stands", "document", "{kind}/{name}")
	}
	if err := stow.CheckLayout(l); err != nil {
		return &Error{Line: e.value.Line, Key: e.key.Value, Trouble: BadLayout, Word: s, Err: err}
	}
	e.r.Stow.Layout = l
	return nil
}

func (r *Recipe) leave(key string, n *yaml.Node) error {
	c := &r.Stow.Leave
	switch n.Value {
	case "dormant":
		c.Dormant = true
	case "listed":
		c.Listed = true
	case "library":
		c.Library = true
	case "store":
		c.Store = true
	case "rebuildable":
		c.Rebuilt = true
	case "duplicates":
		c.Twice = true
	default:
		kind, ok := strings.CutPrefix(n.Value, "kind:")
		if !ok || !slices.Contains(facts.Kinds, facts.Kind(kind)) {
			return &Error{Line: n.Line, Key: key, Trouble: Unknown, Word: n.Value, Words: []string{"dormant", "listed", "rebuildable", "library", "store", "duplicates", "kind:audio"}}
		}
		c.Kinds = append(c.Kinds, facts.Kind(kind))
	}
	return nil
}

// sound reads what sounds shall be: {type: wav, rate: 48000, depth: 24, channels: interleaved}.
func (r *Recipe) sound(key, value *yaml.Node) error {
	if value.Kind != yaml.MappingNode {
		return &Error{Line: value.Line, Key: key.Value, Trouble: NoMap}
	}
	to := &r.Stow.Sound
	for i := 0; i+1 < len(value.Content); i += 2 {
		k, v := value.Content[i], value.Content[i+1]
		fail := func(words ...string) error {
			return &Error{Line: v.Line, Key: "sound: " + k.Value, Trouble: Unknown, Word: v.Value, Words: words}
		}
		switch k.Value {
		case "type":
			to.Type = pcm.Type(v.Value)
			if to.Type != pcm.WAV && to.Type != pcm.AIFF && to.Type != pcm.FLAC {
				return fail("wav", "aiff", "flac")
			}
		case "rate":
			n, err := strconv.Atoi(v.Value)
			if to.Rate = n; err != nil || !slices.Contains(pcm.Rates, n) {
				return fail("44100", "48000", "88200", "96000", "176400", "192000")
			}
		case "depth":
			switch v.Value {
			case "16", "24", "32":
				to.Depth, _ = strconv.Atoi(v.Value)
			case "32float", "32 float":
				to.Depth, to.Float = 32, true
			default:
				return fail("16", "24", "32", "32float")
			}
		case "channels":
			to.Channels = pcm.Channels(v.Value)
			if to.Channels != pcm.Interleaved && to.Channels != pcm.Split {
				return fail("interleaved", "split")
			}
		default:
			return &Error{Line: k.Line, Key: "sound: " + k.Value, Trouble: Unknown}
		}
	}
	return nil
}

// list asks for one of the lists that others read a crate by.
func (r *Recipe) list(n *yaml.Node) error {
	k := lists.Kind(n.Value)
	if !slices.Contains(lists.Kinds, k) {
		return &Error{Line: n.Line, Key: "lists", Trouble: Unknown, Word: n.Value, Words: []string{"ro-crate", "mhl"}}
	}
	if !slices.Contains(r.Lists, k) {
		r.Lists = append(r.Lists, k)
	}
	return nil
}
