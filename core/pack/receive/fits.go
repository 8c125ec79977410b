package receive

import (
	"fmt"
	"path"
	"path/filepath"
	"strings"

	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/bag"
)

// MisfitCode is why something of a crate does not fit where it is received.
type MisfitCode string

// The reasons.
const (
	NewerVersion  MisfitCode = "newer-version"  // a document of a later version of its format than is known here
	UnknownFormat MisfitCode = "unknown-format" // a document that could only be guessed at
	BadName       MisfitCode = "name"           // a name that this system cannot have
	NoRoom        MisfitCode = "no-room"
	OtherRate     MisfitCode = "rate" // another rate than the receiving project's
)

// Misfit is what does not fit.
type Misfit struct {
	Path string
	Why  MisfitCode
	// Has and Wants are the two sides: bytes needed and free, the version that is told and the one
	// that is known, the rate of the file and of the project.
	Has, Wants  string
	Needs, Free int64
}

// refused tells that nothing can be unpacked as it is.
func refused(list []Misfit) bool {
	for _, m := range list {
		if m.Why == BadName || m.Why == NoRoom {
			return true
		}
	}
	return false
}

// longestName is how many bytes a name may have on the usual file systems (POSIX NAME_MAX as Linux,
// macOS and Windows have it).
const longestName = 255

// misfits are what of a crate has no place here: names, and room. The bytes that go apart are counted
// for the folder they go to.
func misfits(r *seal.Report, o Options, name string) (list []Misfit) {
	var here, there int64
	for i := range r.Sheet.Contents {
		f := &r.Sheet.Contents[i]
		for part := range strings.SplitSeq(f.Path, "/") {
			if len(part) > longestName {
				list = append(list, Misfit{Path: f.Path, Why: BadName})
				break
			}
		}
		if o.Material != "" && isMaterial(f.Kind) {
			there += f.Size
		} else {
			here += f.Size
		}
	}
	list = append(list, room(o.Into, name, here)...)
	if o.Material != "" {
		list = append(list, room(o.Material, name, there)...)
	}
	return list
}

// room tells that a folder's drive has none. Where the system does not tell, unpacking will.
func room(dir, name string, needs int64) []Misfit {
	for at := dir; ; at = filepath.Dir(at) {
		if u, err := disk.Usage(at); err == nil {
			if u.Free < uint64(needs) {
				return []Misfit{{Path: filepath.Join(dir, name), Why: NoRoom, Needs: needs, Free: int64(u.Free)}}
			}
			return nil
		}
		if at == filepath.Dir(at) {
			return nil
		}
	}
}

// isMaterial tells kinds that are kept apart from documents.
func isMaterial(k facts.Kind) bool {
	switch k {
	case facts.Audio, facts.Video, facts.Image, facts.Sequence:
		return true
	}
	return false
}

// OtherRates are the sounds of what was received that have another rate than the sounds of the project
// they are connected to, if those have one. own tells the project's files from the received ones.
func OtherRates(r *Report, g *graph.Graph, own func(path string) bool) (list []Misfit) {
	rate := 0
	for i := range g.Files {
		f := &g.Files[i]
		if f.Kind != facts.Audio || f.Look == nil || f.Look.Facts.Rate == 0 || !own(f.Path) {
			continue
		}
		if rate != 0 && rate != f.Look.Facts.Rate {
			return nil // the project has several
		}
		rate = f.Look.Facts.Rate
	}
	for i := range r.Sheet.Contents {
		f := &r.Sheet.Contents[i]
		if rate != 0 && f.Kind == facts.Audio && f.Facts.Rate != 0 && f.Facts.Rate != rate {
			list = append(list, Misfit{Path: f.Path, Why: OtherRate, Has: fmt.Sprintf("%d Hz", f.Facts.Rate), Wants: fmt.Sprintf("%d Hz", rate)})
		}
	}
	return list
}

// place is a payload file's place below data/; not ok of a tag file.
func place(member string) (string, bool) {
	rel, ok := strings.CutPrefix(member, bag.Payload+"/")
	return path.Clean(rel), ok
}
