// Package examine tries what can be done on this machine, for the command line and the page.
package examine

import (
	"os"
	"path/filepath"
	"time"

	"boundcrate/core/disk/ability"
	"boundcrate/core/disk/drive"
	"boundcrate/core/say/words/ableness"
)

// Tested is a folder that was tried.
type Tested struct {
	Name   string    `json:"name"`
	Dir    string    `json:"dir"`
	There  bool      `json:"there"`
	Silent bool      `json:"silent"` // it did not answer in time
	Tried  []Ability `json:"tried"`
}

// Ability is something that was tried in a folder.
type Ability struct {
	What   ability.What `json:"what"`
	Can    bool         `json:"can"`
	Needed bool         `json:"needed"`
	Says   string       `json:"says"`
}

// Well tells that nothing fails there that is needed. A drive that is not connected is no fault
// of this machine.
func (e Tested) Well() bool {
	for _, t := range e.Tried {
		if !t.Can && t.Needed {
			return false
		}
	}
	return !e.Silent
}

// triesWait is how long a folder has to be tried.
const triesWait = 10 * time.Second

// All tries what can be done in the data folder and on each drive, side by side. It leaves
// nothing behind.
func All(data string, drives []drive.Drive) []Tested {
	list := []Tested{{Name: "data folder", Dir: filepath.Clean(data)}}
	for _, d := range drives {
		list = append(list, Tested{Name: d.Name, Dir: filepath.Clean(d.Dir)})
	}
	said := make([]chan Tested, len(list))
	for i, e := range list {
		said[i] = make(chan Tested, 1)
		go func() { said[i] <- tried(e) }()
	}
	late := time.After(triesWait)
	over := false
	for i := range list {
		if !over {
			select {
			case list[i] = <-said[i]:
				continue
			case <-late:
				over = true
			}
		}
		select {
		case list[i] = <-said[i]:
		default:
			list[i].Silent, list[i].Tried = true, []Ability{}
		}
	}
	return list
}

func tried(e Tested) Tested {
	e.Tried = []Ability{}
	if _, err := os.Stat(e.Dir); err != nil {
		return e
	}
	e.There = true
	for _, t := range ability.Of(e.Dir) {
		e.Tried = append(e.Tried, Ability{t.What, t.Can, t.Needed, ableness.Sentence(t)})
	}
	return e
}
