package origin

import (
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// Need is what a project asks of a drive while it plays.
type Need struct {
	Drive drive.Drive
	Bytes int64 // a second
	Files int   // that are played from it
	Paths []string
}

// picturesASecond is how fast pictures follow one another where no document tells
// (common practice: 24, 25 or 30).
const picturesASecond = 25

// needs sums, drive by drive, what plays at one time: of each track the most
// demanding file, all tracks together. Documents without tracks play one file after
// the other.
func (j *judge) needs() []Need {
	type lane struct{ drive, doc, track string }
	most := map[lane]int64{}
	out := map[string]*Need{}
	rates := map[graph.FileID]int64{}
	for i := range j.g.References {
		r := &j.g.References[i]
		if r.File == graph.None || r.Use != mention.Used || !r.State.Found() {
			continue
		}
		f := &j.g.Files[r.File]
		d, ok := drive.Find(j.Drives, folderOf(f))
		if !ok {
			continue
		}
		rate, met := rates[r.File]
		if !met {
			rate = j.rate(f)
			rates[r.File] = rate
		}
		if rate == 0 {
			continue
		}
		n := out[d.ID]
		if n == nil {
			n = &Need{Drive: d}
			out[d.ID] = n
		}
		if !met {
			n.Files++
			n.Paths = append(n.Paths, f.Path)
		}
		l := lane{drive: d.ID, doc: j.g.Documents[r.Doc].Path}
		if track, _, ok := strings.Cut(r.Owner, " / "); ok && strings.HasPrefix(track, "Track ") {
			l.track = track
		}
		if rate > most[l] {
			n.Bytes += rate - most[l]
			most[l] = rate
		}
	}
	list := make([]Need, 0, len(out))
	for _, n := range out {
		list = append(list, *n)
	}
	slices.SortFunc(list, func(a, b Need) int { return strings.Compare(a.Drive.Name, b.Drive.Name) })
	return list
}

// rate is what a file asks for while it plays, in bytes a second; 0 for what does
// not play.
func (j *judge) rate(f *graph.File) int64 {
	if f.Frames != nil {
		if len(f.Frames.Files) == 0 || f.Frames.Said.Token != "" { // tiles of a texture do not play
			return 0
		}
		return f.Size / int64(len(f.Frames.Files)) * picturesASecond
	}
	if f.Kind != facts.Audio && f.Kind != facts.Video {
		return 0
	}
	if f.Look == nil {
		return 0
	}
	switch k := f.Look.Facts; {
	case k.Rate > 0 && k.Depth > 0 && k.Channels > 0 && f.Kind == facts.Audio && k.Seconds > 0 && float64(f.Size) > 0.9*k.Seconds*float64(k.Rate*k.Depth/8*k.Channels):
		return int64(k.Rate) * int64(k.Depth) / 8 * int64(k.Channels)
	case k.Seconds > 0:
		return int64(float64(f.Size) / k.Seconds)
	}
	return 0
}

// dangers are the warnings about where material lies and is written.
func (j *judge) dangers(needs []Need) (list []Warning) {
	shared := map[string]bool{}
	for i := range j.g.WritePoints {
		w := &j.g.WritePoints[i]
		dir := w.Path
		if w.Kind != facts.Other {
			dir = filepath.Dir(dir)
		}
		for _, o := range j.Writers {
			if o.Folder == dir && !j.ours[o.Document] && (o.Project != "" || !drive.Within(j.g.Root, o.Document)) { // other states of a document are not another project
				shared[dir] = true
			}
		}
	}
	if len(shared) > 0 {
		list = append(list, Warning{Code: SharedFolder, Paths: keys(shared)})
	}
	for _, n := range needs {
		gives, measured := n.Drive.Rate()
		switch {
		case gives > 0 && n.Bytes > gives:
			list = append(list, Warning{Code: SlowDrive, Paths: n.Paths, Drive: n.Drive.Name, Place: n.Drive.Dir, Files: n.Files, Needs: n.Bytes, Gives: gives})
		case n.Drive.Kind == drive.Optical && !measured: // sound is not played off discs: common practice
			list = append(list, Warning{Code: SlowDrive, Paths: n.Paths, Drive: n.Drive.Name, Place: n.Drive.Dir, Files: n.Files, Needs: n.Bytes})
		}
	}
	synced := map[string]*Warning{}
	for i := range j.g.Files {
		f := &j.g.Files[i]
		if !f.Carried {
			continue
		}
		d, ok := drive.Find(j.Drives, folderOf(f))
		if !ok || d.Kind != drive.Synced {
			continue
		}
		w := synced[d.Name]
		if w == nil {
			w = &Warning{Code: SyncedFolder, Drive: d.Name, Place: d.Dir, Paths: []string{d.Dir}}
			synced[d.Name] = w
		}
		w.Files++
	}
	for _, name := range sortedKeys(synced) {
		list = append(list, *synced[name])
	}
	var newer []string
	for _, i := range j.g.Roots {
		for _, s := range Siblings(j.Reach, j.g.Documents[i].Path) {
			if s.Newest && s.Path != j.g.Documents[i].Path && (!s.Bare || j.Alike != nil && j.Alike(s.Path, j.g.Documents[i].Path)) {
				newer = append(newer, s.Path)
			}
		}
	}
	if len(newer) > 0 {
		list = append(list, Warning{Code: SiblingNewer, Paths: newer})
	}
	return list
}

func sortedKeys[V any](m map[string]V) []string {
	list := make([]string, 0, len(m))
	for k := range m {
		list = append(list, k)
	}
	slices.Sort(list)
	return list
}
