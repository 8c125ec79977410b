package index_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
)

// TestPack: what is packed comes back as it was, whatever the files are called and
// whatever their numbers, and a listing cut anywhere is refused.
func TestPack(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	number := func() int64 {
		return []int64{0, 1, -1, math.MaxInt64, math.MinInt64, rng.Int64(), -rng.Int64N(1 << 40)}[rng.IntN(7)]
	}
	for n := range 40 {
		var files []drive.Entry
		for range n {
			name := strings.Repeat([]string{"a", "ö", "\xff", "\n", "take "}[rng.IntN(5)], 1+rng.IntN(60))
			files = append(files, drive.Entry{Name: name, Size: number() & math.MaxInt64, Mod: number(), Node: drive.Node{Dev: uint64(number()), Ino: uint64(number()), Changed: number()}})
		}
		folder := drive.Folder{Files: files, Folders: []string{"a", "ö\xff"}[:n%3%2+n%2], Stamp: drive.Stamp{Size: 4096, Mod: number(), Node: drive.Node{Dev: 7, Ino: uint64(number()), Changed: number()}}}
		packed := index.Pack(nil, folder)
		got, err := index.Unpack(packed)
		if err != nil || !slices.Equal(got.Files, files) || !slices.Equal(got.Folders, folder.Folders) || got.Stamp != folder.Stamp {
			t.Fatalf("%d files: %v\n%+v\n%+v", n, err, folder, got)
		}
		for i := range packed {
			if got, err := index.Unpack(packed[:i]); err == nil {
				t.Fatalf("cut at %d of %d it is %+v", i, len(packed), got)
			}
		}
	}
	if _, err := index.Unpack([]byte{0, 0, 0, 0, 0, 0, 0xff, 0xff, 0xff, 0xff, 0x7f, 1}); err == nil {
		t.Error("a listing of more files than bytes was read")
	}
}
