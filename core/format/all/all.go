// Package all lists every format the application reads.
package all

import (
	"boundcrate/core/format"
	"boundcrate/core/format/adl"
	"boundcrate/core/format/any"
	"boundcrate/core/format/collada"
	"boundcrate/core/format/css"
	"boundcrate/core/format/cue"
	"boundcrate/core/format/edl"
	"boundcrate/core/format/epub"
	"boundcrate/core/format/gbrjob"
	"boundcrate/core/format/gltf"
	"boundcrate/core/format/html"
	"boundcrate/core/format/ifc"
	"boundcrate/core/format/list"
	"boundcrate/core/format/m3u"
	"boundcrate/core/format/mhl"
	"boundcrate/core/format/mtl"
	"boundcrate/core/format/mtlx"
	"boundcrate/core/format/obj"
	"boundcrate/core/format/odf"
	"boundcrate/core/format/otio"
	"boundcrate/core/format/qde"
	"boundcrate/core/format/rocrate"
	"boundcrate/core/format/sfz"
	"boundcrate/core/format/step"
	"boundcrate/core/format/sums"
	"boundcrate/core/format/svg"
	"boundcrate/core/format/urdf"
	"boundcrate/core/format/usda"
	"boundcrate/core/format/x3d"
	"boundcrate/core/format/xspf"
)

// Formats returns them, in no order that matters.
func Formats() format.Set {
	return format.Set{
		adl.Format{},
		any.Format{},
		collada.Format{},
		css.Format{},
		cue.Format{},
		edl.Format{},
		epub.Format{},
		gbrjob.Format{},
		gltf.Format{},
		html.Format{},
		ifc.Format{},
		list.Format{},
		m3u.Format{},
		mhl.Format{},
		mtl.Format{},
		mtlx.Format{},
		obj.Format{},
		odf.Format{},
		otio.Format{},
		qde.Format{},
		rocrate.Format{},
		sfz.Format{},
		step.Format{},
		sums.Format{},
		svg.Format{},
		urdf.Format{},
		usda.Format{},
		x3d.Format{},
		xspf.Format{},
	}
}
