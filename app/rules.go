package app

import (
	"context"
	"errors"
	"path/filepath"

	"boundcrate/app/api/ruling"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/rules"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format"
	"boundcrate/core/text/format/all"
	"boundcrate/store"
)

// formats are all formats with the rules files that are switched on before
// them. They are read anew when a switch is thrown, and for every trace: rules
// files may be edited where they lie.
func (a *App) formats() format.Set {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.set == nil {
		set, told, err := a.store.Formats(all.Formats())
		if err != nil {
			a.log.Error("rules files could not be read", "error", err)
		}
		for _, t := range told {
			a.log.Warn(t)
		}
		a.set = set
	}
	return a.set
}

func (a *App) freshFormats() format.Set {
	a.mu.Lock()
	a.set = nil
	a.mu.Unlock()
	return a.formats()
}

// Rules are the user's rules files, with what is wrong in each.
func (a *App) Rules(ctx context.Context) (ruling.Rules, error) {
	files, err := a.store.RulesFiles()
	if err != nil {
		return ruling.Rules{}, err
	}
	out := ruling.Rules{Folder: filepath.Join(a.store.Dir(), "rules"), Files: []ruling.RulesFile{}}
	for _, f := range files {
		v := ruling.RulesFile{Name: f.Name, Text: f.Text, On: f.On, Extensions: []string{}, Problems: []rules.Mistake{}}
		if parsed, problems := rules.Parse(f.Name, []byte(f.Text)); parsed != nil {
			v.Title, v.Extensions, v.Carrier = parsed.Title, parsed.Extensions, string(parsed.Carrier)
		} else {
			v.Problems = problems
		}
		out.Files = append(out.Files, v)
	}
	return out, nil
}

// SetRules keeps a text as it is, also one that cannot be used yet; only what
// can be used is switched on.
func (a *App) SetRules(ctx context.Context, in ruling.SetRules) (ruling.Rules, error) {
	if len(in.Text) > rules.MaxSize {
		return ruling.Rules{}, fault.Say(fault.Wrong, "Too long", "A rules file can have at most 256 KiB.")
	}
	if _, problems := rules.Parse(in.Name, []byte(in.Text)); in.On && len(problems) > 0 {
		return ruling.Rules{}, fault.Say(fault.Conflict, "Not switched on", "‘"+in.Name+"’, "+problems[0].String()+".")
	}
	err := a.store.SetRules(store.RulesFile{Name: in.Name, Text: in.Text, On: in.On})
	if errors.Is(err, store.ErrRulesName) {
		return ruling.Rules{}, fault.Say(fault.Wrong, "Not a name", "‘"+in.Name+"’: "+store.ErrRulesName.Error()+".")
	}
	if err != nil {
		return ruling.Rules{}, err
	}
	a.rulesChanged()
	return a.Rules(ctx)
}

// DropRules takes a rules file out of the data folder.
func (a *App) DropRules(ctx context.Context, name string) (ruling.Rules, error) {
	if err := a.store.DeleteRules(name); err != nil {
		return ruling.Rules{}, err
	}
	a.rulesChanged()
	return a.Rules(ctx)
}

// rulesChanged traces the open projects anew: what their documents name may be
// read otherwise now.
func (a *App) rulesChanged() {
	a.mu.Lock()
	a.set = nil
	var open []int64
	for id := range a.openProjects {
		open = append(open, id)
	}
	a.mu.Unlock()
	for _, id := range open {
		if _, err := a.startTrace(id); err != nil && !errors.Is(err, store.ErrNotFound) {
			a.log.Error("a project could not be traced anew", "project", id, "error", err)
		}
	}
}

// maxFinds is how many finds of a trial are listed.
const maxFinds = 200

// TryRules tells what a rules file finds in a document, and keeps nothing.
func (a *App) TryRules(ctx context.Context, in ruling.TryRules) (ruling.RulesTried, error) {
	f, problems := rules.Parse("x", []byte(in.Text))
	out := ruling.RulesTried{Problems: append([]rules.Mistake{}, problems...), Finds: []rules.Find{}, Damage: []string{}}
	if f == nil || in.Sample == "" {
		return out, nil
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	return tried(ctx, a, "Testing rules on "+filepath.Base(in.Sample), 0, in.Sample, func(context.Context) (ruling.RulesTried, error) {
		return triedOn(f, reach, in.Sample, out)
	})
}

// triedOn tells what rules find in a document.
func triedOn(f *rules.File, reach drive.Set, sample string, out ruling.RulesTried) (ruling.RulesTried, error) {
	finds, damage, err := rules.Try(f, reach, reach.Drives, filepath.Clean(sample))
	if err != nil {
		if errors.Is(err, rules.ErrContent) || errors.Is(err, drive.ErrOutside) {
			out.Damage = append(out.Damage, words.Reason(err))
			return out, nil
		}
		return out, &trace.Error{Path: sample, Err: err}
	}
	out.More = max(0, len(finds)-maxFinds)
	out.Finds, out.Damage = append(out.Finds, finds[:len(finds)-out.More]...), append(out.Damage, damage...)
	for i := range out.Finds {
		out.Finds[i].Path = drive.Label(reach.Drives, out.Finds[i].Path)
	}
	return out, nil
}

// LearnRules proposes rules files for a document that nobody knows, from what was
// guessed in it.
func (a *App) LearnRules(ctx context.Context, in ruling.LearnRules) (ruling.RulesLearned, error) {
	reach, err := a.reach()
	if err != nil {
		return ruling.RulesLearned{}, err
	}
	return tried(ctx, a, "Proposing rules for "+filepath.Base(in.Sample), 0, in.Sample, func(ctx context.Context) (ruling.RulesLearned, error) {
		return learned(ctx, reach, in.Sample)
	})
}

func learned(ctx context.Context, reach drive.Set, sample string) (ruling.RulesLearned, error) {
	out := ruling.RulesLearned{Proposals: []rules.Proposal{}}
	o := trace.Options{Formats: all.Formats(), Reach: reach, Drives: reach.Drives} // by no rules file
	g, err := trace.Run(ctx, o, filepath.Clean(sample))
	if err != nil {
		return out, err
	}
	got, err := o.Learn(g, 0)
	if errors.Is(err, trace.ErrKnown) {
		return out, fault.Say(fault.Conflict, "Nothing to learn", "‘"+filepath.Base(sample)+"’ is read as "+g.Documents[0].Title+" already.")
	}
	if err != nil {
		return out, err
	}
	if len(got) == 0 {
		return out, fault.Say(fault.Conflict, "Nothing was recognised", "No value in ‘"+filepath.Base(sample)+"’ looks like a path. Rules files read text, XML and JSON.")
	}
	out.Proposals = got
	return out, nil
}
