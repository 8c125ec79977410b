package mendtest

import (
	"bytes"
	"fmt"
	"path/filepath"
	"strings"
)

// folderFate is what becomes of a folder, and how often for a start: each studio draws
// shares of its own from that. Mostly somebody moves a folder, as practitioners tell
// (common practice, no source).
type folderFate struct {
	name    string
	often   float64
	happens func(b *builder, f *folder)
}

var fates = []folderFate{
	{"moved tree", 8, elsewhere}, {"moved tree", 8, under}, {"folder renamed", 2, renamedFolder},
	{"put before", 2, before}, {"put after", 2, after}, {"respelled", 2, respelled}, {"padded", 1, padded}, {"dated", 1, dated}, {"numbered", 1, numbered},
	{"converted", 2, converted}, {"all together", 2, dump}, {"one by one", 2, oneByOne}, {"moved singly", 2, scattered}, {"split", 1, split},
	{"gone", 2, gone}, {"variant", 1, variant}, {"next day", 2, nextDay}, {"two copies", 1, twoCopies}, {"older copy", 1, olderCopy}, {"partly", 2, partly},
}

func (b *builder) to(f *folder, dir string, name func(string) string) {
	for _, x := range f.files {
		b.put(f, x, filepath.Join(dir, name(x.name)), x.content)
	}
}

func same(name string) string { return name }

// elsewhere: the folder was moved, and is called as it was.
func elsewhere(b *builder, f *folder) {
	b.to(f, filepath.Join(b.attic(), fmt.Sprint("lot ", b.IntN(30)), filepath.Base(f.dir)), same)
}

// under: it was moved with the folders above it.
func under(b *builder, f *folder) {
	b.to(f, filepath.Join(b.attic(), "harbour film", filepath.FromSlash(f.dir)), same)
}

// renamedFolder: it was renamed where it was.
func renamedFolder(b *builder, f *folder) {
	b.to(f, filepath.Join(b.s.Root, filepath.Dir(filepath.FromSlash(f.dir)), filepath.Base(f.dir)+b.pick([]string{" final", "_selected", " (done)"})), same)
}

// variant: it is gone, and what was made of it lies beside it under the same names.
func variant(b *builder, f *folder) {
	for _, x := range f.files {
		made := bytes.Clone(x.content)
		for i := len(made) / 2; i < len(made); i += 3 {
			made[i] ^= 0x55
		}
		b.write(filepath.Join(b.s.Root, filepath.Dir(filepath.FromSlash(f.dir)), filepath.Base(f.dir)+" cleaned", x.name), made)
	}
}

func parts(name string) (stem, ext string) {
	ext = filepath.Ext(name)
	return strings.TrimSuffix(name, ext), ext
}

// before and after: something was put before the names, or after them.
func before(b *builder, f *folder) {
	put := b.pick([]string{"final_", "HF ", "sel-", "reel2_"})
	b.to(f, b.around(f), func(n string) string { return put + n })
}

func after(b *builder, f *folder) {
	put := b.pick([]string{"_final", " ok", "-48k", "_JB"})
	b.to(f, b.around(f), func(n string) string { stem, ext := parts(n); return stem + put + ext })
}

// around is where renamed files are: where they were, or elsewhere.
func (b *builder) around(f *folder) string {
	if b.IntN(2) == 0 {
		return filepath.Join(b.s.Root, filepath.FromSlash(f.dir))
	}
	return filepath.Join(b.attic(), fmt.Sprint("lot ", b.IntN(30)), filepath.Base(f.dir))
}

// padded: numbers have other zeros.
func padded(b *builder, f *folder) {
	b.to(f, b.around(f), func(n string) string {
		stem, ext := parts(n)
		i := strings.LastIndexFunc(stem, func(r rune) bool { return r < '0' || r > '9' })
		if i == len(stem)-1 {
			return n
		}
		return stem[:i+1] + "00" + stem[i+1:] + ext
	})
}

// respelled: spaces became underscores, and letters small or large.
func respelled(b *builder, f *folder) {
	upper := b.IntN(2) == 0
	b.to(f, b.around(f), func(n string) string {
		stem, ext := parts(n)
		if stem = strings.ReplaceAll(stem, " ", "_"); upper {
			return strings.ToUpper(stem) + ext
		}
		return strings.ReplaceAll(strings.ToLower(stem), "_", "-") + ext
	})
}

// dated and numbered: each name has a date, or its number, before it.
func dated(b *builder, f *folder) {
	b.to(f, b.around(f), func(n string) string { return fmt.Sprintf("2026-%02d-%02d %s", 1+b.IntN(12), 1+b.IntN(28), n) })
}

func numbered(b *builder, f *folder) {
	i := 0
	b.to(f, b.around(f), func(n string) string { i++; return fmt.Sprintf("%03d %s", i, n) })
}

// converted: sounds became AIFF, with the same samples; the rest went elsewhere.
func converted(b *builder, f *folder) {
	if f.kind != sound {
		elsewhere(b, f)
		return
	}
	for _, x := range f.files {
		stem, _ := parts(x.name)
		b.put(f, x, filepath.Join(b.around(f), stem+".aif"), aiff(x.content[44:44+int(x.seconds*rate+0.5)]))
	}
}

// dump: all of it lies in one folder with much else.
func dump(b *builder, f *folder) { b.to(f, filepath.Join(b.attic(), "all together"), same) }

// oneByOne: each has another name that is like the first, and lies somewhere.
func oneByOne(b *builder, f *folder) {
	for _, x := range f.files {
		stem, ext := parts(x.name)
		switch b.IntN(4) {
		case 0:
			stem += b.pick([]string{" (2)", " mixdown", "_edit"})
		case 1:
			stem = b.pick([]string{"new ", "the "}) + stem
		case 2:
			if i := 1 + b.IntN(max(1, len(stem)-2)); i+1 < len(stem) {
				stem = stem[:i] + stem[i+1:] // a letter fell out
			}
		}
		b.put(f, x, filepath.Join(b.attic(), fmt.Sprint("lot ", b.IntN(9)), stem+ext), x.content)
	}
}

// scattered: each lies somewhere, and is called as it was.
func scattered(b *builder, f *folder) {
	for _, x := range f.files {
		b.put(f, x, filepath.Join(b.attic(), fmt.Sprint("lot ", b.IntN(60)), x.name), x.content)
	}
}

// split: one half went here, the other there.
func split(b *builder, f *folder) {
	for i, x := range f.files {
		b.put(f, x, filepath.Join(b.s.Search[0], attics[i%2], "parted", filepath.Base(f.dir), x.name), x.content)
	}
}

// gone: there is nothing left of it.
func gone(*builder, *folder) {}

// nextDay: it is gone, and files of the same names, of another day, lie elsewhere.
func nextDay(b *builder, f *folder) {
	b.other++
	for _, x := range f.files {
		stem, _ := parts(x.name)
		b.write(filepath.Join(b.attic(), fmt.Sprint("day ", b.other), x.name), b.file(f.kind, stem).content)
	}
}

// twoCopies: it was moved, and copied once more.
func twoCopies(b *builder, f *folder) {
	elsewhere(b, f)
	b.to(f, filepath.Join(b.s.Search[0], "second drive", fmt.Sprint("lot ", b.IntN(90)), filepath.Base(f.dir)), same)
}

// olderCopy: only a copy from before is left, in which some are as they were and
// some are not.
func olderCopy(b *builder, f *folder) {
	dir := filepath.Join(b.s.Search[0], "backup of spring", filepath.FromSlash(f.dir))
	for _, x := range f.files {
		if b.IntN(2) == 0 {
			b.put(f, x, filepath.Join(dir, x.name), x.content)
		} else {
			stem, _ := parts(x.name)
			b.write(filepath.Join(dir, x.name), b.file(f.kind, stem).content)
		}
	}
}

// partly: half of it still stands there, the rest was moved.
func partly(b *builder, f *folder) {
	dir := filepath.Join(b.attic(), fmt.Sprint("lot ", b.IntN(30)), filepath.Base(f.dir))
	for i, x := range f.files {
		if key := b.expected(f, x.name); i%2 == 0 {
			delete(b.s.Truth, key)
			delete(b.s.Fate, key)
			b.write(key, x.content)
		} else {
			b.put(f, x, filepath.Join(dir, x.name), x.content)
		}
	}
}
