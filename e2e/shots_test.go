package e2e

import (
	"flag"
	"os"
	"path/filepath"
	"testing"
)

var shots = flag.String("shots", "", "folder to write the pictures of the documentation to")

// TestShots takes the pictures of the main views from the sample world. It
// runs only when asked: make shots.
func TestShots(t *testing.T) {
	if *shots == "" {
		t.Skip("pictures are taken by make shots")
	}
	if err := os.MkdirAll(*shots, 0o755); err != nil {
		t.Fatal(err)
	}
	a := serveDemo(t)
	p := open(t, a)
	take := func(name string) {
		if err := os.WriteFile(filepath.Join(*shots, name+".png"), p.shot(), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	p.visit("/")
	p.sees("Tide Clock film")
	p.click("Check all projects")
	p.sees("need attention")
	p.idle()
	take("survey")

	p.do(clickLink(p, "Tide Clock film"))
	p.sees("Outside the project folder")
	p.idle()
	p.click("foghorn_low_02.wav")
	p.sees("Last known state")
	take("trace")
	p.key("n")
	take("trace-night")
	p.key("n")

	p.click("threads")
	p.sees("Bench/downloads")
	take("threads")
	p.click("folders")

	p.key("w")
	p.sees("lead out of the project")
	take("write-points")

	p.key("2")
	p.sees("Where should Bound Crate search?")
	p.lookIn("Bench/tide-clock", "Quay")
	p.click("Search these folders")
	p.sees("files searched")
	p.idle()
	p.click("gull over stern.wav")
	p.sees("of 100")
	take("mend")
	p.key("3")
	p.sees("Sizes by kind and use")
	take("sift")

	p.click("Shuttle")
	p.click("Plug in")
	p.key("\x1b")
	p.idle()
	p.visit(p.at())
	p.mendRest()

	p.key("4")
	p.sees("folder in the crate")
	take("stow")

	p.key("5")
	p.sees("Destination")
	take("seal-before")
	p.click("Seal crate")
	p.sees("Sealed and proved complete")
	take("seal")
	p.visit("/api/projects/1/sheet")
	p.sees("Handoff sheet")
	take("sheet")

	p.visit("/p/1/keep?edition=9")
	p.sees("Since edition")
	p.idle()
	take("keep")
	p.visit("/p/16/set")
	p.sees("1 new file")
	p.idle()
	take("loose-set")

	p.visit("/p/2/inside")
	p.sees("weather stain")
	take("inside")

	p.visit("/")
	p.do(clickLink(p, "Clock mechanism"))
	p.sees("1 file missing (1 part)")
	p.idle()
	p.do(clickExact(p, "document"))
	p.click("moon pinion 12.stp")
	p.sees("gear train.stp")
	take("assembly")

	p.click("Rules")
	p.sees("Gallery player loop")
	for _, dir := range []string{"Bench", "tide-clock", "foghorn", "gallery.loop"} {
		p.clickIn("aside", dir)
	}
	p.sees("write point")
	take("rules")

	p.click("Drives")
	p.press("main button", "Loft")
	p.sees("while Gallery bells plays")
	p.click("Test speed")
	p.sees("tested ")
	p.idle()
	take("drives")

	p.click("Clear out")
	p.sees("Can this folder be removed?")
	for _, dir := range []string{"Bench", "old film"} {
		p.clickIn("aside", dir)
	}
	p.click("Check folder")
	p.sees("Not safe to remove")
	p.idle()
	take("clearout")

	p.click("Receive")
	p.sees("Which crate?")
	p.clickIn("aside", "Quay")
	p.clickIn("aside", "Tide Clock film crate")
	p.click("Check")
	p.sees("Undamaged and complete")
	take("receive")
}
