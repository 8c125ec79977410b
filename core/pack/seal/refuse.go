package seal

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/problem"
)

// RefusalCode is why a crate must not be written to a place.
type RefusalCode string

// The reasons.
const (
	OutNoName      RefusalCode = "no-name"
	OutBadName     RefusalCode = "bad-name"   // a name that must not be a base folder
	OutDocument    RefusalCode = "document"   // a document of the project is there
	OutInside      RefusalCode = "inside"     // the project folder, in Detail
	OutInCrate     RefusalCode = "in-crate"   // another crate, in Detail
	OutReadFrom    RefusalCode = "read-from"  // it holds a file, in Detail, that the project reads
	OutSameDrive   RefusalCode = "same-drive" // a crate that is to keep the project, on the project's own drive
	OutEnding      RefusalCode = "ending"     // an ending of archives that are not made here, in Detail
	OutParent      RefusalCode = "parent-no-folder"
	OutUnreadable  RefusalCode = "unreadable"
	OutFull        RefusalCode = "not-empty" // and no earlier crate of the same documents
	OutFile        RefusalCode = "file"
	OutOdd         RefusalCode = "odd" // a folder or link
	OutNoCrate     RefusalCode = "no-crate"
	OutOtherCrate  RefusalCode = "other-crate"
	OutUnplugged   RefusalCode = "unplugged"  // the drive, in Detail
	OutInTheWay    RefusalCode = "in-the-way" // a folder of the temporary name, in Detail
	OutBusy        RefusalCode = "busy"       // another seal to that place is running
	OutAdded       RefusalCode = "added"      // somebody put a file into the earlier crate, in Detail
	OutChangedThen RefusalCode = "changed"    // somebody changed a file of the earlier crate, in Detail
	OutNoRoom      RefusalCode = "no-room"
	OutNoParts     RefusalCode = "no-parts"       // a folder is one
	OutSinceParts  RefusalCode = "since-parts"    // a difference crate is one
	OutIsSince     RefusalCode = "is-since"       // it would take the place of the crate it builds on
	OutListed      RefusalCode = "listed"         // a file, in Detail, has the name of a list that the crate will hold
	OutManyRoots   RefusalCode = "many-roots"     // a package holds one document with what it needs
	OutOtherFormat RefusalCode = "other-format"   // a document, in Detail, that has no such package
	OutNotHeld     RefusalCode = "not-held"       // a file, in Detail, that such a package cannot hold
	OutPackage     RefusalCode = "package"        // what goes along, parts, lists or a difference do not go into a package
	OutTooLarge    RefusalCode = "too-large"      // a file, in Detail, that no part holds
	OutOtherParts  RefusalCode = "other-parts"    // a part of another seal to the same name, in Detail
	OutSamples     RefusalCode = "counts-samples" // a document counts in samples of sounds whose rate shall be another, in Detail
)

// Refusal is a destination a crate must not be written to.
type Refusal struct {
	Out    string
	Code   RefusalCode
	Detail string
	Err    error
	Needs  int64 // bytes, of OutNoRoom
	Free   int64
}

func (e *Refusal) Error() string {
	return "‘" + e.Out + "’ is refused: " + string(e.Code) + " " + e.Detail
}

func (e *Refusal) Unwrap() error { return e.Err }

// Refuse tells why a destination must not be written to, nil if it may.
func Refuse(p *stow.Plan, out string, drives []drive.Drive) error {
	return refuse(p, out, drives, nil)
}

// refuse is Refuse, where some files of an earlier crate were read a moment ago, each as it was then.
func refuse(p *stow.Plan, out string, drives []drive.Drive, read map[string]drive.Stamp) error {
	no := func(code RefusalCode, detail string) error { return &Refusal{Out: out, Code: code, Detail: detail} }
	kind, name := carrier.KindOf(out)
	if name == "" || name == "." || name == "/" {
		return no(OutNoName, "")
	}
	if bag.UnsafeBase(name) != "" {
		return no(OutBadName, name)
	}
	if kind == carrier.Folder {
		if end := otherArchive(name); end != "" {
			return no(OutEnding, end)
		}
	}
	if d, ok := drive.Find(drives, out); ok && !d.Connected() {
		return no(OutUnplugged, d.Name)
	}
	for i := range p.Problems {
		if p.Problems[i].Kind == problem.CountsSamples {
			return no(OutSamples, p.Problems[i].Document)
		}
	}
	g := p.Graph
	parent := filepath.Dir(out)
	real := out
	if r, err := filepath.EvalSymlinks(parent); err == nil {
		real = filepath.Join(r, filepath.Base(out))
	}
	for _, i := range g.Roots {
		if g.Documents[i].Path == out {
			return no(OutDocument, "")
		}
	}
	root, err := filepath.EvalSymlinks(g.Root)
	if err != nil {
		root = g.Root
	}
	for _, at := range []string{out, real} {
		if drive.Within(g.Root, at) || drive.Within(root, at) {
			return no(OutInside, g.Root)
		}
	}
	if inner := crateAround(filepath.Dir(real)); inner != "" {
		return no(OutInCrate, inner)
	}
	return refuseOver(g, out, real, read)
}

// refuseOver tells why a crate cannot take the place of what stands there.
func refuseOver(g *graph.Graph, out, real string, read map[string]drive.Stamp) error {
	no := func(code RefusalCode, detail string) error { return &Refusal{Out: out, Code: code, Detail: detail} }
	kind, _ := carrier.KindOf(out)
	fi, err := os.Lstat(out)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if fi, err := os.Stat(filepath.Dir(out)); err == nil && !fi.IsDir() {
			return no(OutParent, filepath.Dir(out))
		}
		return nil
	case err != nil:
		return &Refusal{Out: out, Code: OutUnreadable, Err: err}
	case kind == carrier.Folder && fi.IsDir():
		entries, err := os.ReadDir(out)
		if err != nil {
			return &Refusal{Out: out, Code: OutUnreadable, Err: err}
		}
		if len(entries) == 0 {
			return nil
		}
		if !sameDocuments(folderRecord(out), g.Given()) {
			return no(OutFull, "")
		}
		if file := readFrom(g, out, real); file != "" {
			return no(OutReadFrom, file)
		}
		return checkUntouched(out, read)
	case kind == carrier.Folder:
		return no(OutFile, "")
	case !fi.Mode().IsRegular():
		return no(OutOdd, "")
	}
	rec, ok := archiveRecord(out)
	if !ok {
		return no(OutNoCrate, "")
	}
	if !sameDocuments(rec, g.Given()) {
		return no(OutOtherCrate, "")
	}
	return nil
}

// otherEndings are those of archives that are not made here: a folder of such a name would
// pass for one.
var otherEndings = []string{".7z", ".rar", ".tgz", ".tbz", ".tbz2", ".txz", ".tzst", ".gz", ".bz2", ".xz", ".zst", ".lz4", ".lz", ".iso", ".cab", ".dmg", ".z", ".zipx"}

func otherArchive(name string) string {
	lower := strings.ToLower(name)
	for _, end := range otherEndings {
		if strings.HasSuffix(lower, end) && len(lower) > len(end) {
			return end
		}
	}
	return ""
}

// SameDrive tells whether a place that is written to is on the device of a project's folder.
func SameDrive(reach drive.Reach, root, out string) bool {
	is, err := reach.Stat(root)
	if err != nil {
		return false
	}
	for dir := filepath.Dir(out); ; dir = filepath.Dir(dir) {
		if to, err := reach.Stat(dir); err == nil {
			return is.Node.Dev != 0 && to.Node.Dev == is.Node.Dev
		}
		if dir == filepath.Dir(dir) {
			return false
		}
	}
}

// crateAround is the bag that a folder lies in, or is; "" for none.
func crateAround(dir string) string {
	for at := dir; ; at = filepath.Dir(at) {
		if _, err := os.Lstat(filepath.Join(at, bag.Declaration)); err == nil {
			return at
		}
		if at == filepath.Dir(at) {
			return ""
		}
	}
}

// readFrom is a file of the project that lies where the crate would, or in it: a crate that
// takes the place of an earlier one would take its own sources away.
func readFrom(g *graph.Graph, outs ...string) string {
	for i := range g.Files {
		f := &g.Files[i]
		if !f.Carried {
			continue
		}
		for _, p := range append([]string{f.Path, f.Real}, f.Also...) {
			for _, out := range outs {
				if p != "" && drive.Within(out, p) {
					return f.Shown()
				}
			}
		}
	}
	return ""
}

func folderRecord(dir string) *record {
	if _, err := os.Stat(filepath.Join(dir, bag.Declaration)); err != nil {
		return nil
	}
	b, err := os.ReadFile(filepath.Join(dir, recordName))
	if err != nil {
		return nil
	}
	return parseRecord(b)
}

func parseRecord(b []byte) *record {
	var rec record
	if json.Unmarshal(b, &rec) != nil || rec.Software != Software {
		return nil
	}
	return &rec
}

// archiveRecord is the record of a crate that is an archive; false for a file
// that is no bag.
func archiveRecord(p string) (rec *record, isBag bool) {
	_ = carrier.Read(context.Background(), p, func(m carrier.Member, r io.Reader) error {
		switch {
		case strings.Count(m.Name, "/") > 1 || r == nil:
		case path.Base(m.Name) == bag.Declaration:
			isBag = true
		case path.Base(m.Name) == recordName:
			if b, err := io.ReadAll(io.LimitReader(r, maxTags)); err == nil {
				rec = parseRecord(b)
			}
		}
		return nil
	})
	return rec, isBag
}

// IsBag tells that an archive or a folder is a bag, whatever state it is in.
func IsBag(p string) bool {
	if fi, err := os.Stat(p); err == nil && fi.IsDir() {
		_, err := os.Lstat(filepath.Join(p, bag.Declaration))
		return err == nil
	}
	_, is := archiveRecord(p)
	return is
}

// sameDocuments tells whether a crate is one of a graph's documents.
func sameDocuments(rec *record, documents []string) bool {
	if rec == nil || len(rec.Documents) != len(documents) {
		return false
	}
	return !slices.ContainsFunc(rec.Documents, func(d recordDocument) bool { return !slices.Contains(documents, d.Source) })
}

// checkUntouched refuses an earlier crate that somebody put files into, or changed one of:
// sealing again would lose that work. Only files that were written after the crate was are
// read.
func checkUntouched(dir string, read map[string]drive.Stamp) error {
	m, err := readSealed(dir)
	if err != nil {
		return err
	}
	return filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		rel, _ := filepath.Rel(dir, p)
		rel = filepath.ToSlash(rel)
		if was, known := read[rel]; known {
			if now, err := (drive.System{}).Lstat(p); err == nil && now.Stamp() == was {
				return nil
			}
		}
		return m.holds(rel)
	})
}

// manifested is what the manifests of a crate that was sealed tell.
type manifested struct {
	dir  string
	sums map[string]string
	at   os.FileInfo // its tag manifest, which was written last
}

func readSealed(dir string) (*manifested, error) {
	return readManifests(dir, bag.TagManifest("sha256"), bag.Manifest("sha256"))
}

// readTags tells of the manifests and the record alone.
func readTags(dir string) (*manifested, error) {
	return readManifests(dir, bag.TagManifest("sha256"))
}

func readManifests(dir string, names ...string) (*manifested, error) {
	m := &manifested{dir: dir, sums: map[string]string{}}
	for _, name := range names {
		no := &Refusal{Out: dir, Code: OutFull, Detail: filepath.Join(dir, name)}
		b, err := os.ReadFile(filepath.Join(dir, name))
		if err != nil {
			return nil, no
		}
		list, _, err := bag.ReadManifest(bytes.NewReader(b))
		if err != nil {
			return nil, no
		}
		for p, sum := range list {
			m.sums[p] = sum
		}
		if m.at == nil {
			if m.at, err = os.Stat(filepath.Join(dir, name)); err != nil {
				return nil, no
			}
		}
	}
	return m, nil
}

// holds refuses a file that was not sealed, or is not what was.
func (m *manifested) holds(rel string) error {
	p := filepath.Join(m.dir, filepath.FromSlash(rel))
	if _, tag, ok := bag.IsManifest(rel); rel == journalName || ok && tag {
		return nil
	}
	want, ok := m.sums[rel]
	if !ok {
		return &Refusal{Out: m.dir, Code: OutAdded, Detail: p}
	}
	// A file that was put there with an older time has a younger inode.
	if fi, err := os.Lstat(p); err == nil && (fi.ModTime().After(m.at.ModTime()) || drive.NodeOf(fi).Changed > drive.NodeOf(m.at).Changed) {
		if got, err := drive.Fingerprint(context.Background(), drive.System{}, p, nil); err != nil || got != want {
			return &Refusal{Out: m.dir, Code: OutChangedThen, Detail: p}
		}
	}
	return nil
}

// room asks the destination for free space. Where the system does not tell,
// the copy itself will.
func (s *sealer) room(needs int64) error {
	at := filepath.Dir(s.Out)
	for at != filepath.Dir(at) {
		if _, err := os.Stat(at); err == nil {
			break
		}
		at = filepath.Dir(at)
	}
	if u, err := disk.Usage(at); err == nil && u.Free < uint64(needs) {
		return &Refusal{Out: s.Out, Code: OutNoRoom, Needs: needs, Free: int64(u.Free)}
	}
	return nil
}

// SealedOf tells that a folder is a crate of these documents, absolute, and of no others.
func SealedOf(dir string, documents []string) bool {
	if _, err := os.Stat(filepath.Join(dir, bag.Declaration)); err != nil {
		return false
	}
	f, err := os.Open(filepath.Join(dir, recordName))
	if err != nil {
		return false
	}
	defer f.Close()
	return sameDocuments(recordHead(f), documents)
}

// recordHead is what a record tells before its lists of files: they are long, and there may be a record for each
// evening. nil: it is none of this program's.
func recordHead(r io.Reader) *record {
	var rec record
	in := json.NewDecoder(r)
	if t, err := in.Token(); err != nil || t != json.Delim('{') {
		return nil
	}
	for rec.Documents == nil && in.More() {
		key, err := in.Token()
		if err != nil {
			return nil
		}
		var into any = new(json.RawMessage)
		switch key {
		case "software":
			into = &rec.Software
		case "documents":
			into = &rec.Documents
		}
		if in.Decode(into) != nil {
			return nil
		}
	}
	if rec.Software != Software {
		return nil
	}
	return &rec
}
