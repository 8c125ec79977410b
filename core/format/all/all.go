// Package all lists every format the application reads.
package all

import (
	"boundcrate/core/format"
	"boundcrate/core/format/cue"
	"boundcrate/core/format/gbrjob"
	"boundcrate/core/format/gltf"
	"boundcrate/core/format/m3u"
	"boundcrate/core/format/mtl"
	"boundcrate/core/format/obj"
	"boundcrate/core/format/otio"
	"boundcrate/core/format/urdf"
	"boundcrate/core/format/xspf"
)

// Formats returns them, in no order that matters.
func Formats() format.Set {
	return format.Set{
		cue.Format{},
		gbrjob.Format{},
		gltf.Format{},
		m3u.Format{},
		mtl.Format{},
		obj.Format{},
		otio.Format{},
		urdf.Format{},
		xspf.Format{},
	}
}
