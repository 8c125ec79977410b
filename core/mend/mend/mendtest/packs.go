package mendtest

import (
	"fmt"
	"path/filepath"
	"strings"
)

// Packs is somebody who works out of libraries: packs of sounds, surfaces and models in
// which the same few names come again and again. Packs are moved, renamed, put together,
// written flat; documents stand in many folders of their own.
func Packs(dir string, seed uint64, references int) (*Studio, error) {
	b := newBuilder(dir, seed, 23)
	b.s.Root = filepath.Join(dir, "projects")
	library := filepath.Join(dir, "library")
	packs := b.packs(library)
	users := b.songs(packs, references)
	fate := lots(b, []string{"stands", "moved tree", "folder renamed", "put deeper", "flattened", "gone", "collected", "older copy", "respelled"}, func(string) float64 { return 1 })
	for i, p := range packs {
		f := fate.draw(b)
		if f == "stands" || i == 0 {
			for _, x := range p.files {
				b.write(filepath.Join(p.dir, x.name), x.content)
			}
			continue
		}
		rel, err := filepath.Rel(library, p.dir)
		if err != nil {
			b.err = err
		}
		to := map[string]string{
			"moved tree": filepath.Join(dir, "Big Disk", "library", rel), "folder renamed": p.dir + b.pick([]string{" (new)", " HQ", " complete"}),
			"put deeper": filepath.Join(library, "sorted", b.pick([]string{"by maker", "by kind"}), rel), "flattened": filepath.Join(dir, "all sounds"),
			"older copy": filepath.Join(dir, "backup", rel), "respelled": filepath.Join(dir, "Big Disk", strings.ReplaceAll(rel, " ", "_")),
		}[f]
		for _, x := range p.files {
			expected := filepath.Join(p.dir, x.name)
			b.lose(expected, x.content, f)
			switch f {
			case "gone":
			case "flattened":
				b.lies(expected, filepath.Join(to, b.pick([]string{filepath.Base(filepath.Dir(p.dir)), filepath.Base(p.dir)})+" - "+x.name), x.content)
			case "collected": // somebody put them beside the song that they made last
				b.lies(expected, filepath.Join(users[p.dir], "sounds", x.name), x.content)
			case "older copy": // the right one is gone; half of what is left has other bytes
				if b.IntN(2) == 0 {
					b.lies(expected, filepath.Join(to, x.name), x.content)
				} else {
					b.write(filepath.Join(to, x.name), b.otherFile(x.name))
				}
			case "respelled":
				stem, ext := parts(x.name)
				b.lies(expected, filepath.Join(to, strings.ToUpper(strings.ReplaceAll(stem, " ", "_"))+ext), x.content)
			default:
				b.lies(expected, filepath.Join(to, x.name), x.content)
			}
		}
	}
	return b.s, b.err
}

var (
	makers = strings.Fields("Granite Willow Harbor Ember Cobalt Juniper Basalt Saffron Tundra Onyx Meadow Quartz")
	packed = map[kind][]string{
		sound:   {"kick 01", "kick 02", "kick 03", "snare 01", "snare 02", "hat closed", "hat open", "clap", "rim", "crash 01", "loop 90", "loop 120"},
		picture: {"diffuse", "normal", "rough", "height", "metal", "ao", "preview", "mask_a", "mask_b"},
		model:   {"chair", "table", "lamp", "shelf low", "shelf high", "door_left", "door_right", "stool"},
	}
)

type pack struct {
	dir   string
	kind  kind
	files []file
}

// packs makes the library.
func (b *builder) packs(library string) []pack {
	var packs []pack
	for i := range 14 + b.IntN(16) {
		k := kind(b.IntN(3))
		p := pack{kind: k, dir: filepath.Join(library, b.pick([]string{"Drums", "Surfaces", "Interiors", "Various"}), b.pick(makers)+b.pick([]string{"", " Vol " + fmt.Sprint(1+b.IntN(4)), " " + b.pick(makers)}), b.pick([]string{"", "wav", "2K", "files"}))}
		for _, other := range packs {
			if other.dir == p.dir {
				p.dir += fmt.Sprint(" ", i)
			}
		}
		for _, s := range packed[k] {
			if b.IntN(8) > 0 {
				p.files = append(p.files, b.file(k, s))
			}
		}
		packs = append(packs, p)
	}
	return packs
}

// songs writes documents that use a handful of files of two or three packs, and tells the
// folder of the last one that uses each pack.
func (b *builder) songs(packs []pack, references int) map[string]string {
	users := map[string]string{}
	for n, d := 0, 0; n < references; d++ {
		var refs []ref
		path := filepath.Join(b.s.Root, b.pick(makers), fmt.Sprintf("song %02d", d))
		for range 1 + b.IntN(3) {
			p := packs[b.IntN(len(packs))]
			users[p.dir] = filepath.Dir(path)
			for range 1 + b.IntN(6) {
				x := p.files[b.IntN(len(p.files))]
				refs = append(refs, ref{filepath.Join(p.dir, x.name), x.seconds})
			}
		}
		n += len(refs)
		if b.IntN(3) > 0 {
			b.timeline(path+".otio", refs, b.IntN(2) == 0, b.Float64())
		} else {
			b.playlist(path+".m3u", refs)
		}
	}
	return users
}
