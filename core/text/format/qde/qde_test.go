package qde

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const text = `<?xml version="1.0" encoding="utf-8"?>
<Project name="Spoken memories" basePath="/Bench/memories" xmlns="urn:QDA-XML:project:1.0"><Sources>
<AudioSource name="keeper" path="relative://audio/keeper on fog.wav" currentPath="absolute:///old/keeper.wav"><Transcript plainTextPath="internal://t1.txt" richTextPath="internal://t1.docx"/></AudioSource>
<PDFSource name="log" path="internal://log.pdf"><Representation plainTextPath="internal://gone.txt"/></PDFSource>
<VideoSource name="tour" path="absolute:///Quay/tour.mp4"/>
</Sources></Project>`

var sample = formattest.Zip("project.qde", text, "Sources/log.pdf", "%PDF-1.4", "sources/t1.txt", "hello", "sources/t1.docx", "PK")

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.qdpx", sample,
		"used (alt 1, in project.qde) AudioSource 'keeper' | relative://audio/keeper on fog.wav → /Bench/memories/audio/keeper on fog.wav",
		"used (alt 1, in project.qde) AudioSource 'keeper' | absolute:///old/keeper.wav → /old/keeper.wav",
		"used (inside 5, in project.qde) AudioSource 'keeper' | internal://t1.txt",
		"used (inside 2, in project.qde) AudioSource 'keeper' | internal://t1.docx",
		"used (inside 8, in project.qde) PDFSource 'log' | internal://log.pdf",
		"used (in project.qde) PDFSource 'log' | internal://gone.txt → ",
		"used (in project.qde) VideoSource 'tour' | absolute:///Quay/tour.mp4 → /Quay/tour.mp4",
	)
	formattest.Table(t, Format{}, "x.qde", `<Project xmlns="urn:QDA-XML:project:1.0" basePath="media"><PictureSource name="p" path="relative:///a.png"/><PictureSource name="q" path="absolute:///C:/b.png"/><PDFSource path="internal://c.pdf"/></Project>`,
		"used PictureSource 'p' | relative:///a.png → media/a.png", "used PictureSource 'q' | absolute:///C:/b.png → C:/b.png", "used PDFSource | internal://c.pdf → sources/c.pdf")
	formattest.Table(t, Format{}, "x.qde", `<Project xmlns="urn:QDA-XML:project:1.0"><PictureSource name="p" path="relative://a.png"/></Project>`,
		"used PictureSource 'p' | relative://a.png → a.png")
	formattest.Table(t, Format{}, "x.qde", `<Project xmlns="urn:QDA-XML:project:1.0"><TextSource name="t" richTextPath="internal://1.docx" plainTextPath="internal://1.txt"/><PDFSource currentPath="relative://b.pdf" path="internal://a.pdf"/></Project>`,
		"used TextSource 't' | internal://1.docx → sources/1.docx", "used TextSource 't' | internal://1.txt → sources/1.txt",
		"used (alt 1) PDFSource | internal://a.pdf → sources/a.pdf", "used (alt 1) PDFSource | relative://b.pdf → b.pdf")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.qdpx", []byte(sample))
}
