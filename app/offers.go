package app

import (
	"context"
	"encoding/json"
	"strconv"

	"boundcrate/app/api/overview"
	"boundcrate/core/bring/connect"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
)

// offersKept is the setting under which the crates are kept that hold what projects lack.
const offersKept = "offers"

// offer is one of them: which row of Survey it is for, and where the crate lies.
type offer struct {
	Of    string
	Crate drive.Path
	Files int
}

// lookForOffers looks at the crates and archives of the drives for names of what projects and documents lack.
func (a *App) lookForOffers(ctx context.Context, reach drive.Set, x index.Index) error {
	healths, err := a.store.Healths(reach.Drives)
	if err != nil {
		return err
	}
	var wanted []connect.Wanted
	for _, h := range healths {
		of := h.Document
		if h.Project != 0 {
			of = strconv.FormatInt(h.Project, 10)
		}
		wanted = append(wanted, connect.Wanted{Of: of, Names: h.Says.Lacks})
	}
	found, err := connect.Offers(ctx, x, wanted)
	if err != nil {
		return err
	}
	list := []offer{}
	for _, o := range found {
		list = append(list, offer{o.Of, drive.At(reach.Drives, o.Crate), o.Files})
	}
	text, err := json.Marshal(list)
	if err != nil {
		return err
	}
	return a.store.SetSetting(offersKept, string(text))
}

// offered are those of which the crate is there still, by row. What cannot be read offers nothing.
func (a *App) offered(drives []drive.Drive, on map[string]bool) map[string]*overview.CrateOffer {
	text, err := a.store.Setting(offersKept)
	var list []offer
	if err != nil || text == "" || json.Unmarshal([]byte(text), &list) != nil {
		return nil
	}
	reach, err := a.reach()
	if err != nil {
		return nil
	}
	out := map[string]*overview.CrateOffer{}
	for _, o := range list {
		at, ok := drive.Abs(drives, o.Crate)
		if !ok || !on[o.Crate.Drive] {
			continue
		}
		if _, err := reach.Stat(at); err == nil {
			out[o.Of] = &overview.CrateOffer{Crate: at, Label: drive.Label(drives, at), Files: o.Files}
		}
	}
	return out
}

// offerKey is how a row of Survey is known among them.
func offerKey(r overview.StockRow) string {
	if r.Project != nil {
		return strconv.FormatInt(r.Project.ID, 10)
	}
	return r.Document
}
