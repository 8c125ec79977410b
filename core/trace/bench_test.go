package trace_test

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/drive"
	"boundcrate/core/format/all"
	"boundcrate/core/trace"
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
		if err != nil || len(g.References) != 400_000 || g.NeedsPerson() {
			b.Fatal(err)
		}
	}
}
