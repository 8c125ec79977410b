// Package sums reads checksum lists: what sha256sum and its kin print, and the
// manifests of bags (RFC 8493 §2.1.3).
package sums

import (
	"bytes"
	"path/filepath"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "sums".
func (Format) Name() string { return "sums" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Checksum list", Extensions: []string{"sha256", "sha512", "sha1", "md5"}, Knows: "every listed file", Empty: true}
}

// digits are the lengths of digests in hex.
var digits = map[int]bool{32: true, 40: true, 56: true, 64: true, 96: true, 128: true}

// ByBytes tells that the files are listed by their bytes.
func (Format) ByBytes() {}

// TellsBytes tells that their digests stand beside them.
func (Format) TellsBytes() {}

// Claims wants checksum lines and nothing else.
func (Format) Claims(name string, head []byte) int {
	good, bad := 0, 0
	linescan.Each(head, func(_ int64, line []byte) {
		if p, _, _, _ := parse(line); p != nil {
			good++
		} else if len(bytes.TrimSpace(line)) > 0 {
			bad++
		}
	})
	if good > 0 && bad <= 1 { // the last line may be cut off
		return 85
	}
	return 0
}

// parse returns the path of "digest  path" or "digest *path", also as the GNU
// programs write it: "ALGORITHM (path) = digest", and with a backslash before a
// line whose path has its backslashes and line ends escaped.
func parse(line []byte) (path, sum []byte, escaped, tag bool) {
	if escaped = bytes.HasPrefix(line, []byte(`\`)); escaped {
		line = line[1:]
	}
	open, end := bytes.Index(line, []byte(" (")), bytes.LastIndex(line, []byte(") = "))
	if open > 0 && end > open && digest(line[end+4:]) {
		return line[open+2 : end], line[end+4:], escaped, true
	}
	i := bytes.IndexAny(line, " \t")
	if i < 0 || !digest(line[:i]) {
		return nil, nil, false, false
	}
	p := bytes.TrimLeft(line[i:], " \t")
	return bytes.TrimPrefix(p, []byte("*")), line[:i], escaped, false
}

func digest(b []byte) bool {
	for _, c := range b {
		if !(c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'f') {
			return false
		}
	}
	return digits[len(b)]
}

// Read reads every line. In a bag's manifest CR, LF and the percent sign stand
// escaped.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	base := filepath.Base(t.Name)
	inBag := strings.HasPrefix(base, "manifest-") || strings.HasPrefix(base, "tagmanifest-")
	n := 0
	linescan.Each(t.Bytes, func(off int64, line []byte) {
		n++
		p, digest, escaped, tag := parse(line)
		if len(p) == 0 {
			if len(bytes.TrimSpace(line)) > 0 && line[0] != '#' {
				d.Problems = append(d.Problems, problem.Problem{Kind: problem.NoSumLine, Line: n})
			}
			return
		}
		var c mention.Coding = linescan.Plain{Not: "*", Spaces: true}
		switch {
		case inBag && strings.HasPrefix(base, "manifest-"):
			c = mention.Only{Coding: bagPath{c}, Not: outsidePayload}
		case inBag:
			c = bagPath{c}
		case escaped:
			c = gnuPath{c}
		}
		if tag {
			c = mention.Only{Coding: c, Not: tagged}
		}
		by := mention.ByLength(len(digest))
		if tag {
			by = algorithm(string(bytes.TrimPrefix(line[:bytes.Index(line, []byte(" ("))], []byte(`\`))))
		} else if inBag {
			by = algorithm(strings.TrimSuffix(base[strings.Index(base, "-")+1:], ".txt"))
		}
		var told mention.Told
		told.SayDigest(by, string(digest))
		says := &mention.Says{{Piece: mention.Piece{Span: linescan.Within(off, line, digest), Coding: linescan.Plain{}}, By: by}}
		d.Add(mention.Mention{Pieces: d.One(linescan.Within(off, line, p), c), Spelling: mention.Path, Told: told.OrNil(), Says: says, Owner: mention.Numbered("line ", n)})
	})
	return d, nil
}

// algorithm is what a line or a manifest's name says that computed its digests: SHA256 and
// sha-256 are one (RFC 8493 §2.4).
func algorithm(name string) mention.Digest {
	return mention.Digest(strings.ToLower(strings.ReplaceAll(name, "-", "")))
}

// outsidePayload refuses names that a bag's manifest never has (RFC 8493 §2.1.3).
func outsidePayload(name string) error {
	if !strings.HasPrefix(name, "data/") || strings.Contains("/"+name+"/", "/../") {
		return problem.No(problem.OtherStart)
	}
	return nil
}

type bagPath struct{ mention.Coding }

var (
	unescape = strings.NewReplacer("%25", "%", "%0D", "\r", "%0d", "\r", "%0A", "\n", "%0a", "\n")
	escape   = strings.NewReplacer("%", "%25", "\r", "%0D", "\n", "%0A")
)

func (c bagPath) Decode(raw []byte) (string, error) { return unescape.Replace(string(raw)), nil }

func (c bagPath) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	return c.Coding.Encode(escape.Replace(s), old, fits)
}

// gnuPath is the coding of a path on a line that begins with a backslash.
type gnuPath struct{ mention.Coding }

var (
	gnuUnescape = strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\r`, "\r")
	gnuEscape   = strings.NewReplacer(`\`, `\\`, "\n", `\n`, "\r", `\r`)
)

func (c gnuPath) Decode(raw []byte) (string, error) { return gnuUnescape.Replace(string(raw)), nil }

func (c gnuPath) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	return c.Coding.Encode(gnuEscape.Replace(s), old, fits)
}

// tagged are names that cannot stand between an algorithm and a digest.
func tagged(s string) error {
	if strings.Contains(s, ") = ") {
		return problem.No(problem.AsEnd)
	}
	return nil
}
