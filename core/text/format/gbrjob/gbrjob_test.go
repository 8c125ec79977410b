package gbrjob

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `{"Header": {"Comment": "Path"}, "FilesAttributes": [
  {"Path": "board top.gbr", "FileFunction": "Copper,L1,Top", "FilePolarity": "Positive"},
  {"FileFunction": "Profile", "Path": "gerber\/outline.gbr"}, {"Path": 7}, null
], "MaterialStackup": [{"Path": "not me"}]}`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.gbrjob", sample, "used Copper,L1,Top | board top.gbr", "used Profile | gerber/outline.gbr")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.gbrjob", []byte(sample))
}
