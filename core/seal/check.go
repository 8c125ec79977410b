package seal

import (
	"bytes"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"os"
	"path"
	"path/filepath"
	"sort"
	"strconv"
	"strings"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/format"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/rules"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
)

// NoCrate is a path that cannot be checked as a crate.
type NoCrate struct{ Path, Why string }

func (e *NoCrate) Error() string {
	return fmt.Sprintf("‘%s’ cannot be checked as a crate: %s.", e.Path, e.Why)
}

// maxTag bounds one tag file: a manifest of two million lines.
const maxTag = 256 << 20

// Unsafe tells why a member's name must not be unpacked, "" if it may.
func Unsafe(name string) string {
	clean := strings.TrimSuffix(name, "/")
	switch {
	case clean == "":
		return "it has no name"
	case strings.ContainsRune(name, 0):
		return "its name holds a NUL byte"
	case strings.HasPrefix(name, "/"), len(name) > 1 && name[1] == ':', strings.HasPrefix(name, `\`):
		return "its name is absolute"
	}
	for _, part := range strings.FieldsFunc(clean, func(r rune) bool { return r == '/' || r == '\\' }) {
		if part == ".." {
			return "its name leads out of the crate"
		}
	}
	if path.Clean(clean) != clean {
		return "its name is not in plain form"
	}
	return ""
}

// Check verifies a crate: every digest of every manifest, nothing missing,
// nothing extra, and the trace of its documents with nothing else reachable.
// An error means that it could not be checked at all.
func Check(ctx context.Context, p string, formats format.Set) (*Report, error) {
	_, rep, err := inspect(ctx, p, formats)
	return rep, err
}

// Base is the folder a crate unpacks to by itself.
func Base(ctx context.Context, p string, formats format.Set) (string, *Report, error) {
	b, rep, err := inspect(ctx, p, formats)
	if err != nil {
		return "", nil, err
	}
	if b.base == "" {
		_, b.base = CarrierOf(p)
	}
	return b.base, rep, nil
}

// bag is what is known of a crate while it is checked.
type bag struct {
	path  string // of the crate
	at    string // of its members in messages
	base  string // folder within an archive, "" for none
	names map[string]int64
	tags  map[string][]byte // tag files at the top
	rep   *Report
}

func (b *bag) problem(code, member, format string, a ...any) {
	b.rep.Problems = append(b.rep.Problems, mention.Problem{
		Code: code, Path: filepath.Join(b.at, member), Document: b.path, Message: fmt.Sprintf(format, a...),
	})
}

func inspect(ctx context.Context, p string, formats format.Set) (*bag, *Report, error) {
	fi, err := os.Stat(p)
	if err != nil {
		return nil, nil, &NoCrate{p, trace.Reason(err)}
	}
	b := &bag{path: p, at: p, names: map[string]int64{}, tags: map[string][]byte{}, rep: &Report{
		Crate: p, Renamed: []Renamed{}, Left: []stow.Left{}, Parts: []string{}, Problems: []mention.Problem{},
	}}
	if !fi.IsDir() {
		b.at = p + "!"
	}
	if err := b.list(ctx, fi.IsDir()); err != nil {
		return nil, nil, err
	}
	if len(b.names) == 0 || b.tags["bagit.txt"] == nil {
		if len(b.rep.Problems) > 0 && !fi.IsDir() {
			b.harmed()
			return b, b.rep, nil // refused members are the news
		}
		return nil, nil, &NoCrate{p, "it holds no bagit.txt"}
	}
	sums := b.manifests()
	v := newVault(b.at, formats)
	defer v.close()
	if err := b.digest(ctx, sums, v, fi.IsDir()); err != nil {
		return nil, nil, err
	}
	b.harmed()
	if err := b.trace(ctx, formats, v, fi.IsDir()); err != nil {
		return nil, nil, err
	}
	sort.SliceStable(b.rep.Problems, func(i, j int) bool { return b.rep.Problems[i].Path < b.rep.Problems[j].Path })
	return b, b.rep, nil
}

// harmed counts what is wrong with the crate itself, before its documents are
// looked at. What has to be fetched was never in it.
func (b *bag) harmed() {
	for _, p := range b.rep.Problems {
		if p.Code != "incomplete" {
			b.rep.Harm++
		}
	}
}

// inner cuts the base folder off a member's name.
func (b *bag) inner(name string) string {
	if b.base == "" {
		return name
	}
	return strings.TrimPrefix(name, b.base+"/")
}

// list reads all names, refuses dangerous ones and keeps the tag files.
func (b *bag) list(ctx context.Context, isFolder bool) error {
	folded := map[string]string{}
	var order []string
	tags := map[string][]byte{}
	err := members(ctx, b.path, func(m member, r io.Reader) error {
		if why := Unsafe(m.name); why != "" && !isFolder {
			b.problem("refused", m.name, "was refused: %s", why)
			return nil
		}
		if m.odd != "" {
			b.problem("refused", m.name, "was refused: it is a %s", m.odd)
			return nil
		}
		if m.dir {
			return nil
		}
		if _, twice := b.names[m.name]; twice {
			b.problem("refused", m.name, "was refused: it is there twice")
			return nil
		}
		if other, clash := folded[resolve.Fold(m.name)]; clash && !isFolder {
			b.problem("refused", m.name, "was refused: on many systems it is the same name as %s", other)
			return nil
		}
		b.names[m.name], folded[resolve.Fold(m.name)] = m.size, m.name
		order = append(order, m.name)
		if strings.Count(m.name, "/") <= 1 && (strings.HasSuffix(m.name, ".txt") || path.Base(m.name) == recordName) {
			t, err := io.ReadAll(io.LimitReader(r, maxTag))
			if err != nil {
				b.problem("damaged", m.name, "could not be read: %v", err)
			}
			tags[m.name] = t
		}
		return nil
	})
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.Is(err, errList):
		return &NoCrate{b.path, err.Error()}
	case err != nil && isFolder:
		return &NoCrate{b.path, trace.Reason(err)}
	case err != nil:
		b.problem("damaged", "", "%v", err)
	}
	if tags["bagit.txt"] == nil && !isFolder {
		for _, name := range order {
			if dir, file := path.Split(name); file == "bagit.txt" && strings.Count(name, "/") == 1 {
				b.base = strings.TrimSuffix(dir, "/")
				break
			}
		}
	}
	for name, t := range tags {
		if inner := b.inner(name); !strings.Contains(inner, "/") {
			b.tags[inner] = t
		}
	}
	return nil
}

// manifests reads all manifests: algorithm → member → digest.
func (b *bag) manifests() map[string]map[string]string {
	all := map[string]map[string]string{}
	if !bytes.Contains(b.tags["bagit.txt"], []byte("BagIt-Version:")) {
		b.problem("damaged", "bagit.txt", "does not tell the version of the bag")
	}
	payload := 0
	for name, text := range b.tags {
		tag := strings.HasPrefix(name, "tagmanifest-")
		alg, ok := strings.CutPrefix(strings.TrimPrefix(name, "tag"), "manifest-")
		if !ok {
			continue
		}
		alg = strings.TrimSuffix(alg, ".txt")
		if algorithms[alg] == nil {
			b.problem("unknown", name, "uses %q, which is not checked here", alg)
			continue
		}
		sums, bad, err := readManifest(bytes.NewReader(text))
		if err != nil {
			b.problem("damaged", name, "could not be read: %v", err)
		}
		for _, n := range bad {
			b.problem("damaged", name, "line %d is no checksum line", n)
		}
		if all[alg] == nil {
			all[alg] = map[string]string{}
		}
		for p, sum := range sums {
			if !tag && !strings.HasPrefix(p, payloadDir+"/") {
				b.problem("refused", p, "is listed in %s and lies outside %s/", name, payloadDir)
				continue
			}
			if Unsafe(p) != "" {
				b.problem("refused", p, "is listed in %s: %s", name, Unsafe(p))
				continue
			}
			all[alg][p] = sum
		}
		if !tag {
			payload++
			b.extra(name, sums)
		}
	}
	if payload == 0 {
		b.problem("damaged", "", "it has no payload manifest")
	}
	if b.tags["fetch.txt"] != nil {
		b.problem("incomplete", "fetch.txt", "names files that have to be fetched; nothing is fetched here")
	}
	return all
}

// extra finds payload files no manifest lists; every payload manifest lists
// all of them (RFC 8493 §3).
func (b *bag) extra(manifest string, sums map[string]string) {
	for name := range b.names {
		if in := b.inner(name); strings.HasPrefix(in, payloadDir+"/") {
			if _, ok := sums[in]; !ok {
				b.problem("extra", in, "is not listed in %s", manifest)
			}
		}
	}
}

// digest streams the crate once and compares every digest.
func (b *bag) digest(ctx context.Context, sums map[string]map[string]string, v *vault, isFolder bool) error {
	seen := map[string]bool{}
	files, size := 0, int64(0)
	err := members(ctx, b.path, func(m member, r io.Reader) error {
		if r == nil || seen[m.name] || (Unsafe(m.name) != "" && !isFolder) {
			return nil
		}
		seen[m.name] = true
		in := b.inner(m.name)
		hashes := map[string]hash.Hash{}
		var ws []io.Writer
		for alg, list := range sums {
			if list[in] != "" {
				hashes[alg] = algorithms[alg]()
				ws = append(ws, hashes[alg])
			}
		}
		tee := io.TeeReader(cancelled{ctx, r}, io.MultiWriter(ws...))
		var n counter
		tee = io.TeeReader(tee, &n)
		var err error
		if isFolder {
			_, err = io.CopyBuffer(struct{ io.Writer }{io.Discard}, struct{ io.Reader }{tee}, make([]byte, 1<<18))
		} else {
			err = v.take(m.name, m.size, tee)
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if strings.HasPrefix(in, payloadDir+"/") {
			files++
			size += int64(n)
		}
		if err != nil {
			b.problem("damaged", m.name, "is damaged: %v", err)
			return nil
		}
		for alg, h := range hashes {
			if got := hex.EncodeToString(h.Sum(nil)); got != sums[alg][in] {
				b.problem("damaged", m.name, "is not what was sealed: its %s differs", alg)
			}
		}
		return nil
	})
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil && isFolder {
		return &NoCrate{b.path, trace.Reason(err)}
	}
	b.rep.Files, b.rep.Bytes = files, size
	missing := map[string]bool{}
	for _, list := range sums {
		for p := range list {
			if !seen[path.Join(b.base, p)] && !missing[p] {
				missing[p] = true
				b.problem("missing", path.Join(b.base, p), "is listed and not there")
			}
		}
	}
	if want := readInfo(bytes.NewReader(b.tags["bag-info.txt"]))["Payload-Oxum"]; len(want) > 0 {
		if got := strconv.FormatInt(size, 10) + "." + strconv.Itoa(files); got != want[0] {
			b.problem("damaged", path.Join(b.base, "bag-info.txt"), "Payload-Oxum is %s, the payload is %s", want[0], got)
		}
	}
	return nil
}

// trace proves the documents of the crate: those its record names, else every
// payload file whose content is a document.
func (b *bag) trace(ctx context.Context, formats format.Set, v *vault, isFolder bool) error {
	var reach drive.Reach = v
	base := filepath.Join(b.at, b.base)
	if isFolder {
		reach = drive.Confined{Dir: base}
	}
	var rec record
	var docs []string
	if json.Unmarshal(b.tags[recordName], &rec) == nil && rec.Software == Software {
		for _, d := range rec.Documents {
			if Unsafe(d.Path) == "" {
				docs = append(docs, filepath.Join(base, d.Path))
			}
		}
		b.rep.Left = append(b.rep.Left, rec.Left...)
		for _, r := range rec.Rules {
			if f, problems := rules.Parse(r.ID, []byte(r.Source)); f != nil {
				formats = rules.With(formats, f)
			} else {
				b.problem("malformed", path.Join(b.base, recordName), "its rules file %s cannot be used: %s", r.ID, problems[0])
			}
		}
	} else {
		for name := range b.names {
			if in := b.inner(name); strings.HasPrefix(in, payloadDir+"/") && claimed(formats, reach, filepath.Join(b.at, name)) {
				docs = append(docs, filepath.Join(b.at, name))
			}
		}
		sort.Strings(docs)
	}
	p, err := prove(ctx, formats, reach, filepath.Join(base, payloadDir), docs)
	if err != nil {
		return err
	}
	b.rep.Complete = p.complete
	for _, d := range rec.Unsaid {
		b.rep.Complete = false
		b.problem("incomplete", path.Join(b.base, d), "could not be made to name the files of this crate when it was sealed")
	}
	b.rep.Problems = append(b.rep.Problems, p.problems...)
	if len(b.rep.Left) == 0 {
		b.rep.Left = append(b.rep.Left, p.left...)
	}
	return nil
}

// claimed tells documents by their content.
func claimed(formats format.Set, reach drive.Reach, p string) bool {
	f, err := drive.OpenSized(reach, p)
	if err != nil {
		return false
	}
	defer f.Close()
	head := make([]byte, min(format.HeadSize, f.Size()))
	n, _ := f.ReadAt(head, 0)
	head = head[:n]
	d := formats.Sure(filepath.Base(p), head)
	kind := facts.KindOf(p, head)
	return d != nil && kind != facts.Audio && kind != facts.Video && kind != facts.Image
}

// Members streams the files of a crate that was checked, for unpacking; names
// are below the crate's base folder.
func Members(ctx context.Context, p string, each func(name string, r io.Reader) error) error {
	bases := map[string]bool{}
	err := members(ctx, p, func(m member, _ io.Reader) error {
		if path.Base(m.name) == "bagit.txt" && strings.Count(m.name, "/") <= 1 {
			bases[strings.TrimSuffix(path.Dir(m.name), ".")] = true
		}
		return nil
	})
	if err != nil {
		return err
	}
	base := ""
	if !bases[""] {
		for b := range bases {
			base = b + "/"
		}
	}
	return members(ctx, p, func(m member, r io.Reader) error {
		if r == nil {
			return nil
		}
		return each(strings.TrimPrefix(m.name, base), r)
	})
}
