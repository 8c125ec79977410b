// Package desk is what both a command and an open project do with documents: judge what was
// traced, plan a crate by a recipe, seal it. Neither has a manner of its own.
package desk

import (
	"context"
	"path/filepath"
	"runtime/debug"
	"time"

	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words/sheet"
	"boundcrate/core/text/names"
	"boundcrate/store"
)

// Judge tells where a graph's material lives and what of it is not what it should be. memory
// may be nil: nothing is remembered. meant tells the files that a person said are as they
// should be; nil: none.
func Judge(ctx context.Context, g *graph.Graph, o origin.Options, memory *store.Memory, meant func(graph.FileID) bool) *origin.Judged {
	j := origin.Judge(g, o)
	var other func(*graph.File) (graph.Suspicion, bool)
	if memory != nil {
		other = memory.Changed(ctx, o.Reach)
	}
	j.Suspect = mend.Suspects(g, j, other, meant)
	return j
}

// Of is what a crate is planned of.
type Of struct {
	Graph  *graph.Graph
	Judged *origin.Judged
	Trace  trace.Options // how documents are traced that go along
	Recipe recipe.Recipe
	Said   decide.Log // what a person decided; the zero one: nothing
	// Aside are files that are not there and do not count, by where they are expected.
	Aside map[string]decide.Why
	Loose *sift.Loose      // nil: what nothing names was not looked for
	Same  [][]graph.FileID // files of one content; nil: they were not looked for
	First map[string]int   // the order of an earlier plan; nil: there was none
	Ears  *stow.Ears
	// Listen counts, among what was not heard yet, the sounds that tell only by being heard.
	Listen bool
}

// Plan makes a plan, and tells the options that made it.
func Plan(ctx context.Context, of Of) (*stow.Plan, stow.Options, error) {
	o := of.Recipe.Stow
	drives, reach := of.Trace.Drives, of.Trace.Reach
	o.Drives, o.Judged, o.Revisions = drives, of.Judged, of.Judged.RevisionsOf()
	o.ByHand, o.Hand, o.SetAside = of.Said.Of(of.Graph, drives), of.Said.Paths(drives), of.Aside
	o.Same, o.First = of.Same, of.First
	if of.Loose != nil {
		o.Also = of.Loose.Chosen(of.Recipe.Also, func(p string) (travels, stays bool) { return o.Hand[p].Travels, o.Hand[p].Stays })
	}
	if len(o.Also) > 0 {
		var err error
		if o.Asides, err = sift.Asides(ctx, of.Trace, o.Also); err != nil {
			return nil, o, err
		}
	}
	o.Sounds = of.Ears.Sounds(reach)
	if of.Listen {
		o.Listen = of.Ears.Listen(reach)
	}
	p, err := stow.Make(ctx, of.Graph, o)
	return p, o, err
}

// PlanSounds is Plan, once what was not listened to was.
func PlanSounds(ctx context.Context, of Of) (*stow.Plan, error) {
	p, _, err := Plan(ctx, of)
	if err != nil || len(p.Unheard) == 0 {
		return p, err
	}
	if err := of.Ears.Hear(ctx, of.Trace.Reach, p.Unheard, func(int) {}); err != nil {
		return nil, err
	}
	p, _, err = Plan(ctx, of)
	return p, err
}

// Sealing is how a plan is sealed.
type Sealing struct {
	Plan   *stow.Plan
	Texts  *stow.Texts // nil: they are proved on the way
	Recipe recipe.Recipe
	Out    string
	Note   string
	// Beside lets a crate that keeps the whole project lie on the project's own drive.
	Beside   bool
	Trace    trace.Options
	Digest   mend.Hash           // tells which files of an earlier crate stand; nil: files are read
	Since    string              // a crate that the receiver has; "" for none
	Progress func(seal.Progress) // nil: nobody is told
}

// version is that of this program, as it was built.
func version() string {
	if info, ok := debug.ReadBuildInfo(); ok && info.Main.Version != "" {
		return info.Main.Version
	}
	return "(devel)"
}

// Seal makes the crate and proves it.
func Seal(ctx context.Context, s Sealing) (*seal.Report, error) { return seal.Run(ctx, SealOptions(s)) }

// SealOptions are those of a sealing.
func SealOptions(s Sealing) seal.Options {
	r := s.Recipe
	return seal.Options{
		Plan: s.Plan, Texts: s.Texts, Out: s.Out, Keeps: sift.Keeps(r.Also), Beside: s.Beside, Trace: s.Trace, Digest: s.Digest, Since: s.Since,
		Note: s.Note, For: r.For, From: r.From, SHA512: r.SHA512, Lists: r.Lists, Version: version(), Parts: r.PartsOf(s.Out), Now: time.Now(),
		Readme: sheet.Text, Page: func(x seal.Sheet) []byte { return sheet.Page(x, nil) }, PartNote: sheet.Part, Progress: s.Progress,
	}
}

// BackupName is what a project's backups are called where nobody named the project: as its folder is.
func BackupName(g *graph.Graph) string {
	if name := filepath.Base(g.Root); name != "" && name != string(filepath.Separator) && name != "." {
		return name
	}
	stem, _ := names.Split(filepath.Base(g.Documents[g.Roots[0]].Path))
	return stem
}
