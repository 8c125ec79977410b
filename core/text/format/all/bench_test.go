package all

import (
	"fmt"
	"runtime"
	"strings"
	"testing"

	"boundcrate/core/text/format/formattest"
)

// BenchmarkRead reads 50 MB of every carrier, dense with mentions and nearly
// empty of them. It reports milliseconds for each MB, microseconds for each
// mention beyond 10 ms for each MB, and bytes kept for each mention.
func BenchmarkRead(b *testing.B) {
	const size = 50 << 20
	fill := func(head, unit, end string) string {
		var s strings.Builder
		s.Grow(size + 1000)
		s.WriteString(head)
		for i := 0; s.Len() < size; i++ {
			if strings.Contains(unit, "%d") {
				fmt.Fprintf(&s, unit, i)
			} else {
				s.WriteString(unit)
			}
		}
		return s.String() + end
	}
	step := "ISO-10303-21;HEADER;ENDSEC;DATA;\n"
	for _, c := range []struct{ name, file, dense, sparse string }{
		{"json", "x.otio",
			fill(`{"OTIO_SCHEMA":"Track.1","children":[{"OTIO_SCHEMA":"Gap.1"}`, `,{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"sound/take %d.wav","available_range":null,"metadata":{}}}`, "]}"),
			fill(`{"OTIO_SCHEMA":"Track.1","metadata":[0`, `,{"k":"value","n":1.25}`, "]}")},
		{"xml", "x.xspf",
			fill(`<playlist xmlns="http://xspf.org/ns/0/"><trackList>`, "<track><location>sound/take%%20%d.wav</location><title>take</title><duration>1000</duration></track>\n", "</trackList></playlist>"),
			fill(`<playlist xmlns="http://xspf.org/ns/0/"><trackList>`, "<track id=\"x\"><title>a take of no name</title><duration>1000</duration></track>\n", "</trackList></playlist>")},
		{"part21", "x.stp",
			fill(step+"#1=IDENTIFICATION_ROLE('external document id and location',$);\n#2=EXTERNAL_SOURCE(IDENTIFIER('parts'));\n", "#9=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('part %d.stp',#1,#2,(#10));\n", "ENDSEC;END-ISO-10303-21;"),
			fill(step, "#7=CARTESIAN_POINT('',(1.25,-0.5,3.75));\n", "ENDSEC;END-ISO-10303-21;")},
		{"usd", "x.usda",
			fill("#usda 1.0\n", "def Shader \"s\" { asset inputs:file = @tex/tile %d.png@ }\n", ""), fill("#usda 1.0\ndef Mesh \"m\" { point3f[] points = [", "(1.25, -0.5, 3.75), ", "] }\n")},
		{"lines", "x.m3u", fill("#EXTM3U\n", "sound/some longer folder name/take %d.wav\n", ""), fill("#EXTM3U\n", "# nothing that names a file stands on this line\n", "")},
	} {
		for kind, text := range map[string]string{"dense": c.dense, "sparse": c.sparse} {
			b.Run(c.name+"/"+kind, func(b *testing.B) {
				src := []byte(text)
				b.SetBytes(int64(len(src)))
				mentions := 0
				var before, after runtime.MemStats
				for b.Loop() {
					b.StopTimer() // the memory kept is weighed apart
					runtime.GC()
					runtime.ReadMemStats(&before)
					b.StartTimer()
					file, err := Formats().Open(c.file, formattest.NewSource(src))
					if err != nil {
						b.Fatal(err)
					}
					b.StopTimer()
					runtime.GC()
					runtime.ReadMemStats(&after)
					b.StartTimer()
					mentions = len(file.Doc.Mentions)
					runtime.KeepAlive(file)
				}
				ms := float64(b.Elapsed().Milliseconds()) / float64(b.N)
				mb := float64(len(src)) / (1 << 20)
				b.ReportMetric(ms/mb, "ms/MB")
				b.ReportMetric(float64(mentions), "mentions")
				if mentions > 1000 {
					b.ReportMetric(max(0, ms-10*mb)*1000/float64(mentions), "µs/mention-over")
					b.ReportMetric((float64(after.HeapAlloc)-float64(before.HeapAlloc)-float64(len(src)))/float64(mentions), "kept-B/mention")
				}
			})
		}
	}
}
