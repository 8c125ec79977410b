// Package inside writes data that stands in documents out to files, which the
// documents then name: all or nothing, an edition of each document kept, and nothing
// written over.
package inside

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
	"boundcrate/core/text/problem"
)

// Why is why data cannot be written out.
type Why string

// The reasons.
const (
	Free       Why = ""           // it can
	NotOurs    Why = "not-ours"   // its document lies outside the project's folder
	NoPlace    Why = "no-place"   // the format has no place there for the name of a file
	Frames     Why = "frames"     // many files in a package under one name
	Unsaved    Why = "unsaved"    // the program holds it and never wrote it: only that program can
	Unreadable Why = "unreadable" // the document cannot be read again
)

// Data is something that has no file yet.
type Data struct {
	Ref    graph.RefID
	Size   int64
	Kind   facts.Kind
	Type   string // its media type, by its bytes, else as the document says; "" unknown
	Name   string // proposed for its file
	Folder string // proposed, absolute: where the document's other files of the kind lie
	Why    Why
}

// maxSniffed is how much of the data is looked at to know it (WHATWG MIME
// Sniffing §7 needs no more).
const maxSniffed = 512

// ends are extensions of media types; those the sniffing of the standard library
// or the formats name.
var ends = map[string]string{
	"image/png": ".png", "image/jpeg": ".jpg", "image/gif": ".gif", "image/webp": ".webp", "image/bmp": ".bmp", "image/ktx2": ".ktx2", "image/vnd-ms.dds": ".dds", "image/svg+xml": ".svg", "image/tiff": ".tif",
	"audio/wav": ".wav", "audio/wave": ".wav", "audio/mpeg": ".mp3", "audio/aiff": ".aiff", "audio/flac": ".flac", "application/ogg": ".ogg", "video/mp4": ".mp4",
	"application/pdf": ".pdf", "text/css": ".css", "text/plain": ".txt", "font/woff": ".woff", "font/woff2": ".woff2", "font/ttf": ".ttf",
	buffer: ".bin", "application/octet-stream": ".bin",
}

// List tells all that has no file yet, in document order, with a name and a folder
// for each.
func List(g *graph.Graph, o trace.Options) []Data {
	var list []Data
	taken := map[string]bool{}
	usual := folders(g)
	files := map[graph.DocID]*format.File{}
	var open []io.Closer
	defer func() { closeAll(open) }()
	for k := range g.References {
		r := &g.References[k]
		if r.State != graph.Inside && r.State != graph.Unsaved {
			continue
		}
		d := Data{Ref: graph.RefID(k), Size: r.Size, Kind: r.Kind}
		host := g.Documents[r.Doc].Host
		file, met := files[host]
		if !met {
			var src io.Closer
			if file, src, _ = o.ReopenHeld(g, host); file != nil { // one that changed or is gone is told below
				open = append(open, src)
			}
			files[host] = file
		}
		var m *mention.Mention
		if file != nil {
			m = &file.Doc.Mentions[r.Mention]
		}
		switch {
		case r.State == graph.Unsaved:
			d.Why = Unsaved
		case m == nil || m.Data == nil:
			d.Why = Unreadable
		case !g.Owns(&g.Documents[r.Doc]):
			d.Why = NotOurs
		case m.Sequence != nil:
			d.Why = Frames
		case m.Data.Say == nil:
			d.Why = NoPlace
		}
		if m != nil && m.Data != nil {
			d.Type = kindOf(m.Data)
		}
		if k := kindByType(d.Type); k != "" {
			d.Kind = k
		}
		doc := g.Documents[r.Doc].Path
		if d.Folder = usual[place{r.Doc, d.Kind}]; d.Folder == "" {
			d.Folder = filepath.Dir(doc)
		}
		d.Name = filepath.Base(fileset.Free(o.Reach, taken, d.Folder, propose(r, d.Type, d.Kind)))
		list = append(list, d)
	}
	return list
}

func closeAll(list []io.Closer) {
	for _, c := range list {
		c.Close() // nothing was written through it
	}
}

type place struct {
	doc  graph.DocID
	kind facts.Kind
}

// folders are where most of a document's files of a kind lie within the project.
func folders(g *graph.Graph) map[place]string {
	votes := map[place]map[string]int{}
	for k := range g.References {
		r := &g.References[k]
		if r.State != graph.Here || r.Path == "" {
			continue
		}
		p := place{r.Doc, r.Kind}
		if votes[p] == nil {
			votes[p] = map[string]int{}
		}
		votes[p][filepath.Dir(r.Path)]++
	}
	out := map[place]string{}
	for p, dirs := range votes {
		list := make([]string, 0, len(dirs))
		for d := range dirs {
			list = append(list, d)
		}
		out[p] = slices.MaxFunc(list, func(a, b string) int { return cmp.Or(dirs[a]-dirs[b], strings.Compare(b, a)) })
	}
	return out
}

// buffer is what glTF calls its own binary data (ISO/IEC 12113 §4.4.3): it may
// begin with a picture and is none.
const buffer = "application/gltf-buffer"

func kindOf(d *mention.Data) string {
	if d.Open != nil && d.Type != buffer {
		rc := d.Open()
		head := make([]byte, maxSniffed)
		n, _ := io.ReadFull(rc, head) // what is there
		rc.Close()
		if t, _, _ := strings.Cut(http.DetectContentType(head[:n]), ";"); t != "application/octet-stream" && t != "text/plain" && t != "text/xml" {
			return t
		}
	}
	return strings.ToLower(d.Type)
}

func kindByType(t string) facts.Kind {
	switch family, _, _ := strings.Cut(t, "/"); family {
	case "image":
		return facts.Image
	case "audio":
		return facts.Audio
	case "video":
		return facts.Video
	}
	return ""
}

var quoted = regexp.MustCompile(`'([^']+)'$`)

// propose names a file by who holds its data and what it is.
func propose(r *graph.Reference, kind string, k facts.Kind) string {
	stem, ext := r.Owner, ends[kind]
	if q := quoted.FindStringSubmatch(r.Owner); q != nil {
		stem = q[1]
	}
	// The member of a package has a name.
	if member := path.Base(r.Written); r.Written != "" && !strings.HasPrefix(r.Written, "data:") && path.Ext(member) != "" {
		stem, ext = names.Split(member)
	}
	if stem == "" {
		stem = string(k)
	}
	if have := path.Ext(stem); ext == "" && have != "" {
		ext, stem = have, strings.TrimSuffix(stem, have)
	} else if strings.EqualFold(have, ext) {
		stem = strings.TrimSuffix(stem, have)
	}
	if ext == "" {
		ext = ".bin"
	}
	return stow.Portable(stem + ext)
}

// ErrChanged: reading a document again does not give what was to be said.
var ErrChanged = errors.New("reading it again did not give the same references")

// Write writes data out to files, absolute paths that nothing has, and makes the
// documents name them. Where anything fails, the files are taken away again and no
// document is changed. made is told each file that was begun; nil needs no telling.
func Write(ctx context.Context, g *graph.Graph, o trace.Options, to map[graph.RefID]string, keep edition.Keeper, journals string, made func(string)) (written []writing.Written, err error) {
	tx, err := fileset.Begin(journals, g.Documents[0].Path)
	if err != nil {
		return nil, &writing.Error{Document: g.Documents[0].Path, Step: writing.Busy, Err: err}
	}
	defer func() { err = errors.Join(err, tx.Close()) }()
	refs := make([]graph.RefID, 0, len(to))
	for k := range to {
		refs = append(refs, k)
	}
	slices.Sort(refs)
	hosts := map[graph.DocID]*format.File{}
	var open []io.Closer
	defer func() { closeAll(open) }()
	wants := map[graph.DocID]map[int]string{}
	for _, k := range refs {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		r, at := &g.References[k], to[k]
		host := g.Documents[r.Doc].Host
		file := hosts[host]
		if file == nil {
			var src io.Closer
			if file, src, err = o.ReopenHeld(g, host); err != nil {
				return nil, err
			}
			open = append(open, src)
			hosts[host], wants[host] = file, map[int]string{}
		}
		m := &file.Doc.Mentions[r.Mention]
		doc := g.Documents[host].Path
		if m.Data == nil || m.Data.Say == nil || !g.Owns(&g.Documents[r.Doc]) {
			return nil, &writing.Error{Document: doc, Step: writing.Saying, Err: &mention.CannotSayError{Mention: int(r.Mention), Name: filepath.Base(at), Err: problem.No(problem.NoText)}}
		}
		if made != nil {
			made(at)
		}
		if err := create(ctx, tx, o.Reach, at, m.Data); err != nil {
			return nil, fmt.Errorf("‘%s’: %w", at, err)
		}
		wants[host][int(r.Mention)] = resolve.SayRelative(m.Spelling, "", filepath.Dir(doc), at)
	}
	var changes []writing.Change
	for i := range g.Documents {
		host := graph.DocID(i)
		if hosts[host] == nil {
			continue
		}
		edits, err := instead(hosts[host], wants[host])
		if err != nil {
			return nil, &writing.Error{Document: g.Documents[i].Path, Step: writing.Saying, Err: err}
		}
		for k := range g.Documents {
			d := &g.Documents[k]
			if mine := writing.EditsOf(d, edits); d.Host == host && len(mine) > 0 {
				changes = append(changes, writing.Change{Document: d, File: trace.Part(g, graph.DocID(k), hosts[host]), Edits: mine, Mentions: len(mine)})
			}
		}
	}
	if len(changes) == 0 {
		return nil, nil
	}
	return writing.CommitIn(tx, o.Reach, changes, keep)
}

// instead are the edits by which a document names files in the place of data, and
// proves that it then says so and keeps all other names.
func instead(f *format.File, want map[int]string) ([]mention.Edit, error) {
	var edits []mention.Edit
	for i := range f.Doc.Mentions {
		name, ok := want[i]
		if !ok {
			continue
		}
		e, err := f.Doc.Mentions[i].Data.Say(f.Doc, name)
		if err != nil {
			return nil, &mention.CannotSayError{Mention: i, Name: name, Err: err}
		}
		edits = append(edits, e...)
	}
	slices.SortStableFunc(edits, func(a, b mention.Edit) int { return cmp.Or(a.Text-b.Text, cmp.Compare(a.Off, b.Off)) })
	back, err := f.Reread(edits)
	if err != nil {
		return nil, err
	}
	// What is cut out of data that now stands elsewhere is no name of its own any
	// more; everything else must stand there as before.
	outside := func(d *mention.Doc, want map[int]string) (list []string) {
		for i := range d.Mentions {
			if name, ok := want[i]; ok {
				list = append(list, name)
			} else if !d.Mentions[i].Inside() {
				list = append(list, d.Name(i))
			}
		}
		return list
	}
	if !slices.Equal(outside(f.Doc, want), outside(back, nil)) {
		return nil, ErrChanged
	}
	return edits, nil
}

// create writes data to a name that nothing has.
func create(ctx context.Context, tx *fileset.Txn, reach drive.Reach, at string, d *mention.Data) error {
	if err := fileset.Reachable(reach, filepath.Dir(at)); err != nil {
		return err
	}
	if err := tx.Dirs(filepath.Dir(at)); err != nil {
		return err
	}
	return tx.Create(at, 0o644, time.Time{}, func(w io.Writer) error {
		rc := d.Open()
		defer rc.Close()
		n, err := io.Copy(w, drive.ContextReader(ctx, rc))
		if err == nil && n != d.Size {
			err = fmt.Errorf("%d of %d bytes could be read out of the document", n, d.Size)
		}
		return err
	}, func(tmp string) error { return proved(tmp, d) })
}
