package seal

import (
	"path"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/disk/drive/drivetest"
	"boundcrate/core/text/format/all"
)

// TestVault: an archive that was streamed once answers as a folder does.
func TestVault(t *testing.T) {
	v := newVault("/crate", all.Formats())
	defer v.close()
	for name, text := range drivetest.Files {
		if err := v.take(name, strings.NewReader(text)); err != nil {
			t.Fatal(err)
		}
	}
	drivetest.Run(t, v, "/crate")
	if list, err := v.ReadDir("/crate/none"); err == nil {
		t.Errorf("a folder that is not there lists %v", list)
	}
}

// TestVaultKeepsDocuments: of what a format claims everything is kept, of a leaf
// its beginning; both tell the size they have in the archive.
func TestVaultKeepsDocuments(t *testing.T) {
	v := newVault("/crate", all.Formats())
	defer v.close()
	list := "#EXTM3U\n" + strings.Repeat("a.wav\n", 20_000)
	for name, text := range map[string]string{"data/cut.m3u8": list, "data/noise.bin": strings.Repeat("\x00\x01\x02\x03", 20_000)} {
		if err := v.take(name, strings.NewReader(text)); err != nil {
			t.Fatal(err)
		}
		info, err := v.Stat(path.Join("/crate", name))
		if err != nil || info.Size != int64(len(text)) {
			t.Errorf("%s: %+v %v", name, info, err)
		}
	}
	f, err := v.Open("/crate/data/cut.m3u8")
	if err != nil {
		t.Fatal(err)
	}
	got := make([]byte, len(list))
	if n, err := f.ReadAt(got, 0); n != len(list) || string(got) != list {
		t.Errorf("%d bytes of %d were kept: %v", n, len(list), err)
	}
	dirs, err := v.ReadDir("/crate/data")
	var names []string
	for _, e := range dirs {
		names = append(names, e.Name())
	}
	if err != nil || !slices.Equal(names, []string{"cut.m3u8", "noise.bin"}) {
		t.Errorf("%q %v", names, err)
	}
}
