package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/mend"
	"boundcrate/core/receive"
	"boundcrate/core/resolve"
	"boundcrate/core/seal"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
	"boundcrate/store"
)

func printJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

// options is what the flags say of a trace.
func (c *common) options(documents []string) (trace.Options, []string, error) {
	drives, err := parseDrives(c.drives)
	if err != nil {
		return trace.Options{}, nil, err
	}
	docs, err := absolute(documents)
	if err != nil {
		return trace.Options{}, nil, err
	}
	o := trace.Options{Reach: drive.System{Drives: drives}, Drives: drives}
	if c.root != "" {
		if o.Root, err = filepath.Abs(c.root); err != nil {
			return o, nil, err
		}
		if fi, err := os.Stat(o.Root); err != nil || !fi.IsDir() {
			return o, nil, fmt.Errorf("--root ‘%s’ is not a folder", o.Root)
		}
	}
	return o, docs, nil
}

func remember(ctx context.Context, s *store.Store, g *trace.Graph, reach drive.Reach, known map[string]string) error {
	if s == nil {
		return nil
	}
	err := s.Remember(ctx, g, reach, known, time.Now(), nil)
	if err != nil && ctx.Err() == nil {
		fmt.Fprintln(os.Stderr, "What was seen could not be remembered:", err)
		return nil
	}
	return err
}

func traceCommand() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "trace [flags] DOCUMENT", Short: "follow every reference of a document, into nested documents", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			o, docs, err := c.options(args)
			if err != nil {
				return err
			}
			s := c.memory()
			if o.Formats, err = c.formats(s); err != nil {
				return err
			}
			if s != nil {
				defer s.Close()
				o.Doubt = s.Doubt(cmd.Context(), o.Reach)
			}
			g, err := trace.Run(cmd.Context(), o, docs...)
			if err != nil {
				return err
			}
			if s != nil {
				if err := remember(cmd.Context(), s, g, o.Reach, nil); err != nil {
					return err
				}
			}
			if c.json {
				err = printJSON(cmd.OutOrStdout(), g.Report())
			} else {
				printGraph(cmd.OutOrStdout(), g)
			}
			if err != nil {
				return err
			}
			return verdict(!g.NeedsPerson())
		},
	}
	c.flags(cmd, true)
	return cmd
}

func printGraph(w io.Writer, g *trace.Graph) {
	states := map[resolve.State]int{}
	for i := range g.References {
		r := &g.References[i]
		states[r.State]++
		at := resolve.Shown(r.Target())
		if at == "" {
			at = r.Written
		}
		fmt.Fprintf(w, "%-10s %-8s %-9s %s", r.State, r.Use, r.Kind, at)
		if len(r.Gaps) > 0 {
			b, _ := json.Marshal(trace.Gaps(r.Gaps))
			fmt.Fprintf(w, "  gaps %s", b)
		}
		fmt.Fprintf(w, "  (%s)\n", r.Owner)
	}
	for _, p := range g.Problems {
		fmt.Fprintln(w, "problem:", p.Error())
	}
	fmt.Fprintf(w, "%d references in %d documents:", len(g.References), len(g.Documents))
	for _, s := range []resolve.State{resolve.Here, resolve.Away, resolve.Missing, resolve.Unplugged, resolve.Twins, resolve.Unsaved, resolve.Inside, resolve.Unreadable} {
		if states[s] > 0 {
			fmt.Fprintf(w, " %d %s", states[s], s)
		}
	}
	fmt.Fprintln(w)
}

// mendReport is the JSON of `boundcrate mend`.
type mendReport struct {
	Document string         `json:"document"`
	Missing  []mendMissing  `json:"missing"`
	Searched int            `json:"searched"` // files met
	Written  []mend.Written `json:"written"`  // documents repairs were put into
}

type mendMissing struct {
	Document   string           `json:"document"`
	Written    string           `json:"written"`
	Expected   string           `json:"expected"`
	Candidates []mend.Candidate `json:"candidates"`
}

func mendCommand() *cobra.Command {
	var c common
	var folders []string
	var write bool
	cmd := &cobra.Command{
		Use: "mend [flags] --search DIR DOCUMENT", Short: "look for what is missing and rank candidates", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			o, docs, err := c.options(args)
			if err != nil {
				return err
			}
			if len(folders) == 0 {
				return errors.New("say where to look: --search DIR")
			}
			if folders, err = absolute(folders); err != nil {
				return err
			}
			for _, f := range folders {
				if fi, err := os.Stat(f); err != nil || !fi.IsDir() {
					return fmt.Errorf("--search ‘%s’ is not a folder that can be looked through", f)
				}
			}
			s := c.memory()
			if o.Formats, err = c.formats(s); err != nil {
				return err
			}
			if s != nil {
				defer s.Close()
			}
			rep, g, err := runMend(cmd.Context(), o, docs, folders, s, write)
			if err != nil {
				return err
			}
			if c.json {
				if err := printJSON(cmd.OutOrStdout(), rep); err != nil {
					return err
				}
			} else {
				printMend(cmd.OutOrStdout(), rep)
			}
			return verdict(!g.NeedsPerson())
		},
	}
	c.flags(cmd, true)
	cmd.Flags().StringArrayVar(&folders, "search", nil, "a folder to look through; may be given several times")
	cmd.Flags().BoolVar(&write, "write", false, "put certain finds into the document, after keeping an edition of it beside it")
	return cmd
}

func runMend(ctx context.Context, o trace.Options, docs, folders []string, s *store.Store, write bool) (*mendReport, *trace.Graph, error) {
	if s != nil {
		o.Doubt = s.Doubt(ctx, o.Reach)
	}
	g, err := trace.Run(ctx, o, docs...)
	if err != nil {
		return nil, nil, err
	}
	memory := func(string) (mend.Seen, bool) { return mend.Seen{}, false }
	hashes := map[string]string{}
	ev := mend.Evidence{Reach: o.Reach, Hash: func(ctx context.Context, p string) (string, error) {
		return mend.Cached(ctx, o.Reach, p, hashes)
	}}
	if s != nil {
		memory = s.Last
		ev.Hash = func(ctx context.Context, p string) (string, error) { return s.Hash(ctx, o.Reach, p) }
	}
	ev.Memory = memory
	x, err := mend.Search(ctx, o.Reach, folders, nil)
	if err != nil {
		return nil, nil, err
	}
	rep := &mendReport{Document: docs[0], Missing: []mendMissing{}, Searched: x.Files(), Written: []mend.Written{}}
	err = mend.Until(ctx, g, memory, func(w mend.Wanted) ([]mend.Candidate, error) {
		cs, err := x.Candidates(ctx, w, ev)
		if err != nil {
			return nil, err
		}
		told := map[[2]string]bool{}
		for _, i := range w.References {
			r := &g.References[i]
			if key := [2]string{g.Documents[r.Doc].Path, r.Written}; !told[key] {
				told[key] = true
				rep.Missing = append(rep.Missing, mendMissing{key[0], key[1], w.Expected, cs})
			}
		}
		return cs, nil
	}, func(repairs []resolve.Repair) (*trace.Graph, error) {
		o.Repairs = append(o.Repairs, repairs...)
		g, err = trace.Run(ctx, o, docs...)
		return g, err
	})
	if err != nil {
		return nil, nil, err
	}
	if write {
		done, problems, err := mend.Write(g, o.Reach, edition.Keeper{})
		if err != nil {
			return nil, nil, err
		}
		rep.Written = append(rep.Written, done...)
		for _, p := range problems {
			fmt.Fprintln(os.Stderr, p.Error())
		}
	}
	// The verdict is on the documents as they stand now.
	o.Repairs = nil
	if g, err = trace.Run(ctx, o, docs...); err != nil {
		return nil, nil, err
	}
	return rep, g, remember(ctx, s, g, o.Reach, nil)
}

func printMend(w io.Writer, rep *mendReport) {
	found := 0
	for _, m := range rep.Missing {
		fmt.Fprintf(w, "%s\n", m.Expected)
		if _, ok := mend.Sure(m.Candidates); ok {
			found++
		}
		for _, c := range m.Candidates {
			fmt.Fprintf(w, "  %-8s %.3f %s (%v)\n", c.Certainty, c.Score, c.Path, c.Reasons)
		}
	}
	fmt.Fprintf(w, "%d looked for, %d found for certain among %d files.\n", len(rep.Missing), found, rep.Searched)
	for _, d := range rep.Written {
		fmt.Fprintf(w, "Written: %s, earlier state kept as %s\n", d.Document, d.Edition)
	}
}

// recipe is what --recipe reads.
type recipe struct {
	stow.Options
	Note string `json:"note"`
}

func readRecipe(file string) (recipe, error) {
	r := recipe{Options: stow.Options{Layout: stow.ByKind}}
	if file == "" {
		return r, nil
	}
	f, err := os.Open(file)
	if err != nil {
		return r, fmt.Errorf("the recipe ‘%s’ could not be read: %s", file, trace.Reason(err))
	}
	defer f.Close()
	d := json.NewDecoder(f)
	d.DisallowUnknownFields()
	if err := d.Decode(&r); err != nil {
		return r, fmt.Errorf("the recipe ‘%s’ could not be read: %w", file, err)
	}
	if r.Layout != stow.ByKind && r.Layout != stow.AsStands {
		return r, fmt.Errorf("the recipe ‘%s’ names the layout %q; there are %q and %q", file, r.Layout, stow.ByKind, stow.AsStands)
	}
	return r, nil
}

func sealCommand() *cobra.Command {
	var c common
	var out, recipeFile, note string
	cmd := &cobra.Command{
		Use: "seal [flags] --out PATH DOCUMENT...", Short: "plan, copy, rewrite, verify and prove a crate", Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			o, docs, err := c.options(args)
			if err != nil {
				return err
			}
			if out == "" {
				return errors.New("say where the crate goes: --out PATH")
			}
			if out, err = filepath.Abs(out); err != nil {
				return err
			}
			rec, err := readRecipe(recipeFile)
			if err != nil {
				return err
			}
			if note != "" {
				rec.Note = note
			}
			s := c.memory()
			if o.Formats, err = c.formats(s); err != nil {
				return err
			}
			if s != nil {
				defer s.Close()
				o.Doubt = s.Doubt(ctx, o.Reach)
			}
			g, err := trace.Run(ctx, o, docs...)
			if err != nil {
				return err
			}
			rec.Drives = o.Drives
			rep, err := seal.Run(ctx, seal.Options{
				Plan: stow.Make(g, rec.Options), Out: out, Formats: o.Formats, Reach: o.Reach, Note: rec.Note, Now: time.Now(),
			})
			if err != nil {
				return err
			}
			if err := remember(ctx, s, g, o.Reach, rep.Sums); err != nil {
				return err
			}
			return c.report(cmd, rep)
		},
	}
	c.flags(cmd, true)
	cmd.Flags().StringVar(&out, "out", "", "where the crate goes; .zip, .tar, .tar.gz or .tar.zst makes an archive")
	cmd.Flags().StringVar(&recipeFile, "recipe", "", "saved choices, a JSON file")
	cmd.Flags().StringVar(&note, "note", "", "a note for whoever receives the crate")
	return cmd
}

func (c *common) report(cmd *cobra.Command, rep *seal.Report) error {
	if c.json {
		if err := printJSON(cmd.OutOrStdout(), rep); err != nil {
			return err
		}
		return verdict(rep.Well())
	}
	w := cmd.OutOrStdout()
	fmt.Fprintf(w, "%s: %d files, %d bytes\n", rep.Crate, rep.Files, rep.Bytes)
	for _, r := range rep.Renamed {
		fmt.Fprintf(w, "renamed: %s is %s\n", r.From, r.To)
	}
	for _, l := range rep.Left {
		fmt.Fprintf(w, "left: %s (%s)\n", l.Path, l.Why)
	}
	for _, p := range rep.Problems {
		fmt.Fprintln(w, "problem:", p.Error())
	}
	if rep.Complete {
		fmt.Fprintln(w, "Complete: traced with nothing else reachable.")
	} else {
		fmt.Fprintln(w, "Not complete.")
	}
	return verdict(rep.Well())
}

func checkCommand() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "check [--json] CRATE", Short: "verify a crate: checksums, nothing missing or extra, nothing leaving it", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			p, err := absolute(args)
			if err != nil {
				return err
			}
			formats, err := c.formats(nil)
			if err != nil {
				return err
			}
			rep, err := seal.Check(cmd.Context(), p[0], formats)
			if err != nil {
				return err
			}
			return c.report(cmd, rep)
		},
	}
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	return cmd
}

func receiveCommand() *cobra.Command {
	var c common
	var into string
	cmd := &cobra.Command{
		Use: "receive --into DIR [--json] CRATE", Short: "check a crate, then unpack it to DIR/NAME", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if into == "" {
				return errors.New("say where to unpack: --into DIR")
			}
			p, err := absolute([]string{args[0], into})
			if err != nil {
				return err
			}
			formats, err := c.formats(nil)
			if err != nil {
				return err
			}
			rep, err := receive.Run(cmd.Context(), p[0], p[1], formats)
			if err != nil {
				return err
			}
			if c.json {
				if err := printJSON(cmd.OutOrStdout(), rep); err != nil {
					return err
				}
				return verdict(rep.Well())
			}
			if rep.Into == "" {
				fmt.Fprintln(cmd.OutOrStdout(), "The check failed; nothing was unpacked.")
			} else {
				fmt.Fprintln(cmd.OutOrStdout(), "Unpacked to", rep.Into)
			}
			return c.report(cmd, &rep.Report)
		},
	}
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	cmd.Flags().StringVar(&into, "into", "", "the folder to unpack into")
	return cmd
}
