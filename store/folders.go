package store

import (
	"encoding/json"
	"strings"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
)

// known is a row of what was seen, without what the file was before that.
type known struct {
	mend.Seen
	kind    facts.Kind // "": nobody opened it for a trace
	formats int64      // with which it was opened
}

// A folder of which several files were asked for is asked for once, since a project's
// material lies in few: up to folderMost rows of it are kept, and keptMost of all folders
// together.
const (
	several    = 8
	folderMost = 1 << 14
	keptMost   = 1 << 16
)

// folder is what is remembered of the files below one folder.
type folder struct {
	rows  map[string]known // by path; nil: each file is asked for
	asked int              // files of it that were asked for by themselves
}

const seenColumns = "size, mod, dev, ino, changed, sha256, facts, kind, formats, at"

// row looks up what is remembered of a file.
func (m *Memory) row(p drive.Path) (known, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if k, ok := m.hashed[p]; ok {
		return k, true
	}
	dir := drive.Path{Drive: p.Drive, Path: p.Path[:strings.LastIndexByte(p.Path, '/')+1]}
	if dir.Path != "" {
		f := m.folders[dir]
		if f == nil {
			f = &folder{}
			m.folders[dir] = f
		}
		if f.asked++; f.asked == several {
			m.load(dir, f)
		}
		if f.rows != nil {
			k, ok := f.rows[p.Path]
			return k, ok
		}
	}
	var k known
	_, err := k.scan(m.last.QueryRow(p.Drive, p.Path).Scan)
	return k, err == nil // what cannot be read is not remembered
}

// load takes all rows of a folder, where they are not too many.
func (m *Memory) load(dir drive.Path, f *folder) {
	if m.kept >= keptMost {
		return
	}
	after := dir.Path[:len(dir.Path)-1] + string('/'+1) // the least that sorts after all of the folder
	list, err := m.below.Query(dir.Drive, dir.Path, after, folderMost+1)
	if err != nil {
		return
	}
	defer list.Close()
	rows := map[string]known{}
	for list.Next() {
		var k known
		path, err := k.scan(list.Scan)
		if err != nil {
			return
		}
		rows[path] = k
	}
	if list.Err() == nil && len(rows) <= folderMost {
		f.rows = rows
		m.kept += len(rows)
	}
}

func (k *known) scan(row func(...any) error) (path string, err error) {
	var mod, when int64
	var text string
	if err := row(&path, &k.Size, &mod, (*signed)(&k.Node.Dev), (*signed)(&k.Node.Ino), &k.Node.Changed, &k.SHA256, &text, &k.kind, &k.formats, &when); err != nil {
		return "", err
	}
	k.ModTime, k.At = at(mod), at(when)
	if text != "" {
		_ = json.Unmarshal([]byte(text), &k.Facts) // what cannot be read is no facts
	}
	return path, nil
}

// keep puts rows that were written into the folders that are held.
func (m *Memory) keep(rows []seen) {
	m.mu.Lock()
	defer m.mu.Unlock()
	for i := range rows {
		r := &rows[i]
		delete(m.hashed, r.at)
		k := r.known()
		for dir := r.at.Path; ; {
			cut := strings.LastIndexByte(strings.TrimSuffix(dir, "/"), '/')
			if cut < 0 {
				break
			}
			dir = dir[:cut+1]
			if f, ok := m.folders[drive.Path{Drive: r.at.Drive, Path: dir}]; ok && f.rows != nil {
				f.rows[r.at.Path] = k
			}
		}
	}
}

func (r *seen) known() known {
	k := known{Seen: mend.Seen{Size: r.info.Size, SHA256: r.sum, ModTime: r.info.ModTime, Node: r.info.Node, At: r.when}, kind: r.kind, formats: r.formats}
	if r.facts != "" {
		_ = json.Unmarshal([]byte(r.facts), &k.Facts)
	}
	return k
}

// Last looks up what was last seen at a path. It is a mend.Memory.
func (m *Memory) Last(path string) (mend.Seen, bool) {
	p := drive.At(m.drives, path)
	k, ok := m.row(p)
	if !ok {
		return mend.Seen{}, false
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if was, ok := m.was[p]; ok {
		k.Before = &was
	}
	return k.Seen, true
}

// Known tells what a file was when it was last opened with these formats, if it is the
// same still (trace.Options).
func (m *Memory) Known(path string, is drive.Stamp, formats string) (graph.Look, bool) {
	k, ok := m.row(drive.At(m.drives, path))
	if !ok || k.kind == "" || k.formats != signature(formats) || !fresh(k.Seen, infoOf(is)) {
		return graph.Look{}, false
	}
	return graph.Look{Kind: k.kind, Facts: k.Facts}, true
}

// signature is kept in place of the formats' own, which is long.
func signature(formats string) int64 { return int64(xxh3.HashString(formats)) }
