package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

func now() time.Time { return time.Now() }

// chosen are a project's choices as they are kept.
func chosen(p store.Project) (packing.StowOptions, error) {
	o := packing.StowOptions{Layout: string(stow.ByKind), Lists: []lists.Kind{}}
	if p.Options == "" {
		return o, nil
	}
	err := json.Unmarshal([]byte(p.Options), &o)
	if o.Lists == nil { // choices of before there were lists
		o.Lists = []lists.Kind{}
	}
	return o, err
}

// recipeOf are choices as a recipe.
func recipeOf(o packing.StowOptions) recipe.Recipe {
	return recipe.Recipe{Also: o.Also, SHA512: o.SHA512, Lists: o.Lists, Parts: o.Parts, For: o.For, From: o.From, Stow: stow.Options{Layout: stow.Layout(o.Layout), Leave: o.Leave, AnyNames: o.AnyNames, Prefix: o.Prefix, Suffix: o.Suffix, Sound: o.Sound, Trim: o.Trim, Interchange: o.Interchange}}
}

// optionsOf are a recipe's choices.
func optionsOf(name string, r recipe.Recipe) packing.StowOptions {
	o := r.Stow
	return packing.StowOptions{Layout: string(o.Layout), Leave: o.Leave, AnyNames: o.AnyNames, Prefix: o.Prefix, Suffix: o.Suffix, Also: append([]string{}, r.Also...), Sound: o.Sound, Trim: o.Trim, Interchange: append([]export.Form{}, o.Interchange...), SHA512: r.SHA512, Lists: append([]lists.Kind{}, r.Lists...), Parts: r.Parts, For: r.For, From: r.From, Recipe: name}
}

// berthRow is one line of the stow table.
type berthRow struct {
	berth int32
	plan  *planned
}

func (r *berthRow) b() *stow.Berth { return &r.plan.plan.Berths[r.berth] }

func berthRows(pl *planned) []berthRow {
	rows := make([]berthRow, len(pl.plan.Berths))
	for i := range rows {
		rows[i] = berthRow{int32(i), pl}
	}
	slices.SortStableFunc(rows, func(x, y berthRow) int {
		return cmp.Or(strings.Compare(x.b().Folder, y.b().Folder), strings.Compare(strings.ToLower(x.b().Name), strings.ToLower(y.b().Name)))
	})
	return rows
}

func berthSpec(s *snapshot) table.Spec[berthRow] {
	spec := table.Spec[berthRow]{
		Name: "berths", Key: func(r *berthRow) string { return r.b().Key },
		Sum: func(r *berthRow) table.Sum {
			if r.b().Absent {
				return table.Sum{Uses: r.b().Uses}
			}
			return table.Sum{Files: r.b().Files(), Uses: r.b().Uses, Bytes: r.b().Size}
		},
		Columns: []table.Column[berthRow]{
			{ID: "was", Title: "present name", Text: func(r *berthRow) string { return r.b().Was }},
			{ID: "from", Title: "present folder", Text: func(r *berthRow) string { return drive.Label(s.drives, r.b().From) }},
			{ID: "folder", Title: "new folder", Text: func(r *berthRow) string { return r.b().Folder }},
			{ID: "name", Title: "new name", Text: func(r *berthRow) string { return r.b().Name }},
			{ID: "kind", Title: "kind", Text: func(r *berthRow) string { return words.Kind(r.b().Kind) }},
			{ID: "use", Title: "use", Text: func(r *berthRow) string { return r.b().Use.String() }},
			{ID: "size", Title: "bytes", Number: func(r *berthRow) int64 { return r.b().Size }},
			{ID: "uses", Title: "used by", Number: func(r *berthRow) int64 { return int64(r.b().Uses) }},
			{ID: "remark", Title: "remark", Text: func(r *berthRow) string {
				if r.b().Absent {
					return words.Absence(r.b().Why, "")
				}
				return words.Renaming(r.b().Renamed)
			}},
		},
		Groups: []table.Group[berthRow]{
			{ID: "folder", Key: func(r *berthRow) string { return r.b().Folder }, Title: func(k string) string { return "data/" + k }},
			{ID: "from", Key: func(r *berthRow) string { return drive.Label(s.drives, r.b().From) }, Title: nameOrNowhere},
			{ID: "why", Key: func(r *berthRow) string {
				if !r.b().Absent {
					return ""
				}
				return words.Absence(r.b().Why, "")
			}, Title: func(k string) string {
				if k == "" {
					return "Travels"
				}
				return capital(k)
			}},
			{ID: "kind", Key: func(r *berthRow) string { return string(r.b().Kind) }, Title: func(k string) string { return capital(words.Kind(facts.Kind(k))) }},
			siftGroup(s, "use", func(id graph.FileID) string { return s.graph.Files[id].Use.String() }, capital),
			siftGroup(s, "class", func(id graph.FileID) string { return string(s.judged.File(s.graph, id).Class) }, capital),
			siftGroup(s, "whose", func(id graph.FileID) string { return string(s.judged.File(s.graph, id).Origin) }, func(k string) string { return capital(words.Whose(graph.Origin(k))) }),
			siftGroup(s, "document", func(id graph.FileID) string {
				f := &s.graph.Files[id]
				if len(f.Refs) == 0 {
					return f.Path
				}
				return s.graph.Documents[s.graph.References[f.Refs[0]].Doc].Path
			}, func(k string) string { return drive.Label(s.drives, k) }),
		},
		Facets: map[string]func(*berthRow, string) bool{
			"only": func(r *berthRow, v string) bool {
				b := r.b()
				switch v {
				case "clash":
					return b.Clashed
				case "renamed":
					return b.Renamed != stow.AsItWas
				case "absent":
					return b.Absent
				case "travels":
					return !b.Absent
				case "stays":
					return r.stays()
				}
				return true
			},
			"kind": func(r *berthRow, v string) bool { return string(r.b().Kind) == v },
		},
	}
	for i := range spec.Groups {
		spec.Groups[i].Note = weighed
	}
	maps.Copy(spec.Facets, siftFacets(s.graph, s.judged))
	return spec
}

func (r *berthRow) view(drives []drive.Drive) packing.Berth {
	b := r.b()
	return packing.Berth{
		Key: b.Key, From: drive.Label(drives, b.From), Was: b.Was, Folder: b.Folder, Name: b.Name, Kind: b.Kind, Word: words.Kind(b.Kind), Use: b.Use, Size: b.Size, Files: b.Files(), Uses: b.Uses,
		Absent: b.Absent, Why: b.Why, WhyWord: words.Absence(b.Why, ""), Renamed: b.Renamed, Clashed: b.Clashed, Wished: b.Wished, Said: r.hasOwnName(), Typed: b.Typed, Stays: r.stays(), Sequence: b.IsSequence(), Along: b.Along, Sound: words.Becomes(b),
	}
}

func berthsLedger(pl *planned) ledger {
	return listed[berthRow, packing.BerthLine]{
		pl.berths, func(h api.Heading) packing.BerthLine { return packing.BerthLine{Heading: &h} },
		func(r *berthRow) packing.BerthLine { v := r.view(pl.options.Drives); return packing.BerthLine{Row: &v} },
		func(w api.Window, lines []packing.BerthLine) any { return packing.Berths{Window: w, Lines: lines} },
	}
}

// Stow is the crate as it would be: its folders, what stays, what is lost.
func (a *App) Stow(ctx context.Context, project int64) (packing.Stow, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return packing.Stow{}, err
	}
	pl, err := a.withTextsSoon(ctx, p, w, s)
	if err != nil {
		return packing.Stow{}, err
	}
	plan := pl.texts()
	if p, err = a.store.Project(p.ID); err != nil {
		return packing.Stow{}, err
	}
	out := packing.Stow{
		Snapshot: s.id, Options: optionsOf(pl.name, pl.recipe), Clashes: plan.Clashes, ByHand: len(pl.options.ByHand) + len(pl.options.Hand), Unheard: len(plan.Unheard), Note: p.Note, Out: p.Out,
		Problems: words.Problems(first(plan.Problems())), Weighed: []packing.Weighed{}, Limits: []packing.Limit{},
		OneFile: oneFile(s.graph), GivesUp: []packing.GivenUp{}, Losses: []packing.Losses{}, Repoint: []report.Repoint{}, Kept: []string{}, Along: []packing.AlongSum{}, Passes: plan.Selection.Passes, Kinds: []api.KindCount{}, Folders: []api.FolderCount{},
	}
	if r, err := a.recipe(pl.name); err == nil {
		v := recipeView(pl.name, "", r, &pl.recipe)
		out.Recipe = &v
	}
	out.Files, out.Bytes = plan.Totals()
	out.Saying = pl.said.Load() == nil
	out.About = plan.Margin() > 0 || out.Saying
	for _, l := range sift.Weigh(plan.Graph, plan.Judged, plan.Selection) {
		out.Weighed = append(out.Weighed, packing.Weighed{Line: l, Word: words.Kind(l.Kind), From: words.Whose(l.Origin)})
	}
	counted(&out, plan)
	sizes := plan.Sizes()
	for _, l := range a.carriers {
		fits, parts := l.Fits(sizes)
		out.Limits = append(out.Limits, packing.Limit{Name: l.Name, Bytes: l.Bytes, File: l.Each, Fits: fits, Parts: parts})
	}
	left, repoint := plan.LeftOut(), plan.Repoints()
	out.Left = report.OfLeft(first(left))
	out.All = packing.Totals{Left: len(left), Repoint: len(repoint), Problems: len(plan.Problems())}
	for _, r := range first(repoint) {
		out.Repoint = append(out.Repoint, report.Repoint(r))
	}
	if l := plan.SoundLoses; l != nil {
		out.Losses = append(out.Losses, packing.Losses{Word: "new sounds", Losses: []string{words.Loss(*l)}})
	}
	for _, m := range plan.Made() {
		if m.Form == "" {
			continue
		}
		l := packing.Losses{Form: m.Form, Word: words.Form(m.Form), To: m.To, Losses: []string{}}
		for _, x := range m.Losses {
			l.Losses = append(l.Losses, words.Loss(x))
		}
		out.Losses = append(out.Losses, l)
	}
	a.weigh(p, w, s)
	a.listen(p, w, plan.Plan)
	a.sifted(&out, pl, w, s)
	return out, nil
}

// counted sums up what lies in each folder, and what there is of each kind.
func counted(out *packing.Stow, plan *stow.Texts) {
	kinds, folders := map[facts.Kind]*api.KindCount{}, map[string]*api.FolderCount{}
	for i := range plan.Berths {
		b := &plan.Berths[i]
		if b.Absent {
			out.Absent++
			continue
		}
		if b.Renamed != stow.AsItWas {
			out.Renamed++
		}
		k, f := kinds[b.Kind], folders[b.Folder]
		if k == nil {
			k = &api.KindCount{Kind: b.Kind}
			kinds[b.Kind] = k
		}
		if f == nil {
			f = &api.FolderCount{Folder: b.Folder}
			folders[b.Folder] = f
		}
		k.Files, k.Bytes = k.Files+b.Files(), k.Bytes+plan.Size(i)
		f.Files, f.Bytes = f.Files+b.Files(), f.Bytes+plan.Size(i)
	}
	for _, k := range kinds {
		k.Word = words.Kind(k.Kind)
		out.Kinds = append(out.Kinds, *k)
	}
	for _, f := range folders {
		out.Folders = append(out.Folders, *f)
	}
	slices.SortFunc(out.Kinds, func(a, b api.KindCount) int { return cmp.Or(b.Files-a.Files, cmp.Compare(a.Kind, b.Kind)) })
	slices.SortFunc(out.Folders, func(a, b api.FolderCount) int { return strings.Compare(a.Folder, b.Folder) })
}

// maxListed is how many lines of a list that may be of any length a page is told.
const maxListed = 100

// first is the beginning of a list, where it is long.
func first[T any](list []T) []T { return list[:min(len(list), maxListed)] }

// SetStow keeps a project's choices, and tells what comes of them.
func (a *App) SetStow(ctx context.Context, project int64, in packing.StowOptions) (packing.Stow, error) {
	p, _, err := a.open(project)
	if err != nil {
		return packing.Stow{}, err
	}
	var bad *stow.PatternError
	layout := stow.Layout(in.Layout)
	switch err := stow.CheckLayout(layout); {
	case layout.IsPattern() && !strings.Contains(in.Layout, "{"):
		return packing.Stow{}, fault.Say(fault.Wrong, "No such layout", "Unknown layout “"+in.Layout+"”.")
	case errors.As(err, &bad):
		return packing.Stow{}, fault.Say(fault.Unfit, "No such layout", phrase.Sentence(words.BadPattern(bad)))
	}
	if !soundFits(in.Sound) {
		return packing.Stow{}, fault.Say(fault.Unfit, "No such sound", "Sounds can be WAV, AIFF or FLAC with 16, 24 or 32 bits at a standard sample rate.")
	}
	if in.Parts != 0 && in.Parts < recipe.LeastPart {
		return packing.Stow{}, fault.Say(fault.Unfit, "Too small", "Parts must be at least 1 MB.")
	}
	if in.Trim != nil && sift.Keeps(in.Also) {
		return packing.Stow{}, fault.Say(fault.Unfit, "Not for an archive", "An archive keeps its sounds whole. Leave something else out first, or do not cut sounds.")
	}
	for _, f := range in.Interchange {
		if !slices.Contains(export.Forms, f) {
			return packing.Stow{}, fault.Say(fault.Unfit, "No such form", "Unknown format “"+string(f)+"”.")
		}
	}
	for _, glob := range slices.Concat(in.Also, in.Leave.Drop, in.Leave.Keep) {
		if !sift.Readable(glob) {
			return packing.Stow{}, fault.Say(fault.Unfit, "Not a pattern", "“"+glob+"” is not a valid pattern.")
		}
	}
	if err := a.keepOptions(ctx, p.ID, in); err != nil {
		return packing.Stow{}, err
	}
	return a.Stow(ctx, project)
}

// keepOptions keeps a project's choices, and what leans on them is planned anew.
func (a *App) keepOptions(ctx context.Context, project int64, o packing.StowOptions) error {
	b, err := json.Marshal(o)
	if err != nil {
		return err
	}
	if err := a.store.SetOptions(project, string(b)); err != nil {
		return err
	}
	a.replan(ctx, project, a.openProject(project))
	return nil
}

func (a *App) replan(ctx context.Context, id int64, w *openProject) {
	w.choices.Add(1)
	a.hub.Send(api.Event{Type: api.EventPlan, Project: id, By: jobs.PageOf(ctx)})
}

func soundFits(s pcm.Spec) bool {
	return slices.Contains([]pcm.Type{"", pcm.WAV, pcm.AIFF, pcm.FLAC}, s.Type) && slices.Contains([]pcm.Channels{"", pcm.Interleaved, pcm.Split}, s.Channels) && (s.Rate == 0 || slices.Contains(pcm.Rates, s.Rate)) && slices.Contains([]int{0, 16, 24, 32}, s.Depth) && (!s.Float || s.Depth == 32)
}

// sampled is how a plan's files pack.
type sampled struct {
	plan   *stow.Plan
	ratios stow.Ratios
}

// Estimates tell how large archives would be and how long sealing takes, which reads
// samples of the files.
func (a *App) Estimates(ctx context.Context, project int64) (packing.Estimates, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return packing.Estimates{}, err
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobTry, Project: p.ID, Title: "Estimating the size of the crate", Slot: rand.Text()}, func(ctx context.Context, _ *jobs.Task) (packing.Estimates, error) {
		return a.estimated(ctx, p, w, s)
	})
}

func (a *App) estimated(ctx context.Context, p store.Project, w *openProject, s *snapshot) (packing.Estimates, error) {
	pl, err := a.withTexts(ctx, p, w, s)
	if err != nil {
		return packing.Estimates{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return packing.Estimates{}, err
	}
	have := w.sampled.Load()
	if have == nil || have.plan != pl.plan {
		ratios, err := pl.plan.Sample(ctx, reach)
		if err != nil {
			return packing.Estimates{}, err
		}
		have = &sampled{pl.plan, ratios}
		w.sampled.Store(have)
	}
	out := packing.Estimates{Archives: []packing.ArchiveSize{}}
	sizes := pl.texts().Estimates(have.ratios)
	for _, k := range []carrier.Kind{carrier.Zip, carrier.Tar, carrier.TarGzip, carrier.TarZstd} {
		out.Archives = append(out.Archives, packing.ArchiveSize{Kind: k, Bytes: sizes[k]})
	}
	// Every byte is read where it is, and written and read back where it goes.
	reads := map[string]float64{}
	_, bytes := pl.texts().Totals()
	for _, cp := range pl.texts().Copies() {
		if d, ok := drive.Find(reach.Drives, cp.Source); ok {
			reads[d.ID] += float64(cp.Size)
		}
	}
	if d, ok := drive.Find(reach.Drives, p.Out); ok {
		reads[d.ID] += 2 * float64(bytes)
		out.To = d.Name
	}
	for _, d := range reach.Drives {
		if reads[d.ID] == 0 {
			continue
		}
		gives, measured := d.Rate()
		if gives <= 0 {
			continue
		}
		out.Seconds = max(out.Seconds, reads[d.ID]/float64(gives)) // drives work side by side
		out.Measured = out.Measured || measured
	}
	return out, nil
}

// oneFile is the ending of the package that a project's document has.
func oneFile(g *graph.Graph) string {
	if p := seal.PackageFor(g); p != "" {
		return "." + string(p)
	}
	return ""
}
