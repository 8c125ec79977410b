// Package mhl reads media hash lists (XML): each file that was hashed on the
// way, with its path.
package mhl

import (
	"bytes"
	"errors"
	"strconv"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "mhl".
func (Format) Name() string { return "mhl" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Media hash list", Extensions: []string{"mhl"}, Knows: "every hashed file"}
}

// ByBytes tells that the files are listed by their bytes.
func (Format) ByBytes() {}

// TellsBytes tells that their digests stand beside them.
func (Format) TellsBytes() {}

// Claims looks for the root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<hashlist")):
		return 90
	case format.Ext(name) == "mhl":
		return 45
	}
	return 0
}

// generations is the namespace of lists that keep generations: they stand in a
// folder of their own and name files from the folder above (from memory).
const generations = "urn:ASC:MHL:v2.0"

// Read reads path or file of every hash.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	var leaf, fact xmlscan.Leaf
	var told mention.Told
	var says mention.Says
	named := -1 // the mention of the hash that is being read
	above := false
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{
		Start: func(e *xmlscan.Element) error {
			if e.Depth == 1 {
				above = e.Attr("xmlns") == generations
			}
			if (e.Local == "path" || e.Local == "file") && e.Parent != nil && e.Parent.Local == "hash" {
				leaf.Begin(e)
			}
			switch e.Local {
			case "hash":
				told, says, named = mention.Told{}, nil, -1
			case "md5", "sha1", "sha256", "sha512", "xxh64", "xxhash64be", "xxhash64", "xxhash", "xxh3", "xxh128", "c4", "size":
				fact.Begin(e)
			}
			if size := e.Find("size"); e.Local == "path" && size != nil { // of a list that keeps generations
				told.Size, _ = strconv.ParseInt(size.Value(), 10, 64)
				says = append(says, mention.Said{Piece: size.Piece()})
			}
			return nil
		},
		Text: func(e *xmlscan.Element, span mention.Span, cdata bool) error {
			leaf.Take(t.Bytes, e, span, cdata)
			fact.Take(t.Bytes, e, span, cdata)
			return nil
		},
		End: func(e *xmlscan.Element) error {
			if p, ok := fact.At(e); ok {
				said := string(t.Bytes[p.Span.Off:p.Span.End])
				by := mention.Digest(strings.Replace(e.Local, "xxhash64be", "xxh64", 1))
				if e.Local == "size" {
					by = ""
					told.Size, _ = strconv.ParseInt(said, 10, 64)
				} else {
					told.SayDigest(by, said)
				}
				says = append(says, mention.Said{Piece: p, By: by})
			}
			if e.Local == "hash" && named >= 0 {
				d.Mentions[named].Told, d.Mentions[named].Says = told.OrNil(), says.OrNil()
			}
			if p, ok := leaf.At(e); ok {
				m := mention.Mention{Pieces: d.One(p.Span, p.Coding), Spelling: mention.Path, Owner: "hash"}
				if above {
					own, _ := p.Coding.Decode(t.Bytes[p.Span.Off:p.Span.End]) // undecodable text is shown as it stands
					m.Shown, m.Merge, m.Split = &own, fromAbove, toAbove
				}
				named = len(d.Mentions)
				d.Add(m)
			}
			return nil
		},
	})
	return d, err
}

func fromAbove(parts []string) string {
	if strings.HasPrefix(parts[0], "/") {
		return parts[0]
	}
	return "../" + parts[0]
}

func toAbove(name string) ([]string, error) {
	if own, ok := strings.CutPrefix(name, "../"); ok && own != "" || strings.HasPrefix(name, "/") {
		return []string{own}, nil
	}
	return nil, errors.New("the list names only files from the folder above its own")
}
