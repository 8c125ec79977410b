package trace_test

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// BenchmarkRun traces one document of 400,000 clips that name 5,000 files.
func BenchmarkRun(b *testing.B) {
	files := map[string]string{}
	for i := range 5000 {
		files[fmt.Sprintf("media/take %d.wav", i)] = "x"
	}
	var doc strings.Builder
	doc.WriteString(`{"OTIO_SCHEMA":"Track.1","name":"V","children":[{"OTIO_SCHEMA":"Gap.1"}`)
	for i := range 400_000 {
		fmt.Fprintf(&doc, `,{"OTIO_SCHEMA":"Clip.1","name":"c%d","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/take%%20%d.wav"}}`, i, i%5000)
	}
	files["big.otio"] = doc.String() + "]}"
	dir := coretest.Lay(b, files)
	for b.Loop() {
		g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "big.otio"))
		if err != nil || len(g.References) != 400_000 || tally.Of(g, nil, nil).NeedsPerson() {
			b.Fatal(err)
		}
	}
}

// BenchmarkAgain traces a timeline of 40 MB, 20,000 clips of 2,000 files, that
// did not change since it was traced; ×/first is beside the first trace.
func BenchmarkAgain(b *testing.B) {
	files := map[string]string{}
	fill := strings.Repeat(`"slate and colour notes of the day, as the camera wrote them; ",`, 28)
	var doc strings.Builder
	doc.WriteString(`{"OTIO_SCHEMA":"Track.1","name":"V","children":[{"OTIO_SCHEMA":"Gap.1"}`)
	for i := range 20_000 {
		if i < 2000 {
			files[fmt.Sprintf("media/take %d.wav", i)] = "x"
		}
		fmt.Fprintf(&doc, `,{"OTIO_SCHEMA":"Clip.1","name":"c%d","metadata":{"notes":[%s"end"]},"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/take%%20%d.wav"}}`, i, fill, i%2000)
	}
	files["big.otio"] = doc.String() + "]}"
	dir := coretest.Lay(b, files)
	run := func(r *trace.Readings) time.Duration {
		began := time.Now()
		g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Readings: r}, filepath.Join(dir, "big.otio"))
		if err != nil || len(g.References) != 20_000 {
			b.Fatal(err)
		}
		return time.Since(began)
	}
	var first, again time.Duration
	for b.Loop() {
		r := new(trace.Readings)
		if took := run(r); first == 0 || took < first {
			first = took
		}
		if took := run(r); again == 0 || took < again {
			again = took
		}
	}
	b.ReportMetric(again.Seconds()/first.Seconds(), "×/first")
	b.ReportMetric(1000*again.Seconds(), "ms/again")
}
