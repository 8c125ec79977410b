package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/rules"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
	"boundcrate/core/text/format/all"
	"boundcrate/store"
)

// formats are all formats, with the rules files that are switched on and those
// given by flags before them. Crates need no store: they bring the rules files
// they need with them.
func (c *common) formats(s *store.Store) (format.Set, error) {
	set := all.Formats()
	if s != nil {
		var told []string
		var err error
		if set, told, err = s.Formats(set); err != nil {
			return nil, err
		}
		for _, t := range told {
			fmt.Fprintln(os.Stderr, t)
		}
	}
	for _, p := range c.rules {
		f, problems, err := readRules(p)
		if err != nil {
			return nil, err
		}
		if f == nil {
			return nil, fmt.Errorf("‘%s’ cannot be used: %s", p, problems[0])
		}
		set = rules.With(set, f)
	}
	return set, nil
}

func readRules(p string) (*rules.File, []rules.Mistake, error) {
	b, err := os.ReadFile(p)
	if err != nil {
		return nil, nil, &trace.Error{Path: p, Err: err}
	}
	f, problems := rules.Parse(strings.TrimSuffix(filepath.Base(p), filepath.Ext(p)), b)
	return f, problems, nil
}

// rulesReport is the JSON of `boundcrate rules test`.
type rulesReport struct {
	Rules    string          `json:"rules"`
	Sample   string          `json:"sample"`
	Problems []rules.Mistake `json:"problems"` // of the rules file
	Finds    []rules.Find    `json:"finds"`
	Damage   []string        `json:"damage"` // what was wrong with the sample
}

// rulesListed is one line of `boundcrate rules list --json`.
type rulesListed struct {
	Name       string          `json:"name"`
	On         bool            `json:"on"`
	Title      string          `json:"title"`
	Extensions []string        `json:"extensions"`
	Problems   []rules.Mistake `json:"problems"`
}

func rulesCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "rules", Short: "rules files for formats of your own: list, test, switch", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error { return cmd.Help() }}
	cmd.AddCommand(rulesList(), rulesTest(), rulesLearn(),
		rulesSwitch(true, "on RULES", "switch a rules file on: one of the data folder by its name, or a new one that is copied there"),
		rulesSwitch(false, "off NAME", "switch a rules file off; it stays in the data folder"))
	return cmd
}

func rulesList() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "list", Short: "the rules files of the data folder", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			s, err := c.needed()
			if err != nil {
				return err
			}
			defer s.Close()
			files, err := s.RulesFiles()
			if err != nil {
				return err
			}
			list := []rulesListed{}
			for _, r := range files {
				l := rulesListed{Name: r.Name, On: r.On, Extensions: []string{}, Problems: []rules.Mistake{}}
				if f, problems := rules.Parse(r.Name, []byte(r.Text)); f != nil {
					l.Title, l.Extensions = f.Title, f.Extensions
				} else {
					l.Problems = problems
				}
				list = append(list, l)
			}
			if c.json {
				return printJSON(cmd.OutOrStdout(), list)
			}
			for _, l := range list {
				state := map[bool]string{true: "on", false: "off"}[l.On]
				fmt.Fprintf(cmd.OutOrStdout(), "%-4s %s: %s (%s)\n", state, l.Name, l.Title, strings.Join(l.Extensions, ", "))
				for _, p := range l.Problems {
					fmt.Fprintln(cmd.OutOrStdout(), "     ", p)
				}
			}
			if len(list) == 0 {
				fmt.Fprintln(cmd.OutOrStdout(), "There are no rules files.")
			}
			return nil
		},
	}
	cmd.Flags().StringVar(&c.data, "data", "", "data folder (default: the user's)")
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	return cmd
}

// needed is memory for commands that can do nothing without it.
func (c *common) needed() (*store.Store, error) {
	dir := c.data
	if dir == "" {
		var err error
		if dir, err = store.DefaultDir(); err != nil {
			return nil, err
		}
	}
	return store.Open(dir)
}

func rulesTest() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "test RULES SAMPLE", Short: "show what a rules file finds in a sample document", Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			paths, err := absolute(args)
			if err != nil {
				return err
			}
			f, problems, err := readRules(paths[0])
			if err != nil {
				return err
			}
			rep := rulesReport{Rules: paths[0], Sample: paths[1], Problems: append([]rules.Mistake{}, problems...), Finds: []rules.Find{}, Damage: []string{}}
			if f != nil {
				if rep.Finds, rep.Damage, err = rules.Try(f, drive.System{}, nil, paths[1]); err != nil {
					return &trace.Error{Path: paths[1], Err: err}
				}
			}
			out := cmd.OutOrStdout()
			if c.json {
				if err := printJSON(out, rep); err != nil {
					return err
				}
			} else {
				for _, p := range rep.Problems {
					fmt.Fprintf(out, "%s, %s\n", paths[0], p)
				}
				for _, d := range rep.Damage {
					fmt.Fprintln(out, "problem:", d)
				}
				for _, x := range rep.Finds {
					role := ""
					if x.Role == "write" {
						role = " (written)"
					}
					fmt.Fprintf(out, "line %-5d %-8s %-8s %s%s  by the rule of line %d\n", x.Line, x.State, x.Use, x.Written, role, x.Rule)
				}
				fmt.Fprintf(out, "%d paths found.\n", len(rep.Finds))
			}
			switch {
			case len(problems) > 0:
				return fmt.Errorf("‘%s’ cannot be used: %s", paths[0], problems[0])
			case len(rep.Finds) == 0 || len(rep.Damage) > 0:
				return errPerson
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	c.dataFlag(cmd) // the rules that are switched on do not count here
	return cmd
}

// rulesSwitch is the command that switches a rules file on or off.
func rulesSwitch(on bool, use, short string) *cobra.Command {
	var c common
	cmd := &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error { return c.switchRules(cmd, args[0], on) }}
	cmd.Flags().StringVar(&c.data, "data", "", "data folder (default: the user's)")
	return cmd
}

func (c *common) switchRules(cmd *cobra.Command, which string, on bool) error {
	s, err := c.needed()
	if err != nil {
		return err
	}
	defer s.Close()
	files, err := s.RulesFiles()
	if err != nil {
		return err
	}
	word := map[bool]string{true: "on", false: "off"}[on]
	for _, r := range files {
		if r.Name != which {
			continue
		}
		if _, problems := rules.Parse(r.Name, []byte(r.Text)); on && len(problems) > 0 {
			return fmt.Errorf("‘%s’ cannot be used: %s. It stays off", r.Name, problems[0])
		}
		r.On = on
		fmt.Fprintf(cmd.OutOrStdout(), "‘%s’ is %s.\n", r.Name, word)
		return s.SetRules(r)
	}
	if !on {
		return fmt.Errorf("there is no rules file ‘%s’ in the data folder", which)
	}
	f, problems, err := readRules(which)
	if err != nil {
		return err
	}
	if f == nil {
		all := make([]string, len(problems))
		for i, p := range problems {
			all[i] = p.String()
		}
		return fmt.Errorf("‘%s’ cannot be used: %s. Nothing was switched on", which, strings.Join(all, "; "))
	}
	for _, r := range files {
		if r.Name == f.ID && r.Text != string(f.Source) {
			return fmt.Errorf("the data folder has another rules file ‘%s’. Nothing was overwritten. Give yours another name", f.ID)
		}
	}
	if err := s.SetRules(store.RulesFile{Name: f.ID, Text: string(f.Source), On: true}); err != nil {
		if errors.Is(err, store.ErrRulesName) {
			return fmt.Errorf("‘%s’ was not switched on: %w", which, err)
		}
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "‘%s’ is on: it was copied to the data folder.\n", f.ID)
	return nil
}

// rulesLearned is the JSON of `boundcrate rules learn`.
type rulesLearned struct {
	Document  string           `json:"document"`
	Guessed   int              `json:"guessed"` // names
	Proposals []rules.Proposal `json:"proposals"`
}

func rulesLearn() *cobra.Command {
	var c common
	return onDocuments("learn DOCUMENT", "propose rules files for a document of unknown format; the best is written to standard output", cobra.ExactArgs(1), &c, nil, func(cmd *cobra.Command, s *session) error {
		g, _, err := s.run()
		if err != nil {
			return err
		}
		got, err := s.trace.Learn(g, 0)
		if errors.Is(err, trace.ErrKnown) {
			return fmt.Errorf("‘%s’ is already read as %s.", s.docs[0], g.Documents[0].Title)
		}
		if err != nil {
			return err
		}
		rep := rulesLearned{s.docs[0], len(trace.Believed(g, 0)), append([]rules.Proposal{}, got...)}
		switch {
		case c.json:
			err = printJSON(cmd.OutOrStdout(), rep)
		case len(got) > 0:
			fmt.Fprint(cmd.OutOrStdout(), got[0].Source)
		default:
			fmt.Fprintln(os.Stderr, "No value in it looks like a path. Rules files can read text, XML and JSON.")
		}
		return errors.Join(err, verdict(len(got) > 0))
	})
}
