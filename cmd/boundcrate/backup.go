package main

import (
	"errors"
	"fmt"
	"path/filepath"

	"github.com/spf13/cobra"

	"boundcrate/app/desk"
	"boundcrate/core/keep/backup"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/report/keeping"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/say/words/sheet"
)

func backupCommand() *cobra.Command {
	var c common
	var to, file, verify string
	var keep int
	var sameDrive bool
	cmd := onDocuments("backup --to DIR [--keep N] [--json] DOCUMENT...", "make a generation of a project on another drive, or verify generations with --verify DIR", cobra.ArbitraryArgs, &c, func(cmd *cobra.Command) {
		cmd.Flags().StringVar(&to, "to", "", "the folder for backups; generations lie in DIR/NAME/")
		cmd.Flags().IntVar(&keep, "keep", 0, "take away the oldest generations beyond so many (default: keep all)")
		cmd.Flags().StringVar(&verify, "verify", "", "read all generations below this folder again, and tell what is damaged")
		cmd.Flags().BoolVar(&sameDrive, "same-drive", false, "allow a folder on the project's own drive")
		recipeFlag(&file)(cmd)
	}, func(cmd *cobra.Command, s *session) error {
		switch {
		case verify != "" && (to != "" || len(s.docs) > 0):
			return errors.New("--verify takes a folder of backups and nothing else")
		case verify != "":
			return verifyBackups(cmd, s, verify)
		case to == "" || len(s.docs) == 0:
			return errors.New("Give a folder and a document: --to DIR DOCUMENT, or --verify DIR.")
		case cmd.Flags().Changed("keep") && keep < 1:
			return errors.New("--keep must be 1 or more: at least one generation stays.")
		}
		dir, err := filepath.Abs(to)
		if err != nil {
			return err
		}
		s.layout = stow.AsStands
		p, err := s.plan(file, false)
		if err != nil {
			return err
		}
		how := desk.Sealing{Plan: p.Plan, Recipe: p.recipe, Note: p.recipe.Note, Trace: s.trace}
		if s.memory != nil {
			how.Digest = s.memory.Hasher(s.trace.Reach)
		}
		rep, err := backup.Run(s.ctx, backup.Options{Seal: desk.SealOptions(how), Dir: dir, Name: desk.BackupName(p.Graph), Keep: keep, Beside: sameDrive})
		if err != nil {
			return err
		}
		if err := s.remember(p.Graph, rep.Sums); err != nil {
			return err
		}
		out := keeping.OfBackup(rep)
		if c.json {
			return errors.Join(printJSON(cmd.OutOrStdout(), out), verdict(rep.Well()))
		}
		w := cmd.OutOrStdout()
		fmt.Fprintf(w, "%s\n%s, %s: %s copied, %s shared with the generation before.\n", out.Generation, phrase.Plural(out.Files, "file"), phrase.Size(out.Bytes), phrase.Size(out.Copied.Bytes), phrase.Size(out.Shared.Bytes))
		for _, p := range out.Removed {
			fmt.Fprintln(w, "removed:", p)
		}
		for _, l := range out.Left {
			fmt.Fprintf(w, "left: %s (%s)\n", l.Path, l.Why)
		}
		if again := sheet.Unshared(rep.Report); again != "" {
			fmt.Fprintln(w, again)
		}
		for _, p := range out.Problems {
			fmt.Fprintln(w, "problem:", p)
		}
		if !out.Complete {
			fmt.Fprintln(w, "Not complete.")
		}
		return verdict(rep.Well())
	})
	return cmd
}

// verifyBackups reads generations again. That this cannot be noted beside them, on a drive that cannot be written
// to, changes nothing.
func verifyBackups(cmd *cobra.Command, s *session, dir string) error {
	at, err := filepath.Abs(dir)
	if err != nil {
		return err
	}
	list, err := backup.Verify(s.ctx, at, nil)
	if err == nil && len(list) == 0 {
		err = fmt.Errorf("‘%s’ holds no backup", at)
	}
	if err != nil {
		return err
	}
	_ = backup.Note(list)
	well := true
	for _, v := range list {
		well = well && v.Well()
		if s.json {
			continue
		}
		fmt.Fprintf(cmd.OutOrStdout(), "%s: %s\n", v.Path, map[bool]string{true: "undamaged", false: "damaged"}[v.Well()])
		for _, p := range v.Damaged {
			fmt.Fprintln(cmd.OutOrStdout(), "  damaged:", p)
		}
		for _, p := range v.Missing {
			fmt.Fprintln(cmd.OutOrStdout(), "  missing:", p)
		}
		for _, p := range v.Extra {
			fmt.Fprintln(cmd.OutOrStdout(), "  not sealed:", p)
		}
	}
	if s.json {
		err = printJSON(cmd.OutOrStdout(), keeping.Verification{Generations: list})
	}
	return errors.Join(err, verdict(well))
}
