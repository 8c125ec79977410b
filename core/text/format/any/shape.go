package any

import (
	"regexp"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// media are extensions of files that documents name and that are no documents.
var media = extensions("wav aif aiff aifc flac mp3 ogg opus m4a caf w64 mp4 mov mxf mkv webm avi m2ts png jpg jpeg tif tiff exr hdr dds ktx2 webp bmp tga gif fits psd")

// named are all extensions a guessed name may have.
var named = merged(media, extensions("gltf glb obj dae usd usda usdc usdz x3d wrl stl ply 3mf fbx abc stp step p21 ifc urdf mtl mtlx svg pdf otio otioz otiod edl adl xspf m3u m3u8 cue sfz odt odp odg ods qde qdpx ttf otf woff2 csv tsv srt vtt lut cube bin json xml txt dxf dwg igs"))

// plain are extensions that settings, pages and programs have as well: a name
// that ends with one is no proof of a path.
var plain = extensions("bin json xml txt csv tsv html htm css js")

func extensions(list string) map[string]bool {
	m := map[string]bool{}
	for _, e := range strings.Fields(list) {
		m[e] = true
	}
	return m
}

func merged(maps ...map[string]bool) map[string]bool {
	out := map[string]bool{}
	for _, m := range maps {
		for k := range m {
			out[k] = true
		}
	}
	return out
}

// looksLike tells strings that are one path, and no prose: prose that ends with
// a file name has sentence marks before it.
func looksLike(s string) bool {
	return shaped(s) && !strings.Contains(s, ". ") && !strings.Contains(s, ", ") && !strings.Contains(s, ": ")
}

// likely is looksLike, or that a name leads to a file whatever it looks like.
func likely(s string, d disk) bool { return looksLike(s) || d.has([]byte(s)) }

// shaped tells strings that may be a path: a name with an extension that files
// have, whatever folder stands before it.
func shaped(s string) bool {
	if len(s) < 5 || len(s) > longest || strings.ContainsAny(s, "\r\n\t\x00<>|\"*?") || strings.TrimSpace(s) != s {
		return false
	}
	if i := strings.Index(s, "://"); i >= 0 && !strings.HasPrefix(s, "file://") {
		return false // pages are no material
	}
	dot := strings.LastIndexByte(s, '.')
	if dot < 1 || dot == len(s)-1 || !named[strings.ToLower(s[dot+1:])] {
		return false
	}
	stem := s[:dot]
	c := stem[len(stem)-1]
	return c != '/' && c != '\\' && c != ' '
}

// absolute begins paths of any system: a drive's letter, a share (UNC), the
// folders in which systems keep drives and people's homes, and file URLs
// (RFC 8089).
var absolute = regexp.MustCompile(`^(?:[A-Za-z]:[\\/]|\\\\[^\\/ ]+[\\/]|/(?:Volumes|Users|home|mnt|media|net|srv)/|file:/)`)

// within finds the beginning of such a path after other text, as bytes that
// look like letters may stand before it.
var within = regexp.MustCompile(`[A-Za-z]:[\\/]|\\\\[A-Za-z0-9]|/(?:Volumes|Users)/|file:/`)

// host is what a web page's address begins with when nobody wrote its scheme.
var host = regexp.MustCompile(`^(?:[A-Za-z0-9-]+\.)+[A-Za-z]{2,}$`)

// pattern marks names that a program fills in.
var pattern = regexp.MustCompile(`[{}$*]|%[^0-9A-Fa-f]|%$`)

// nature tells how far a name is to be believed where it leads nowhere. One
// that begins as only paths do is believed anywhere, one that names a folder
// where it fills a whole value; prose, pages of the web, patterns and bare names
// are not.
func nature(name string, whole bool) mention.Nature {
	if !looksLike(name) || plain[strings.ToLower(format.Ext(name))] || strings.ContainsAny(name, "{}$*%") && pattern.MatchString(name) {
		return mention.Guess
	}
	// Most names begin as none of these does, which is cheaper to ask.
	if (strings.IndexByte(`/\f`, name[0]) >= 0 || name[1] == ':') && absolute.MatchString(name) {
		return mention.Shaped
	}
	first, _, folder := strings.Cut(strings.ReplaceAll(name, `\`, "/"), "/")
	if whole && folder && !host.MatchString(first) && !strings.Contains(name, "//") {
		return mention.Shaped
	}
	return mention.Guess
}
