package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"boundcrate/app/desk"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
)

// printJSON writes a report: on lines of its own for a person at a terminal,
// unindented for a program, which is half the work for a large one.
func printJSON(w io.Writer, v any) error {
	if f, ok := w.(*os.File); ok {
		if info, err := f.Stat(); err == nil && info.Mode()&os.ModeCharDevice != 0 {
			e := json.NewEncoder(w)
			e.SetEscapeHTML(false)
			e.SetIndent("", "  ")
			return e.Encode(v)
		}
	}
	b := bufio.NewWriterSize(w, 1<<16)
	return errors.Join(stream(b, reflect.ValueOf(v)), b.Flush())
}

// stream writes a struct member by member and its lists element by element, so
// that a report of 400,000 lines is never held whole as text.
func stream(w *bufio.Writer, v reflect.Value) error {
	plain := func(v reflect.Value) error {
		e := json.NewEncoder(w)
		e.SetEscapeHTML(false)
		return e.Encode(v.Interface())
	}
	for v.Kind() == reflect.Pointer && !v.IsNil() {
		v = v.Elem()
	}
	if _, own := v.Interface().(json.Marshaler); own || v.Kind() != reflect.Struct {
		return plain(v)
	}
	for i := range v.NumField() {
		if v.Type().Field(i).Anonymous {
			return plain(v) // its members stand among those of another
		}
	}
	w.WriteByte('{')
	first := true
	for i := range v.NumField() {
		f := v.Type().Field(i)
		name, rest, _ := strings.Cut(f.Tag.Get("json"), ",")
		if name == "-" || !f.IsExported() || strings.HasPrefix(rest, "omit") && v.Field(i).IsZero() {
			continue
		}
		if name == "" {
			name = f.Name
		}
		if !first {
			w.WriteByte(',')
		}
		first = false
		fmt.Fprintf(w, "%q:", name)
		list := v.Field(i)
		if list.Kind() != reflect.Slice || list.IsNil() {
			if err := plain(list); err != nil {
				return err
			}
			continue
		}
		w.WriteByte('[')
		for k := range list.Len() {
			if k > 0 {
				w.WriteByte(',')
			}
			if err := plain(list.Index(k)); err != nil {
				return err
			}
		}
		w.WriteByte(']')
	}
	_, err := w.WriteString("}\n")
	return err
}

func traceCommand() *cobra.Command {
	var c common
	return onDocuments("trace [flags] DOCUMENT...", "follow every reference of documents, into nested documents", cobra.MinimumNArgs(1), &c, nil, func(cmd *cobra.Command, s *session) error {
		g, judged, err := s.run()
		if err != nil {
			return err
		}
		kept := make(chan error, 1)
		go func() { kept <- s.remember(g, nil) }() // what was seen is written while it is told
		if c.json {
			err = printJSON(cmd.OutOrStdout(), report.OfTrace(g, judged))
		} else {
			printGraph(cmd.OutOrStdout(), g, judged)
		}
		if err := errors.Join(err, <-kept); err != nil {
			return err
		}
		return verdict(!tally.Of(g, judged, nil).NeedsPerson())
	})
}

func printGraph(w io.Writer, g *graph.Graph, judged *origin.Judged) {
	last := ""
	for i := range g.References {
		r := &g.References[i]
		if doc := g.Where(r.Doc, r.Text); doc != last {
			last = doc
			fmt.Fprintf(w, "%s\n", doc)
		}
		at := r.Shown(r.Target())
		if at == "" {
			at = r.Written
		}
		fmt.Fprintf(w, "  %-10s %-8s %-9s %s", r.State, r.Use, r.Kind, at)
		if r.File != graph.None && judged.Rebuildable(r.File) {
			fmt.Fprint(w, "  can be rebuilt")
		}
		if r.Loose {
			fmt.Fprintf(w, "loosely spelled: %s", r.Written)
		}
		if len(r.Gaps) > 0 {
			b, _ := json.Marshal(report.Gaps(r.Gaps))
			fmt.Fprintf(w, "  gaps %s", b)
		}
		fmt.Fprintf(w, "  (%s)\n", r.Owner)
	}
	for i := range g.Files {
		for _, x := range judged.Suspicions(graph.FileID(i)) {
			fmt.Fprintf(w, "suspect: %s (%s)\n", g.Files[i].Path, words.Suspicion(x))
		}
	}
	for i := range g.WritePoints {
		p := &g.WritePoints[i]
		fmt.Fprintf(w, "write point: %s %v  (%s, %s)\n", p.Path, judged.FlagsOf(i), g.Where(p.Doc, p.Text), p.Owner)
	}
	for _, c := range judged.Companions {
		fmt.Fprintf(w, "companion: %s, %s, of %s", c.Path, c.State, c.Of)
		if c.Found != "" {
			fmt.Fprintf(w, "; found at %s", c.Found)
		}
		fmt.Fprintln(w)
	}
	for _, m := range judged.Moved {
		fmt.Fprintf(w, "moved: %d references still point to %s; %d of them exist under %s\n", m.References, m.From, m.Present, m.To)
	}
	for _, x := range judged.Warnings {
		fmt.Fprintln(w, "warning:", words.Warning(x))
	}
	for _, p := range words.Problems(g.Problems) {
		fmt.Fprintln(w, "problem:", p)
	}
	t := tally.Of(g, judged, nil)
	fmt.Fprintln(w, words.Tally(t))
	if t.AllHere() {
		fmt.Fprintln(w, "Everything is here.")
	} else if why := words.NeedsPerson(t); why != "" {
		fmt.Fprintln(w, why)
	}
}

func readRecipe(file string) (recipe.Recipe, error) {
	if file == "" {
		return recipe.Default(), nil
	}
	b, err := os.ReadFile(file)
	if err != nil {
		return recipe.Recipe{}, fmt.Errorf("The recipe ‘%s’ could not be read: %s.", file, words.Reason(err))
	}
	r, err := recipe.Parse(b)
	var bad *recipe.Error
	if errors.As(err, &bad) {
		return r, errors.New(words.RecipeError(file, bad))
	}
	return r, err
}

// planning is a plan and what it was made of.
type planning struct {
	*stow.Plan
	recipe recipe.Recipe
	dups   []sift.Duplicate
	loose  *sift.Loose // nil where nobody asked for what nothing names
	drawn  sift.Drawn
	given  []sift.GivenUp // what the crate leaves behind for good
}

func (p *planning) tally() tally.Tally { return tally.Of(p.Graph, p.Judged, nil) }

// plan traces, judges and plans by a recipe. all looks for duplicates and for what
// nothing names also where the recipe does not ask for them.
func (s *session) plan(recipeFile string, all bool) (*planning, error) {
	rec, err := readRecipe(recipeFile)
	if err != nil {
		return nil, err
	}
	if s.layout != "" {
		rec.Stow.Layout = s.layout
	}
	g, judged, err := s.run()
	if err != nil {
		return nil, err
	}
	p := &planning{recipe: rec}
	of := desk.Of{Graph: g, Judged: judged, Trace: s.trace, Recipe: rec, Ears: new(stow.Ears), Listen: !all}
	leave := rec.Stow.Leave
	if all || leave.Twice {
		hash := mend.Once(s.trace.Reach, nil)
		if s.memory != nil {
			hash = s.memory.Hasher(s.trace.Reach)
		}
		if p.dups, err = sift.Duplicates(s.ctx, g, s.trace.Reach, hash); err != nil {
			return nil, err
		}
		of.Same = sift.Groups(g, p.dups)
	}
	if all || len(rec.Also) > 0 {
		x, err := index.Build(s.ctx, index.Options{Reach: s.trace.Reach, Dirs: []string{g.Root}})
		if err != nil {
			return nil, err
		}
		if p.loose, err = sift.LooseOf(g, judged, s.habits(), s.trace.Reach, x, edition.Keeper{}); err != nil {
			return nil, err
		}
		p.drawn = sift.FindDrawings(g, sift.Decide(sift.Of{Graph: g, Judged: judged}, leave), p.loose, s.trace.Reach)
		of.Loose = p.loose
	}
	globs := slices.Concat(rec.Also, leave.Drop, leave.Keep)
	for _, glob := range sift.Unmatched(globs, g, p.loose) {
		fmt.Fprintln(os.Stderr, words.UnmatchedGlob(recipeFile, rec.Lines[glob], glob))
	}
	if p.Plan, err = desk.PlanSounds(s.ctx, of); err == nil {
		p.given = sift.GivesUp(g, p.Selection, p.loose, p.Along())
	}
	return p, err
}

func (s *session) habits() origin.Habits {
	if s.origin.Habits != nil {
		return *s.origin.Habits
	}
	return origin.DefaultHabits
}

func recipeFlag(to *string) func(*cobra.Command) {
	return func(cmd *cobra.Command) {
		cmd.Flags().StringVar(to, "recipe", "", "saved choices, a YAML file")
	}
}

func siftCommand() *cobra.Command {
	var c common
	var file string
	return onDocuments("sift [--recipe FILE] DOCUMENT...", "show what travels and what stays, duplicates, same names, unreferenced files", cobra.MinimumNArgs(1), &c, recipeFlag(&file), func(cmd *cobra.Command, s *session) error {
		p, err := s.plan(file, true)
		if err != nil {
			return err
		}
		rep := report.OfSift(p.NewTexts(), p.dups, p.loose)
		if p.drawn.Parts > 0 && !c.json {
			fmt.Fprintln(cmd.OutOrStdout(), words.Drawn(p.drawn))
		}
		if c.json {
			err = printJSON(cmd.OutOrStdout(), rep)
		} else {
			printSift(cmd.OutOrStdout(), rep, p)
		}
		if err != nil {
			return err
		}
		return verdict(!p.tally().NeedsPerson())
	})
}

func printSift(w io.Writer, rep report.Sift, p *planning) {
	for _, l := range rep.Lines {
		goes := "travels"
		if !l.Travels {
			goes = "stays"
		}
		fmt.Fprintf(w, "%-8s %-9s %-8s %-11s %-13s %6d files %14d bytes\n", goes, l.Kind, l.Use, l.Class, l.Origin, l.Files, l.Bytes)
	}
	for _, s := range rep.Stays {
		fmt.Fprintf(w, "stays: %s (%s)\n", s.Path, words.Stays(s.Why))
	}
	for _, d := range rep.Duplicates {
		fmt.Fprintf(w, "duplicates: %v, %d bytes each\n", d.Paths, d.Bytes)
	}
	for _, n := range rep.Namesakes {
		fmt.Fprintf(w, "namesakes: %v\n", n.Paths)
	}
	for _, s := range rep.Strays {
		fmt.Fprintf(w, "stray: %s, %d bytes, %s\n", s.Path, s.Bytes, s.Modified.Format(time.DateTime))
	}
	for _, x := range p.given {
		fmt.Fprintln(w, "leaves out:", words.GivesUp(x))
	}
	fmt.Fprintf(w, "Travels: %s, %d bytes.\n", phrase.Plural(rep.Travels.Files, "file"), rep.Travels.Bytes)
	if why := words.NeedsPerson(p.tally()); why != "" {
		fmt.Fprintln(w, why)
	}
}

func stowCommand() *cobra.Command {
	var c common
	var file string
	return onDocuments("stow [--recipe FILE] DOCUMENT...", "plan a crate: paths, name clashes, sizes, carriers", cobra.MinimumNArgs(1), &c, recipeFlag(&file), func(cmd *cobra.Command, s *session) error {
		p, err := s.plan(file, false)
		if err != nil {
			return err
		}
		texts, err := p.Texts(s.ctx, s.trace)
		if err != nil {
			return err
		}
		ratios, err := p.Sample(s.ctx, s.trace.Reach)
		if err != nil {
			return err
		}
		rep := report.OfStow(texts, ratios)
		if c.json {
			err = printJSON(cmd.OutOrStdout(), rep)
		} else {
			printStow(cmd.OutOrStdout(), rep, p.tally())
		}
		if err != nil {
			return err
		}
		return verdict(!p.tally().NeedsPerson() && len(texts.Problems()) == 0)
	})
}

func printStow(w io.Writer, rep report.Stow, t tally.Tally) {
	for _, b := range rep.Berths {
		fmt.Fprintf(w, "%s ← %s", b.To, b.Source)
		if b.Renamed != stow.AsItWas {
			fmt.Fprintf(w, "  (%s)", words.Renaming(b.Renamed))
		}
		fmt.Fprintln(w)
	}
	for _, l := range rep.Left {
		fmt.Fprintf(w, "left: %s (%s)\n", l.Path, l.Why)
	}
	for _, p := range rep.Problems {
		fmt.Fprintln(w, "problem:", p)
	}
	for _, l := range rep.Losses {
		if l.As == "" {
			fmt.Fprintln(w, "lost:", l.What)
			continue
		}
		fmt.Fprintf(w, "not kept in %s: %s\n", l.As, l.What)
	}
	for _, r := range rep.Repoint {
		fmt.Fprintf(w, "relink by hand: %s in %s to %s\n", r.Written, r.Document, r.To)
	}
	for _, k := range slices.Sorted(maps.Keys(rep.Counts)) {
		fmt.Fprintf(w, "%-9s %6d files %14d bytes\n", k, rep.Counts[k].Files, rep.Counts[k].Bytes)
	}
	for _, k := range slices.Sorted(maps.Keys(rep.Estimates)) {
		fmt.Fprintf(w, "as %-8s about %s\n", k, phrase.Size(rep.Estimates[k]))
	}
	for _, c := range rep.Carriers {
		says := "does not fit: one file is too large"
		switch {
		case c.Fits:
			says = "fits"
		case c.Parts > 0:
			says = fmt.Sprintf("in %d parts", c.Parts)
		}
		fmt.Fprintf(w, "%s (%s): %s\n", c.Name, phrase.Size(c.Limit), says)
	}
	about := ""
	if rep.About {
		about = "about "
	}
	fmt.Fprintf(w, "%s, %s%d bytes, %s.\n", phrase.Plural(rep.Files, "file"), about, rep.Bytes, phrase.Plural(rep.Clashes, "clash"))
	if why := words.NeedsPerson(t); why != "" {
		fmt.Fprintln(w, why)
	}
}
