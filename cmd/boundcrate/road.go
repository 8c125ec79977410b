package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/fileset"
	"boundcrate/core/format"
	"boundcrate/core/graph"
	"boundcrate/core/index"
	"boundcrate/core/mend"
	"boundcrate/core/origin"
	"boundcrate/core/pcm"
	"boundcrate/core/receive"
	"boundcrate/core/recipe"
	"boundcrate/core/report"
	"boundcrate/core/resolve"
	"boundcrate/core/seal"
	"boundcrate/core/sift"
	"boundcrate/core/stow"
	"boundcrate/core/tally"
	"boundcrate/core/trace"
	"boundcrate/core/words"
	"boundcrate/store"
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

// session is one command's documents, what the flags say of them, and what is
// remembered.
type session struct {
	common
	ctx    context.Context
	docs   []string
	trace  trace.Options
	origin origin.Options
	judged *origin.Judged // what was judged last
	store  *store.Store   // nil: nothing is remembered
	memory *store.Memory  // nil: the same
}

// open reads the flags and opens the memory.
func (c *common) open(ctx context.Context, documents []string) (*session, error) {
	drives, err := parseDrives(c.drives)
	if err != nil {
		return nil, err
	}
	s := &session{common: *c, ctx: ctx}
	if s.docs, err = absolute(documents); err != nil {
		return nil, err
	}
	s.trace = trace.Options{Reach: drive.System{Drives: drives}, Drives: drives, Readings: &trace.Readings{}}
	s.origin = origin.Options{Reach: s.trace.Reach, Drives: drives}
	for flag, list := range map[string][]string{"--library": c.libraries, "--store": c.stores} {
		dirs, err := absolute(list)
		if err != nil {
			return nil, err
		}
		for _, d := range dirs {
			if fi, err := os.Stat(d); err != nil || !fi.IsDir() {
				return nil, fmt.Errorf("%s ‘%s’ is not a folder", flag, d)
			}
		}
		if flag == "--library" {
			s.origin.Libraries = dirs
		} else {
			s.origin.Stores = dirs
		}
	}
	if c.root != "" {
		if s.trace.Root, err = filepath.Abs(c.root); err != nil {
			return nil, err
		}
		if fi, err := os.Stat(s.trace.Root); err != nil || !fi.IsDir() {
			return nil, fmt.Errorf("--root ‘%s’ is not a folder", s.trace.Root)
		}
	}
	s.store = c.openStore()
	if at := s.journals(); at != "" {
		done, err := fileset.Recover(at)
		for _, d := range done {
			fmt.Fprintf(os.Stderr, "Writing into ‘%s’ had been interrupted; it is finished now.\n", d.Path)
		}
		if err != nil {
			fmt.Fprintln(os.Stderr, words.Error(err))
		}
	}
	if s.trace.Formats, err = c.formats(s.store); err != nil {
		s.close()
		return nil, err
	}
	if s.store != nil {
		if s.memory, err = s.store.Memory(drives); err != nil {
			fmt.Fprintln(os.Stderr, "Nothing will be remembered:", err)
			s.memory = nil
		}
		if known, err := s.store.CoreDrives(); err == nil && s.memory != nil {
			if err := s.store.Surround(&s.origin, 0, "", known, s.memory); err != nil {
				fmt.Fprintln(os.Stderr, err)
			}
		}
	}
	if s.memory != nil {
		s.trace.Doubt, s.trace.Known = s.memory.Doubt(ctx, s.trace.Reach), s.memory.Known
	}
	return s, nil
}

// journals is the folder of what is being written; "" where there is no data
// folder.
func (s *session) journals() string {
	if s.store == nil {
		return ""
	}
	return s.store.Journals()
}

func (s *session) close() {
	if s.memory != nil {
		s.memory.Close()
	}
	if s.store != nil {
		s.store.Close()
	}
}

// run traces the documents and judges what was found.
func (s *session) run() (*graph.Graph, *origin.Judged, error) {
	g, err := trace.Run(s.ctx, s.trace, s.docs...)
	if err != nil {
		return nil, nil, err
	}
	return g, s.judge(g), nil
}

// judge tells where a graph's material lives and what of it is not what it should be.
func (s *session) judge(g *graph.Graph) *origin.Judged {
	j := origin.Judge(g, s.origin)
	var other func(*graph.File) (graph.Suspicion, bool)
	if s.memory != nil {
		other = s.memory.Changed(s.ctx, s.trace.Reach)
	}
	j.Suspect = mend.Suspects(g, j, other, nil)
	s.judged = j
	return j
}

// remember keeps what a trace found. That it cannot be kept is a warning.
func (s *session) remember(g *graph.Graph, known map[string]string) error {
	if s.memory == nil {
		return nil
	}
	now := time.Now()
	err := errors.Join(s.keepBeside(), s.memory.Remember(s.ctx, g, s.trace.Reach, known, now, nil), s.store.KeepUses(0, s.trace.Reach, s.trace.Formats, now, g))
	if err != nil && s.ctx.Err() == nil {
		fmt.Fprintln(os.Stderr, "What was seen could not be remembered:", err)
		return nil
	}
	return s.ctx.Err()
}

// keepBeside keeps which companions stood where, so that one that is gone is told.
func (s *session) keepBeside() error {
	if s.judged == nil {
		return nil
	}
	drives, err := s.store.CoreDrives()
	if err != nil {
		return err
	}
	return s.store.KeepBeside(s.judged.Beside(), drives)
}

// reading is what candidates are compared by; tally counts the bytes read.
func (s *session) reading(tally *int64) mend.Reading {
	once := mend.Once(s.trace.Reach, func(n int64) { *tally += n })
	rd := mend.Reading{Reach: s.trace.Reach, Hash: once, Memory: mend.Nothing}
	if s.memory != nil {
		rd.Memory, rd.Heard = s.memory.Last, s.memory.Heard
	}
	return rd
}

// onDocuments makes a command over documents.
func onDocuments(use, short string, args cobra.PositionalArgs, c *common, flags func(*cobra.Command), run func(*cobra.Command, *session) error) *cobra.Command {
	cmd := &cobra.Command{Use: use, Short: short, Args: args, RunE: func(cmd *cobra.Command, args []string) error {
		s, err := c.open(cmd.Context(), args)
		if err != nil {
			return err
		}
		defer s.close()
		return run(cmd, s)
	}}
	c.flags(cmd)
	if flags != nil {
		flags(cmd)
	}
	return cmd
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
			fmt.Fprintf(w, "  loosely spelled: %s", r.Written)
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
		fmt.Fprintf(w, "moved: %d references still name %s; %d of them are there below %s\n", m.References, m.From, m.Present, m.To)
	}
	for _, x := range judged.Warnings {
		fmt.Fprintln(w, "warning:", words.Warning(x))
	}
	for _, p := range words.Problems(g.Problems) {
		fmt.Fprintln(w, "problem:", p.Error())
	}
	t := tally.Of(g, judged, nil)
	fmt.Fprintln(w, words.Tally(t))
	if t.AllHere() {
		fmt.Fprintln(w, "Everything is here.")
	} else if why := words.NeedsPerson(t); why != "" {
		fmt.Fprintln(w, why)
	}
}

func mendCommand() *cobra.Command {
	var c common
	var folders []string
	var write bool
	var accept string
	return onDocuments("mend [flags] --search DIR DOCUMENT...", "look for what is missing and rank candidates", cobra.MinimumNArgs(1), &c, func(cmd *cobra.Command) {
		cmd.Flags().StringArrayVar(&folders, "search", nil, "a folder to look through; may be given several times")
		cmd.Flags().BoolVar(&write, "write", false, "put certain finds into the documents, after keeping an edition of each beside it")
		cmd.Flags().StringVar(&accept, "accept", "", "with --write: likely puts likely finds of groups into the documents too, where nothing speaks against them; moved makes them name here what they name under an old root")
	}, func(cmd *cobra.Command, s *session) error {
		if len(folders) == 0 {
			return errors.New("Say where to look: --search DIR.")
		}
		dirs, err := absolute(folders)
		if err != nil {
			return err
		}
		for _, f := range dirs {
			if fi, err := os.Stat(f); err != nil || !fi.IsDir() {
				return fmt.Errorf("--search ‘%s’ is not a folder that can be looked through", f)
			}
		}
		switch {
		case accept != "" && accept != string(mend.Likely) && accept != acceptMoved:
			return fmt.Errorf("--accept takes likely or moved, not ‘%s’.", accept)
		case accept != "" && !write:
			return errors.New("--accept goes with --write.")
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
	rep := &report.Mend{Document: s.docs[0], Missing: []report.Missing{}, Groups: []report.Group{}, Written: []mend.Written{}}
	rd := s.reading(&rep.Read.Bytes)
	rd.Used, rd.First = mend.Used(g), folders
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
		fmt.Fprintf(os.Stderr, "‘%s’ could not be looked through: %s.\n", u.Path, words.Reason(u.Err))
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
		wrote, err := mend.Write(g, s.trace, edition.Keeper{}, s.journals())
		if err != nil {
			return nil, nil, err
		}
		rep.Written = append(rep.Written, wrote.Written...)
		for _, p := range words.Problems(wrote.Problems) {
			fmt.Fprintln(os.Stderr, p.Error())
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
			fmt.Fprintf(w, "  %-8s %.3f %s (%v)\n", c.Certainty, c.Score, c.Path, c.Reasons)
			for _, x := range c.Warnings {
				fmt.Fprintf(w, "           but: %s\n", x)
			}
		}
	}
	for _, g := range rep.Groups {
		fmt.Fprintf(w, "%s is now %s: %s, %s\n", g.From, g.To, words.Plural(g.Files, "file"), g.Certainty)
	}
	for _, m := range rep.Moved {
		fmt.Fprintf(w, "%s still named under %s; %s found below %s. To name them there: --write --accept moved\n", words.Plural(m.References, "reference"), m.From, words.Plural(m.Present, "file"), m.To)
	}
	for _, u := range rep.Unplugged {
		fmt.Fprintf(w, "%s on %s, which is not connected. Connect it; no search is needed.\n", words.Plural(u.Files, "file"), cmp.Or(u.Drive, u.Dir))
	}
	fmt.Fprintf(w, "%d looked for, %d found for certain among %s.\n", len(rep.Missing), found, words.Plural(rep.Searched, "file"))
	for _, d := range rep.Written {
		fmt.Fprintf(w, "Written: %s, earlier state kept as %s\n", d.Document, d.Edition)
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
	g, judged, err := s.run()
	if err != nil {
		return nil, err
	}
	p := &planning{recipe: rec}
	o := &p.recipe.Stow
	o.Drives, o.Judged, o.Revisions = s.trace.Drives, judged, judged.RevisionsOf()
	o.Sounds = func(paths []string, to pcm.Spec, cut pcm.Cut) (stow.SoundPlan, error) {
		return stow.PlanSound(s.trace.Reach, paths, to, cut)
	}
	if all || o.Leave.Twice {
		hash := mend.Once(s.trace.Reach, nil)
		if s.memory != nil {
			hash = s.memory.Hasher(s.trace.Reach)
		}
		if p.dups, err = sift.Duplicates(s.ctx, g, s.trace.Reach, hash); err != nil {
			return nil, err
		}
		o.Same = sift.Groups(g, p.dups)
	}
	if all || len(rec.Also) > 0 {
		x, err := index.Build(s.ctx, index.Options{Reach: s.trace.Reach, Dirs: []string{g.Root}})
		if err != nil {
			return nil, err
		}
		if p.loose, err = sift.LooseOf(g, judged, s.habits(), s.trace.Reach, x, edition.Keeper{}); err != nil {
			return nil, err
		}
		p.drawn = sift.FindDrawings(g, sift.Decide(sift.Of{Graph: g, Judged: judged}, o.Leave), p.loose, s.trace.Reach)
		o.Also = p.loose.Chosen(rec.Also, func(string) (bool, bool) { return false, false })
		if o.Asides, err = sift.Asides(s.ctx, s.trace, o.Also); err != nil {
			return nil, err
		}
	}
	globs := slices.Concat(rec.Also, o.Leave.Drop, o.Leave.Keep)
	for _, glob := range sift.Unmatched(globs, g, p.loose) {
		fmt.Fprintln(os.Stderr, words.UnmatchedGlob(recipeFile, rec.Lines[glob], glob))
	}
	if p.Plan, err = stow.Make(s.ctx, g, *o); err == nil {
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
	return onDocuments("sift [--recipe FILE] DOCUMENT...", "weigh what travels, what stays and why, duplicates, namesakes, strays", cobra.MinimumNArgs(1), &c, recipeFlag(&file), func(cmd *cobra.Command, s *session) error {
		p, err := s.plan(file, true)
		if err != nil {
			return err
		}
		rep := report.OfSift(p.Unsaid(), p.dups, p.loose)
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
		fmt.Fprintln(w, "gives up:", words.GivesUp(x))
	}
	fmt.Fprintf(w, "Travels: %s, %d bytes.\n", words.Plural(rep.Travels.Files, "file"), rep.Travels.Bytes)
	if why := words.NeedsPerson(p.tally()); why != "" {
		fmt.Fprintln(w, why)
	}
}

func stowCommand() *cobra.Command {
	var c common
	var file string
	return onDocuments("stow [--recipe FILE] DOCUMENT...", "plan a crate: every place, clashes, sums, carriers", cobra.MinimumNArgs(1), &c, recipeFlag(&file), func(cmd *cobra.Command, s *session) error {
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
		fmt.Fprintln(w, "problem:", p.Error())
	}
	for _, l := range rep.Losses {
		fmt.Fprintf(w, "lost in %s: %s\n", l.As, l.What)
	}
	for _, r := range rep.Repoint {
		fmt.Fprintf(w, "relink by hand: %s in %s is %s\n", r.Written, r.Document, r.To)
	}
	for _, k := range slices.Sorted(maps.Keys(rep.Counts)) {
		fmt.Fprintf(w, "%-9s %6d files %14d bytes\n", k, rep.Counts[k].Files, rep.Counts[k].Bytes)
	}
	for _, k := range slices.Sorted(maps.Keys(rep.Estimates)) {
		fmt.Fprintf(w, "as %-8s about %s\n", k, words.Size(rep.Estimates[k]))
	}
	for _, c := range rep.Carriers {
		says := "does not fit: one file is too large"
		switch {
		case c.Fits:
			says = "fits"
		case c.Parts > 0:
			says = fmt.Sprintf("in %d parts", c.Parts)
		}
		fmt.Fprintf(w, "%s (%s): %s\n", c.Name, words.Size(c.Limit), says)
	}
	about := ""
	if rep.About {
		about = "about "
	}
	fmt.Fprintf(w, "%s, %s%d bytes, %s.\n", words.Plural(rep.Files, "file"), about, rep.Bytes, words.Plural(rep.Clashes, "clash"))
	if why := words.NeedsPerson(t); why != "" {
		fmt.Fprintln(w, why)
	}
}

func sealCommand() *cobra.Command {
	var c common
	var out, file, note string
	var sameDrive bool
	return onDocuments("seal [flags] --out PATH DOCUMENT...", "plan, copy, rewrite, verify and prove a crate", cobra.MinimumNArgs(1), &c, func(cmd *cobra.Command) {
		cmd.Flags().StringVar(&out, "out", "", "where the crate goes; .zip, .tar, .tar.gz or .tar.zst makes an archive")
		cmd.Flags().StringVar(&note, "note", "", "a note for whoever receives the crate")
		cmd.Flags().BoolVar(&sameDrive, "same-drive", false, "let a crate that keeps the whole project lie on the project's own drive")
		recipeFlag(&file)(cmd)
	}, func(cmd *cobra.Command, s *session) error {
		if out == "" {
			return errors.New("Say where the crate goes: --out PATH.")
		}
		at, err := filepath.Abs(out)
		if err != nil {
			return err
		}
		p, err := s.plan(file, false)
		if err != nil {
			return err
		}
		rec := p.recipe
		if note != "" {
			rec.Note = note
		}
		rep, err := seal.Run(s.ctx, seal.Options{Plan: p.Plan, Out: at, Keeps: sift.Keeps(rec.Also), Beside: sameDrive, Trace: s.trace, Note: rec.Note, For: rec.For, From: rec.From, SHA512: rec.SHA512, Parts: rec.PartsOf(at), Now: time.Now(), Readme: words.Readme, PartNote: words.PartNote})
		if err != nil {
			return err
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
	fmt.Fprintf(w, "%s: %s, %d bytes\n", rep.Crate, words.Plural(rep.Files, "file"), rep.Bytes)
	for _, r := range rep.Renamed {
		fmt.Fprintf(w, "renamed: %s is %s\n", r.From, r.To)
	}
	for _, l := range rep.Left {
		fmt.Fprintf(w, "left: %s (%s)\n", l.Path, l.Why)
	}
	for _, p := range rep.Problems {
		fmt.Fprintln(w, "problem:", p.Error())
	}
	if rep.Guessed > 0 {
		fmt.Fprintf(w, "%s of no known format: what they name is guessed.\n", words.Plural(rep.Guessed, "document"))
	}
	fmt.Fprintln(w, words.Verdict(r))
	return verdict(r.Well())
}

func checkCommand() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "check [--json] [--data DIR] CRATE", Short: "verify a crate: checksums, nothing missing or extra, nothing leaving it", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			p, err := absolute(args)
			if err != nil {
				return err
			}
			formats, err := c.known()
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

func receiveCommand() *cobra.Command {
	var c common
	var into string
	cmd := &cobra.Command{
		Use: "receive --into DIR [--json] CRATE", Short: "check a crate, then unpack it to DIR/NAME", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if into == "" {
				return errors.New("Say where to unpack: --into DIR.")
			}
			p, err := absolute([]string{args[0], into})
			if err != nil {
				return err
			}
			formats, err := c.known()
			if err != nil {
				return err
			}
			rep, err := receive.Run(cmd.Context(), p[0], p[1], formats)
			if err != nil {
				return err
			}
			if c.json {
				if err := printJSON(cmd.OutOrStdout(), report.OfReceive(rep)); err != nil {
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
	c.dataFlag(cmd)
	return cmd
}
