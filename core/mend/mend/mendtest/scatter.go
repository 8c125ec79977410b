package mendtest

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"
)

// Scatter is a studio of many small documents. They name single files out of folders of
// which the most stands still. Each file is lost by itself, a few trees are moved whole,
// and copies with other bytes mislead.
func Scatter(dir string, seed uint64, references int) (*Studio, error) {
	b := &scatterer{builder: newBuilder(dir, seed, 11)}
	b.drives = []string{filepath.Join(dir, "Slate"), filepath.Join(dir, "Fern"), filepath.Join(dir, "Copper"), filepath.Join(dir, "Dune")}
	b.s.Root = filepath.Join(b.drives[0], "work")
	trees := b.stock()
	used := b.pieces(references)
	fate := lots(b.builder, []string{"stands", "moved singly", "put after", "put before", "dated", "respelled", "renumbered", "gone", "alike"}, func(f string) float64 {
		return map[string]float64{"stands": 6, "moved singly": 4}[f] + 1
	})
	movedTrees := map[int]string{}
	for t := range trees {
		if b.IntN(4) == 0 {
			movedTrees[t] = filepath.Join(b.pick(b.drives), b.pick([]string{"moved here", "from Slate", "2031"}))
		}
	}
	misleads := b.Float64() * 0.6
	for i, it := range b.items {
		f := fate.draw(b.builder)
		to, moved := movedTrees[it.tree]
		if moved {
			f = "moved tree"
		}
		if !used[i] && f != "moved tree" {
			f = "stands"
		}
		if f == "stands" {
			b.write(it.path, it.file.content)
			continue
		}
		b.lose(it.path, it.file.content, f)
		b.happens(it, f, to)
		if b.Float64() < misleads {
			b.mislead(it)
		}
	}
	return b.s, b.err
}

type scatterer struct {
	*builder
	drives []string
	items  []strewn
}

type strewn struct {
	path string
	file file
	tree int
}

var (
	stuffs = strings.Fields("plaster slate moss brick felt linen copper marble foam paper glass clay rust bark sand velvet chalk resin straw cork")
	extras = strings.Fields("Fäden Grün höhle Ölkanne été forêt niño Łódka")
	topics = strings.Fields("surfaces loops rooms people props skies doors titles water steps")
)

func (b *scatterer) name() string {
	w := b.pick(stuffs)
	if b.IntN(9) == 0 {
		w = b.pick(extras)
	}
	switch b.IntN(7) {
	case 0:
		return fmt.Sprintf("%s-v%03d", w, 1+b.IntN(30))
	case 1:
		return fmt.Sprintf("%s %d", w, 1+b.IntN(24))
	case 2:
		return fmt.Sprintf("%s (%d)", w, 1+b.IntN(9))
	case 3:
		return w + b.pick([]string{" wide", "_close", " tile", "-left", "_Right"})
	case 4:
		return fmt.Sprintf("%s_%02d_%s", strings.ToUpper(w[:1])+w[1:], 1+b.IntN(60), b.pick(topics))
	case 5:
		return fmt.Sprintf("%s %s", w, b.pick(stuffs))
	}
	return w
}

// stock makes the files, in trees of folders.
func (b *scatterer) stock() (trees int) {
	trees = 6 + b.IntN(6)
	met := map[string]bool{}
	for t := range trees {
		top := filepath.Join(b.pick(b.drives), b.pick([]string{"stock", "shared", "job " + fmt.Sprint(10+t), "Assets"}), b.pick(topics)+fmt.Sprint(" ", t))
		for range 2 + b.IntN(4) {
			dir := filepath.Join(top, b.pick(stuffs))
			k := kind(b.IntN(3))
			for range 3 + b.IntN(22) {
				x := b.file(k, b.name())
				if p := filepath.Join(dir, x.name); !met[norm.NFC.String(strings.ToLower(p))] {
					met[norm.NFC.String(strings.ToLower(p))] = true
					b.items = append(b.items, strewn{p, x, t})
				}
			}
		}
	}
	return trees
}

// pieces are documents of a few references each.
func (b *scatterer) pieces(references int) (used map[int]bool) {
	used = map[int]bool{}
	for n, d := 0, 0; n < references; d++ {
		var refs []ref
		for range 2 + b.IntN(8) {
			i := b.IntN(len(b.items))
			used[i] = true
			refs = append(refs, ref{b.items[i].path, b.items[i].file.seconds})
		}
		n += len(refs)
		path := filepath.Join(b.s.Root, fmt.Sprintf("piece %03d", d))
		if b.IntN(2) == 0 {
			b.timeline(path+".otio", refs, b.IntN(3) == 0, 0.5*b.Float64())
		} else {
			b.playlist(path+".m3u", refs)
		}
	}
	return used
}

// happens puts a lost file where its fate brings it.
func (b *scatterer) happens(it strewn, fate, moved string) {
	dir, base := filepath.Split(it.path)
	dir = filepath.Clean(dir)
	elsewhere := func() string {
		return filepath.Join(b.pick(b.drives), b.pick([]string{"inbox", "tidy", "misc", "new folder", "kept"}), b.pick(topics))
	}
	stem, ext := parts(base)
	place := dir
	if b.IntN(3) == 0 {
		place = elsewhere()
	}
	put := func(dir, name string) { b.lies(it.path, filepath.Join(dir, name), it.file.content) }
	switch fate {
	case "moved tree":
		rel, _ := filepath.Rel(filepath.Dir(filepath.Dir(dir)), it.path)
		put(moved, rel)
	case "moved singly":
		put(elsewhere(), base)
	case "put after":
		put(place, stem+b.pick([]string{" copy", "_v2", " old", " (1)", "-final", " 2"})+ext)
	case "put before":
		put(place, b.pick([]string{"old ", "new_", "x ", "Fern - "})+base)
	case "dated":
		put(place, fmt.Sprintf("2031-%02d-%02d %s", 1+b.IntN(12), 1+b.IntN(28), base))
	case "respelled":
		put(place, b.respell(stem)+ext)
	case "renumbered": // counted in another manner: the same number
		put(place, recounted(b.builder, stem)+ext)
	case "alike":
		r := []rune(stem)
		if len(r) > 4 {
			k := 2 + b.IntN(len(r)-3)
			r = slices.Delete(r, k, k+1)
		}
		put(place, string(r)+ext)
	}
}

// mislead puts a copy of a lost file by, of which two of three are older ones.
func (b *scatterer) mislead(it strewn) {
	dir, base := filepath.Split(it.path)
	to := filepath.Join(b.pick(b.drives), b.pick([]string{"Backup 2030", "templates", "old machine"}), filepath.Base(dir), base)
	if b.IntN(3) == 0 { // nothing changed since
		b.lies(it.path, to, it.file.content)
	} else {
		b.write(to, b.otherFile(base))
	}
}

// respell writes a stem as another system, program or person would.
func (b *builder) respell(stem string) string {
	if d := norm.NFD.String(stem); d != stem {
		return d
	}
	switch b.IntN(4) {
	case 0:
		return strings.ToUpper(stem)
	case 1:
		return strings.ToLower(strings.NewReplacer(" ", "_", "-", "_").Replace(stem))
	case 2:
		return strings.NewReplacer(" ", "-", "_", "-").Replace(stem)
	}
	return strings.NewReplacer("_", " ", "-", " ").Replace(stem)
}

// recounted writes a stem with its numbers otherwise: wider, in brackets, after a v.
func recounted(b *builder, stem string) string {
	i := strings.LastIndexFunc(stem, func(r rune) bool { return r < '0' || r > '9' })
	if strings.HasSuffix(stem, ")") {
		stem = strings.TrimSuffix(stem, ")")
		i = strings.LastIndex(stem, "(")
	}
	number, bare := stem[i+1:], strings.TrimRight(stem[:i+1], " -_(v")
	if number == "" || bare == "" {
		return strings.ReplaceAll(stem, " ", "  ")
	}
	var n int
	if _, err := fmt.Sscan(strings.TrimLeft(number, "0")+" ", &n); err != nil {
		n = 0
	}
	return bare + b.pick([]string{fmt.Sprintf("_%d", n), fmt.Sprintf(" (%d)", n), fmt.Sprintf("-v%03d", n), fmt.Sprintf(" %02d", n)})
}
