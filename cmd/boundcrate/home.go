package main

import (
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"boundcrate/core/bring/home"
	"boundcrate/core/disk/edition"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
)

// originWords are the origins as the flag says them.
var originWords = map[string]graph.Origin{
	"dump": graph.OfDump, "loose": graph.Loose, "other-project": graph.OfOtherProject, "library": graph.OfLibrary, "store": graph.OfStore,
}

func bringHomeCommand() *cobra.Command {
	var c common
	var origins []string
	return onDocuments("bring-home [flags] DOCUMENT...", "copy outside files into the project folder and change the documents to use the copies", cobra.MinimumNArgs(1), &c, func(cmd *cobra.Command) {
		cmd.Flags().StringSliceVar(&origins, "origin", nil, "which origins: dump, loose, other-project, library, store (default: all but library and store)")
	}, func(cmd *cobra.Command, s *session) error {
		of := home.Usual
		if len(origins) > 0 {
			of = nil
			for _, w := range origins {
				o, ok := originWords[strings.TrimSpace(w)]
				if !ok {
					return fmt.Errorf("--origin %q is none of dump, loose, other-project, library, store", w)
				}
				of = append(of, o)
			}
		}
		g, judged, err := s.run()
		if err != nil {
			return err
		}
		plan := home.Make(g, judged, s.trace.Reach, of)
		done := &home.Done{Plan: *plan}
		if len(plan.Moves) > 0 {
			if done, err = home.Run(s.ctx, plan, g, s.trace, edition.Keeper{}, s.journals()); err != nil {
				return err
			}
		}
		for _, p := range words.Problems(done.Problems) {
			fmt.Fprintln(os.Stderr, p)
		}
		after, _, err := s.run()
		if err != nil {
			return err
		}
		if err := s.remember(after, nil); err != nil {
			return err
		}
		rep := report.OfHome(done)
		if c.json {
			err = printJSON(cmd.OutOrStdout(), rep)
		} else {
			fmt.Fprintf(cmd.OutOrStdout(), "%s copied, %s changed.\n", phrase.Plural(len(rep.Copied), "file"), phrase.Plural(len(rep.Documents), "document"))
			for _, l := range rep.Left {
				fmt.Fprintf(cmd.OutOrStdout(), "left: %s (%s)\n", l.Path, l.Why)
			}
		}
		left := slices.ContainsFunc(done.Left, func(l home.Left) bool { return l.Why != home.NotChosen })
		return errors.Join(err, verdict(!left && len(done.Problems) == 0))
	})
}
