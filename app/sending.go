package app

import (
	"context"
	"encoding/json"
	"errors"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/shipping"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/app/send"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/seal"
	"boundcrate/store"
)

// maxCrates bounds the crates and sendings of a project that are listed.
const maxCrates = 50

// Crates lists the crates that were sealed of a project, and where they were sent.
func (a *App) Crates(ctx context.Context, project int64) (shipping.Crates, error) {
	out := shipping.Crates{List: []shipping.Crate{}, Sent: []shipping.Sending{}}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	list, err := a.store.Crates(project, maxCrates)
	if err != nil {
		return out, err
	}
	for _, c := range list {
		at, ok := drive.Abs(reach.Drives, c.Where)
		_, err := reach.Stat(at)
		out.List = append(out.List, shipping.Crate{Path: at, Label: drive.Label(reach.Drives, at), At: c.At, For: c.Recipient, Since: c.Since, Complete: c.Complete, Files: c.Files, Bytes: c.Bytes, There: ok && err == nil})
	}
	sent, err := a.store.Sendings(project, maxCrates)
	if err != nil {
		return out, err
	}
	for _, s := range sent {
		at, _ := drive.Abs(reach.Drives, s.Crate)
		x := shipping.Sending{Crate: drive.Label(reach.Drives, at), Path: at, To: s.Address, For: s.Recipient, Began: s.Began, Bytes: s.Bytes, Trouble: s.Trouble}
		if !send.Remote(s.Address) {
			x.To = drive.Label(reach.Drives, s.Address)
		}
		if !s.Ended.IsZero() {
			x.Ended = &s.Ended
		}
		var r send.Receipt
		if json.Unmarshal([]byte(s.Receipt), &r) == nil {
			x.Receipt, x.SHA256 = r.ID, r.SHA256
		}
		out.Sent = append(out.Sent, x)
	}
	for i := range out.List {
		if c := &out.List[i]; c.There {
			out.Sent = append(out.Sent, sentElsewhere(c, out.Sent)...)
		}
	}
	slices.SortStableFunc(out.Sent, func(x, y shipping.Sending) int { return y.Began.Compare(x.Began) })
	return out, nil
}

// sentElsewhere are the receipts beside a crate that are not known here: of sendings by the command line.
func sentElsewhere(c *shipping.Crate, known []shipping.Sending) (list []shipping.Sending) {
	for _, s := range send.Receipts(c.Path) {
		if !slices.ContainsFunc(known, func(k shipping.Sending) bool { return k.Receipt == s.Receipt.ID }) {
			list = append(list, shipping.Sending{Crate: c.Label, Path: c.Path, To: plainAddress(s.To), For: c.For, Began: s.Receipt.At, Ended: &s.Receipt.At, Bytes: s.Bytes, Receipt: s.Receipt.ID, SHA256: s.Receipt.SHA256})
		}
	}
	return list
}

// carrierOf is where a person wants a crate to go: an address as it was typed, or a folder of a drive.
func (a *App) carrierOf(to string) (string, error) {
	if send.Remote(to) {
		return to, nil
	}
	if _, _, err := a.place(filepath.Join(to, "x")); err != nil {
		return "", err
	}
	return filepath.Clean(to), nil
}

// Carrier tells whether a crate fits on a carrier. An address is called for it, as a person asked.
func (a *App) Carrier(ctx context.Context, project int64, in shipping.AskCarrier) (shipping.CarrierTakes, error) {
	to, err := a.carrierOf(in.To)
	if err != nil {
		return shipping.CarrierTakes{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return shipping.CarrierTakes{}, err
	}
	if _, err := reach.Stat(in.Crate); err != nil {
		return shipping.CarrierTakes{}, err
	}
	limit, size, err := send.Fits(ctx, send.Options{Crate: in.Crate, To: to})
	out := shipping.CarrierTakes{Limit: limit, Size: size, Fits: err == nil}
	var large *send.LimitError
	if errors.As(err, &large) {
		out.Parts = large.Parts
	}
	if err != nil {
		out.Why = send.Says(err)
	}
	return out, nil
}

// Send sends a crate, as a job. What broke off goes on where it came to when it is sent again.
func (a *App) Send(ctx context.Context, project int64, in shipping.SendRequest) (api.Started, error) {
	p, err := a.store.Project(project)
	if err != nil {
		return api.Started{}, err
	}
	to, err := a.carrierOf(in.To)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	if _, err := reach.Stat(in.Crate); err != nil {
		return api.Started{}, err
	}
	if !seal.IsBag(in.Crate) {
		return api.Started{}, fault.Say(fault.Wrong, "No crate", "‘"+in.Crate+"’ is not a crate.")
	}
	row := &store.Sending{Project: p.ID, Began: time.Now(), Crate: drive.At(reach.Drives, in.Crate), Address: plainAddress(to)}
	if o, err := chosen(p); err == nil {
		row.Recipient = o.For
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobSend, Project: p.ID, Slot: in.Crate, Title: "Sending " + filepath.Base(in.Crate), Unit: "bytes"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		if err := a.store.PutSending(row); err != nil {
			return api.Nothing{}, "", err
		}
		a.hub.Send(api.Event{Type: api.EventProject, Project: p.ID})
		defer a.hub.Send(api.Event{Type: api.EventProject, Project: p.ID})
		memory, err := a.store.Memory(nil)
		if err != nil {
			return api.Nothing{}, "", err
		}
		defer memory.Close()
		sent, err := send.Run(ctx, send.Options{Crate: in.Crate, To: to, Token: in.Token, Sum: memory.Hasher(reach), State: filepath.Join(a.store.Dir(), "sending"), Progress: func(sent, total int64) {
			if sent < 0 {
				j.Step("reading the crate", 0, 0)
				return
			}
			j.Advance("sending", jobs.Pace{Done: sent, Total: total})
		}})
		row.Ended = time.Now()
		if err != nil {
			if ctx.Err() == nil {
				row.Trouble = send.Says(err)
				err = fault.Say(fault.Conflict, "Not sent", row.Trouble)
			}
			return api.Nothing{}, "", errors.Join(err, a.store.PutSending(row))
		}
		receipt, err := json.Marshal(sent.Receipt)
		if err != nil {
			return api.Nothing{}, "", err
		}
		row.Bytes, row.Receipt = sent.Bytes, string(receipt)
		if err := a.store.PutSending(row); err != nil {
			return api.Nothing{}, "", err
		}
		if _, err := send.KeepReceipt(sent, a.store.Dir()); err != nil {
			a.log.Warn("a receipt is kept on the project alone", "error", err)
		}
		return api.Nothing{}, "Sent and received whole", nil
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// plainAddress is an address without what may be secret in it.
func plainAddress(to string) string {
	if !send.Remote(to) {
		return to
	}
	u, err := url.Parse(to)
	if err != nil {
		return ""
	}
	u.User, u.RawQuery, u.Fragment = nil, "", ""
	return u.String()
}

// forecast is what sealing again to a folder copies, and what stands there, by size and time.
func forecast(out string, copies []travelling, shares bool) (stands, goes packing.Amount) {
	for _, c := range copies {
		if fi, err := os.Lstat(filepath.Join(out, "data", filepath.FromSlash(c.to))); err == nil && shares && (c.doc || fi.Size() == c.size) && fi.ModTime().Equal(c.mod) {
			stands.Files, stands.Bytes = stands.Files+1, stands.Bytes+c.size
			continue
		}
		goes.Files, goes.Bytes = goes.Files+1, goes.Bytes+c.size
	}
	return stands, goes
}

// lasts is how long a drive takes for some bytes, in seconds, as its speed was tested; 0 where it never was.
func (a *App) lasts(reach drive.Set, at string, bytes int64) float64 {
	d, ok := drive.Find(reach.Drives, at)
	rows, err := a.store.Drives()
	if !ok || err != nil {
		return 0
	}
	for _, r := range rows {
		if r.ID == d.ID && r.Gives > 0 {
			return float64(bytes) / float64(r.Gives)
		}
	}
	return 0
}

// travelling is a file that a plan copies, as it stands now.
type travelling struct {
	to   string
	size int64
	mod  time.Time
	doc  bool // a document, whose size in the crate is another
}

func sheetOf(project int64) string { return "project-" + strconv.FormatInt(project, 10) }
