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

	"boundcrate/core/keep/loose"
	"boundcrate/core/say/report/keeping"
	"boundcrate/core/say/words/phrase"
)

func gatherCommand() *cobra.Command {
	var out string
	var s loose.Set
	var groups []string
	var asJSON bool
	cmd := &cobra.Command{Use: "gather --out DIR/" + loose.Name + " --title TEXT [flags] FILE|GLOB...", Short: "make a loose set: a project with no document", RunE: func(cmd *cobra.Command, args []string) error {
		if filepath.Base(out) != loose.Name {
			return errors.New("Give a destination that ends in " + loose.Name + ": --out DIR/" + loose.Name)
		}
		if strings.TrimSpace(s.Title) == "" {
			return errors.New("Give the set a title: --title TEXT.")
		}
		at, err := filepath.Abs(out)
		if err != nil {
			return err
		}
		if err := gatherInto(&s, filepath.Dir(at), args, groups); err != nil {
			return err
		}
		s.Made = time.Now()
		if err := loose.Write(at, s); err != nil {
			return fmt.Errorf("‘%s’ was not written: %w", at, err)
		}
		rep, err := keeping.OfSet(at, &s)
		if err != nil {
			return err
		}
		if asJSON {
			return printJSON(cmd.OutOrStdout(), rep)
		}
		fmt.Fprintf(cmd.OutOrStdout(), "%s: %s, %s.\n", at, phrase.Plural(len(rep.Files), "file"), phrase.Size(rep.Bytes))
		return nil
	}}
	cmd.Flags().StringVar(&out, "out", "", "where the set is kept: DIR/"+loose.Name)
	cmd.Flags().StringVar(&s.Title, "title", "", "what the set is called")
	cmd.Flags().StringVar(&s.Author, "author", "", "who made it")
	cmd.Flags().StringVar(&s.Note, "note", "", "a note")
	cmd.Flags().StringArrayVar(&groups, "group", nil, "a group of files, as NAME=GLOB; can be given several times")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return cmd
}

// gatherInto puts what was named into a set. What matches nothing is an error: nothing is written then.
func gatherInto(s *loose.Set, dir string, args, groups []string) error {
	here, err := os.Getwd()
	if err != nil {
		return err
	}
	have := map[string]bool{}
	find := func(pattern string, files, patterns *[]string) error {
		list, err := loose.Find(here, filepath.ToSlash(pattern))
		if err != nil {
			return fmt.Errorf("‘%s’ is a folder: name the files in it, as %s", pattern, filepath.Join(pattern, "*"))
		}
		if len(list) == 0 {
			return fmt.Errorf("‘%s’: %w", pattern, loose.ErrNothing)
		}
		for _, f := range list {
			if !have[f] {
				have[f] = true
				*files = append(*files, f)
			}
		}
		if _, err := os.Lstat(pattern); err == nil {
			return nil
		}
		abs, err := filepath.Abs(pattern)
		if err != nil {
			return err
		}
		if rel, err := filepath.Rel(dir, abs); err == nil && filepath.IsLocal(rel) {
			abs = rel
		}
		*patterns = append(*patterns, filepath.ToSlash(abs))
		return nil
	}
	for _, g := range groups {
		name, glob, ok := strings.Cut(g, "=")
		if !ok || strings.TrimSpace(name) == "" || glob == "" {
			return fmt.Errorf("--group %q is not NAME=GLOB", g)
		}
		i := slices.IndexFunc(s.Groups, func(x loose.Group) bool { return x.Name == name })
		if i < 0 {
			i, s.Groups = len(s.Groups), append(s.Groups, loose.Group{Name: name})
		}
		if err := find(glob, &s.Groups[i].Files, &s.Groups[i].Patterns); err != nil {
			return err
		}
	}
	for _, a := range args {
		if err := find(a, &s.Files, &s.Patterns); err != nil {
			return err
		}
	}
	if len(have) == 0 {
		return errors.New("Name the files of the set: FILE, GLOB or --group NAME=GLOB.")
	}
	return nil
}
