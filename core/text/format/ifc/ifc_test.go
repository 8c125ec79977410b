package ifc

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `ISO-10303-21;
HEADER;
FILE_SCHEMA(('IFC4'));
ENDSEC;
DATA;
#1=IFCDOCUMENTREFERENCE('drawings/lamp%20room.pdf','D1',$,$,$);
#2=IFCDOCUMENTREFERENCE('https://example.org/page',$,$,$,$);
#3=IFCDOCUMENTINFORMATION('D2','Plan',$,'drawings/plan.pdf',$,$,$,$,$,$,$,$,$,$,$,$,$);
#4=IFCIMAGETEXTURE(.T.,.T.,$,$,$,'textures/brass.png');
#5=IFCBLOBTEXTURE(.T.,.T.,$,$,$,'PNG',"089504E47");
#6=IFCLIBRARYREFERENCE($,'L',$,$,$,$);
#7=IFCEXTERNALLYDEFINEDSURFACESTYLE('styles.ifc',$,$);
ENDSEC;
END-ISO-10303-21;
`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.ifc", sample,
		"used document reference | drawings/lamp%20room.pdf", "used document | drawings/plan.pdf", "used picture texture | textures/brass.png",
		"used (inside 4) picture texture | ", "used surface style | styles.ifc",
	)
	formattest.Table(t, Format{}, "old.ifc", "ISO-10303-21;HEADER;FILE_SCHEMA(('IFC2X3'));ENDSEC;DATA;#1=IFCIMAGETEXTURE(.T.,.T.,$,$,'brass.png');#2=IFCDOCUMENTINFORMATION('D','N',$,(#3),$,$,$,$,$,$,$,$,$,$,$,$,$);ENDSEC;END-ISO-10303-21;",
		"used picture texture | brass.png")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.ifc", []byte(sample))
}
