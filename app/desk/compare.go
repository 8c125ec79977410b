package desk

import (
	"context"
	"os"
	"path/filepath"

	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/compare"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/trace"
)

// Compare tells what came, went and changed between two documents, editions (DOCUMENT@N) or crates. How
// documents are traced and their files digested is told; a crate is what its list says.
func Compare(ctx context.Context, a, b string, o trace.Options, digest mend.Hash, kept *line.Store) (*compare.Comparison, error) {
	var sides [2]compare.Side
	_, _, ofA := editionOf(a)
	_, _, ofB := editionOf(b)
	for i, p := range []string{a, b} {
		if document, id, ok := editionOf(p); ok && kept != nil {
			side, err := keptSide(ctx, kept, document, id, o)
			if err != nil {
				return nil, err
			}
			sides[i] = side
			continue
		}
		docs, at := []string{p}, o
		at.Root = ""
		if kept != nil && (ofA || ofB) && !isCrate(p) { // beside an edition it is the whole project
			var err error
			if _, docs, at.Root, err = Known(kept, docs, at); err != nil {
				return nil, err
			}
		}
		side, done, err := side(ctx, docs, at, digest)
		if err != nil {
			return nil, err
		}
		defer done()
		sides[i] = side
	}
	res, err := compare.Of(ctx, sides[0], sides[1])
	if err == nil {
		res.A, res.B = a, b
	}
	return res, err
}

// side is a document or a crate as one of two that are compared.
func side(ctx context.Context, docs []string, o trace.Options, digest mend.Hash) (compare.Side, func(), error) {
	p := docs[0]
	if !isCrate(p) {
		o.Readings = nil
		side, err := compare.Trace(ctx, o, digest, docs...)
		side.Live = true
		return side, func() {}, err
	}
	crate, err := seal.Open(ctx, p, o.Formats)
	if err != nil {
		return compare.Side{}, nil, err
	}
	side, err := compare.Trace(ctx, trace.Options{Formats: o.Formats, Reach: crate.Reach, Root: crate.Data, Unlooked: true}, func(ctx context.Context, at string) (string, error) {
		rel, err := filepath.Rel(crate.Data, at)
		if sum := crate.Sums[filepath.ToSlash(rel)]; err == nil && sum != "" {
			return sum, nil
		}
		return drive.Fingerprint(ctx, crate.Reach, at, nil)
	}, crate.Documents...)
	if err != nil {
		crate.Close()
	}
	return side, crate.Close, err
}

// isCrate tells crates from documents: a folder that is a bag, an archive by its ending that no
// document has.
func isCrate(p string) bool {
	if fi, err := os.Stat(p); err == nil && fi.IsDir() {
		return seal.IsBag(p)
	}
	k, _ := carrier.KindOf(p)
	return k != carrier.Folder
}
