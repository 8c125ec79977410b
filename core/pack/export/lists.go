package export

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"net/url"
	"strconv"
	"strings"

	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// entry is one line of a playlist or list.
type entry struct {
	path    string
	title   string
	start   float64 // of what is used, in seconds
	seconds float64
	timed   bool
}

// named are the files that a document uses, each place once, in its order.
func named(o Options, l losses) (list []entry) {
	for i := range o.Graph.References {
		r := &o.Graph.References[i]
		if r.Doc != o.Doc || r.File == graph.None {
			continue
		}
		if r.Use != mention.Used {
			l.add(Disabled, r.Owner)
			continue
		}
		p := o.Name(r.File)
		if p == "" {
			continue
		}
		e := entry{path: p, title: r.Owner}
		if r.Range != nil {
			e.start, e.seconds, e.timed = r.Range.Start, r.Range.Duration, true
		}
		if o.Graph.Files[r.File].Frames != nil {
			l.add(Sequence, r.Owner)
		}
		list = append(list, e)
	}
	return list
}

// entries writes a playlist or list.
func entries(as Form, list []entry, l losses) []byte {
	var b bytes.Buffer
	switch as {
	case M3U: // common practice, no standard: EXTM3U with lengths in whole seconds
		b.WriteString("#EXTM3U\n")
		for _, e := range list {
			length := -1
			if e.timed {
				length = int(e.seconds + 0.5)
			}
			fmt.Fprintf(&b, "#EXTINF:%d,%s\n%s\n", length, plain(e.title, l), line(plain(e.path, l), l))
		}
	case XSPF: // XSPF 1 (Xiph.Org, 2006): locations are URIs, lengths milliseconds
		b.WriteString(xml.Header + `<playlist version="1" xmlns="http://xspf.org/ns/0/">` + "\n<trackList>\n")
		for _, e := range list {
			b.WriteString("<track><location>")
			_ = xml.EscapeText(&b, []byte(uri(e.path)))
			b.WriteString("</location><title>")
			_ = xml.EscapeText(&b, []byte(plain(e.title, l)))
			b.WriteString("</title>")
			if e.timed {
				fmt.Fprintf(&b, "<duration>%d</duration>", int64(1000*e.seconds+0.5))
			}
			b.WriteString("</track>\n")
		}
		b.WriteString("</trackList>\n</playlist>\n")
	default: // RFC 4180
		w := csv.NewWriter(&b)
		_ = w.Write([]string{"path", "name", "start", "length"})
		number := func(v float64, has bool) string {
			if !has {
				return ""
			}
			return strconv.FormatFloat(v, 'f', -1, 64)
		}
		for _, e := range list {
			_ = w.Write([]string{e.path, e.title, number(e.start, e.timed), number(e.seconds, e.timed)})
		}
		w.Flush()
	}
	return b.Bytes()
}

// line is a path as a line of a playlist: one that begins like a comment or with a blank is
// said from its folder; blanks at the end nobody reads.
func line(p string, l losses) string {
	if strings.HasPrefix(p, "#") || strings.TrimLeft(p, " \t") != p || strings.HasPrefix(p, "\uFEFF") {
		p = "./" + p
	}
	if strings.TrimRight(p, " \t") != p {
		l.add(NameChanged, p)
	}
	return p
}

// uri is a path as a URI or a relative reference (RFC 3986, RFC 8089).
func uri(p string) string {
	u := url.URL{Path: p}
	if strings.HasPrefix(p, "/") {
		u.Scheme = "file"
	}
	s := u.String()
	if strings.HasPrefix(p, "/") && !strings.HasPrefix(s, "file://") {
		s = "file://" + strings.TrimPrefix(s, "file:")
	}
	return s
}
