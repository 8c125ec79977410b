package e2e

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
)

// TestParts: a crate is sealed in parts on the page that seals; the page that receives finds
// all of them by one, says which lacks, and unpacks them as one that sha512sum finds whole.
func TestParts(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 7))
	files := map[string]string{"film/cut.m3u": "a.wav\nb.wav\nc.wav\n"}
	for _, n := range []string{"a", "b", "c"} {
		noise := make([]byte, 600_000) // which nothing packs
		for i := range noise {
			noise[i] = byte(rng.Uint32())
		}
		files["film/"+n+".wav"] = string(noise)
	}
	a := bare(t, files)
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.clickIn("aside", "cut.m3u")
	p.click("Open cut.m3u")
	p.sees("Everything is here")
	p.idle()

	p.station("Seal")
	p.sees("Ready to seal")
	p.press("aside [role=radio]", "ZIP")
	p.write("Megabytes of each part at most", "0.5"+enter)
	p.sees("Parts must be at least 1 MB")
	p.expectConsole("422")
	p.write("Megabytes of each part at most", "1"+enter)
	p.seesNot("Parts must be at least 1 MB")
	p.press("aside button", "add SHA-512")
	p.until("for it to be chosen", `[...document.querySelectorAll('aside button[aria-pressed=true]')].some((b) => b.innerText === 'add SHA-512')`)
	p.write("Recipient", "Sound desk"+enter)
	p.idle()
	p.click("Seal crate")
	p.sees("Sealed and proved complete")
	p.sees("and 2 more parts beside it")
	p.sees("3 parts")

	p.click("Receive")
	p.clickIn("aside [aria-label='Folder contents']", "Bench")
	p.clickIn("aside [aria-label='Folder contents']", "film crate-2of3.zip")
	p.click("Check")
	p.sees("Undamaged and complete")
	p.sees("3 of 3")
	away := filepath.Join(t.TempDir(), "part.zip")
	third := a.path("Bench/film crate-3of3.zip")
	if err := os.Rename(third, away); err != nil {
		t.Fatal(err)
	}
	p.visit("/receive")
	p.clickIn("aside [aria-label='Folder contents']", "Bench")
	p.clickIn("aside [aria-label='Folder contents']", "film crate-2of3.zip")
	p.click("Check")
	p.sees("Undamaged, but incomplete")
	p.sees("2 of 3")
	p.sees("not beside")
	if err := os.Rename(away, third); err != nil {
		t.Fatal(err)
	}
	p.visit("/receive")
	p.clickIn("aside [aria-label='Folder contents']", "Bench")
	p.clickIn("aside [aria-label='Folder contents']", "film crate-2of3.zip")
	p.clickIn("aside section:nth-of-type(2) [aria-label='Folder contents']", "Bench")
	p.click("Check and unpack")
	p.sees("Checked and unpacked")
	judge(t, a.path("Bench/film crate"), "sha512sum", "--strict", "--quiet", "-c", "manifest-sha512.txt")
}
