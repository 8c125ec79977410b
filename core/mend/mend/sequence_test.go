package mend_test

import (
	"context"
	"fmt"
	"path/filepath"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// TestFilled: a sequence whose numbers lie in three folders is filled from one after the
// other, each as it is found; what stands in its own folder stays.
func TestFilled(t *testing.T) {
	rt := func(v int) string { return fmt.Sprintf(`{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":%d}`, v) }
	span := `{"OTIO_SCHEMA":"TimeRange.1","start_time":` + rt(1001) + `,"duration":` + rt(20) + `}`
	files := map[string]string{"film/fog.otio": `{"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","name":"s","children":[{"OTIO_SCHEMA":"Track.1","name":"V1","kind":"Video","children":[
		{"OTIO_SCHEMA":"Clip.1","name":"fog","source_range":` + span + `,"media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"shots","name_prefix":"fog.","name_suffix":".png","start_frame":1001,"frame_step":1,"rate":25,"frame_zero_padding":4,"available_range":` + span + `}}]}]}}`}
	for n := 1001; n <= 1020; n++ {
		files[fmt.Sprintf("%s/fog.%d.png", map[bool]string{n < 1009: "film/shots", n >= 1009 && n < 1015: "more", n >= 1015: "late"}[true], n)] = fmt.Sprint(n)
	}
	dir := coretest.Lay(t, files)
	var repairs []resolve.Repair
	for round, lacks := range []int{12, 6, 0} {
		g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Repairs: repairs}, filepath.Join(dir, "film/fog.otio"))
		if err != nil {
			t.Fatal(err)
		}
		missing := mend.Missing(g, nil, mend.Nothing)
		if f := g.Files[g.References[0].File].Frames; len(f.Files) != 20-lacks || len(missing) != min(1, lacks) {
			t.Fatalf("round %d: %d files, %d missing", round, len(f.Files), len(missing))
		}
		if lacks == 0 {
			break
		}
		x, err := index.Build(context.Background(), index.Options{Reach: drive.System{}, Dirs: []string{dir}})
		if err != nil {
			t.Fatal(err)
		}
		got, err := mend.Find(context.Background(), x, missing, reading(nil), nil)
		if err != nil || len(got[0]) != lacks/6 {
			t.Fatalf("round %d: %+v %v", round, got, err)
		}
		repairs = append(repairs, missing[0].Repair(got[0][0]))
	}
}
