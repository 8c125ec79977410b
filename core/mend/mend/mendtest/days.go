package mendtest

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
)

// Days is a production whose machines count recordings anew every day: the same names in
// every day's folder. Days are filed by other people's rules; takes get a date or a scene
// before their number; some are worked on after they were copied.
func Days(dir string, seed uint64, references int) (*Studio, error) {
	b := newBuilder(dir, seed, 31)
	b.s.Root = filepath.Join(dir, "show")
	type take struct {
		path string
		file file
	}
	days := map[string][]take{}
	var order []string
	first, series := 1+b.IntN(12), b.pick([]string{"R%04d", "clip %03d", "ZT_%02d", "%05d"})
	for d := range 5 + b.IntN(9) {
		day := fmt.Sprintf("2031-04-%02d", first+d)
		unit := b.pick([]string{"unit a", "unit b", "stills"})
		k := sound
		if unit == "stills" {
			k = picture
		}
		at := filepath.Join(dir, "footage", day, unit)
		for n := range 4 + b.IntN(30) {
			x := b.file(k, fmt.Sprintf(series, 1+n))
			days[at] = append(days[at], take{filepath.Join(at, x.name), x})
		}
		order = append(order, at)
	}
	for n, d := 0, 0; n < references; d++ {
		var refs []ref
		for range 6 + b.IntN(30) {
			day := days[order[b.IntN(len(order))]]
			t := day[b.IntN(len(day))]
			refs = append(refs, ref{t.path, t.file.seconds})
		}
		n += len(refs)
		path := filepath.Join(b.s.Root, fmt.Sprintf("scene %d", 1+d))
		if b.IntN(2) == 0 {
			b.timeline(path+".otio", refs, b.IntN(2) == 0, 0.9*b.Float64())
		} else {
			b.playlist(path+".m3u", refs)
		}
	}
	fate := lots(b, []string{"stands", "moved tree", "dated", "split", "gone", "put before", "worked on", "older copy", "two copies", "partly"}, func(string) float64 { return 1 })
	for _, at := range order {
		f := fate.draw(b)
		day, unit := filepath.Base(filepath.Dir(at)), filepath.Base(at)
		for i, t := range days[at] {
			if f == "stands" || f == "partly" && i%3 > 0 {
				b.write(t.path, t.file.content)
				continue
			}
			b.lose(t.path, t.file.content, f)
			put := func(path string) { b.lies(t.path, path, t.file.content) }
			name, compact := t.file.name, strings.ReplaceAll(day, "-", "")
			switch f {
			case "moved tree":
				put(filepath.Join(dir, "vault", "footage", day, unit, name))
			case "partly":
				put(filepath.Join(dir, "vault", "selects", day, name))
			case "dated":
				put(filepath.Join(dir, "vault", unit, compact+"_"+name))
			case "split":
				put(filepath.Join(dir, "vault", b.pick([]string{"good", "rest"}), day, name))
			case "put before":
				put(filepath.Join(at, fmt.Sprintf("sc%d ", 1+i/5)+name))
			case "worked on": // the very name holds a later state, the first lies beside it: either will do
				stem, ext := parts(name)
				put(filepath.Join(dir, "vault", day, stem+" orig"+ext))
				b.lies(t.path, filepath.Join(dir, "vault", day, name), b.otherFile(name))
			case "older copy": // half of it was written over since
				if path := filepath.Join(dir, "old disk", day, unit, name); i%2 == 0 {
					put(path)
				} else {
					b.write(path, b.otherFile(name))
				}
			case "two copies":
				put(filepath.Join(dir, "vault", day, unit, name))
				put(filepath.Join(dir, "mirror", "vault", day, unit, name))
			}
		}
	}
	return b.s, b.err
}

// Parts is an office that draws machines: assemblies of parts called by numbers, with
// revisions. The vault was tidied, releases were copied, revisions were given other marks.
func Parts(dir string, seed uint64, references int) (*Studio, error) {
	b := newBuilder(dir, seed, 43)
	b.s.Root = filepath.Join(dir, "machines")
	what := strings.Fields("bracket plate shaft gear housing spacer washer cover lever spring clamp rail")
	type part struct {
		path, number, rev string
		file              file
	}
	var drawn []part
	numbers := map[int]bool{}
	groups := []string{"frame", "drive", "head", "guards", "standard"}
	for range references/3 + 20 {
		no := 10000 + b.IntN(4000)
		if numbers[no] {
			continue
		}
		numbers[no] = true
		number, rev := fmt.Sprintf("BC-%d", no), b.pick([]string{"", "_A", "_B", "_C", "-r2", " rev 3"})
		stem := number + rev
		if b.IntN(2) == 0 {
			stem = number + " " + b.pick(what) + rev
		}
		x := b.file(model, stem)
		x.name = stem + ".stl"
		drawn = append(drawn, part{filepath.Join(dir, "vault", b.pick(groups), x.name), number, rev, x})
	}
	for n, d := 0, 0; n < references; d++ {
		var refs []ref
		for range 4 + b.IntN(24) {
			p := drawn[b.IntN(len(drawn))]
			refs = append(refs, ref{path: p.path})
		}
		n += len(refs)
		b.robot(filepath.Join(b.s.Root, fmt.Sprintf("machine %02d", d), "assembly.urdf"), refs)
	}
	fate := lots(b, []string{"stands", "moved tree", "moved singly", "other revision", "put after", "respelled", "released", "gone", "converted", "older copy"}, func(f string) float64 {
		return map[string]float64{"stands": 2, "moved tree": 2}[f] + 1
	})
	tree := b.pick(groups) // this one moved as a whole
	for _, p := range drawn {
		group := filepath.Base(filepath.Dir(p.path))
		f := fate.draw(b)
		if group == tree {
			f = "moved tree"
		} else if f == "moved tree" {
			f = "stands"
		}
		stem, ext := parts(p.file.name)
		if f == "stands" {
			b.write(p.path, p.file.content)
			continue
		}
		b.lose(p.path, p.file.content, f)
		put := func(at ...string) { b.lies(p.path, filepath.Join(slices.Concat([]string{dir}, at)...), p.file.content) }
		switch f {
		case "moved tree":
			put("archive", "vault", group, p.file.name)
		case "moved singly":
			put("archive", b.pick([]string{"bought in", "to check", "shared parts"}), p.file.name)
		case "other revision": // the right one is gone, the next one stands where it stood
			b.write(filepath.Join(filepath.Dir(p.path), p.number+"_D"+ext), b.otherFile(p.file.name))
		case "put after":
			put("vault", group, stem+b.pick([]string{" released", "-copy", "_old"})+ext)
		case "respelled":
			put("vault", b.pick(groups), strings.ToLower(strings.NewReplacer(" ", "_", "-", "_").Replace(stem))+ext)
		case "released":
			put("releases", fmt.Sprint("20", 28+b.IntN(4)), p.file.name)
			b.write(filepath.Join(dir, "releases", "drafts", p.file.name), b.otherFile(p.file.name))
		case "converted":
			put("vault", group, stem+".obj")
		case "older copy":
			if b.IntN(2) == 0 {
				put("old vault", group, p.file.name)
			} else {
				b.write(filepath.Join(dir, "old vault", group, p.file.name), b.otherFile(p.file.name))
			}
		}
	}
	return b.s, b.err
}
