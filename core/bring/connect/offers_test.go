package connect_test

import (
	"archive/zip"
	"os"
	"path/filepath"
	"testing"

	"boundcrate/core/bring/connect"
	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
)

// TestOffers: of crates and archives that hold wanted names the one with the most is offered; what a
// difference crate only lists is not held; what cannot be read offers nothing.
func TestOffers(t *testing.T) {
	sum := "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855"
	dir := coretest.Lay(t, map[string]string{
		"one/bagit.txt": "BagIt-Version: 1.0\n", "one/manifest-sha256.txt": sum + "  data/audio/gull cry.wav\n" + sum + "  data/audio/Rain.WAV\n",
		"lean/bagit.txt": "BagIt-Version: 1.0\n", "lean/manifest-sha256.txt": sum + "  data/gull cry.wav\n" + sum + "  data/rain.wav\n" + sum + "  data/bell.wav\n",
		"lean/fetch.txt":                  "ni:///sha-256;47DEQpj8HBSa-_TImW-5JCeuQeRkm5NMpJWZG3hSuFU 0 data/rain.wav\nni:///sha-256;47DEQpj8HBSa-_TImW-5JCeuQeRkm5NMpJWZG3hSuFU 0 data/bell.wav\n",
		"new.partial/bagit.txt":           "BagIt-Version: 1.0\n",
		"broken.zip":                      "PK\x03\x04 and nothing more",
		"new.partial/manifest-sha256.txt": sum + "  data/gull cry.wav\n" + sum + "  data/rain.wav\n" + sum + "  data/bell.wav\n",
	})
	f, err := os.Create(filepath.Join(dir, "sent.zip"))
	if err != nil {
		t.Fatal(err)
	}
	z := zip.NewWriter(f)
	for _, n := range []string{"sent/harbour.png", "sent/quay.png"} {
		if _, err := z.Create(n); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	f.Close()
	x, err := index.Build(t.Context(), index.Options{Reach: drive.System{}, Dirs: []string{dir}})
	if err != nil {
		t.Fatal(err)
	}
	got, err := connect.Offers(t.Context(), x, []connect.Wanted{
		{"film", []string{"gull cry.wav", "rain.wav", "bell.wav"}}, {"hall", []string{"Harbour.PNG", "quay.png", "other.png"}},
		{"rest", []string{"nowhere.wav"}}, {"whole", nil},
	})
	if err != nil {
		t.Fatal(err)
	}
	want := []connect.Offer{{"film", filepath.Join(dir, "one"), 2}, {"hall", filepath.Join(dir, "sent.zip"), 2}}
	if len(got) != 2 || got[0] != want[0] || got[1] != want[1] {
		t.Errorf("offered %v, want %v", got, want)
	}
}
