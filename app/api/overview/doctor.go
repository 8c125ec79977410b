package overview

import "boundcrate/app/examine"

// Examined is what works on this machine, and what does not.
type Examined struct {
	Version  string           `json:"version"`
	Database string           `json:"database"` // what is wrong with it; "" nothing
	Folders  []examine.Tested `json:"folders"`
	Well     bool             `json:"well"` // nothing that is needed fails
}
