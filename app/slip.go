package app

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// maxUses bounds how many places that name a file a slip lists.
const maxUses = 500

func lastSeen(s mend.Seen) *api.LastSeen {
	l := &api.LastSeen{At: s.At, Size: s.Size, SHA256: s.SHA256}
	if s.Facts != (facts.Facts{}) {
		f := s.Facts
		l.Facts = &f
	}
	return l
}

// Slip is all that is known of one file or document.
func (a *App) Slip(ctx context.Context, project int64, q api.AskKey) (tracing.Slip, error) {
	_, w, s, err := a.traced(project)
	if err != nil {
		return tracing.Slip{}, err
	}
	row, ok := s.files.Row(q.Key)
	if !ok {
		if d, ok := s.docs.Row(q.Key); ok {
			return a.docSlip(s, d)
		}
		return tracing.Slip{}, store.ErrNotFound
	}
	out := tracing.Slip{Row: s.row(row), Paths: []tracing.PathLine{}, Uses: []tracing.Asker{}, Chain: []string{}, Others: []tracing.OtherUse{}, Beside: []api.Apart{}}
	if row.point != graph.None {
		p := &s.graph.WritePoints[row.point]
		out.Paths = []tracing.PathLine{s.line("project", s.graph.Root, ""), s.line("writes to", p.Path, "found")}
		out.Uses = append(out.Uses, tracing.Asker{Document: drive.Label(s.drives, s.graph.Where(p.Doc, p.Text)), Depth: s.graph.Documents[p.Doc].Depth, Owner: p.Owner, Written: p.Written, Use: p.Use})
		out.Say = "New material will be written here. The folder may still be empty."
		for _, f := range s.judged.FlagsOf(int(row.point)) {
			out.Say += " " + flagSays[f]
		}
		return out, nil
	}
	return out, a.slipOf(&out, row, s, w)
}

// docSlip is the slip of a document that nothing names: one the project begins
// with.
func (a *App) docSlip(s *snapshot, d *docRow) (tracing.Slip, error) {
	reach, err := a.reach()
	if err != nil {
		return tracing.Slip{}, err
	}
	i := slices.IndexFunc(s.graph.Files, func(f graph.File) bool { return f.At.String() == d.Key })
	if i < 0 {
		return tracing.Slip{}, store.ErrNotFound
	}
	f := &s.graph.Files[i]
	out := tracing.Slip{
		Row:   tracing.Row{Key: d.Key, Name: d.Name, State: f.State, Use: d.Use, Kind: facts.Document, Word: words.Kind(facts.Document), Origin: s.judged.File(s.graph, graph.FileID(i)).Origin, Size: d.Size, Files: 1, Badges: []tracing.Badge{}},
		Say:   fmt.Sprintf("Main document of the project: %s, %s not found. Format: %s.", phrase.Plural(d.References, "reference"), strconv.Itoa(d.Open), d.Title),
		Paths: []tracing.PathLine{s.line("project", s.graph.Root, ""), s.line("found", f.Path, "found")}, Path: f.Path, Size: d.Size, Uses: []tracing.Asker{}, Chain: []string{}, Others: []tracing.OtherUse{}, Beside: s.beside(f.Path),
	}
	out.Row.Common, out.Row.Parting = s.part(filepath.Dir(f.Path))
	if info, err := reach.Stat(f.Path); err == nil {
		out.Modified = &info.ModTime
	}
	return out, nil
}

var flagSays = map[graph.Flag]string{
	graph.Outside: "It is outside the project folder. A copy of the project would also write there.", graph.OtherDrive: "It is on another drive.",
	graph.OtherProject: "It is in another project's folder.", graph.InnerFolder: "It is a subfolder of the project.", graph.Absent: "The folder does not exist.",
}

func (a *App) slipOf(out *tracing.Slip, row *fileRow, s *snapshot, w *openProject) error {
	reach, err := a.reach()
	if err != nil {
		return err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return err
	}
	defer memory.Close()
	g := s.graph
	r := &g.References[row.ref]
	refs := []graph.RefID{row.ref}
	if row.file != graph.None {
		refs = g.Files[row.file].Refs
		if fr := g.Files[row.file].Frames; fr != nil {
			out.Missing, out.Gaps = lacks(fr.Gaps), gapWords(fr.Gaps, 20)
		}
	}
	out.Path, out.Size = r.Path, s.size(row)
	for _, id := range refs[:min(len(refs), maxUses)] {
		u := &g.References[id]
		out.Uses = append(out.Uses, tracing.Asker{Document: drive.Label(s.drives, g.Where(u.Doc, u.Text)), Depth: g.Documents[u.Doc].Depth, Owner: u.Owner, Written: u.Written, Use: u.Use, Range: u.Range})
	}
	for _, d := range g.Ways(r.Doc) {
		if len(out.Chain) == 40 { // a way of thousands of documents is told by its beginning
			out.Chain = append(out.Chain, "…")
			break
		}
		out.Chain = append(out.Chain, drive.Label(s.drives, g.Documents[d].Path))
	}
	at := r.Path
	if at == "" {
		at = r.Expected
	}
	if last, ok := memory.Last(at); ok {
		if r.Path != "" && r.State.Found() {
			out.SHA256 = last.SHA256
		} else {
			out.Last = lastSeen(last)
		}
	}
	if r.State.Found() && out.Path != "" {
		m := r.Info.ModTime
		out.Modified = &m
		out.Facts, out.Harm = headerOf(reach, r.Path)
		out.Preview = preview(r.Kind, r.Path)
	}
	_, dir := s.place(row)
	if d, ok := drive.Find(s.drives, dir); ok && r.State == graph.Unplugged {
		out.Drive, out.DriveID = d.Name, d.ID
		if out.Copies, err = a.copies(s, at, out.Last); err != nil {
			return err
		}
	}
	if r.Repaired {
		kept, _ := s.repairs(s.log, map[string]bool{r.Expected: true}, len(s.log))
		for _, rep := range kept {
			if rep.From == r.Expected || rep.Prefix && drive.Within(rep.From, r.Expected) {
				out.Repair = &rep
			}
		}
	}
	if at != "" {
		if out.Others, err = a.others(s, at); err != nil {
			return err
		}
	}
	out.Beside = s.beside(r.Path)
	out.Paths = s.compare(row, r, w.found.Load())
	out.Say = s.sentence(refs, row, r, out)
	return nil
}

// copies are files of a name and size on drives that are connected, as of when they
// were looked through.
func (a *App) copies(s *snapshot, at string, last *api.LastSeen) (list []string, err error) {
	x, err := a.store.Catalogue(s.drives)
	if err != nil || last == nil {
		return nil, err
	}
	named, err := x.Named(filepath.Base(at))
	if err != nil {
		return nil, err
	}
	for _, e := range named {
		if d, ok := drive.Find(s.drives, e.Path); ok && e.Size == last.Size && e.Path != at && d.Connected() && len(list) < store.MaxCalled {
			list = append(list, drive.Label(s.drives, e.Path))
		}
	}
	return list, nil
}

func copied(list []string) string {
	if len(list) == 0 {
		return ""
	}
	return " A file of this name and size is at " + strings.Join(list, ", and at ") + "."
}

// headerOf is what a file's header tells, and what is wrong with it in words.
func headerOf(reach drive.Reach, p string) (known *facts.Facts, harm string) {
	f, err := reach.Open(p)
	if err != nil {
		return nil, ""
	}
	defer f.Close()
	got, err := facts.Read(f, f.Size())
	if errors.Is(err, facts.ErrDamaged) {
		harm = strings.TrimPrefix(err.Error(), facts.ErrDamaged.Error()+": ")
	}
	if got == (facts.Facts{}) {
		return nil, harm
	}
	return &got, harm
}

// preview tells how a file can be shown by a browser with nothing added.
func preview(k facts.Kind, p string) api.Preview {
	switch kind := playable[strings.ToLower(filepath.Ext(p))]; {
	case k == facts.Audio && strings.HasPrefix(kind, "audio/"):
		return api.AsSound
	case strings.HasPrefix(kind, "image/"):
		return api.AsPicture
	}
	return api.NoPreview
}

// line is a path in pieces: what it shares with the project's own folder is
// common.
func (s *snapshot) line(label, path, mark string) tracing.PathLine {
	root := strings.Split(drive.Label(s.drives, s.graph.Root), "/")
	l := tracing.PathLine{Label: label, Mark: mark, Pieces: []tracing.Piece{}}
	for i, p := range strings.Split(drive.Label(s.drives, path), "/") {
		common := i < len(root) && p == root[i] && (i == 0 || l.Pieces[i-1].Common)
		l.Pieces = append(l.Pieces, tracing.Piece{Text: p, Common: common})
	}
	return l
}

// compare lays the paths over the project's own: what is common is dimmed on
// the page, what parts is raised.
func (s *snapshot) compare(row *fileRow, r *graph.Reference, found *finds) []tracing.PathLine {
	lines := []tracing.PathLine{s.line("project", s.graph.Root, "")}
	at := r.Path
	if len(r.Files) > 0 && r.IsSequence() {
		name, dir := s.place(row)
		at = filepath.Join(dir, name)
	}
	switch {
	case r.Network():
		lines = append(lines, tracing.PathLine{Label: "path", Mark: "asked", Pieces: []tracing.Piece{{Text: r.Written}}})
	case at == "" && r.Expected != "":
		lines = append(lines, s.line("path", r.Shown(r.Expected), "asked"))
	case at != "" && (r.Repaired || r.Loose):
		lines = append(lines, s.line("path", r.Shown(r.Expected), "asked"), s.line("found", at, "found"))
	case at != "":
		lines = append(lines, s.line("found", at, "found"))
	}
	if r.State == graph.Twins {
		for _, f := range r.Files {
			lines = append(lines, s.line("twin", f, "found"))
		}
	}
	if found != nil && !r.State.Found() {
		if cs := found.offered[r.Expected]; len(cs) > 0 {
			at := cs[0].Path
			if cs[0].Sequence {
				at = graph.Shown(at)
			}
			lines = append(lines, s.line("nearest", at, "found"))
		}
	}
	return lines
}

func (s *snapshot) sentence(refs []graph.RefID, row *fileRow, r *graph.Reference, slip *tracing.Slip) string {
	docs := map[graph.DocID]bool{}
	for _, i := range refs {
		docs[s.graph.References[i].Doc] = true
	}
	by := "Used once."
	if n := len(refs); n > 1 && len(docs) > 1 {
		by = fmt.Sprintf("Used %d times, in %d documents.", n, len(docs))
	} else if n > 1 {
		by = fmt.Sprintf("Used %d times.", n)
	}
	if s.isGuess(row) {
		by += " Guessed: the format of the document is unknown."
	}
	why := words.Why(r.Why, r.Member)
	switch r.State {
	case graph.Missing:
		if why != "" {
			return by + " Not found: " + why + "."
		}
		return by + " Not found at this path."
	case graph.Unplugged:
		on := slip.Drive
		if on == "" {
			on = "a drive"
		}
		return by + " It is on " + on + ", which is not connected. Connect the drive; no search is needed." + copied(slip.Copies)
	case graph.Twins:
		return by + fmt.Sprintf(" %d files match; choose one.", len(r.Files))
	case graph.Unsaved:
		return "The document refers to a file that was never saved."
	case graph.Inside:
		return "Its data is stored inside the document only. You can save it as a file that the document references."
	case graph.Unreadable:
		return by + " The file exists but cannot be read: " + why + "."
	}
	say := by
	switch {
	case r.Repaired:
		say += " Relinked in Bound Crate; the document still has the old path."
	case r.Loose:
		say += " Found under another spelling of the same name."
	case r.State == graph.Away:
		f := &s.graph.Files[row.file]
		is := s.judged.File(s.graph, row.file)
		say += " " + words.Origin(is.Origin, drive.Label(s.drives, is.Home))
		if v, ok := s.revised[f.Path]; ok && v.Newest != v.Is {
			say += fmt.Sprintf(" Revision %s is in use, %s is newer.", v.Is, v.Newest)
		} else if ok {
			say += fmt.Sprintf(" Revision %s is in use, the newest.", v.Is)
		}
	}
	if when := s.savedAfter(row, r); when != "" {
		say += " " + when
	}
	if slip.Missing > 0 {
		say += fmt.Sprintf(" %d frames are missing.", slip.Missing)
	}
	return say
}

// painted are formats whose programs keep pictures in memory while one paints on
// them.
var painted = []string{"gltf", "collada", "x3d", "usda", "mtl", "mtlx"}

// savedAfter points out a scene that was saved after a picture it names: what was
// painted meanwhile may be in the program alone.
func (s *snapshot) savedAfter(row *fileRow, r *graph.Reference) string {
	if row.file == graph.None || r.Kind != facts.Image || !r.State.Found() {
		return ""
	}
	for _, k := range s.graph.Files[row.file].Refs {
		d := &s.graph.Documents[s.graph.References[k].Doc]
		if slices.Contains(painted, d.Format) && d.Info.ModTime.Sub(r.Info.ModTime) > time.Hour {
			return filepath.Base(d.Path) + " was saved later. Changes painted there may not be in this file yet."
		}
	}
	return ""
}
