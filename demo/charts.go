package demo

import (
	"fmt"
	"path/filepath"
	"time"

	"boundcrate/core/keep/loose"
)

// charts is the folder of the photographs of old charts: a project with no document.
const charts = "Bench/chart room"

var nights = []struct {
	folder string
	sheets []string
}{
	{"night 1", []string{"sheet 01 harbour mouth", "sheet 02 east bank", "sheet 03 soundings"}},
	{"night 2", []string{"sheet 01 harbour mouth again", "sheet 04 compass rose", "sheet 05 lightship station"}},
}

// photographs are two nights at the copy stand, with masks and a log.
func (w *world) photographs() {
	for _, n := range nights {
		for i, s := range n.sheets {
			w.add(fmt.Sprintf("%s/%s/%s.png", charts, n.folder, s), func() []byte { return still(n.folder+s, 480, 320, 0.3+0.15*float64(i)) })
		}
	}
	w.add(charts+"/masks/sheet 04 mask.png", func() []byte { return still("mask", 480, 320, 0.9) })
	w.text(charts+"/exposures.txt", "night 1  lamp at 45 degrees, f/8, 1/4 s\nnight 2  lamp turned down, f/8, 1/2 s\n")
}

// gathered makes the photographs a loose set. A sheet that was photographed later is not in it yet.
func (w *world) gathered(now time.Time) error {
	s := loose.Set{
		Title: "Chart photographs", Author: "Chart room", Note: "Two nights at the copy stand.\nSheet 01 was taken twice; the second is sharper.", Made: now,
		Files: []string{w.path(charts + "/exposures.txt")}, Patterns: []string{"*.txt"},
	}
	for _, n := range nights {
		g := loose.Group{Name: n.folder, Patterns: []string{n.folder + "/*.png"}}
		for _, sheet := range n.sheets {
			g.Files = append(g.Files, w.path(fmt.Sprintf("%s/%s/%s.png", charts, n.folder, sheet)))
		}
		s.Groups = append(s.Groups, g)
	}
	s.Groups = append(s.Groups, loose.Group{Name: "masks", Files: []string{w.path(charts + "/masks/sheet 04 mask.png")}})
	return loose.Write(filepath.Join(w.path(charts), loose.Name), s)
}
