// Package decide keeps everything a person said of a project as one log:
// repairs, what stays behind or travels, where a file shall go in the crate.
//
// A decision is keyed by what outlives a trace: the identity of a file (a
// drive's id and a path on it), and the place in a document that names it. So
// neither a trace, nor a repair, nor a drive under another mount orphans one;
// where one has lost its ground all the same, Lost says so.
package decide

import (
	"slices"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
)

// Kind is what was decided.
type Kind string

// The kinds.
const (
	Mend  Kind = "mend"  // what is expected at From is at To
	Move  Kind = "move"  // everything expected below From is below To
	Wish  Kind = "wish"  // a file's Folder and Name in the crate
	Leave Kind = "leave" // a file stays behind
	Carry Kind = "carry" // a file travels, whatever else says it stays
	Aside Kind = "aside" // what is missing at From is set aside, for the reason in Name
	Meant Kind = "meant" // File is the one that is meant, in the state of Reasons
)

// Mention is one place of one document that names a file: the nth of those
// with the same owner and text.
type Mention struct {
	Document drive.Path
	Owner    string
	Written  string
	Nth      int32
}

// Decision is one entry of the log.
type Decision struct {
	ID    int64
	Batch int64 // decisions of one act are taken back together
	Kind  Kind
	// Of a repair. Of a name without a folder From is its place beside the
	// document all the same. Both may be patterns of sequences.
	From, To drive.Path
	// Of a wish and of what stays or travels: the file, and the first place that
	// names it.
	File         drive.Path
	By           Mention
	Folder, Name *string // of a wish; nil: as it falls
	Certainty    string  // of a repair
	Reasons      []byte  // of a repair, JSON of its evidence
	At           time.Time
	Undone       bool
}

// Log is the decisions of one project in the order they were taken. It is not
// changed in place: Add, Undo and Redo return what changed, for whoever keeps
// it.
type Log []Decision

// live are the decisions that hold.
func (l Log) live(each func(*Decision)) {
	for i := range l {
		if !l[i].Undone {
			each(&l[i])
		}
	}
}

// Repairs are the rules that hold, as paths of the system now. Those on a drive
// that is not known any more are left out.
func (l Log) Repairs(drives []drive.Drive) (list []resolve.Repair) {
	l.live(func(d *Decision) {
		if d.Kind != Mend && d.Kind != Move {
			return
		}
		from, ok := drive.Abs(drives, d.From)
		to, ok2 := drive.Abs(drives, d.To)
		if ok && ok2 {
			list = append(list, resolve.Repair{ID: d.ID, From: from, To: to, Prefix: d.Kind == Move})
		}
	})
	return list
}

// ByHand is what holds for one file of a graph.
type ByHand struct {
	Folder, Name *string
	Stays        bool
	Travels      bool
}

// Of is what was decided of each file of a graph; later decisions win.
func (l Log) Of(g *graph.Graph, drives []drive.Drive) map[graph.FileID]ByHand {
	out := map[graph.FileID]ByHand{}
	f := finder{g: g, drives: drives}
	l.live(func(d *Decision) {
		if d.Kind != Wish && d.Kind != Leave && d.Kind != Carry {
			return
		}
		id, ok := f.find(d)
		if !ok {
			return
		}
		out[id] = out[id].with(d)
	})
	return out
}

// with is what holds of a file after one more decision of it.
func (h ByHand) with(d *Decision) ByHand {
	switch d.Kind {
	case Wish:
		h.Folder, h.Name = d.Folder, d.Name
	case Leave:
		h.Stays, h.Travels = true, false
	case Carry:
		h.Stays, h.Travels = false, true
	}
	return h
}

// Lost are the decisions of files that nothing in a graph answers to any more,
// and the repairs that nothing in it leans on.
func (l Log) Lost(g *graph.Graph, drives []drive.Drive) (list []Decision) {
	f := finder{g: g, drives: drives}
	leans := map[drive.Path]bool{}
	for i := range g.References {
		if r := &g.References[i]; r.Repaired {
			leans[drive.At(drives, r.Expected)] = true
		}
	}
	l.live(func(d *Decision) {
		switch d.Kind {
		case Mend:
			if !leans[d.From] {
				list = append(list, *d)
			}
		case Move:
			for at := range leans {
				if at.Drive == d.From.Drive && drive.Within(d.From.Path, at.Path) {
					return
				}
			}
			list = append(list, *d)
		case Aside: // it is what is not there
		default:
			if _, ok := f.find(d); !ok {
				list = append(list, *d)
			}
		}
	})
	return list
}

// finder finds the files that decisions are of: by identity, else by the place
// that names them.
type finder struct {
	g      *graph.Graph
	drives []drive.Drive
	at     map[drive.Path]graph.FileID
	by     map[Mention]graph.FileID
}

func (f *finder) find(d *Decision) (graph.FileID, bool) {
	if f.at == nil {
		f.at = make(map[drive.Path]graph.FileID, len(f.g.Files))
		for i := range f.g.Files {
			f.at[f.g.Files[i].At] = graph.FileID(i)
		}
	}
	if id, ok := f.at[d.File]; ok {
		return id, true
	}
	if d.By == (Mention{}) {
		return 0, false
	}
	if f.by == nil {
		f.by = map[Mention]graph.FileID{}
		for i := range f.g.References {
			if r := &f.g.References[i]; r.File != graph.None {
				f.by[At(f.g, r, f.drives)] = r.File
			}
		}
	}
	id, ok := f.by[d.By]
	return id, ok
}

// At is the place in a document that a reference stands for.
func At(g *graph.Graph, r *graph.Reference, drives []drive.Drive) Mention {
	return Mention{drive.At(drives, g.Documents[r.Doc].Path), r.Owner, r.Written, r.Nth}
}

// On is a decision's ground: the file it is of, and the first place that names
// it.
func On(g *graph.Graph, id graph.FileID, drives []drive.Drive) (drive.Path, Mention) {
	f := &g.Files[id]
	if len(f.Refs) == 0 {
		return f.At, Mention{}
	}
	return f.At, At(g, &g.References[f.Refs[0]], drives)
}

// Undo are the decisions of the last act that holds; they are to be marked
// undone. none: there is none.
func (l Log) Undo() (ids []int64) {
	var last int64
	l.live(func(d *Decision) { last = max(last, d.Batch) })
	return l.act(last, false)
}

// Redo are the decisions of the act that was undone last; they are to hold
// again. What was undone before something newer was decided stays undone.
func (l Log) Redo() (ids []int64) {
	var held, next int64
	l.live(func(d *Decision) { held = max(held, d.Batch) })
	for i := range l {
		if d := &l[i]; d.Undone && d.Batch > held && (next == 0 || d.Batch < next) {
			next = d.Batch
		}
	}
	return l.act(next, true)
}

func (l Log) act(batch int64, undone bool) (ids []int64) {
	if batch == 0 {
		return nil
	}
	for i := range l {
		if l[i].Batch == batch && l[i].Undone == undone {
			ids = append(ids, l[i].ID)
		}
	}
	return ids
}

// Batch are the decisions of the act a decision belongs to, those that hold.
func (l Log) Batch(id int64) (ids []int64) {
	i := slices.IndexFunc(l, func(d Decision) bool { return d.ID == id && !d.Undone })
	if i < 0 {
		return nil
	}
	return l.act(l[i].Batch, false)
}

// Paths is what was decided of files by their paths as they are now, whether a
// reference names them or not; later decisions win.
func (l Log) Paths(drives []drive.Drive) map[string]ByHand {
	out := map[string]ByHand{}
	l.live(func(d *Decision) {
		if d.Kind != Wish && d.Kind != Leave && d.Kind != Carry {
			return
		}
		if at, ok := drive.Abs(drives, d.File); ok {
			out[at] = out[at].with(d)
		}
	})
	return out
}
