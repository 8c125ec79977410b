// Package lists writes what others read a crate by: RO-Crate 1.1 metadata and an ASC Media Hash List.
// Both are part of the payload.
package lists

import (
	"bytes"
	"crypto/sha512"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"math/big"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"
)

// Kind is a list that can lie in a crate.
type Kind string

// The lists.
const (
	ROCrate Kind = "ro-crate" // RO-Crate Metadata Specification 1.1
	MHL     Kind = "mhl"      // ASC Media Hash List 2.0
)

// Kinds are all of them.
var Kinds = []Kind{ROCrate, MHL}

// File is a file of the payload.
type File struct {
	Path   string // below data/, with slashes
	Size   int64
	SHA256 string
	XXH3   uint64 // of 64 bits
	Mod    time.Time
}

// Crate is what a list tells of.
type Crate struct {
	Name, Note, From string
	Documents        []string // below data/
	Made             time.Time
	Software         string
	Version          string
	Files            []File
}

// Made is a file of a list, by its place below data/.
type Made struct {
	Path  string
	Bytes []byte
}

// Make writes lists of a crate, each of all its files but the lists themselves.
func Make(c Crate, kinds ...Kind) ([]Made, error) {
	c.Files = slices.Clone(c.Files)
	slices.SortFunc(c.Files, func(a, b File) int { return strings.Compare(a.Path, b.Path) })
	var out []Made
	if slices.Contains(kinds, ROCrate) {
		b, err := c.roCrate()
		if err != nil {
			return nil, err
		}
		out = append(out, Made{"ro-crate-metadata.json", b})
	}
	if slices.Contains(kinds, MHL) {
		list, err := c.mhl()
		if err != nil {
			return nil, err
		}
		out = append(out, list...)
	}
	return out, nil
}

type id struct {
	ID string `json:"@id"`
}

type entity map[string]any

// roCrate is the metadata document (RO-Crate 1.1: root data entity, §3.2; data entities, §4.2;
// provenance, §9).
func (c Crate) roCrate() ([]byte, error) {
	when := c.Made.UTC().Format(time.RFC3339)
	description := c.Note
	if description == "" {
		description = "Files that " + c.Name + " uses, gathered in one crate."
	}
	root := entity{"@id": "./", "@type": "Dataset", "name": c.Name, "description": description, "datePublished": when}
	graph := []entity{
		{"@id": "ro-crate-metadata.json", "@type": "CreativeWork", "conformsTo": id{"https://w3id.org/ro/crate/1.1"}, "about": id{"./"}},
		root,
	}
	software := entity{"@id": "#software", "@type": "SoftwareApplication", "name": c.Software, "softwareVersion": c.Version}
	action := entity{"@id": "#sealing", "@type": "CreateAction", "name": "Sealing the crate", "instrument": id{"#software"}, "endTime": when, "result": id{"./"}}
	if c.From != "" {
		root["author"] = id{"#from"}
		action["agent"] = id{"#from"}
		graph = append(graph, entity{"@id": "#from", "@type": "Organization", "name": c.From})
	}
	parts := make([]id, 0, len(c.Files))
	for _, f := range c.Files {
		at := Reference(f.Path)
		parts = append(parts, id{at})
		e := entity{"@id": at, "@type": "File", "name": path.Base(f.Path), "contentSize": fmt.Sprint(f.Size), "encodingFormat": MediaType(f.Path), "sha256": f.SHA256}
		if !f.Mod.IsZero() {
			e["dateModified"] = f.Mod.UTC().Format(time.RFC3339)
		}
		graph = append(graph, e)
	}
	root["hasPart"] = parts
	root["mentions"] = id{"#sealing"}
	if len(c.Documents) > 0 {
		root["mainEntity"] = id{Reference(c.Documents[0])}
	}
	graph = append(graph, action, software)
	var b bytes.Buffer
	w := json.NewEncoder(&b)
	w.SetEscapeHTML(false)
	w.SetIndent("", " ")
	err := w.Encode(map[string]any{"@context": "https://w3id.org/ro/crate/1.1/context", "@graph": graph})
	return b.Bytes(), err
}

// Reference is a path as a relative URI reference (RFC 3986 §4.2).
func Reference(p string) string {
	parts := strings.Split(p, "/")
	for i, s := range parts {
		parts[i] = url.PathEscape(s)
	}
	if s := strings.Join(parts, "/"); !strings.Contains(parts[0], ":") {
		return s
	}
	return "./" + strings.Join(parts, "/")
}

// mediaTypes are those that the application's own kinds of files have (IANA, where it lists them).
var mediaTypes = map[string]string{
	".wav": "audio/vnd.wave", ".bwf": "audio/vnd.wave", ".aif": "audio/aiff", ".aiff": "audio/aiff", ".flac": "audio/flac", ".mp3": "audio/mpeg", ".ogg": "audio/ogg", ".opus": "audio/opus", ".m4a": "audio/mp4",
	".mov": "video/quicktime", ".mp4": "video/mp4", ".mkv": "video/matroska", ".webm": "video/webm", ".mxf": "application/mxf", ".avi": "video/vnd.avi",
	".png": "image/png", ".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".tif": "image/tiff", ".tiff": "image/tiff", ".exr": "image/aces", ".gif": "image/gif", ".webp": "image/webp", ".svg": "image/svg+xml", ".bmp": "image/bmp", ".dpx": "image/x-dpx",
	".gltf": "model/gltf+json", ".glb": "model/gltf-binary", ".obj": "model/obj", ".mtl": "model/mtl", ".stl": "model/stl", ".step": "model/step", ".stp": "model/step", ".usda": "model/vnd.usda", ".usdz": "model/vnd.usdz+zip",
	".json": "application/json", ".otio": "application/json", ".xml": "application/xml", ".csv": "text/csv", ".txt": "text/plain", ".html": "text/html", ".css": "text/css", ".pdf": "application/pdf", ".m3u": "audio/mpegurl", ".m3u8": "application/vnd.apple.mpegurl", ".xspf": "application/xspf+xml", ".edl": "text/plain", ".zip": "application/zip", ".yaml": "application/yaml",
}

// MediaType is a file's, by its name; unknown ones are bytes.
func MediaType(name string) string {
	if t := mediaTypes[strings.ToLower(path.Ext(name))]; t != "" {
		return t
	}
	return "application/octet-stream"
}

type mhlPath struct {
	Size int64  `xml:"size,attr"`
	Mod  string `xml:"lastmodificationdate,attr,omitempty"`
	Path string `xml:",chardata"`
}

type mhlDigest struct {
	Action string `xml:"action,attr"`
	Date   string `xml:"hashdate,attr"`
	Sum    string `xml:",chardata"`
}

type mhlHash struct {
	Path mhlPath   `xml:"path"`
	XXH3 mhlDigest `xml:"xxh3"`
}

type mhlTool struct {
	Version string `xml:"version,attr"`
	Name    string `xml:",chardata"`
}

type hashList struct {
	XMLName xml.Name  `xml:"hashlist"`
	Version string    `xml:"version,attr"`
	Space   string    `xml:"xmlns,attr"`
	Date    string    `xml:"creatorinfo>creationdate"`
	Tool    mhlTool   `xml:"creatorinfo>tool"`
	Process string    `xml:"processinfo>process"`
	Ignore  []string  `xml:"processinfo>ignore>pattern"`
	Hashes  []mhlHash `xml:"hashes>hash"`
}

type chain struct {
	XMLName xml.Name `xml:"ascmhldirectory"`
	Space   string   `xml:"xmlns,attr"`
	List    struct {
		Number int    `xml:"sequencenr,attr"`
		Path   string `xml:"path"`
		C4     string `xml:"c4"`
	} `xml:"hashlist"`
}

// mhlFolder holds the generations of a folder's history.
const mhlFolder = "ascmhl"

// mhl is the first generation of a history, with its chain file (ASC MHL 2.0; the names of elements
// from memory).
func (c Crate) mhl() ([]Made, error) {
	when := c.Made.UTC()
	h := hashList{Version: "2.0", Space: "urn:ASC:MHL:v2.0", Date: when.Format(time.RFC3339), Tool: mhlTool{c.Version, c.Software}, Process: "transfer", Ignore: []string{".DS_Store", mhlFolder, mhlFolder + "/"}}
	for _, f := range c.Files {
		x := mhlHash{mhlPath{Size: f.Size, Path: f.Path}, mhlDigest{"original", h.Date, fmt.Sprintf("%016x", f.XXH3)}}
		if !f.Mod.IsZero() {
			x.Path.Mod = f.Mod.UTC().Format(time.RFC3339)
		}
		h.Hashes = append(h.Hashes, x)
	}
	list, err := marshal(h)
	if err != nil {
		return nil, err
	}
	name := "0001_" + c.Name + "_" + when.Format("2006-01-02_150405Z") + ".mhl"
	var all chain
	all.Space, all.List.Number, all.List.Path, all.List.C4 = "urn:ASC:MHL:DIRECTORY:v2.0", 1, name, C4(list)
	links, err := marshal(all)
	return []Made{{path.Join(mhlFolder, name), list}, {path.Join(mhlFolder, "ascmhl_chain.xml"), links}}, err
}

func marshal(v any) ([]byte, error) {
	b, err := xml.MarshalIndent(v, "", "  ")
	return append([]byte(xml.Header), append(b, '\n')...), err
}

const base58 = "123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz"

// C4 is the identifier of content by its SHA-512 in base 58 (SMPTE ST 2114:2017).
func C4(content []byte) string {
	sum := sha512.Sum512(content)
	n, m, base := new(big.Int).SetBytes(sum[:]), new(big.Int), big.NewInt(58)
	text := make([]byte, 88)
	for i := len(text) - 1; i >= 0; i-- {
		n.DivMod(n, base, m)
		text[i] = base58[m.Int64()]
	}
	return "c4" + string(text)
}
