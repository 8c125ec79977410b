package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"boundcrate/app/desk"
	"boundcrate/core/keep/line"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/report/keeping"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
)

func editionsFlag(at *string) func(*cobra.Command) {
	return func(cmd *cobra.Command) {
		cmd.Flags().StringVar(at, "editions", "", "the folder that editions are kept in (default: in the data folder)")
	}
}

var errNoEditions = errors.New("there is no data folder to keep editions in: name a folder with --editions")

// editions is the store of editions.
func (s *session) editions(at string) (*line.Store, error) {
	if at != "" {
		abs, err := filepath.Abs(at)
		return line.Open(abs), err
	}
	if s.store == nil {
		return nil, errNoEditions
	}
	return line.Open(filepath.Join(s.store.Dir(), "editions")), nil
}

func keepCommand() *cobra.Command {
	var c common
	var at, note string
	var alternative bool
	return onDocuments("keep [--note TEXT] [--alternative] [--json] DOCUMENT...", "keep an edition: the present state of all of a project's own documents", cobra.MinimumNArgs(1), &c, func(cmd *cobra.Command) {
		editionsFlag(&at)(cmd)
		cmd.Flags().StringVar(&note, "note", "", "what to remember of this state")
		cmd.Flags().BoolVar(&alternative, "alternative", false, "begin a line beside the one that this state came from")
	}, func(cmd *cobra.Command, s *session) error {
		kept, err := s.editions(at)
		if err != nil {
			return err
		}
		_, docs, root, err := desk.Known(kept, s.docs, s.trace)
		if err != nil {
			return err
		}
		s.trace.Root = root
		g, err := trace.Run(s.ctx, s.trace, docs...)
		if err != nil {
			return err
		}
		done, err := kept.Keep(s.ctx, line.Of(g, s.trace.Reach, s.trace.Drives, desk.KnownBy(s.memory)), line.Request{By: line.Hand, Note: note, Alternative: alternative, Now: time.Now()})
		if err != nil {
			return err
		}
		if err := s.remember(g, nil); err != nil {
			return err
		}
		e := keeping.OfEdition(&done.Edition, g.Root, true)
		if c.json {
			return printJSON(cmd.OutOrStdout(), keeping.Kept{Edition: e, Unchanged: done.Unchanged})
		}
		if done.Unchanged {
			fmt.Fprintf(cmd.OutOrStdout(), "Unchanged since edition %d.\n", e.ID)
			return nil
		}
		fmt.Fprintf(cmd.OutOrStdout(), "Edition %d: %s kept.\n", e.ID, phrase.Plural(len(e.Documents), "document"))
		return nil
	})
}

func editionsCommand() *cobra.Command {
	var c common
	var at string
	return onDocuments("editions [--json] DOCUMENT", "list the editions of a project, the oldest first", cobra.MinimumNArgs(1), &c, editionsFlag(&at), func(cmd *cobra.Command, s *session) error {
		kept, err := s.editions(at)
		if err != nil {
			return err
		}
		l, err := kept.Find(s.docs, s.trace.Drives)
		if errors.Is(err, line.ErrNone) {
			l = &line.Line{}
		} else if err != nil {
			return err
		}
		out := keeping.Editions{Editions: []keeping.Edition{}, Damaged: l.Damaged, Broken: []int{}}
		if last := l.Last(); last != nil {
			root, _ := last.Stands(s.docs[0], s.trace.Drives)
			if err := l.See(s.ctx, s.trace.Reach, root); err != nil {
				fmt.Fprintln(os.Stderr, words.Error(err)) // the editions are what they are
			}
			for i := range l.Editions {
				e := &l.Editions[i]
				out.Editions = append(out.Editions, keeping.OfEdition(e, root, e.ID == l.Current))
			}
			if out.Broken, err = kept.Broken(s.ctx, l); err != nil {
				return err
			}
		}
		well := out.Damaged+len(out.Broken) == 0
		if c.json {
			return errors.Join(printJSON(cmd.OutOrStdout(), out), verdict(well))
		}
		for _, e := range out.Editions {
			fmt.Fprintln(cmd.OutOrStdout(), editionLine(e, slices.Contains(out.Broken, e.ID)))
		}
		if out.Damaged > 0 {
			fmt.Fprintf(cmd.OutOrStdout(), "%s of the edition store cannot be read.\n", phrase.Plural(out.Damaged, "line"))
		}
		return verdict(well)
	})
}

// editionLine tells an edition in a line.
func editionLine(e keeping.Edition, broken bool) string {
	mark := "  "
	if e.Current {
		mark = "* "
	}
	words := []string{fmt.Sprintf("%s%d", mark, e.ID), "line " + e.Line, e.At.Local().Format("2006-01-02 15:04"), strings.ReplaceAll(string(e.By), "-", " ")}
	if broken {
		words = append(words, "damaged")
	}
	if e.Note != "" {
		words = append(words, strings.ReplaceAll(e.Note, "\n", " / "))
	}
	return strings.Join(words, "  ")
}

func restoreCommand() *cobra.Command {
	var c common
	var at, into string
	var id int
	cmd := onDocuments("restore --edition N [--into DIR] [--json] DOCUMENT", "restore an edition: all its documents or none, after the present state was kept", cobra.MinimumNArgs(1), &c, func(cmd *cobra.Command) {
		editionsFlag(&at)(cmd)
		cmd.Flags().IntVar(&id, "edition", 0, "the number of the edition")
		cmd.Flags().StringVar(&into, "into", "", "write a copy into this folder and leave the project as it is")
	}, func(cmd *cobra.Command, s *session) error {
		kept, err := s.editions(at)
		if err != nil {
			return err
		}
		l, docs, root, err := desk.Known(kept, s.docs, s.trace)
		if err == nil && l == nil {
			err = line.ErrNone
		}
		if err != nil {
			return fmt.Errorf("‘%s’: %w", s.docs[0], err)
		}
		now, err := desk.PresentOf(s.ctx, docs, root, s.trace, s.memory)
		if s.ctx.Err() != nil {
			return err
		}
		now.Root, now.Given = root, docs // whatever the present documents say
		if into != "" {
			if into, err = filepath.Abs(into); err != nil {
				return err
			}
		}
		done, err := kept.Restore(s.ctx, line.Restoring{Present: now, Edition: id, Into: into, Journals: s.journals(), Now: time.Now()})
		if err != nil {
			return fmt.Errorf("‘%s’: %w", s.docs[0], err)
		}
		base := root
		if into != "" {
			base = into
		}
		out := keeping.Restored{Edition: keeping.OfEdition(&done.Edition, base, into == ""), Written: orEmpty(done.Written), Same: orEmpty(done.Same), Outside: orEmpty(done.Outside), Into: into}
		if done.Kept != nil {
			e := keeping.OfEdition(done.Kept, root, false)
			out.Kept = &e
		}
		if c.json {
			return printJSON(cmd.OutOrStdout(), out)
		}
		w := cmd.OutOrStdout()
		fmt.Fprintf(w, "Edition %d: %s written.\n", id, phrase.Plural(len(done.Written), "document"))
		for _, p := range done.Outside {
			fmt.Fprintf(w, "left: %s (outside the project folder)\n", p)
		}
		if done.Kept != nil {
			fmt.Fprintf(w, "The state before is edition %d.\n", done.Kept.ID)
		}
		return nil
	})
	if err := cmd.MarkFlagRequired("edition"); err != nil {
		panic(err)
	}
	return cmd
}

func orEmpty(list []string) []string {
	if list == nil {
		return []string{}
	}
	return list
}
