package index_test

import (
	"context"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/disk/index/indextest"
)

func TestMemory(t *testing.T) {
	for name, skim := range map[string]bool{"whole": false, "names alone": true} {
		t.Run(name, func(t *testing.T) {
			indextest.Run(t, !skim, func(t *testing.T, dir string) index.Index {
				x, err := index.Build(context.Background(), index.Options{Reach: drive.System{}, Dirs: []string{dir}, Names: skim})
				if err != nil {
					t.Fatal(err)
				}
				return x
			})
		})
	}
}
