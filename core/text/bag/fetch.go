package bag

import (
	"bufio"
	"bytes"
	"encoding/base64"
	"encoding/hex"
	"io"
	"sort"
	"strconv"
	"strings"
)

// Fetch is a line of fetch.txt.
type Fetch struct {
	URI    string
	Length int64 // bytes; −1: not told
	Path   string
}

// WriteFetch lists what is to be fetched, in order of paths.
func WriteFetch(w io.Writer, list []Fetch) error {
	sort.Slice(list, func(i, j int) bool { return list[i].Path < list[j].Path })
	b := bufio.NewWriter(w)
	for _, f := range list {
		length := "-"
		if f.Length >= 0 {
			length = strconv.FormatInt(f.Length, 10)
		}
		b.WriteString(f.URI + " " + length + " " + escape(f.Path) + "\n")
	}
	return b.Flush()
}

// ReadFetch reads fetch.txt. bad lists lines that are none, 1-based.
func ReadFetch(text []byte) (list []Fetch, bad []int, err error) {
	sc := bufio.NewScanner(bytes.NewReader(text))
	sc.Split(lines)
	sc.Buffer(make([]byte, 1<<16), 1<<20)
	for n := 1; sc.Scan(); n++ {
		line := sc.Text()
		if line == "" {
			continue
		}
		uri, rest, ok := cutSpace(line)
		length, name, ok2 := cutSpace(rest)
		f := Fetch{URI: uri, Length: -1, Path: unescape(name)}
		if length != "-" {
			var perr error
			if f.Length, perr = strconv.ParseInt(length, 10, 64); perr != nil || f.Length < 0 {
				ok = false
			}
		}
		if !ok || !ok2 || uri == "" || name == "" {
			bad = append(bad, n)
			continue
		}
		list = append(list, f)
	}
	return list, bad, sc.Err()
}

// cutSpace cuts a line at its first linear white space.
func cutSpace(s string) (before, after string, ok bool) {
	i := strings.IndexAny(s, " \t")
	if i < 0 {
		return s, "", false
	}
	return s[:i], strings.TrimLeft(s[i:], " \t"), true
}

// niPrefix begins the names of things by their SHA-256 (RFC 6920 §3), without an authority.
const niPrefix = "ni:///sha-256;"

// NI is the name of what has a SHA-256, given in hexadecimal: base64url without padding (RFC 6920 §3).
// It is "" where that is no SHA-256.
func NI(sha256 string) string {
	b, err := hex.DecodeString(sha256)
	if err != nil || len(b) != 32 {
		return ""
	}
	return niPrefix + base64.RawURLEncoding.EncodeToString(b)
}

// OfNI is the SHA-256 that a name tells, in hexadecimal; not ok for any other URI. An authority and a
// query are not asked (RFC 6920 §3: they only help to find it).
func OfNI(uri string) (sha256 string, ok bool) {
	rest, ok := strings.CutPrefix(uri, "ni://")
	if !ok {
		return "", false
	}
	_, rest, ok = strings.Cut(rest, "/")
	rest, _, _ = strings.Cut(rest, "?")
	value, named := strings.CutPrefix(rest, "sha-256;")
	b, err := base64.RawURLEncoding.DecodeString(value)
	if !ok || !named || err != nil || len(b) != 32 {
		return "", false
	}
	return hex.EncodeToString(b), true
}
