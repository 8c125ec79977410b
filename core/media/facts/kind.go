// Package facts tells what a file is and what can be known of it from its
// header alone: kind, length, rate, depth, channels, frame size. The whole of
// a file is read only for its fingerprint.
package facts

import (
	"bytes"
	"strings"

	"boundcrate/core/text/format"
)

// Kind is the coarse kind of a file, in the words of the command line.
type Kind string

// The kinds.
const (
	Audio    Kind = "audio"
	Video    Kind = "video"
	Image    Kind = "image"
	Sequence Kind = "sequence"
	Geometry Kind = "geometry"
	Part     Kind = "part"
	Material Kind = "material"
	Drawing  Kind = "drawing"
	Document Kind = "document"
	Data     Kind = "data"
	Other    Kind = "other"
)

// Kinds are all of them.
var Kinds = []Kind{Audio, Video, Image, Sequence, Geometry, Part, Material, Drawing, Document, Data, Other}

var byExtension = func() map[string]Kind {
	m := map[string]Kind{}
	for kind, list := range map[Kind]string{
		Audio:    "wav aif aiff aifc flac mp3 ogg opus m4a caf w64",
		Video:    "mp4 mov mxf mkv webm avi m2ts ts m4s",
		Image:    "png jpg jpeg tif tiff exr hdr dds ktx2 webp bmp tga gif fits",
		Geometry: "gltf glb obj dae usd usda usdc usdz x3d wrl stl ply 3mf",
		Part:     "stp step p21 ifc urdf",
		Material: "mtl mtlx",
		Drawing:  "svg svgz pdf",
		Document: "otio otioz otiod edl adl xspf m3u m3u8 cue sfz odt odp odg ods odf qde qdpx",
		Data:     "bin json csv txt xml",
	} {
		for _, ext := range strings.Fields(list) {
			m[ext] = kind
		}
	}
	return m
}()

// KindOfName goes by the extension.
func KindOfName(name string) Kind {
	if k, ok := byExtension[format.Ext(name)]; ok {
		return k
	}
	return Other
}

// magic lists signatures at a fixed place of a file's beginning.
var magic = []struct {
	off  int
	sig  string
	kind Kind
}{
	{8, "WAVE", Audio}, {8, "AIFF", Audio}, {8, "AIFC", Audio}, {0, "fLaC", Audio}, {0, "ID3", Audio}, {0, "OggS", Audio}, {0, "caff", Audio},
	{8, "WEBP", Image}, {8, "AVI ", Video}, {4, "ftypM4A", Audio}, {4, "ftyp", Video}, {0, "\x1A\x45\xDF\xA3", Video}, {0, "\x06\x0E\x2B\x34", Video},
	{0, "\x89PNG\r\n\x1A\n", Image}, {0, "\xFF\xD8\xFF", Image}, {0, "II*\x00", Image}, {0, "MM\x00*", Image}, {0, "\x76\x2F\x31\x01", Image},
	{0, "#?RADIANCE", Image}, {0, "DDS ", Image}, {0, "\xABKTX 20\xBB\r\n\x1A\n", Image}, {0, "GIF8", Image}, {0, "SIMPLE  =", Image},
	{0, "glTF", Geometry}, {0, "ply\n", Geometry}, {0, "#usda", Geometry}, {0, "PXR-USDC", Geometry}, {0, "#X3D", Geometry}, {0, "#VRML", Geometry},
	{0, "ISO-10303-21;", Part}, {0, "%PDF-", Drawing},
}

// KindOf goes by content, else by the extension.
func KindOf(name string, head []byte) Kind {
	for _, m := range magic {
		if len(head) >= m.off && bytes.HasPrefix(head[m.off:], []byte(m.sig)) {
			return m.kind
		}
	}
	return KindOfName(name)
}
