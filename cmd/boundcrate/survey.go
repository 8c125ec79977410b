package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/survey/survey"
	"boundcrate/store"
)

// surveyor is a command over all drives at once: those given, else the configured.
type surveyor struct {
	*session
	drives []drive.Drive
}

func (c *common) survey(cmd *cobra.Command) (*surveyor, error) {
	s, err := c.open(cmd.Context(), nil)
	if err != nil {
		return nil, err
	}
	if s.store == nil {
		return nil, errors.New("This command needs a data folder.")
	}
	drives := s.trace.Drives
	if len(drives) == 0 {
		if drives, err = s.store.CoreDrives(); err != nil {
			s.close()
			return nil, err
		}
		s.trace.Drives, s.trace.Reach = drives, drive.System{Drives: drives}
	}
	return &surveyor{s, drives}, nil
}

// buildIndex walks through the drives that are connected, keeps the index, and answers
// from what it met. To skim is to pass over folders in which no name came or went.
func (s *surveyor) buildIndex(now time.Time, skim bool) (*index.Memory, error) {
	var dirs []string
	for _, d := range s.drives {
		if d.Connected() {
			dirs = append(dirs, d.Dir)
		}
	}
	known, err := s.store.CoreDrives()
	if err != nil {
		return nil, err
	}
	var walked *store.Walked
	if skim {
		walked, err = s.store.IndexShallow(s.ctx, s.trace.Reach, known, dirs, nil)
	} else {
		walked, err = store.Look(s.ctx, s.trace.Reach, dirs, nil)
	}
	if err != nil {
		return nil, err
	}
	x := walked.Index()
	return x, s.store.Keep(s.ctx, known, walked, now)
}

func indexCommand() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "index [--drive NAME=DIR]…", Short: "build or refresh the drive index", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			s, err := c.survey(cmd)
			if err != nil {
				return err
			}
			defer s.close()
			if len(s.drives) == 0 {
				return errors.New("Give a drive: --drive NAME=DIR.")
			}
			now := time.Now()
			x, err := s.buildIndex(now, false)
			if err != nil {
				return err
			}
			ledger, err := s.store.Ledger(s.trace.Formats)
			if err != nil {
				return err
			}
			// Whoever asks where a file is used right after this is answered.
			coverage, err := survey.Refresh(s.ctx, survey.Options{Trace: s.trace, Index: x, Ledger: ledger})
			if err != nil {
				return err
			}
			rep, well := report.Indexed{Drives: []report.IndexedDrive{}}, true
			for _, d := range s.drives {
				in := report.IndexedDrive{Name: d.Name, Dir: d.Dir, Unread: []report.Unread{}, AsOf: now}
				if !d.Connected() {
					in.Unread = report.OfUnread([]drive.Unread{{Path: d.Dir, Err: drive.ErrUnplugged}})
				}
				if in.Files, in.Bytes, err = index.Sum(x, d.Dir); err != nil {
					return err
				}
				for _, u := range append(x.Unread(), coverage.Unread...) {
					if drive.Within(d.Dir, u.Path) {
						in.Unread = append(in.Unread, report.OfUnread([]drive.Unread{u})...)
					}
				}
				well = well && len(in.Unread) == 0
				rep.Drives = append(rep.Drives, in)
			}
			if c.json {
				err = printJSON(cmd.OutOrStdout(), rep)
			} else {
				for _, d := range rep.Drives {
					fmt.Fprintf(cmd.OutOrStdout(), "%s: %s, %s\n", d.Name, phrase.Plural(d.Files, "file"), phrase.Size(d.Bytes))
					for _, u := range d.Unread {
						fmt.Fprintf(cmd.OutOrStdout(), "  not read: %s (%s)\n", u.Path, u.Why)
					}
				}
			}
			return errors.Join(err, verdict(well))
		},
	}
	c.flags(cmd)
	return cmd
}

func whereCommand() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "where [flags] FILE…", Short: "list known documents that use or write these files", Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := c.survey(cmd)
			if err != nil {
				return err
			}
			defer s.close()
			ledger, err := s.store.Ledger(s.trace.Formats)
			if err != nil {
				return err
			}
			files, err := absolute(args)
			if err != nil {
				return err
			}
			var rep report.Where
			for _, f := range files {
				uses, err := ledger.Into(f)
				if err != nil {
					return err
				}
				rep.Add(f, uses)
			}
			if c.json {
				return printJSON(cmd.OutOrStdout(), rep)
			}
			for _, f := range rep.Files {
				fmt.Fprintln(cmd.OutOrStdout(), f.Path)
				if len(f.Documents) == 0 {
					fmt.Fprintln(cmd.OutOrStdout(), "  not used by any known document")
				}
				for _, u := range f.Documents {
					fmt.Fprintf(cmd.OutOrStdout(), "  %-5s %-8s %s (%s)\n", u.Role, u.Use, u.Document, u.Owner)
				}
			}
			return nil
		},
	}
	c.flags(cmd)
	return cmd
}

func clearoutCommand() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "clearout [--drive NAME=DIR]… DIR", Short: "check whether a folder can be removed", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := c.survey(cmd)
			if err != nil {
				return err
			}
			defer s.close()
			folder, err := filepath.Abs(args[0])
			if err != nil {
				return err
			}
			if folder, err = filepath.EvalSymlinks(folder); err != nil {
				return err
			}
			if info, err := os.Stat(folder); err != nil || !info.IsDir() {
				return fmt.Errorf("‘%s’ is not a folder", args[0])
			}
			x, err := s.buildIndex(time.Now(), true)
			if err != nil {
				return err
			}
			ledger, err := s.store.Ledger(s.trace.Formats)
			if err != nil {
				return err
			}
			got, err := survey.Check(s.ctx, folder, survey.Options{Trace: s.trace, Index: x, Ledger: ledger, Hash: s.memory.Hasher(s.trace.Reach)})
			if err != nil {
				return err
			}
			rep := report.OfClearout(got)
			if c.json {
				err = printJSON(cmd.OutOrStdout(), rep)
			} else {
				printClearout(cmd.OutOrStdout(), rep)
			}
			return errors.Join(err, verdict(rep.Safe))
		},
	}
	c.flags(cmd)
	return cmd
}

func printClearout(w io.Writer, c report.Clearout) {
	for _, r := range c.ReadBy {
		fmt.Fprintf(w, "%s\n  reads %s (%s)", r.Document, r.Path, r.Owner)
		if len(r.Elsewhere) > 0 {
			fmt.Fprintf(w, ", same content also at %s", r.Elsewhere[0])
		} else {
			fmt.Fprint(w, ", no other copy")
		}
		fmt.Fprintln(w)
	}
	for _, r := range c.WrittenBy {
		fmt.Fprintf(w, "%s\n  writes to %s (%s)\n", r.Document, r.Path, r.Owner)
	}
	for _, u := range c.Unread {
		fmt.Fprintf(w, "not read: %s\n", u)
	}
	if len(c.Documents) > 0 {
		fmt.Fprintf(w, "%s are inside it.\n", phrase.Plural(len(c.Documents), "document"))
	}
	if c.Safe {
		fmt.Fprintln(w, "Safe: no document outside reads from it or writes to it, and everything was read.")
	} else {
		fmt.Fprintln(w, "Not safe.")
	}
}
