package words

import (
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"syscall"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/media/pcm"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Reason says an error without repeating the path.
func Reason(err error) string {
	var (
		pe      *fs.PathError
		p       problem.Problem
		refused *problem.NoError
		to      *mention.CannotSayError
	)
	switch {
	case err == nil:
		return ""
	case errors.As(err, &p):
		return OfProblem(p).Message
	case errors.As(err, &to):
		return "“" + to.Name + "” cannot be written there: " + Reason(to.Err)
	case errors.As(err, &refused):
		return no(refused.Why, refused.Of)
	case errors.Is(err, fs.ErrNotExist):
		return "file not found"
	case errors.Is(err, fs.ErrPermission):
		return "permission denied"
	case errors.Is(err, syscall.ENOSPC):
		return "the disk is full"
	case errors.As(err, &pe):
		return pe.Err.Error()
	}
	return err.Error()
}

// Error makes prose of an error the core returns; of any other, its own text.
func Error(err error) string {
	var (
		doc     *trace.Error
		set     *fileset.Error
		changed *trace.ChangedError
		refusal *seal.Refusal
		no      *seal.NoCrate
		write   *writing.Error
		copying *content.ReadError
		source  *content.ChangedError
		sealing *seal.WriteError
		unpack  *receive.Error
		pe      *fs.PathError
	)
	if kept := keepError(err); kept != "" {
		return kept
	}
	switch {
	case errors.As(err, &write):
		return writeError(write)
	case errors.As(err, &set):
		return "‘" + set.Path + "’ was not written: " + Reason(set.Err) + "."
	case errors.As(err, &refusal):
		return "The crate cannot be sealed to ‘" + refusal.Out + "’: " + Refusal(refusal) + ". Nothing was written."
	case errors.As(err, &no):
		if no.Err == nil {
			return "‘" + no.Path + "’ cannot be checked as a crate because it has no bagit.txt."
		}
		return "‘" + no.Path + "’ cannot be checked as a crate: " + Reason(no.Err) + "."
	case errors.As(err, &unpack):
		return unpackError(unpack)
	case errors.As(err, &source):
		return "‘" + source.Path + "’ changed while it was being copied. The crate was not made; the file was not changed. Wait until no program writes to it, then seal again."
	case errors.As(err, &copying):
		return "‘" + copying.Path + "’ could not be copied: " + Reason(copying.Err) + ". The crate was not made; the file was not changed."
	case errors.As(err, &sealing):
		if errors.Is(sealing.Err, syscall.ENOSPC) {
			return "The destination is full; ‘" + sealing.Path + "’ could not be written. The crate was not made; the unfinished files were deleted."
		}
		return "‘" + sealing.Path + "’ could not be written: " + Reason(sealing.Err) + ". The crate was not made."
	case errors.As(err, &changed):
		return "‘" + changed.Path + "’ changed since it was traced. Nothing was written. Trace again."
	case errors.As(err, &doc):
		return "‘" + doc.Path + "’ could not be read: " + Reason(doc.Err) + "."
	case errors.Is(err, drive.ErrOutside) && errors.As(err, &pe):
		return "‘" + pe.Path + "’ is outside your drives and was not read."
	case errors.Is(err, drive.ErrUnplugged) && errors.As(err, &pe):
		return "‘" + pe.Path + "’ is on a drive that is not connected. Connect the drive and try again."
	case errors.Is(err, fs.ErrNotExist) && errors.As(err, &pe):
		return "‘" + pe.Path + "’ was not found."
	case errors.Is(err, drive.ErrNotRegular) && errors.As(err, &pe):
		return "‘" + pe.Path + "’ is not a file."
	}
	return err.Error()
}

func writeError(e *writing.Error) string {
	switch e.Step {
	case writing.Saying:
		return "‘" + e.Document + "’: " + Reason(e.Err) + ". Nothing was written."
	case writing.Keeping:
		return "No edition of ‘" + e.Document + "’ could be kept: " + Reason(e.Err) + ". Nothing was written."
	case writing.Busy:
		return "Another program is writing to ‘" + e.Document + "’ right now. Nothing was written."
	case writing.Spoiled:
		return "The edition of ‘" + e.Document + "’ is damaged. Nothing was restored, and the document was not changed."
	case writing.Unfinished:
		return "Other documents were written, but ‘" + e.Document + "’ was not: " + strings.TrimSuffix(Error(e.Err), ".") + ". Their earlier states are kept as editions."
	case writing.Syncing:
		return "‘" + e.Document + "’ was written, but the system did not confirm that it is safe on disk: " + Reason(e.Err) + "."
	}
	return "‘" + e.Document + "’ could not be written: " + Reason(e.Err) + ". It was not changed."
}

func unpackError(e *receive.Error) string {
	switch e.Step {
	case receive.BadBase:
		return fmt.Sprintf("‘%s’ has a top folder that cannot be unpacked: %q.", e.Crate, e.At)
	case receive.There:
		return "‘" + e.At + "’ is already there. Nothing was unpacked. Choose another folder."
	case receive.Busy:
		return "Another crate is being unpacked to ‘" + e.At + "’. Nothing was unpacked."
	case receive.Lacking:
		return "‘" + e.Crate + "’ is one of several parts, and ‘" + e.At + "’ is not beside it. Nothing was unpacked."
	case receive.Making:
		return "Nothing can be unpacked to ‘" + e.At + "’: " + Reason(e.Err) + "."
	case receive.Naming:
		return "‘" + e.At + "’ could not be created: " + Reason(e.Err) + "."
	}
	return "‘" + e.Crate + "’ could not be unpacked: " + Reason(e.Err) + ". The unfinished files were deleted."
}

// Refusal is why a crate must not be written to a place, as the end of a
// sentence.
func Refusal(e *seal.Refusal) string {
	switch e.Code {
	case seal.OutNoName:
		return "it has no name"
	case seal.OutBadName:
		return "a crate must not be called “" + e.Detail + "”"
	case seal.OutDocument:
		return "that is a document of the project"
	case seal.OutInside:
		return "it is inside the project folder. Choose a place outside " + e.Detail
	case seal.OutInCrate:
		return "it is inside another crate, ‘" + e.Detail + "’. Choose another place"
	case seal.OutReadFrom:
		return "the project reads ‘" + e.Detail + "’ from there. Choose another place"
	case seal.OutSameDrive:
		return "it is an archive on the project's own drive (" + e.Detail + "). Choose another drive, or allow it with --same-drive"
	case seal.OutEnding:
		return "“" + e.Detail + "” archives cannot be made. Choose .zip, .tar, .tar.gz or .tar.zst, or a name without an extension for a folder"
	case seal.OutParent:
		return "its parent is not a folder"
	case seal.OutFull:
		return "that folder is not empty and not an earlier crate of the same documents"
	case seal.OutFile:
		return "a file of that name is there"
	case seal.OutOdd:
		return "a folder or link of that name is there"
	case seal.OutNoCrate:
		return "a file of that name is there and is not a crate"
	case seal.OutOtherCrate:
		return "the crate of that name belongs to another project"
	case seal.OutUnplugged:
		return "the drive " + e.Detail + " is not connected"
	case seal.OutInTheWay:
		return "‘" + e.Detail + "’ is in the way and not an unfinished crate"
	case seal.OutBusy:
		return "another crate is being sealed there"
	case seal.OutAdded:
		return "‘" + e.Detail + "’ was added to the crate that is there. Move it away, or choose another place"
	case seal.OutChangedThen:
		return "‘" + e.Detail + "’ was changed in the crate that is there. Copy it elsewhere, or choose another place"
	case seal.OutSinceParts:
		return "a difference crate cannot be split into parts. Choose larger parts"
	case seal.OutManyRoots:
		return "such a file holds one document with what it uses, and several were given. Choose a folder or an archive"
	case seal.OutOtherFormat:
		return "‘" + e.Detail + "’ is of another format than such a file holds. Choose a folder or an archive"
	case seal.OutNotHeld:
		return "‘" + e.Detail + "’ cannot be in such a file. Choose a folder or an archive"
	case seal.OutPackage:
		return "lists, parts, optional files and differences do not go into such a file. Choose a folder or an archive"
	case seal.OutListed:
		return "‘" + e.Detail + "’ has the name of a list that the crate shall hold. Choose another layout, or no lists"
	case seal.OutIsSince:
		return "it is the very crate that the receiver is said to have. Choose another place"
	case seal.OutNoParts:
		return "a folder cannot be split into parts. Choose ZIP or TAR"
	case seal.OutTooLarge:
		return fmt.Sprintf("‘%s’ has %s, more than a part can hold", e.Detail, phrase.Size(e.Needs))
	case seal.OutOtherParts:
		return "‘" + e.Detail + "’ is there, a part of an earlier crate of that name. Move it away, or choose another name"
	case seal.OutSamples:
		return "‘" + e.Detail + "’ counts in samples. Do not convert sample rates, or leave it out"
	case seal.OutNoRoom:
		return fmt.Sprintf("it needs %d bytes, but only %d are free there", e.Needs, e.Free)
	}
	return Reason(e.Err)
}

// Form says a form of interchange.
func Form(f export.Form) string {
	switch f {
	case export.EDL:
		return "edit decision list"
	case export.ADL:
		return "audio decision list"
	case export.M3U:
		return "playlist (M3U)"
	case export.XSPF:
		return "playlist (XSPF)"
	case export.OTIO1:
		return "timeline (first schemas)"
	case export.List:
		return "plain list (CSV)"
	}
	return string(f)
}

// Loss says what a form of interchange cannot carry.
func Loss(l export.Loss) string {
	say := func(one, fate string) string {
		s := phrase.Plural(l.Count, one) + " " + fate
		if l.What != "" {
			s += " (“" + l.What + "”" + more(l.Count) + ")"
		}
		return s
	}
	switch l.Code {
	case export.NestedTimeline:
		return say("nested timeline", "left out")
	case export.Effect:
		return say("effect", "left out")
	case export.Speed:
		return say("change of speed", "left out; clips play at recorded speed")
	case export.TransitionLost:
		return say("transition", "made a straight cut")
	case export.Generator:
		return say("generated clip", "left out")
	case export.AlternativeMedia:
		return say("clip", "with several media; only the active one is kept")
	case export.Gap:
		return say("gap", "closed; the format has no time positions")
	case export.Marker:
		return say("marker", "left out")
	case export.ExtraTrack:
		return say("track", "too many for the format")
	case export.Disabled:
		return say("inactive item", "left out")
	case export.Metadata:
		return say("program-specific note", "left out")
	case export.LongName:
		return say("reel name", "cut to eight characters")
	case export.Sequence:
		return say("image sequence", "referenced by its pattern only")
	case export.BesideSound:
		return phrase.Plural(l.Count, "sound") + " converted without its other metadata (" + l.What + ")"
	case export.OddRate:
		return say("rate", "not standard for edit decision lists; other programs may count differently")
	case export.PastMidnight:
		return say("clip", "past 24 hours, where timecode restarts")
	case export.NameChanged:
		return say("name", "written differently")
	}
	return string(l.Code)
}

func more(n int) string {
	if n > 1 {
		return " and more"
	}
	return ""
}

// Becomes says what a sound or a sequence becomes in the crate; nothing is nothing.
func Becomes(b *stow.Berth) string {
	switch {
	case b.Cut != nil && b.Sound == nil:
		return fmt.Sprintf("%d of %s", b.Cut.Frames, phrase.Plural(int(b.Long), "image"))
	case b.Sound == nil:
		return ""
	case len(b.With) > 0:
		return fmt.Sprintf("%d channels, ", len(b.With)+1) + sound(b.Sound)
	case b.Cut != nil && b.Cut.Channel > 0 && b.Cut.Frames > 0:
		return fmt.Sprintf("channel %d, cut, ", b.Cut.Channel) + sound(b.Sound)
	case b.Cut != nil && b.Cut.Channel > 0:
		return fmt.Sprintf("channel %d, ", b.Cut.Channel) + sound(b.Sound)
	case b.Cut != nil:
		return "cut, " + sound(b.Sound)
	}
	return sound(b.Sound)
}

func sound(s *pcm.Spec) string {
	depth := fmt.Sprintf("%d bits", s.Depth)
	if s.Float {
		depth = fmt.Sprintf("%d bits, floating", s.Depth)
	}
	return fmt.Sprintf("%s, %g kHz, %s", strings.ToUpper(string(s.Type)), float64(s.Rate)/1000, depth)
}

// Renaming is why a name in the crate differs.
func Renaming(r stow.Renaming) string {
	switch r {
	case stow.Clash:
		return "another file has this name"
	case stow.Portably:
		return "not portable to every system"
	case stow.Pattern:
		return "pattern of the recipe"
	case stow.ByWish:
		return "your choice"
	case stow.Wrapped:
		return "sound converted to another type"
	case stow.Apart:
		return "channels split or joined"
	}
	return ""
}

var dangers = map[bag.Danger]string{
	bag.NoName: "it has no name", bag.HasNUL: "its name contains a NUL byte", bag.IsAbsolute: "its name is absolute", bag.LeadsOut: "its name leads out of the crate", bag.NotPlain: "its name is not in plain form",
	bag.HiddenBase: "a crate's folder must not be hidden", bag.OptionLike: "a crate's folder must not begin with a hyphen", bag.IsLink: "it is a link", bag.IsDevice: "it is a device or pipe", bag.IsTwice: "it occurs twice",
	bag.IsSameName: "its name equals another on many systems", bag.FileFolder: "it is also used as a folder", bag.BesideBase: "it is outside the crate's folder", bag.SecondBag: "it starts a second crate in the archive",
	bag.OutsideData: "it is outside data/", bag.CannotRead: "it cannot be read",
}

// Fault says what is wrong with a crate.
func Fault(f bag.Fault) string {
	switch f.Code {
	case bag.NoVersion:
		return "has no bag version"
	case bag.NoManifest:
		return "it has no payload manifest"
	case bag.UnknownDigest:
		return fmt.Sprintf("uses %q, which is not supported", f.Of)
	case bag.NoLine:
		return fmt.Sprintf("line %d is not a checksum line", f.Line)
	case bag.CutShort:
		return f.Err.Error()
	case bag.Refused:
		if f.Of != "" {
			return "is listed in " + f.Of + " but was refused: " + dangers[f.Danger]
		}
		return "was refused: " + dangers[f.Danger]
	case bag.Extra:
		if f.Of != "" {
			return "is not listed in " + f.Of
		}
		return "is not part of the crate"
	case bag.Gone:
		return "is listed but missing"
	case bag.Differs:
		return "differs from what was sealed (" + f.Of + ")"
	case bag.Harmed:
		return "is damaged: " + Reason(f.Err)
	case bag.WrongOxum:
		return "Payload-Oxum is " + f.Want + ", the payload is " + f.Have
	case bag.ToFetch:
		return "lists files that must be fetched from elsewhere"
	case seal.CameLater:
		return "was added later, at a place reserved for it"
	}
	return string(f.Code)
}

// codes are the problem codes of faults, in the words of the contract.
var codes = map[bag.FaultCode]string{
	bag.NoVersion: "damaged", bag.NoManifest: "damaged", bag.UnknownDigest: "unknown", bag.NoLine: "damaged", bag.CutShort: "damaged", bag.Refused: "refused", bag.Extra: "extra", bag.Gone: "missing",
	bag.Differs: "damaged", bag.Harmed: "damaged", bag.WrongOxum: "damaged", bag.ToFetch: string(proof.Incomplete), seal.CameLater: "came-later",
}

// SealProblems are all the things that need a person of a crate that was sealed
// or checked, as problems.
func SealProblems(r *seal.Report) []Problem {
	list := []Problem{}
	for _, f := range r.Faults {
		list = append(list, Problem{Code: codes[f.Code], Path: filepath.Join(r.Crate, f.Member), Document: r.Crate, Line: f.Line, Message: Fault(f)})
	}
	for _, p := range r.Kept {
		list = append(list, Problem{Code: "kept", Path: p, Document: r.Crate, Message: "was added to or changed in the earlier crate while it was being replaced", Untouched: "It was left there unchanged.", Do: "Move it where it belongs."})
	}
	for _, x := range r.Suspect {
		list = append(list, Problem{Code: "suspect", Path: filepath.Join(r.Crate, bag.Payload, x.Path), Document: r.Crate, Message: "was copied unchanged but may be damaged or the wrong file: " + Suspicion(x.Why...), Untouched: "Its content equals the file in the project.", Do: "Check it in the project: relink it, or confirm it. Then seal again."})
	}
	for _, p := range r.Lacks {
		if slices.Contains(r.Foreign, p) {
			list = append(list, Problem{Code: "foreign", Path: p, Document: r.Crate, Message: "is beside this part but belongs to another crate or another sealing", Untouched: "It was not read as a part.", Do: "Replace it with the part made together with this one."})
			continue
		}
		list = append(list, Problem{Code: string(proof.Incomplete), Path: p, Document: r.Crate, Message: "this part of the crate is not beside the others; completeness can be checked only with all parts"})
	}
	list = append(list, Problems(r.Problems)...)
	for _, o := range r.Proof.Open {
		p := Problem{Code: string(o.Code), Path: o.Path, Document: o.Document}
		switch {
		case o.Code == proof.Leaves:
			p.Message = "“" + o.Written + "” leads outside the crate"
		case o.Code == proof.LeftOut && decide.Why(o.Why) == decide.LeftOut:
			p.Message = fmt.Sprintf("“%s” was left out on purpose (%s)", o.Written, o.Owner)
		case o.Code == proof.LeftOut:
			p.Message = fmt.Sprintf("“%s” was left out on purpose: %s (%s)", o.Written, Aside(decide.Why(o.Why)), o.Owner)
		case o.Code != proof.Incomplete:
			p.Message = notHeld(o)
		case o.Lacks > 0 && (o.State.Found() || o.State == graph.Inside):
			p.Message = fmt.Sprintf("“%s” lacks %d of its files in the crate (%s)", o.Written, o.Lacks, o.Owner)
		default:
			p.Message = fmt.Sprintf("“%s” is %s in the crate (%s)", o.Written, o.State, o.Owner)
		}
		list = append(list, p)
	}
	told := map[string]bool{}
	for _, p := range r.Problems {
		told[p.Path] = told[p.Path] || p.Kind == problem.CannotSay || p.Kind == problem.FalseSum || p.Kind == problem.Unfollowed || p.Kind == problem.Unasked
	}
	if len(told) == 0 {
		for _, d := range r.Unsaid {
			list = append(list, Problem{Code: string(proof.Incomplete), Path: filepath.Join(r.Crate, d), Document: r.Crate, Message: "could not be rewritten for this crate when it was sealed"})
		}
	}
	return list
}

// notHeld says of a reference, or a document, that it is not what was planned.
func notHeld(o proof.Open) string {
	of := ""
	if o.Owner != "" {
		of = " (" + o.Owner + ")"
	}
	switch o.Code {
	case proof.OtherFile:
		return "“" + o.Written + "” does not lead to the files sealed for it" + of
	case proof.OtherBytes:
		return "“" + o.Written + "” leads to a file with other bytes than were sealed" + of
	case proof.Unexpected:
		if o.Written == "" {
			return "is a document that is not in the crate's record"
		}
		return "“" + o.Written + "” is a reference that is not in the crate's record" + of
	case proof.Vanished:
		return "lacks a reference that is in the crate's record" + of
	case proof.NoRoots:
		return "the crate's record lists no documents, so nothing is proved"
	}
	return string(o.Code)
}
