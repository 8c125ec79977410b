package mendtest

import (
	"fmt"
	"html"
	"net/url"
	"path/filepath"
	"strings"
)

// Catalogue is a house that makes printed and shown pages for clients. Pages name pictures by
// address; pictures are called by words. Years are put away with the levels of their folders
// in another order, people write names as addresses want them, sizes and uses are put after
// names, and what is used for one client is used for the next.
func Catalogue(dir string, seed uint64, references int) (*Studio, error) {
	b := newBuilder(dir, seed, 59)
	b.s.Root = filepath.Join(dir, "current")
	all := b.pictures(dir, references/2+40)
	b.pages(all, references)
	fate := lots(b, []string{"stands", "moved singly", "put after", "as an address", "alike", "gone", "converted", "older copy", "numbered"}, func(f string) float64 {
		return map[string]float64{"stands": 3}[f] + 1
	})
	of := map[string]string{} // what became of a client's year
	for _, c := range clients {
		for y := 2027; y < 2031; y++ {
			of[c+fmt.Sprint(y)] = lots(b, []string{"", "moved tree", "put away", "client renamed"}, func(f string) float64 { return map[string]float64{"": 3}[f] + 1 }).draw(b)
		}
	}
	for i, p := range all {
		f := of[p.client+p.year]
		stem, ext := parts(p.file.name)
		if f == "" || b.IntN(12) == 0 { // of what was moved, too, some was renamed besides
			f = fate.draw(b)
		}
		if f == "stands" {
			b.write(p.path, p.file.content)
			continue
		}
		b.lose(p.path, p.file.content, f)
		put := func(path ...string) {
			b.lies(p.path, filepath.Join(append([]string{dir}, path...)...), p.file.content)
		}
		here := []string{"clients", p.client, p.year, "pictures"}
		switch f {
		case "moved tree":
			put("disk two", "clients", p.client, p.year, "pictures", p.file.name)
		case "put away":
			put("archive", p.year, p.client, "pictures", p.file.name)
		case "client renamed":
			put("clients", p.client+" and Sons", p.year, "pictures", p.file.name)
		case "moved singly":
			put("best of", b.pick(things), p.file.name)
		case "put after":
			put(append(here, stem+b.pick([]string{" web", "_1200px", " print", " (2)", "-ok", " retouched"})+ext)...)
		case "as an address":
			put(append(here, strings.ReplaceAll(strings.ToLower(stem), " ", "-")+ext)...)
		case "alike":
			k := 1 + b.IntN(len(stem)-2)
			put(append(here, stem[:k]+stem[k+1:]+ext)...)
		case "converted":
			put(append(here, stem+".tif")...)
		case "numbered":
			put(append(here, fmt.Sprintf("%02d %s", 1+i%40, p.file.name))...)
		case "older copy":
			path := filepath.Join(dir, "copies of May", p.client, p.year, p.file.name)
			if b.IntN(3) > 0 {
				b.lies(p.path, path, p.file.content)
			} else {
				b.write(path, b.otherFile(p.file.name))
			}
		}
	}
	return b.s, b.err
}

var (
	clients = strings.Fields("Orchard Ferry Lindgren Moretti Bakery Theatre Library Harvest")
	things  = strings.Fields("bread window stage ferry apple garden violin bicycle market lamp river pottery winter basket kitchen")
	views   = strings.Fields("front detail team evening portrait above open closed large group")
)

type shown struct {
	path, client, year string
	file               file
}

// pictures makes the pictures of all clients.
func (b *builder) pictures(dir string, n int) []shown {
	var all []shown
	met := map[string]bool{}
	for range n {
		client, year := b.pick(clients), fmt.Sprint(2027+b.IntN(4))
		thing := b.pick(things)
		stem := strings.ToUpper(thing[:1]) + thing[1:] + " " + b.pick(views)
		switch b.IntN(4) {
		case 0:
			stem += " " + b.pick(things)
		case 1:
			stem += fmt.Sprint(" ", 1+b.IntN(12))
		case 2:
			stem = client + " " + stem
		}
		x := b.file(kind(1), stem)
		p := filepath.Join(dir, "clients", client, year, "pictures", x.name)
		if !met[strings.ToLower(p)] {
			met[strings.ToLower(p)] = true
			all = append(all, shown{p, client, year, x})
		}
	}
	return all
}

// pages writes the pages of all clients.
func (b *builder) pages(all []shown, references int) {
	for n, d := 0, 0; n < references; d++ {
		client, text := b.pick(clients), "<!DOCTYPE html><title>p</title>\n"
		page := filepath.Join(b.s.Root, client, fmt.Sprintf("page %d.html", d))
		for range 4 + b.IntN(14) {
			p := all[b.IntN(len(all))]
			if p.client != client && b.IntN(4) > 0 {
				continue
			}
			at, err := filepath.Rel(filepath.Dir(page), p.path)
			if err != nil {
				b.err = err
			}
			text += fmt.Sprintf("<img src=\"%s\" alt=\"\">\n", html.EscapeString((&url.URL{Path: filepath.ToSlash(at)}).EscapedPath()))
			n++
		}
		b.document(page, []byte(text))
	}
}
