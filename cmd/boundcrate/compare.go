package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/compare"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words/phrase"
)

func compareCommand() *cobra.Command {
	var c common
	return onDocuments("compare [--json] A B", "list what came, went and changed between two documents or crates", cobra.ExactArgs(2), &c, nil, func(cmd *cobra.Command, s *session) error {
		var sides [2]compare.Side
		for i, p := range s.docs {
			side, done, err := s.side(p)
			if err != nil {
				return err
			}
			defer done()
			sides[i] = side
		}
		res, err := compare.Of(s.ctx, sides[0], sides[1])
		if err != nil {
			return err
		}
		res.A, res.B = s.docs[0], s.docs[1]
		if c.json {
			if err := printJSON(cmd.OutOrStdout(), res); err != nil {
				return err
			}
			return verdict(res.Equal())
		}
		w := cmd.OutOrStdout()
		for _, f := range res.Came {
			fmt.Fprintln(w, "came:", f.Path)
		}
		for _, f := range res.Went {
			fmt.Fprintln(w, "went:", f.Path)
		}
		for _, f := range res.Changed {
			words := make([]string, len(f.What))
			for i, x := range f.What {
				words[i] = string(x)
			}
			fmt.Fprintf(w, "changed: %s (%s)\n", f.Path, strings.Join(words, ", "))
		}
		for _, d := range res.Documents {
			if d.Changed {
				fmt.Fprintln(w, "document changed:", d.Path)
			}
		}
		fmt.Fprintln(w, phrase.Plural(res.Same, "file")+" the same")
		return verdict(res.Equal())
	})
}

// side is a document or a crate as one of two that are compared.
func (s *session) side(p string) (compare.Side, func(), error) {
	if !isCrate(p) {
		o := s.trace
		o.Readings = nil
		sum := s.digest()
		side, err := compare.Trace(s.ctx, o, sum, p)
		side.Live = true
		return side, func() {}, err
	}
	crate, err := seal.Open(s.ctx, p, s.trace.Formats)
	if err != nil {
		return compare.Side{}, nil, err
	}
	side, err := compare.Trace(s.ctx, trace.Options{Formats: s.trace.Formats, Reach: crate.Reach, Root: crate.Data, Unlooked: true}, func(ctx context.Context, at string) (string, error) {
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

// digest is the SHA-256 of files, remembered where there is a memory.
func (s *session) digest() func(context.Context, string) (string, error) {
	if s.memory != nil {
		return s.memory.Hasher(s.trace.Reach)
	}
	return func(ctx context.Context, p string) (string, error) {
		return drive.Fingerprint(ctx, s.trace.Reach, p, nil)
	}
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
