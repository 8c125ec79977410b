package connect

import (
	"context"
	"errors"
	"io"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/index"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/names"
)

// Wanted are the names of the files that a document, or all documents of a project, lack.
type Wanted struct {
	Of    string // whoever asks knows it by this
	Names []string
}

// Offer is a crate, or an archive that nobody sealed, which holds files of wanted names.
type Offer struct {
	Of    string
	Crate string
	Files int // how many of the wanted names it holds
}

// Offers looks at every crate and ZIP archive of an index for wanted names: the best one for each, a crate
// before an archive that holds as many. Compressed tars are not looked at: their names come only with
// all their bytes. It tells names and nothing else; receiving tells whether they are the files.
func Offers(ctx context.Context, x index.Index, wanted []Wanted) ([]Offer, error) {
	asked := map[string][]int{} // by folded name, who wants it
	for i, w := range wanted {
		folded := map[string]bool{}
		for _, n := range w.Names {
			folded[names.Fold(n)] = true
		}
		for n := range folded {
			asked[n] = append(asked[n], i)
		}
	}
	if len(asked) == 0 {
		return nil, nil
	}
	bundles, err := bundlesOf(x)
	if err != nil {
		return nil, err
	}
	best := map[int]Offer{}
	for _, b := range bundles {
		held, err := b.names(ctx)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err != nil {
			continue // what cannot be read offers nothing
		}
		found := map[int]int{}
		for n := range held {
			for _, i := range asked[n] {
				found[i]++
			}
		}
		for i, n := range found {
			if n > best[i].Files {
				best[i] = Offer{wanted[i].Of, b.path, n}
			}
		}
	}
	list := slices.Collect(maps.Values(best))
	slices.SortFunc(list, func(x, y Offer) int { return strings.Compare(x.Of, y.Of) })
	return list, nil
}

// bundle is a crate's folder or an archive.
type bundle struct {
	path string
	bag  bool
}

// bundlesOf are those of an index, crates first.
func bundlesOf(x index.Index) (list []bundle, err error) {
	var ids []int64
	err = x.Each(func(id int64, name string) error {
		if name == bag.Declaration || strings.EqualFold(filepath.Ext(name), ".zip") {
			ids = append(ids, id)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	slices.Sort(ids)
	err = x.Entries(ids, func(_ int64, e index.Entry) error {
		b := bundle{path: e.Path}
		if filepath.Base(e.Path) == bag.Declaration {
			b = bundle{filepath.Dir(e.Path), true}
		}
		if !strings.HasSuffix(b.path, ".partial") {
			list = append(list, b)
		}
		return nil
	})
	var crates, others []bundle
	for _, b := range list {
		if b.bag {
			crates = append(crates, b)
		} else {
			others = append(others, b)
		}
	}
	return append(crates, others...), err
}

// maxManifest is how much of a manifest is read: a million files.
const maxManifest = 256 << 20

// names are the names of the files that it carries, folded. What a difference crate only lists is not among them.
func (b bundle) names(ctx context.Context) (map[string]bool, error) {
	list := map[string]bool{}
	if !b.bag {
		err := carrier.Read(ctx, b.path, func(m carrier.Member, _ io.Reader) error {
			if !m.Dir && m.Odd == carrier.Plain {
				list[names.Fold(path.Base(m.Name))] = true
			}
			return nil
		})
		return list, err
	}
	lacks := map[string]bool{}
	if text, err := readTag(filepath.Join(b.path, bag.FetchName)); err == nil {
		fetch, _, err := bag.ReadFetch(text)
		if err != nil {
			return nil, err
		}
		for _, f := range fetch {
			lacks[f.Path] = true
		}
	}
	for _, algorithm := range []string{"sha256", "sha512"} {
		f, err := os.Open(filepath.Join(b.path, bag.Manifest(algorithm)))
		if err != nil {
			continue
		}
		sums, _, err := bag.ReadManifest(io.LimitReader(f, maxManifest))
		f.Close()
		if err != nil {
			return nil, err
		}
		for p := range sums {
			if !lacks[p] {
				list[names.Fold(path.Base(p))] = true
			}
		}
		return list, nil
	}
	return nil, errors.New("no manifest")
}

func readTag(p string) ([]byte, error) {
	f, err := os.Open(p)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, maxManifest))
}
