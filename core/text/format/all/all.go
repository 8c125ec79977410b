// Package all lists every format the application reads.
package all

import (
	"boundcrate/core/text/format"
	"boundcrate/core/text/format/adl"
	"boundcrate/core/text/format/any"
	"boundcrate/core/text/format/collada"
	"boundcrate/core/text/format/css"
	"boundcrate/core/text/format/cue"
	"boundcrate/core/text/format/edl"
	"boundcrate/core/text/format/epub"
	"boundcrate/core/text/format/gbrjob"
	"boundcrate/core/text/format/gltf"
	"boundcrate/core/text/format/html"
	"boundcrate/core/text/format/ifc"
	"boundcrate/core/text/format/list"
	"boundcrate/core/text/format/m3u"
	"boundcrate/core/text/format/mhl"
	"boundcrate/core/text/format/mtl"
	"boundcrate/core/text/format/mtlx"
	"boundcrate/core/text/format/obj"
	"boundcrate/core/text/format/odf"
	"boundcrate/core/text/format/otio"
	"boundcrate/core/text/format/qde"
	"boundcrate/core/text/format/rocrate"
	"boundcrate/core/text/format/sfz"
	"boundcrate/core/text/format/step"
	"boundcrate/core/text/format/sums"
	"boundcrate/core/text/format/svg"
	"boundcrate/core/text/format/urdf"
	"boundcrate/core/text/format/usda"
	"boundcrate/core/text/format/x3d"
	"boundcrate/core/text/format/xspf"
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
