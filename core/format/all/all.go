// Package all lists every format the application reads.
package all

import (
	"boundcrate/core/format"
	"boundcrate/core/format/gltf"
	"boundcrate/core/format/otio"
)

// Formats returns them, in no order that matters.
func Formats() format.Set {
	return format.Set{otio.Format{}, gltf.Format{}}
}
