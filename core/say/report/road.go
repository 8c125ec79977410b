package report

import (
	"fmt"
	"path/filepath"
	"slices"

	"boundcrate/core/bring/connect"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/sheet"
)

// Mend is the JSON of `boundcrate mend --json`.
type Mend struct {
	Document  string            `json:"document"`
	Missing   []Missing         `json:"missing"`
	Groups    []Group           `json:"groups"`
	Read      read              `json:"read"`
	Moved     []origin.Move     `json:"moved"`     // old roots that references still name: --accept moved names the files here instead
	Unplugged []unpluggedDrive  `json:"unplugged"` // drives that files are on: connecting them is the answer, not a search
	Searched  int               `json:"searched"`  // files met
	Written   []writing.Written `json:"written"`   // documents repairs were put into
}

// UnpluggedDrive is a drive that is not connected, with how many files are on it.
type unpluggedDrive struct {
	Drive string `json:"drive"`
	Dir   string `json:"dir"`
	Files int    `json:"files"`
}

// OfUnplugged tells the drives that the unplugged files of a graph are on; the answer is
// never nil.
func OfUnplugged(g *graph.Graph, drives []drive.Drive) []unpluggedDrive {
	list := []unpluggedDrive{}
	for i := range g.Files {
		f := &g.Files[i]
		if f.State != graph.Unplugged || len(f.Refs) == 0 {
			continue
		}
		d, ok := drive.Find(drives, f.Path)
		if !ok {
			d = drive.Drive{Dir: filepath.Dir(f.Path)}
		}
		k := slices.IndexFunc(list, func(u unpluggedDrive) bool { return u.Dir == d.Dir })
		if k < 0 {
			k, list = len(list), append(list, unpluggedDrive{Drive: d.Name, Dir: d.Dir})
		}
		list[k].Files++
	}
	return list
}

// Missing is one thing that was looked for.
type Missing struct {
	Document   string      `json:"document"`
	Written    string      `json:"written"`
	Expected   string      `json:"expected"`
	Candidates []Candidate `json:"candidates"`
}

// Candidate is a file that may be the missing one.
type Candidate struct {
	Path      string         `json:"path"`
	Certainty mend.Certainty `json:"certainty"`
	Score     float64        `json:"score"`
	Reasons   []string       `json:"reasons"`
	Warnings  []string       `json:"warnings"`
	Codes     []mend.Code    `json:"codes"`
	Size      int64          `json:"size"`
	Files     int            `json:"files"`
}

// Group is a folder that moved as a whole.
type Group struct {
	From      string         `json:"from"`
	To        string         `json:"to"`
	Files     int            `json:"files"`
	Certainty mend.Certainty `json:"certainty"`
	Reasons   []string       `json:"reasons"`
	Of        int            `json:"of"`       // how many are missing from the folder
	Renamed   string         `json:"renamed"`  // what became of the names; "" nothing
	Warnings  []string       `json:"warnings"` // what speaks against some of them
}

// OfGroup says a group.
func OfGroup(g *mend.Group) Group {
	out := Group{From: g.From, To: g.To, Files: g.Files(), Certainty: g.Certainty, Of: g.Of, Renamed: words.Renamed(g.How), Warnings: []string{}}
	first := words.There(g.Files(), g.Of, out.Renamed == "")
	if i := slices.IndexFunc(g.Members[0].Best.For, func(e mend.Evidence) bool { return e.Code == mend.MendedElsewhere }); i >= 0 {
		first = words.Evidence(g.Members[0].Best.For[i])
	}
	out.Reasons = []string{first}
	for _, code := range []mend.Code{mend.Content, mend.ToldContent, mend.ToldSize, mend.ToldLength, mend.LongEnough} {
		n := 0
		for i := range g.Members {
			if g.Members[i].Best.HasCode(code) {
				n++
			}
		}
		if n > 0 {
			out.Reasons = append(out.Reasons, fmt.Sprintf("%d: %s", n, words.Evidence(mend.Evidence{Code: code})))
		}
	}
	for i := range g.Members {
		for _, e := range g.Members[i].Best.Against {
			out.Warnings = append(out.Warnings, filepath.Base(g.Members[i].Best.Path)+": "+words.Evidence(e))
		}
	}
	return out
}

// Read is how many files were looked at, and how many bytes of them were read.
type read struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

// OfCandidates says candidates; the answer is never nil.
func OfCandidates(list []mend.Candidate) []Candidate {
	out := make([]Candidate, len(list))
	for i, c := range list {
		out[i] = Candidate{c.Path, c.Certainty, c.Score, words.AllEvidence(c.For), words.AllEvidence(c.Against), c.Codes(), c.Size, c.Files}
	}
	return out
}

// Looked adds what a search offered: one entry for each text of each document
// that names a wanted file.
func (m *Mend) Looked(g *graph.Graph, wanted []mend.Wanted, offered [][]mend.Candidate) {
	for i := range wanted {
		cs := OfCandidates(offered[i])
		told := map[[2]string]bool{}
		for _, id := range wanted[i].Refs {
			r := &g.References[id]
			if key := [2]string{g.Where(r.Doc, r.Text), r.Written}; !told[key] {
				told[key] = true
				m.Missing = append(m.Missing, Missing{key[0], key[1], wanted[i].Expected, cs})
			}
		}
	}
	for _, g := range mend.Groups(wanted, offered) {
		m.Groups = append(m.Groups, OfGroup(&g))
	}
}

// Sift is the JSON of `boundcrate sift --json`.
type Sift struct {
	Travels    sum              `json:"travels"`
	Stays      []stay           `json:"stays"`
	Lines      []sift.Line      `json:"lines"`
	Duplicates []sift.Duplicate `json:"duplicates"`
	Namesakes  []sift.Namesake  `json:"namesakes"`
	Strays     []sift.Stray     `json:"strays"`
	Passes     []int            `json:"passes"`
	GivesUp    []sift.Given     `json:"givesUp"`
}

// Sum counts files.
type sum struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

// Stay is a file that stays behind.
type stay struct {
	Path  string   `json:"path"`
	Bytes int64    `json:"bytes"`
	Why   sift.Why `json:"why"`
}

// OfSift weighs a plan's selection.
func OfSift(p *stow.Texts, dups []sift.Duplicate, l *sift.Loose) Sift {
	g := p.Graph
	out := Sift{Stays: []stay{}, Lines: append([]sift.Line{}, sift.Weigh(g, p.Judged, p.Selection)...), Duplicates: append([]sift.Duplicate{}, dups...), Namesakes: append([]sift.Namesake{}, sift.Namesakes(g, dups)...), Strays: append([]sift.Stray{}, l.Strays()...), Passes: p.Selection.Passes, GivesUp: []sift.Given{}}
	for _, x := range sift.GivesUp(g, p.Selection, l, p.Along()) {
		out.GivesUp = append(out.GivesUp, x.What)
	}
	out.Travels.Files, out.Travels.Bytes = p.Totals()
	for i := range g.Files {
		f := &g.Files[i]
		if why, stays := p.Selection.Stays[graph.FileID(i)]; stays && f.Carried {
			out.Stays = append(out.Stays, stay{f.Shown(), f.Size, why})
		}
	}
	return out
}

// Stow is the JSON of `boundcrate stow --json`.
type Stow struct {
	Berths    []berth                `json:"berths"`
	Clashes   int                    `json:"clashes"`
	Counts    map[facts.Kind]sum     `json:"counts"`
	Bytes     int64                  `json:"bytes"`
	About     bool                   `json:"about"` // some sizes are told by samples: the bytes are within a tenth, as a rule
	Files     int                    `json:"files"`
	Estimates map[carrier.Kind]int64 `json:"estimates"`
	Carriers  []carrying             `json:"carriers"`
	Left      []Left                 `json:"left"`
	Losses    []loss                 `json:"losses"`
	Problems  []words.Problem        `json:"problems"`
	Repoint   []Repoint              `json:"repoint"` // names that whoever receives the crate must point anew
}

// Repoint is one of them; what it shall lead to is below data/.
type Repoint struct {
	Document string `json:"document"`
	Owner    string `json:"owner"`
	Written  string `json:"written"`
	To       string `json:"to"`
}

// Berth is one line of the plan.
type berth struct {
	Source  string        `json:"source"`
	To      string        `json:"to"` // below data/
	Kind    facts.Kind    `json:"kind"`
	Bytes   int64         `json:"bytes"`
	Renamed stow.Renaming `json:"renamed,omitempty"`
}

// Carrier is what a carrier of the trade takes of the load.
type carrying struct {
	Name  string `json:"name"`
	Limit int64  `json:"limit"`
	Fits  bool   `json:"fits"`
	Parts int    `json:"parts"`
}

// Left is something that does not travel.
type Left struct {
	Path string       `json:"path"`
	Why  string       `json:"why"`
	Code stow.Absence `json:"code"`
	// Of a document that was connected: the reference that was not.
	Document string `json:"document,omitempty"`
	Written  string `json:"written,omitempty"`
	Message  string `json:"message,omitempty"`
}

// OfLeft says what does not travel; the answer is never nil.
func OfLeft(list []stow.Left) []Left {
	out := make([]Left, len(list))
	for i, l := range list {
		out[i] = Left{Path: l.Path, Why: words.Absence(l.Why, l.Detail), Code: l.Why}
	}
	return out
}

// OfStow makes the contract's shape of a plan, every file of it in the order of
// their places.
func OfStow(p *stow.Texts, ratios stow.Ratios) Stow {
	out := Stow{Berths: []berth{}, Clashes: p.Clashes, Counts: map[facts.Kind]sum{}, Estimates: p.Estimates(ratios), Carriers: []carrying{}, Left: OfLeft(p.LeftOut()), Losses: []loss{}, Repoint: []Repoint{}, Problems: words.Problems(p.Problems())}
	if p.SoundLoses != nil {
		out.Losses = OfLosses([]export.Loss{*p.SoundLoses})
	}
	for _, c := range p.Copies() {
		out.Berths = append(out.Berths, berth{c.Source, c.To, c.Kind, c.Size, c.Renamed})
		s := out.Counts[c.Kind]
		out.Counts[c.Kind] = sum{s.Files + 1, s.Bytes + c.Size}
	}
	for _, m := range p.Made() {
		out.Berths = append(out.Berths, berth{To: m.To, Kind: facts.Document, Bytes: int64(len(m.Bytes))})
		s := out.Counts[facts.Document]
		out.Counts[facts.Document] = sum{s.Files + 1, s.Bytes + int64(len(m.Bytes))}
		for _, l := range OfLosses(m.Losses) {
			l.As = m.Form
			out.Losses = append(out.Losses, l)
		}
	}
	for _, r := range p.Repoints() {
		out.Repoint = append(out.Repoint, Repoint(r))
	}
	out.Files, out.Bytes = p.Totals()
	out.About = p.Margin() > 0
	sizes := p.Sizes()
	for _, l := range carrier.Limits {
		fits, parts := l.Fits(sizes)
		out.Carriers = append(out.Carriers, carrying{l.Name, l.Bytes, fits, parts})
	}
	return out
}

// loss is what a form of interchange cannot carry.
type loss struct {
	As    export.Form `json:"as,omitempty"`
	Code  export.Code `json:"code"`
	What  string      `json:"what"`
	Count int         `json:"count"`
}

// OfLosses says losses; the answer is never nil.
func OfLosses(list []export.Loss) []loss {
	out := make([]loss, len(list))
	for i, l := range list {
		out[i] = loss{Code: l.Code, What: words.Loss(l), Count: l.Count}
	}
	return out
}

// Export is the JSON of `boundcrate export --json`.
type Export struct {
	As      export.Form `json:"as"`
	Out     string      `json:"out"`
	Written bool        `json:"written"`
	Losses  []loss      `json:"losses"`
}

// Seal is the JSON of `boundcrate seal` and `boundcrate check`.
type Seal struct {
	Crate    string          `json:"crate"`
	Files    int             `json:"files"` // of the payload
	Bytes    int64           `json:"bytes"`
	Renamed  []Renamed       `json:"renamed"`
	Left     []Left          `json:"left"`
	Parts    []string        `json:"parts"`
	Complete bool            `json:"complete"`
	Guessed  int             `json:"guessed"` // documents of no known format
	Proof    Proof           `json:"proof"`
	Problems []words.Problem `json:"problems"`
	Copied   *amount         `json:"copied,omitempty"`  // of a seal: what of the payload was copied
	Kept     *amount         `json:"kept,omitempty"`    // and what an earlier crate at its place had already
	Since    string          `json:"since,omitempty"`   // of a difference crate: what it builds on
	Fetched  *amount         `json:"fetched,omitempty"` // and what it lists and does not carry
	SHA256   string          `json:"sha256,omitempty"`  // of a crate that is one file in a format's own package
	Lacks    []string        `json:"lacks"`             // parts that are not beside it, files that are to be fetched and were found nowhere
}

// amount is how much of a payload.
type amount struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

// Renamed is a file whose name in the crate differs from the one it came with.
type Renamed struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Proof is what `complete` rests on.
type Proof struct {
	By          proof.By `json:"by"`          // identity: every reference held against what was sealed for it; trace: the trace alone
	Expected    int      `json:"expected"`    // references that must lead to sealed files
	Held        int      `json:"held"`        // of them, those that do, byte for byte
	Left        int      `json:"left"`        // references whose files did not travel
	Rebuildable int      `json:"rebuildable"` // of them, those whose files a program makes again
	Guessed     int      `json:"guessed"`     // references that no format's rule tells
	Suspect     int      `json:"suspect"`     // files that something spoke against when they were sealed
	Rules       []string `json:"rules"`       // the crate's own rules files that documents were read by
}

func ofProof(r *seal.Report) Proof {
	v := &r.Proof
	return Proof{v.By, v.Expected, v.Held, v.Left, v.Rebuild, v.Guessed, len(r.Suspect), append([]string{}, r.Rules...)}
}

// OfSeal makes the contract's shape of a seal or a check.
func OfSeal(r *seal.Report) Seal {
	out := Seal{Crate: r.Crate, Files: r.Files, Bytes: r.Bytes, Renamed: []Renamed{}, Left: OfLeft(r.Left), Parts: []string{}, Complete: r.Complete, Guessed: r.Proof.Unknown, Proof: ofProof(r), Problems: words.SealProblems(r)}
	for _, x := range r.Renamed {
		out.Renamed = append(out.Renamed, Renamed{x.From, x.To})
	}
	out.Parts = append(out.Parts, r.Parts...)
	out.Lacks = append(append([]string{}, r.Lacks...), r.ToFetch...)
	out.SHA256 = r.SHA256
	if r.Since != "" {
		out.Since, out.Fetched = r.Since, &amount{r.Fetched.Files, r.Fetched.Bytes}
	}
	if r.Copied.Files+r.Stood.Files > 0 {
		out.Copied, out.Kept = &amount{r.Copied.Files, r.Copied.Bytes}, &amount{r.Stood.Files, r.Stood.Bytes}
	}
	return out
}

// Receive is the JSON of `boundcrate receive`.
type Receive struct {
	Seal
	Into       string      `json:"into"`
	Material   string      `json:"material"`
	Documents  []string    `json:"documents"` // that were sealed, as they lie now
	DoesNotFit []misfit    `json:"doesNotFit"`
	Connected  []connected `json:"connected"` // documents from elsewhere that name its files now
}

type connected struct {
	Document   string `json:"document"`
	References int    `json:"references"`
	Edition    string `json:"edition"` // where its earlier state is kept
}

type misfit struct {
	Path    string             `json:"path"`
	Why     receive.MisfitCode `json:"why"`
	Message string             `json:"message"`
}

// Connect tells of documents that were connected. What of them was not is left.
func (r *Receive) Connect(d *connect.Done) {
	for _, c := range d.Connected {
		r.Connected = append(r.Connected, connected(c))
	}
	r.Left = []Left{}
	for _, l := range d.Left {
		r.Left = append(r.Left, Left{Why: string(l.Why), Document: l.Document, Written: l.Written, Message: sheet.NotConnected(l.Why)})
	}
}

// OfReceive makes the contract's shape of what was received.
func OfReceive(r *receive.Report) Receive {
	out := Receive{Seal: OfSeal(&r.Report), Into: r.Into, Material: r.Material, Documents: append([]string{}, r.Documents...), DoesNotFit: []misfit{}, Connected: []connected{}}
	for _, m := range r.DoesNotFit {
		out.DoesNotFit = append(out.DoesNotFit, misfit{m.Path, m.Why, sheet.Misfit(m)})
	}
	return out
}
