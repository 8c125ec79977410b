package main

import (
	"context"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"boundcrate/app/desk"
	"boundcrate/core/disk/drive"
	"boundcrate/core/say/words/phrase"
)

func compareCommand() *cobra.Command {
	var c common
	var editions string
	return onDocuments("compare [--json] A B", "list what came, went and changed between two documents, editions (DOCUMENT@N) or crates", cobra.ExactArgs(2), &c, editionsFlag(&editions), func(cmd *cobra.Command, s *session) error {
		kept, err := s.editions(editions)
		if err != nil {
			kept = nil // without a store no edition is meant
		}
		res, err := desk.Compare(s.ctx, s.docs[0], s.docs[1], s.trace, s.digest(), kept)
		if err != nil {
			return err
		}
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
		if res.Unsure > 0 {
			fmt.Fprintf(w, "%s may have changed: the earlier content was never read\n", phrase.Plural(res.Unsure, "file"))
		}
		return verdict(res.Equal())
	})
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
