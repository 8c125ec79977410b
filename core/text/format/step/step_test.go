package step

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `ISO-10303-21;
HEADER;
FILE_DESCRIPTION(('gear train; with a semicolon'),'2;1');
FILE_NAME('clock.stp','2026-03-04',(),(),'','','');
FILE_SCHEMA(('AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF'));
ENDSEC;
REFERENCE;
#900=<parts/escapement.stp#wheel>;
#901=<#own>;
ENDSEC;
DATA;
/* DOCUMENT_FILE('not_me.stp') */
#10=DOCUMENT_FILE('great wheel','','',#11,'',$);
#11=DOCUMENT_TYPE('geometry');
#12=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('great wheel.stp',#13,#14,(#10));
#13=IDENTIFICATION_ROLE('external document id and location',$);
#14=EXTERNAL_SOURCE(IDENTIFIER('parts'));
#15=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('pinion\X2\00FC\X0\.stp',#13,#14,(#16));
#16=DOCUMENT_FILE('pinion',$,$,#11,$,$);
#17=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('STEP AP214',#18,#19,(#10));
#18=IDENTIFICATION_ROLE('version',$);
#19=EXTERNAL_SOURCE(IDENTIFIER(''));
#20=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('frame ''A''.stp',#13,#19,(#21));
#21=DOCUMENT_FILE('frame',$,$,#11,$,$);
#22=DOCUMENT_FILE('plain.stp',$,$,#11,$,$);
ENDSEC;
END-ISO-10303-21;
`

// TestMentions holds the row of the table, after the CAx-IF recommended
// practice for external references (§3, its entity names and role).
func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.stp", sample,
		"used REFERENCE section | parts/escapement.stp#wheel",
		"used document #10 | great wheel.stp → parts/great wheel.stp",
		"used document #16 | pinionü.stp → parts/pinionü.stp",
		"used document #21 | frame 'A'.stp",
		"used document #22 | plain.stp",
	)
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.stp", sample[:len(sample)-30], "in the middle", 4)
	formattest.Bad(t, Format{}, "x.stp", "ISO-10303-21;\nDATA;\n#1=DOCUMENT_FILE('a.stp',$,$,$,$,$);\nnonsense;", "line 4: damaged-from", 1)
	formattest.Bad(t, Format{}, "x.stp", "solid x", "not with ISO-10303-21;", 0)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.stp", []byte(sample))
}

// TestOwners: a reference is named after the product whose document it is, else
// after the document, and by its number alone where nobody named either. A
// comment may stand anywhere between tokens (ISO 10303-21 §6.3.7).
func TestOwners(t *testing.T) {
	head, end := "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(),(),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n", "ENDSEC;\nEND-ISO-10303-21;\n"
	formattest.Table(t, Format{}, "x.stp", head+`#1=PRODUCT('W-7','great wheel','',(#9));
#2=PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE('','',#1,.MADE.);
#3=PRODUCT_DEFINITION('design','',#2,#9);
#4=DOCUMENT_FILE(/* where it is */'wheel.stp','','',#9,'',$);
#5=APPLIED_DOCUMENT_REFERENCE(#4,'',(#3));
#6=DOCUMENT_FILE('pinion.stp' /* the new one */,'pinion, cut twice','',#9,'',$);
#7=DOCUMENT_FILE('frame.stp',$,$,#9,$,$);
#8=PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS('design','',#12,#9,(#10));
#10=DOCUMENT_FILE('arbor.stp','','',#9,'',$);
#11=PRODUCT('arbor','','',(#9));
#12=PRODUCT_DEFINITION_FORMATION('','',#11);
`+end, "used product 'great wheel' | wheel.stp", "used document 'pinion, cut twice' | pinion.stp", "used document #7 | frame.stp", "used product 'arbor' | arbor.stp")
}
