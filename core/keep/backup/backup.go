// Package backup keeps generations of a project on another drive. Each is a whole bag (RFC 8493) that shares the
// storage of what did not change with the one before, is proved by itself, and can be taken away by itself.
package backup

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/bag"
)

// Stamp is how generations are named: when they were made, in UTC.
const Stamp = "2006-01-02T150405Z"

var stamped = regexp.MustCompile(`^\d{4}-\d\d-\d\dT\d{6}Z$`)

// Why is why a backup is not made.
type Why string

// The reasons.
const (
	InProject Why = "in-project" // the target lies in the project's folder
	SameDrive Why = "same-drive" // or on its drive
	Busy      Why = "busy"       // another backup to it is running
	NoKeep    Why = "no-keep"    // fewer than one generation is to be kept
)

// Refusal is a target that a backup is not written to.
type Refusal struct {
	Dir  string
	Code Why
}

func (e *Refusal) Error() string { return "‘" + e.Dir + "’ is refused: " + string(e.Code) }

// Options is what to back up, and where.
type Options struct {
	Seal   seal.Options // all but Out, Like and Keeps
	Dir    string       // the target, absolute
	Name   string       // the project's
	Keep   int          // generations that stay; 0: all
	Beside bool         // the target may lie on the project's own drive
}

// Left is a generation that was not taken away though there are more than are to be kept.
type Left struct {
	Path string
	Why  string // "unsealed-file", "last-verified", "unreadable"
	File string // of unsealed-file
}

// Report is what came of it.
type Report struct {
	*seal.Report
	Generation string
	Removed    []string
	Left       []Left
	// Fit is about how many more generations there is room for, if as much changes each time; −1: not known.
	Fit int
}

// Run makes a generation and proves it, then takes away what is beyond those to keep. Where it is not complete
// nothing is taken away.
func Run(ctx context.Context, o Options) (*Report, error) {
	if o.Keep < 0 {
		return nil, &Refusal{o.Dir, NoKeep}
	}
	g := o.Seal.Plan.Graph
	if err := refuse(o, g); err != nil {
		return nil, err
	}
	folder, err := folderOf(o.Dir, o.Name, g)
	if err != nil {
		return nil, err
	}
	if _, err := fileset.MakeDirs(folder); err != nil {
		return nil, err
	}
	lock, held, err := drive.Hold(filepath.Join(folder, lockName), os.O_RDWR|os.O_CREATE)
	if err == nil && !held {
		err = &Refusal{folder, Busy}
	}
	if err != nil {
		return nil, err
	}
	defer lock.Close()
	earlier, err := generations(folder, g)
	if err != nil {
		return nil, err
	}
	out := free(folder, o.Seal.Now)
	if err := takeUp(folder, out); err != nil {
		return nil, err
	}
	s := o.Seal
	s.Out, s.Keeps, s.Beside = out, true, true // the drive was asked for here
	if len(earlier) > 0 {
		s.Like = earlier[len(earlier)-1]
		s.Stands = trusting(s.Like)
	}
	rep, err := seal.Run(ctx, s)
	if err != nil {
		return nil, err
	}
	were := stamps(out)
	done := &Report{Report: rep, Generation: out, Fit: fit(folder, rep.Copied.Bytes)}
	if o.Keep > 0 && rep.Complete {
		done.Removed, done.Left = thin(folder, append(earlier, out), o.Keep)
		done.Fit = fit(folder, rep.Copied.Bytes)
	}
	if keepStands(out, were) != nil {
		forget(folder) // the next backup reads everything
	}
	return done, nil
}

// lockName is the file that a backup holds while it runs.
const lockName = ".boundcrate-backup"

// refuse tells why a target must not be written to. The project's own drive is the device of its real place.
func refuse(o Options, g *graph.Graph) error {
	target := real(o.Dir)
	root := real(g.Root)
	if drive.Within(root, target) || drive.Within(g.Root, o.Dir) {
		return &Refusal{o.Dir, InProject}
	}
	if !o.Beside && seal.SameDrive(drive.System{}, root, filepath.Join(target, "x")) {
		return &Refusal{o.Dir, SameDrive}
	}
	return nil
}

// real is a path with all links undone, as far as it is there.
func real(p string) string {
	if r, err := filepath.EvalSymlinks(p); err == nil {
		return r
	}
	if up := filepath.Dir(p); up != p {
		return filepath.Join(real(up), filepath.Base(p))
	}
	return p
}

// folderOf is the folder of a project's generations: the first of its name that holds some of it, or nothing.
func folderOf(dir, name string, g *graph.Graph) (string, error) {
	for n := 1; ; n++ {
		at := filepath.Join(dir, name)
		if n > 1 {
			at += "-" + strconv.Itoa(n)
		}
		entries, err := os.ReadDir(at)
		if errors.Is(err, fs.ErrNotExist) {
			return at, nil
		}
		if err != nil && n > 1000 {
			return "", err
		}
		if err != nil {
			continue // a file of that name
		}
		empty := true
		for _, e := range entries {
			path := filepath.Join(at, e.Name())
			if stamped.MatchString(e.Name()) && seal.SealedOf(path, g.Given()) {
				return at, nil
			}
			_, under := seal.UnderWay(e.Name())
			empty = empty && (e.Name() == lockName || e.Name() == verifiedName || e.Name() == standsName || under)
		}
		if empty {
			return at, nil
		}
	}
}

// generations are those of a project in a folder, the oldest first.
func generations(folder string, g *graph.Graph) (list []string, err error) {
	entries, err := os.ReadDir(folder) // in order of names, which is that of time
	for _, e := range entries {
		if at := filepath.Join(folder, e.Name()); e.IsDir() && stamped.MatchString(e.Name()) && seal.SealedOf(at, g.Given()) {
			list = append(list, at)
		}
	}
	return list, err
}

// Made is a generation that lies in a folder, whoever made it.
type Made struct {
	At    time.Time // when, by its name
	Files int       // of its payload, by bag-info.txt
	Bytes int64
}

// Of tells of a generation of these documents, and of no others; not ok of any other folder.
func Of(generation string, documents []string) (m Made, ok bool) {
	at, err := time.Parse(Stamp, filepath.Base(generation))
	if err != nil || !seal.SealedOf(generation, documents) {
		return m, false
	}
	m.At = at
	if f, err := os.Open(filepath.Join(generation, bag.InfoName)); err == nil {
		defer f.Close()
		if is := bag.ReadInfo(f)["Payload-Oxum"]; len(is) == 1 {
			_, _ = fmt.Sscanf(is[0], "%d.%d", &m.Bytes, &m.Files) // what it does not tell is 0
		}
	}
	return m, true
}

// free is the name of the next generation. A clock that went backwards makes it no older than those there are.
func free(folder string, now time.Time) string {
	now = now.UTC()
	entries, _ := os.ReadDir(folder)
	for _, e := range entries {
		if at, err := time.Parse(Stamp, e.Name()); err == nil && !at.Before(now.Truncate(time.Second)) {
			now = at.Add(time.Second)
		}
	}
	return filepath.Join(folder, now.Format(Stamp))
}

// takeUp goes on with a generation whose making was ended in the middle, under its new name.
func takeUp(folder, out string) error {
	entries, err := os.ReadDir(folder)
	for _, e := range entries {
		if name, under := seal.UnderWay(e.Name()); under && e.IsDir() && stamped.MatchString(name) {
			to := out + strings.TrimPrefix(e.Name(), name)
			if _, serr := os.Stat(to); serr != nil {
				err = os.Rename(filepath.Join(folder, e.Name()), to)
			}
		}
	}
	return err
}

// fit is how many times so many bytes go into what is free.
func fit(folder string, bytes int64) int {
	usage, err := disk.Usage(folder)
	if err != nil || bytes <= 0 {
		return -1
	}
	return int(min(int64(usage.Free)/bytes, 1_000_000))
}

// thin takes away the oldest generations beyond those to keep.
func thin(folder string, list []string, keep int) (removed []string, left []Left) {
	verified := LastVerified(folder)
	for _, at := range list[:max(len(list)-keep, 0)] {
		if at == verified {
			left = append(left, Left{Path: at, Why: "last-verified"})
			continue
		}
		file, err := unsealed(at)
		switch {
		case err != nil:
			left = append(left, Left{Path: at, Why: "unreadable"})
		case file != "":
			left = append(left, Left{at, "unsealed-file", file})
		default:
			going := filepath.Join(folder, "."+filepath.Base(at)+".going")
			if err := os.Rename(at, going); err != nil {
				left = append(left, Left{Path: at, Why: "unreadable"})
				continue
			}
			_ = os.RemoveAll(going) // what stays of it is no generation any more
			removed = append(removed, at)
		}
	}
	return removed, left
}

// unsealed is a file of a generation that its manifests do not tell; "" for none.
func unsealed(at string) (string, error) {
	m, err := readManifests(at)
	if err != nil {
		return "", err
	}
	odd := ""
	err = filepath.WalkDir(at, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		rel, err := filepath.Rel(at, p)
		if err == nil && m.sums[filepath.ToSlash(rel)] == "" && rel != bag.TagManifest("sha256") && rel != bag.TagManifest("sha512") {
			odd = p
			return fs.SkipAll
		}
		return err
	})
	return odd, err
}

// sortedPaths are the keys of a map in order.
func sortedPaths[V any](m map[string]V) (list []string) {
	for p := range m {
		list = append(list, p)
	}
	slices.Sort(list)
	return list
}
