package mendtest

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
)

// Theatre is a house that revives its shows. Cues are called by a number and what is heard;
// in a revival they are counted anew, words change places, names are cut to what an old
// player takes, and another show has cues of the same words.
//
// It was written after the weights were fitted and the facts chosen; docs/evidence.md has what
// it reported first, and what was changed since.
func Theatre(dir string, seed uint64, references int) (*Studio, error) {
	b := newBuilder(dir, seed, 71)
	b.s.Root = filepath.Join(dir, "shows")
	heard := strings.Fields("thunder rain bell birds crowd train clock storm gulls horses waltz choir steps glass fire")
	how := strings.Fields("far near loud soft long short swell fade left right slow")
	shows := []string{"The Ferryman", "Winter Garden", "Three Doors", "Old Harbour", "Lantern Night"}
	type cue struct {
		path string
		show string
		file file
		no   int
	}
	var cues []cue
	for _, show := range shows[:2+b.IntN(4)] {
		act := filepath.Join(b.s.Root, show, b.pick([]string{"Sound", "audio", "SFX"}))
		for n := range 20 + b.IntN(60) {
			name := fmt.Sprintf("Q%03d %s %s", 5*(n+1), b.pick(heard), b.pick(how))
			if b.IntN(4) == 0 {
				name += " " + b.pick(how)
			}
			x := b.file(sound, name)
			cues = append(cues, cue{filepath.Join(act, fmt.Sprint("Act ", 1+n/30), x.name), show, x, 5 * (n + 1)})
		}
	}
	for n, d := 0, 0; n < references; d++ {
		show := cues[b.IntN(len(cues))].show
		var refs []ref
		for _, c := range cues {
			if c.show == show && b.IntN(5) == 0 {
				refs = append(refs, ref{c.path, c.file.seconds})
			}
		}
		n += len(refs) + 1
		if path := filepath.Join(b.s.Root, show, fmt.Sprintf("sheet %d", d)); b.IntN(2) == 0 {
			b.timeline(path+".otio", refs, b.IntN(2) == 0, b.Float64())
		} else {
			b.playlist(path+".m3u", refs)
		}
	}
	fate := lots(b, []string{"stands", "moved singly", "counted anew", "words swapped", "cut short", "put after", "gone", "other show"}, func(f string) float64 {
		return map[string]float64{"stands": 3}[f] + 1
	})
	whole := lots(b, []string{"", "moved tree", "revived"}, func(string) float64 { return 1 })
	of := map[string]string{}
	for _, show := range shows {
		of[show] = whole.draw(b)
	}
	for _, c := range cues {
		f := of[c.show]
		if f == "" || b.IntN(10) == 0 {
			f = fate.draw(b)
		}
		b.revive(dir, c.path, c.show, c.file, c.no, f)
	}
	return b.s, b.err
}

// revive puts a cue where its fate brings it.
func (b *builder) revive(dir, path, show string, x file, no int, fate string) {
	if fate == "stands" {
		b.write(path, x.content)
		return
	}
	b.lose(path, x.content, fate)
	here := filepath.Dir(path)
	stem, ext := parts(x.name)
	words := strings.Fields(stem)
	put := func(at ...string) { b.lies(path, filepath.Join(at...), x.content) }
	switch fate {
	case "moved tree":
		rel, err := filepath.Rel(b.s.Root, path)
		if err != nil {
			b.err = err
		}
		put(dir, "machine two", "shows", rel)
	case "revived":
		put(dir, "tour", show+" tour", "Sound", x.name)
	case "moved singly":
		put(dir, "player", b.pick([]string{"set 1", "set 2"}), x.name)
	case "counted anew":
		put(here, fmt.Sprintf("Q%03d %s%s", no+1+b.IntN(4), strings.Join(words[1:], " "), ext))
	case "words swapped":
		slices.Reverse(words[1:])
		put(here, strings.Join(words, " ")+ext)
	case "cut short":
		put(dir, "old player", stem[:min(len(stem), 12)]+ext)
	case "put after":
		put(here, stem+b.pick([]string{" edited", " -6dB", "_new", " (ok)"})+ext)
	case "other show":
		b.write(filepath.Join(dir, "guest show", "Sound", x.name), b.otherFile(x.name))
	}
}
