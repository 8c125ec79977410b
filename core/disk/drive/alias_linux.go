package drive

import (
	"path/filepath"

	"github.com/prometheus/procfs"
)

// Aliases are further paths under which a folder, or some of what is below it, can be
// reached, since it is mounted elsewhere too (bind mounts).
func Aliases(path string) []string {
	mounts, err := procfs.GetMounts()
	if err != nil {
		return nil
	}
	list := make([]mount, len(mounts))
	for i, m := range mounts {
		list[i] = mount{m.MajorMinorVer, m.Root, m.MountPoint}
	}
	return aliases(path, list)
}

// mount is a folder of a file system that stands at a point of the tree.
type mount struct{ system, root, point string }

func aliases(path string, mounts []mount) (list []string) {
	best := -1
	for i, m := range mounts { // of several at one point the last is on top
		if Within(m.point, path) && (best < 0 || len(m.point) >= len(mounts[best].point)) {
			best = i
		}
	}
	if best < 0 {
		return nil
	}
	own := mounts[best]
	rel, err := filepath.Rel(own.point, path)
	if err != nil {
		return nil
	}
	inner := filepath.Join(own.root, rel)
	for i, m := range mounts {
		if i == best || m.system != own.system {
			continue
		}
		switch {
		case Within(m.root, inner):
			if rel, err := filepath.Rel(m.root, inner); err == nil {
				list = append(list, filepath.Join(m.point, rel))
			}
		case Within(inner, m.root):
			list = append(list, m.point)
		}
	}
	return list
}
