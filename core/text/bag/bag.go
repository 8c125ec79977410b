// Package bag reads and writes the tag files of BagIt 1.0 bags (RFC 8493), and
// tells what is wrong with a bag's list. It knows no carrier: a bag may be a
// folder or any archive.
//
//   - bagit.txt, the declaration: §2.1.1
//   - manifest-ALG.txt, digests of the payload below data/: §2.1.3
//   - tagmanifest-ALG.txt, digests of the tag files: §2.2.1
//   - bag-info.txt, labels and values: §2.2.2
//   - fetch.txt, what has to be fetched: §2.2.3
package bag

import (
	"bufio"
	"bytes"
	"crypto/md5"
	"crypto/sha1"
	"crypto/sha256"
	"crypto/sha512"
	"encoding/hex"
	"hash"
	"io"
	"path"
	"sort"
	"strconv"
	"strings"
	"unicode"
)

// Names of a bag's parts.
const (
	Payload     = "data"
	Declaration = "bagit.txt"
	InfoName    = "bag-info.txt"
	FetchName   = "fetch.txt" // what a bag's payload lacks, and where it is: §2.2.3
)

// Labels of bags that are parts of one whole (§2.2.2).
const (
	Group = "Bag-Group-Identifier"
	Count = "Bag-Count" // "N of T"
)

// Declared is the bag declaration (§2.1.1).
const Declared = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"

// New is a hash of an algorithm that manifests may use (§2.4), nil for one that is not known.
func New(algorithm string) hash.Hash {
	switch algorithm {
	case "md5":
		return md5.New()
	case "sha1":
		return sha1.New()
	case "sha256":
		return sha256.New()
	case "sha512":
		return sha512.New()
	}
	return nil
}

// Manifest and TagManifest are the names of the manifests of an algorithm.
func Manifest(algorithm string) string { return "manifest-" + algorithm + ".txt" }

// TagManifest is described at Manifest.
func TagManifest(algorithm string) string { return "tagmanifest-" + algorithm + ".txt" }

// IsManifest tells manifests by their names.
func IsManifest(name string) (algorithm string, tag, ok bool) {
	rest, tag := strings.CutPrefix(name, "tag")
	alg, ok := strings.CutPrefix(rest, "manifest-")
	alg, ok2 := strings.CutSuffix(alg, ".txt")
	return alg, tag, ok && ok2
}

// escaped are what would break a manifest's lines (§2.1.3): CR, LF and the
// percent sign.
var (
	escaped = strings.NewReplacer("%", "%25", "\r", "%0D", "\n", "%0A")
	plain   = strings.NewReplacer("%25", "%", "%0D", "\r", "%0d", "\r", "%0A", "\n", "%0a", "\n")
)

// escape and unescape are a path as a manifest writes it, and back.
func escape(p string) string { return escaped.Replace(p) }

// unescape is described at escape.
func unescape(p string) string { return plain.Replace(p) }

// lines is a split function for lines that end with LF, CR or both (§2.1.3).
func lines(b []byte, end bool) (advance int, line []byte, err error) {
	i := bytes.IndexAny(b, "\r\n")
	switch {
	case i < 0 && end && len(b) > 0:
		return len(b), b, nil
	case i < 0, b[i] == '\r' && i+1 == len(b) && !end:
		return 0, nil, nil // what follows tells
	case b[i] == '\r' && i+1 < len(b) && b[i+1] == '\n':
		return i + 2, b[:i], nil
	}
	return i + 1, b[:i], nil
}

// WriteManifest lists digests by path, in order of paths.
func WriteManifest(w io.Writer, sums map[string]string) error {
	paths := make([]string, 0, len(sums))
	for p := range sums {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	b := bufio.NewWriter(w)
	for _, p := range paths {
		b.WriteString(sums[p])
		b.WriteString("  ")
		b.WriteString(escape(p))
		b.WriteByte('\n')
	}
	return b.Flush()
}

// ReadManifest reads digests by path. bad lists lines that are none, 1-based.
func ReadManifest(r io.Reader) (sums map[string]string, bad []int, err error) {
	sums = map[string]string{}
	sc := bufio.NewScanner(r)
	sc.Split(lines)
	sc.Buffer(make([]byte, 1<<16), 1<<20)
	for n := 1; sc.Scan(); n++ {
		line := strings.TrimRight(sc.Text(), "\r")
		if line == "" {
			continue
		}
		sum, p, ok := strings.Cut(line, " ")
		// Some tools write "*" before the path for binary mode.
		p = strings.TrimPrefix(strings.TrimLeft(p, " \t"), "*")
		p = unescape(strings.TrimPrefix(p, "./"))
		if _, herr := hex.DecodeString(sum); !ok || sum == "" || herr != nil || p == "" {
			bad = append(bad, n)
			continue
		}
		sums[p] = strings.ToLower(sum)
	}
	return sums, bad, sc.Err()
}

// Label is a line of bag-info.txt.
type Label struct{ Name, Value string }

// WriteInfo writes labels; line ends within a value become spaces.
func WriteInfo(w io.Writer, labels []Label) error {
	for _, l := range labels {
		if _, err := io.WriteString(w, l.Name+": "+strings.Join(strings.Fields(l.Value), " ")+"\n"); err != nil {
			return err
		}
	}
	return nil
}

// ReadInfo reads "Label: value" lines; a line that begins with white space goes
// on with the last value.
func ReadInfo(r io.Reader) map[string][]string {
	info := map[string][]string{}
	last := ""
	sc := bufio.NewScanner(r)
	sc.Split(lines)
	for sc.Scan() {
		line := sc.Text()
		if last != "" && (strings.HasPrefix(line, " ") || strings.HasPrefix(line, "\t")) {
			v := info[last]
			v[len(v)-1] += " " + strings.TrimSpace(line)
			continue
		}
		if k, v, ok := strings.Cut(line, ":"); ok {
			last = k
			info[k] = append(info[k], strings.TrimSpace(v))
		}
	}
	return info
}

// Oxum is the value of Payload-Oxum: bytes and files of the payload.
func Oxum(bytes int64, files int) string {
	return strconv.FormatInt(bytes, 10) + "." + strconv.Itoa(files)
}

// Danger is why a member's name must not be unpacked.
type Danger string

// The dangers; "" is none.
const (
	NoName      Danger = "no-name"
	HasNUL      Danger = "nul"
	IsAbsolute  Danger = "absolute"
	LeadsOut    Danger = "leads-out"
	NotPlain    Danger = "not-plain" // "a//b", "./a"
	HiddenBase  Danger = "hidden"    // a base folder such as .git
	OptionLike  Danger = "option"    // a base folder such as -rf
	IsLink      Danger = "link"
	IsDevice    Danger = "device"
	IsTwice     Danger = "twice"
	IsSameName  Danger = "same-name"   // as another on many systems
	FileFolder  Danger = "file-folder" // a file is also used as a folder
	BesideBase  Danger = "beside-base" // outside the bag's one base folder
	SecondBag   Danger = "second-bag"
	OutsideData Danger = "outside-data" // a payload manifest lists it, and it is none
	CannotRead  Danger = "unreadable"
)

// Unsafe tells why a member of a name must not be unpacked.
func Unsafe(name string) Danger {
	clean := strings.TrimSuffix(name, "/")
	switch {
	case clean == "":
		return NoName
	case strings.ContainsRune(name, 0):
		return HasNUL
	case strings.HasPrefix(name, "/"), len(name) > 1 && name[1] == ':', strings.HasPrefix(name, `\`):
		return IsAbsolute
	}
	for _, part := range strings.FieldsFunc(clean, func(r rune) bool { return r == '/' || r == '\\' }) {
		if part == ".." {
			return LeadsOut
		}
	}
	if path.Clean(clean) != clean {
		return NotPlain
	}
	return ""
}

// UnsafeBase tells why a bag's base folder must not be unpacked.
func UnsafeBase(name string) Danger {
	switch {
	case name == "" || strings.ContainsAny(name, `/\`) || strings.ContainsFunc(name, unicode.IsControl):
		return NotPlain
	case strings.HasPrefix(name, "."):
		return HiddenBase
	case strings.HasPrefix(name, "-"):
		return OptionLike
	}
	return Unsafe(name)
}

// Fault is one thing that is wrong with a bag.
type Fault struct {
	Code   FaultCode
	Member string // below the base folder
	Of     string // the manifest or algorithm that tells
	Line   int
	Danger Danger
	Want   string
	Have   string
	Err    error
}

// FaultCode is what is wrong.
type FaultCode string

// The faults.
const (
	NoVersion     FaultCode = "no-version"  // bagit.txt does not tell the version
	NoManifest    FaultCode = "no-manifest" // no payload manifest
	UnknownDigest FaultCode = "unknown-digest"
	NoLine        FaultCode = "no-line" // a line that is no checksum line
	CutShort      FaultCode = "cut-short"
	Refused       FaultCode = "refused"
	Extra         FaultCode = "extra"   // a payload file no manifest lists, or a stray beside it
	Gone          FaultCode = "missing" // listed and not there
	Differs       FaultCode = "differs"
	Harmed        FaultCode = "harmed" // its bytes cannot be read
	WrongOxum     FaultCode = "wrong-oxum"
	ToFetch       FaultCode = "to-fetch"
)

// Sums are the digests of a bag: algorithm, then member.
type Sums map[string]map[string]string

// ReadManifests reads all manifests among the tag files of a bag (by name), and
// holds them against its members. A payload manifest lists all payload files,
// and nothing else (§3).
func ReadManifests(tags map[string][]byte, members map[string]bool) (Sums, []Fault) {
	all := Sums{}
	var faults []Fault
	if !bytes.Contains(tags[Declaration], []byte("BagIt-Version:")) {
		faults = append(faults, Fault{Code: NoVersion, Member: Declaration})
	}
	payload := 0
	for _, name := range sorted(tags) {
		alg, tag, ok := IsManifest(name)
		if !ok {
			continue
		}
		if New(alg) == nil {
			faults = append(faults, Fault{Code: UnknownDigest, Member: name, Of: alg})
			continue
		}
		sums, bad, err := ReadManifest(bytes.NewReader(tags[name]))
		if err != nil {
			faults = append(faults, Fault{Code: Harmed, Member: name, Err: err})
		}
		for _, n := range bad {
			faults = append(faults, Fault{Code: NoLine, Member: name, Line: n})
		}
		if all[alg] == nil {
			all[alg] = map[string]string{}
		}
		for p, sum := range sums {
			switch {
			case !tag && !strings.HasPrefix(p, Payload+"/"):
				faults = append(faults, Fault{Code: Refused, Member: p, Of: name, Danger: OutsideData})
			case Unsafe(p) != "":
				faults = append(faults, Fault{Code: Refused, Member: p, Of: name, Danger: Unsafe(p)})
			default:
				all[alg][p] = sum
			}
		}
		if !tag {
			payload++
			for m := range members {
				if _, ok := sums[m]; strings.HasPrefix(m, Payload+"/") && !ok {
					faults = append(faults, Fault{Code: Extra, Member: m, Of: name})
				}
			}
		}
	}
	if payload == 0 {
		faults = append(faults, Fault{Code: NoManifest})
	}
	if tags[FetchName] != nil {
		faults = append(faults, Fault{Code: ToFetch, Member: FetchName})
	}
	return all, faults
}

// Missing are the members that are listed and not there.
func (s Sums) Missing(members map[string]bool) (list []string) {
	met := map[string]bool{}
	for _, sums := range s {
		for p := range sums {
			if !members[p] && !met[p] {
				met[p] = true
				list = append(list, p)
			}
		}
	}
	sort.Strings(list)
	return list
}

// Strays are members that are neither payload nor tag files of a bag that is
// ours to judge: known names, or listed in a tag manifest.
func (s Sums) Strays(members map[string]bool, known func(string) bool) (list []string) {
	for m := range members {
		if strings.HasPrefix(m, Payload+"/") || known(m) {
			continue
		}
		listed := false
		for _, sums := range s {
			if _, ok := sums[m]; ok {
				listed = true
			}
		}
		if !listed {
			list = append(list, m)
		}
	}
	sort.Strings(list)
	return list
}

// Standard tells the names that every bag may have beside its payload.
func Standard(name string) bool {
	_, _, manifest := IsManifest(name)
	return manifest || name == Declaration || name == InfoName || name == FetchName
}

func sorted(m map[string][]byte) []string {
	list := make([]string, 0, len(m))
	for k := range m {
		list = append(list, k)
	}
	sort.Strings(list)
	return list
}
