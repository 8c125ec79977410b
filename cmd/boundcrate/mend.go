package main

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
)

func mendCommand() *cobra.Command {
	var c common
	var folders []string
	var write bool
	var accept string
	return onDocuments("mend [flags] --search DIR DOCUMENT...", "search for missing files and rank candidates", cobra.MinimumNArgs(1), &c, func(cmd *cobra.Command) {
		cmd.Flags().StringArrayVar(&folders, "search", nil, "a folder to search; can be given several times")
		cmd.Flags().BoolVar(&write, "write", false, "write certain finds to the documents; an edition of each is kept beside it first")
		cmd.Flags().StringVar(&accept, "accept", "", "with --write: likely also writes likely finds of groups without warnings; moved writes files found under the present project folder instead of an old one")
	}, func(cmd *cobra.Command, s *session) error {
		if len(folders) == 0 {
			return errors.New("Give a folder to search: --search DIR.")
		}
		dirs, err := absolute(folders)
		if err != nil {
			return err
		}
		for _, f := range dirs {
			if fi, err := os.Stat(f); err != nil || !fi.IsDir() {
				return fmt.Errorf("--search ‘%s’ is not a folder that can be read", f)
			}
		}
		switch {
		case accept != "" && accept != string(mend.Likely) && accept != acceptMoved:
			return fmt.Errorf("--accept must be likely or moved, not ‘%s’.", accept)
		case accept != "" && !write:
			return errors.New("--accept needs --write.")
		}
		rep, after, err := s.mend(dirs, write, accept)
		if err != nil {
			return err
		}
		if c.json {
			err = printJSON(cmd.OutOrStdout(), rep)
		} else {
			printMend(cmd.OutOrStdout(), rep)
			if why := words.NeedsPerson(*after); why != "" {
				fmt.Fprintln(cmd.OutOrStdout(), why)
			}
		}
		if err != nil {
			return err
		}
		return verdict(!after.NeedsPerson())
	})
}

// acceptMoved makes documents name here what they name under an old root.
const acceptMoved = "moved"

func (s *session) mend(folders []string, write bool, accept string) (*report.Mend, *tally.Tally, error) {
	g, err := trace.Run(s.ctx, s.trace, s.docs...)
	if err != nil {
		return nil, nil, err
	}
	judged := s.judge(g)
	rep := &report.Mend{Document: s.docs[0], Missing: []report.Missing{}, Groups: []report.Group{}, Written: []writing.Written{}}
	rd := s.reading(&rep.Read.Bytes)
	if rd.Used, rd.First = mend.Used(g), folders; s.memory != nil {
		rd.Claimed, rd.Others = s.memory.Claimed(g), s.memory.NamedBelow(g)
	}
	rep.Moved, rep.Unplugged = append([]origin.Move{}, judged.Moved...), report.OfUnplugged(g, s.trace.Drives)
	if accept == acceptMoved {
		for _, m := range judged.Moved {
			s.trace.Repairs = append(s.trace.Repairs, resolve.Repair{From: m.From, To: m.To, Prefix: true})
		}
		if g, err = trace.Run(s.ctx, s.trace, s.docs...); err != nil {
			return nil, nil, err
		}
		judged = s.judge(g)
	}
	// Sizes tell something only of files that were seen before.
	x, err := index.Build(s.ctx, index.Options{Reach: s.trace.Reach, Dirs: folders, Names: !mend.Measured(mend.Missing(g, judged, rd.Memory))})
	if err != nil {
		return nil, nil, err
	}
	for _, u := range x.Unread() {
		fmt.Fprintf(os.Stderr, "‘%s’ could not be searched: %s.\n", u.Path, words.Reason(u.Err))
	}
	rep.Searched, rep.Read.Files = x.Len(), x.Len()
	err = mend.Until(s.ctx, g, judged, rd.Memory, accept == string(mend.Likely), func(g *graph.Graph, wanted []mend.Wanted) ([][]mend.Candidate, error) {
		offered, err := mend.Find(s.ctx, x, wanted, rd, nil)
		if err == nil {
			rep.Looked(g, wanted, offered)
		}
		return offered, err
	}, func(repairs []resolve.Repair) (*graph.Graph, *origin.Judged, error) {
		s.trace.Repairs = append(s.trace.Repairs, repairs...)
		if g, err = trace.Run(s.ctx, s.trace, s.docs...); err == nil {
			judged = s.judge(g)
		}
		return g, judged, err
	})
	if err != nil {
		return nil, nil, err
	}
	repaired := len(s.trace.Repairs) > 0
	if write && repaired {
		wrote, err := writing.Repairs(g, s.trace, edition.Keeper{}, s.journals())
		if err != nil {
			return nil, nil, err
		}
		rep.Written = append(rep.Written, wrote.Written...)
		for _, p := range words.Problems(wrote.Problems) {
			fmt.Fprintln(os.Stderr, p)
		}
	}
	if repaired {
		// The verdict is on the documents as they stand now.
		s.trace.Repairs = nil
		if g, err = trace.Run(s.ctx, s.trace, s.docs...); err != nil {
			return nil, nil, err
		}
	}
	t := tally.Of(g, s.judge(g), nil)
	return rep, &t, s.remember(g, nil)
}

func printMend(w io.Writer, rep *report.Mend) {
	found := 0
	for _, m := range rep.Missing {
		fmt.Fprintf(w, "%s\n", m.Expected)
		if len(m.Candidates) > 0 && m.Candidates[0].Certainty == mend.Certain {
			found++
		}
		for _, c := range m.Candidates {
			fmt.Fprintf(w, "  %-8s %.3f %s (%s)\n", c.Certainty, c.Score, c.Path, strings.Join(c.Reasons, ", "))
			for _, x := range c.Warnings {
				fmt.Fprintf(w, "           but: %s\n", x)
			}
		}
	}
	for _, g := range rep.Groups {
		fmt.Fprintf(w, "%s is now %s: %s, %s\n", g.From, g.To, phrase.Plural(g.Files, "file"), g.Certainty)
	}
	for _, m := range rep.Moved {
		fmt.Fprintf(w, "%s still point to %s; %s found under %s. To relink them: --write --accept moved\n", phrase.Plural(m.References, "reference"), m.From, phrase.Plural(m.Present, "file"), m.To)
	}
	for _, u := range rep.Unplugged {
		fmt.Fprintf(w, "%s on %s, which is not connected. Connect it; no search is needed.\n", phrase.Plural(u.Files, "file"), cmp.Or(u.Drive, u.Dir))
	}
	fmt.Fprintf(w, "%d searched for, %d certain among %s.\n", len(rep.Missing), found, phrase.Plural(rep.Searched, "file"))
	for _, d := range rep.Written {
		fmt.Fprintf(w, "Written: %s, earlier state kept as %s\n", d.Document, d.Edition)
	}
}
