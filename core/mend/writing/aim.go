package writing

import (
	"bytes"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/edition"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/mention"
)

// Line is a line of a document before and after it is written. Of a long one
// only what stands around the change is given.
type Line struct {
	Document string // or a package, "!/" and its member
	Number   int    // from 1
	Was      string
	Becomes  string
}

// AimAt is where a write point leads when it is set to a folder: a folder point
// to the folder itself, one that names a file to that file in it.
func AimAt(w *graph.WritePoint, folder string) string {
	if w.Kind == facts.Other {
		return folder
	}
	return filepath.Join(folder, filepath.Base(strings.ReplaceAll(w.Path, `\`, "/")))
}

// Aim makes write points lead elsewhere: to holds absolute paths by their
// numbers in the graph. It writes as Repairs does: all documents or none, an edition
// of each kept; what cannot be said or is another project's is a problem.
func Aim(g *graph.Graph, o trace.Options, to map[int]string, keep edition.Keeper, journals string) (*Outcome, error) {
	jobs, out, err := aims(g, o, to)
	if err != nil || len(jobs) == 0 {
		return out, err
	}
	out.Written, err = commit(o.Reach, g.Documents[0].Path, jobs, keep, journals)
	return out, err
}

// AimLines tells what Aim would change, and writes nothing.
func AimLines(g *graph.Graph, o trace.Options, to map[int]string) ([]Line, *Outcome, error) {
	jobs, out, err := aims(g, o, to)
	if err != nil {
		return nil, out, err
	}
	return linesOf(jobs), out, nil
}

func linesOf(jobs []write) (list []Line) {
	for _, w := range jobs {
		list = append(list, w.lines()...)
	}
	return list
}

func aims(g *graph.Graph, o trace.Options, to map[int]string) (jobs []write, out *Outcome, err error) {
	out = &Outcome{}
	hosts := map[graph.DocID]bool{}
	for k := range to {
		hosts[g.Documents[g.WritePoints[k].Doc].Host] = true
	}
	for i := range g.Documents {
		host := graph.DocID(i)
		if !hosts[host] {
			continue
		}
		file, err := o.Reopen(g, host)
		if err != nil {
			return nil, out, err
		}
		want := map[int]string{}
		dir := filepath.Dir(g.Documents[host].Path)
		for k, path := range to {
			w := &g.WritePoints[k]
			if g.Documents[w.Doc].Host != host {
				continue
			}
			m := int(w.Mention)
			old := file.Doc.Name(m)
			if name := resolve.Say(file.Doc.Mentions[m].Spelling, old, dir, path); name != old {
				want[m] = name
			}
		}
		for m, name := range unsupported(file, want) {
			for k := range to {
				if w := &g.WritePoints[k]; int(w.Mention) == m && g.Documents[w.Doc].Host == host {
					out.cannot(&g.Documents[w.Doc], name)
				}
			}
		}
		of, ours, err := out.parts(g, host, file, want)
		if err != nil {
			return nil, out, err
		}
		if ours {
			jobs = append(jobs, of...)
		}
	}
	return jobs, out, nil
}

// around is how much of a line is shown before and after a change, in bytes.
const around = 60

// lines are those that a document's edits change.
func (w write) lines() (list []Line) {
	edits := slices.Clone(w.edits)
	slices.SortFunc(edits, func(a, b mention.Edit) int {
		if a.Text != b.Text {
			return a.Text - b.Text
		}
		return int(a.Off - b.Off)
	})
	var of *mention.Lines
	for i, e := range edits {
		t := w.file.Doc.Texts[e.Text]
		if i == 0 || e.Text != edits[i-1].Text {
			of = t.Lines()
		}
		// Only so far is looked for the ends of a line: a whole document may stand on one.
		start, before := max(0, e.Off-around), ""
		if n := bytes.LastIndexByte(t.Bytes[start:e.Off], '\n'); n >= 0 {
			start += int64(n) + 1
		} else if start > 0 && t.Bytes[start-1] != '\n' {
			before = "…"
		}
		end, after := min(int64(len(t.Bytes)), e.End+around), ""
		if n := bytes.IndexByte(t.Bytes[e.End:end], '\n'); n >= 0 {
			end = e.End + int64(n)
		} else if end < int64(len(t.Bytes)) && t.Bytes[end] != '\n' {
			after = "…"
		}
		show := func(mid []byte) string {
			return before + strings.ToValidUTF8(strings.TrimSpace(string(t.Bytes[start:e.Off])+string(mid)+string(t.Bytes[e.End:end])), "") + after
		}
		at := w.doc.Path
		if w.doc.Package && t.Name != "" {
			at += "!/" + t.Name
		}
		list = append(list, Line{at, of.At(e.Off), show(t.Bytes[e.Off:e.End]), show(e.New)})
	}
	return list
}
