package main

import (
	"errors"
	"fmt"
	"path/filepath"

	"github.com/spf13/cobra"

	"boundcrate/app/desk"
	"boundcrate/core/pack/seal"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/say/words/sheet"
	"boundcrate/core/text/format"
)

func sealCommand() *cobra.Command {
	var c common
	var out, file, note, since string
	var sameDrive bool
	return onDocuments("seal [flags] --out PATH DOCUMENT...", "plan, copy, rewrite, verify and prove a crate", cobra.MinimumNArgs(1), &c, func(cmd *cobra.Command) {
		cmd.Flags().StringVar(&out, "out", "", "destination; .zip, .tar, .tar.gz or .tar.zst makes an archive")
		cmd.Flags().StringVar(&since, "since", "", "make a difference crate for somebody who has this crate (a folder, an archive or its manifest-sha256.txt)")
		cmd.Flags().StringVar(&note, "note", "", "a note for the recipient")
		cmd.Flags().BoolVar(&sameDrive, "same-drive", false, "allow an archive on the project's own drive")
		recipeFlag(&file)(cmd)
	}, func(cmd *cobra.Command, s *session) error {
		if out == "" {
			return errors.New("Give a destination: --out PATH.")
		}
		at, err := filepath.Abs(out)
		if err != nil {
			return err
		}
		s.layout = seal.PackageOf(at).Layout()
		p, err := s.plan(file, false)
		if err != nil {
			return err
		}
		rec := p.recipe
		if note != "" {
			rec.Note = note
		}
		how := desk.Sealing{Plan: p.Plan, Recipe: rec, Out: at, Note: rec.Note, Beside: sameDrive, Trace: s.trace}
		if s.memory != nil {
			how.Digest = s.memory.Hasher(s.trace.Reach)
		}
		if since != "" {
			if how.Since, err = filepath.Abs(since); err != nil {
				return err
			}
		}
		rep, err := desk.Seal(s.ctx, how)
		if err != nil {
			return err
		}
		if s.memory != nil {
			if err := s.memory.Made(rep.Archives); err != nil {
				return err
			}
		}
		if err := s.remember(p.Graph, rep.Sums); err != nil {
			return err
		}
		return c.report(cmd, rep)
	})
}

func (c *common) report(cmd *cobra.Command, r *seal.Report) error {
	rep := report.OfSeal(r)
	if c.json {
		if err := printJSON(cmd.OutOrStdout(), rep); err != nil {
			return err
		}
		return verdict(r.Well())
	}
	w := cmd.OutOrStdout()
	fmt.Fprintf(w, "%s: %s, %d bytes\n", rep.Crate, phrase.Plural(rep.Files, "file"), rep.Bytes)
	if k := rep.Kept; k != nil && k.Files > 0 {
		fmt.Fprintf(w, "%s copied (%d bytes), %s unchanged (%d bytes)\n", phrase.Plural(rep.Copied.Files, "file"), rep.Copied.Bytes, phrase.Plural(k.Files, "file"), k.Bytes)
	}
	if again := sheet.Unshared(r); again != "" {
		fmt.Fprintln(w, again)
	}
	if rep.Fetched != nil {
		fmt.Fprintf(w, "%s not included, as in %s: %d bytes\n", phrase.Plural(rep.Fetched.Files, "file"), rep.Since, rep.Fetched.Bytes)
	}
	for _, p := range r.ToFetch {
		fmt.Fprintln(w, "lacks:", p)
	}
	for _, r := range rep.Renamed {
		fmt.Fprintf(w, "renamed: %s to %s\n", r.From, r.To)
	}
	for _, l := range rep.Left {
		fmt.Fprintf(w, "left: %s (%s)\n", l.Path, l.Why)
	}
	for _, p := range rep.Problems {
		fmt.Fprintln(w, "problem:", p)
	}
	if rep.Guessed > 0 {
		fmt.Fprintf(w, "%s of unknown format; their references are guesses.\n", phrase.Plural(rep.Guessed, "document"))
	}
	fmt.Fprintln(w, sheet.Verdict(r))
	return verdict(r.Well())
}

// baseFlag takes the crates and folders that a difference crate is filled from.
func baseFlag(cmd *cobra.Command, bases *[]string) {
	cmd.Flags().StringArrayVar(bases, "base", nil, "a crate or folder that holds what a difference crate does not (repeatable)")
}

func checkCommand() *cobra.Command {
	var c common
	var bases []string
	cmd := &cobra.Command{
		Use: "check [--base CRATE]... [--json] [--data DIR] CRATE", Short: "verify a crate: checksums, nothing missing or extra, nothing leaving it", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			p, err := absolute(args)
			if err != nil {
				return err
			}
			formats, err := c.known()
			if err != nil {
				return err
			}
			bases, err := absolute(bases)
			if err != nil {
				return err
			}
			rep, err := seal.Check(cmd.Context(), p[0], formats, bases...)
			if err != nil {
				return err
			}
			return c.report(cmd, rep)
		},
	}
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	baseFlag(cmd, &bases)
	c.dataFlag(cmd)
	return cmd
}

// known are the formats with the rules files that are switched on.
func (c *common) known() (format.Set, error) {
	st := c.openStore()
	if st != nil {
		defer st.Close()
	}
	return c.formats(st)
}
