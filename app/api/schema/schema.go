// Package schema makes the JSON schema of what crosses the wire, from which TypeScript's types are
// generated.
package schema

import (
	"maps"
	"reflect"
	"strings"

	"github.com/invopop/jsonschema"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/core/bring/inside"
	"boundcrate/core/keep/back"
	"boundcrate/core/keep/line"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/compare"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/text/mention"
)

// enums are the types with a fixed set of values.
var enums = map[reflect.Type][]any{
	reflect.TypeFor[api.JobKind]():         {api.JobTrace, api.JobRemember, api.JobSearch, api.JobSeal, api.JobCheck, api.JobReceive, api.JobSurvey, api.JobHome, api.JobInside, api.JobIndex, api.JobMeasure, api.JobStock, api.JobWeigh, api.JobPutAway, api.JobSeek, api.JobListen, api.JobWrite, api.JobErase, api.JobTry, api.JobSend, api.JobCompare, api.JobSay, api.JobKeep, api.JobRestore, api.JobBackup, api.JobVerify, api.JobDry},
	reflect.TypeFor[api.JobState]():        {api.Running, api.Done, api.Stopped, api.Failed},
	reflect.TypeFor[api.EventType]():       {api.EventJob, api.EventSnapshot, api.EventLooked, api.EventDrives, api.EventPlan, api.EventProject, api.EventKept},
	reflect.TypeFor[tracing.BadgeCode]():   {tracing.BadgeWrite, tracing.BadgeGuess, tracing.BadgeGaps, tracing.BadgeLoose, tracing.BadgeMended, tracing.BadgeDormant, tracing.BadgeListed, tracing.BadgeNetwork, tracing.BadgeDump, tracing.BadgeProject, tracing.BadgeLibrary, tracing.BadgeStore, tracing.BadgeNewer, tracing.BadgeSearch, tracing.BadgeSuspect, tracing.BadgeRebuild},
	reflect.TypeFor[packing.ProofCode]():   {packing.ProofCopied, packing.ProofReadBack, packing.ProofManifest, packing.ProofRelative, packing.ProofTraced, packing.ProofBytes, packing.ProofParts},
	reflect.TypeFor[api.Preview]():         {api.NoPreview, api.AsSound, api.AsPicture},
	reflect.TypeFor[pcm.Channels]():        {pcm.Channels(""), pcm.Interleaved, pcm.Split},
	reflect.TypeFor[compare.What]():        {compare.Content, compare.Path, compare.Use, compare.Range},
	reflect.TypeFor[lists.Kind]():          {lists.ROCrate, lists.MHL},
	reflect.TypeFor[stow.Layout]():         {stow.ByKind, stow.Flat, stow.AsStands, stow.ByDocument},
	reflect.TypeFor[stow.Renaming]():       {stow.AsItWas, stow.Clash, stow.Portably, stow.Pattern, stow.ByWish, stow.Wrapped, stow.Apart},
	reflect.TypeFor[sift.Given]():          {sift.DormantTakes, sift.ListedFiles, sift.EarlierDocuments, sift.GivenCompanions, sift.GivenDrawings, sift.GivenRenders, sift.GivenStrays, sift.UnusedParts, sift.Undoing},
	reflect.TypeFor[mending.Sameness]():    {mending.Unread, mending.Same, mending.Other},
	reflect.TypeFor[mend.Certainty]():      {mend.Certainty(""), mend.Certain, mend.Likely, mend.Possible},
	reflect.TypeFor[line.By]():             {line.Hand, line.Interval, line.BeforeWriting, line.BeforeRestore, line.Sealing, line.TakenIn},
	reflect.TypeFor[keeping.How]():         {keeping.Changed, keeping.Gone, keeping.Broken},
	reflect.TypeFor[back.Standing]():       {back.Same, back.Other, back.Lost},
	reflect.TypeFor[mention.Use]():         {"used", "dormant", "listed"},
	reflect.TypeFor[decide.Kind]():         {decide.Mend, decide.Move, decide.Wish, decide.Leave, decide.Carry, decide.Aside, decide.Meant},
	reflect.TypeFor[decide.Why]():          {decide.Rebuild, decide.Later, decide.NotNeeded, decide.Replaced, decide.LeftOut},
	reflect.TypeFor[graph.State]():         {graph.Here, graph.Away, graph.Missing, graph.Unplugged, graph.Twins, graph.Unsaved, graph.Inside, graph.Unreadable},
	reflect.TypeFor[graph.Class]():         {graph.Material, graph.AsDocument, graph.Rebuildable, graph.Companion},
	reflect.TypeFor[graph.Origin]():        {graph.OfProject, graph.OfOtherProject, graph.OfLibrary, graph.OfStore, graph.OfDump, graph.Loose, graph.Nowhere},
	reflect.TypeFor[graph.Flag]():          {graph.Outside, graph.OtherDrive, graph.OtherProject, graph.InnerFolder, graph.Absent},
	reflect.TypeFor[origin.PlaceKind]():    {origin.PlaceKind(""), origin.OwnPlace, origin.ProjectPlace, origin.LibraryPlace, origin.DumpPlace, origin.OtherPlace, origin.UnpluggedPlace, origin.MissingPlace},
	reflect.TypeFor[origin.WarningCode]():  {origin.Scattered, origin.DumpingGround, origin.NothingRecognised, origin.Guessed, origin.UnreadableFolder, origin.SharedFolder, origin.SlowDrive, origin.SyncedFolder, origin.SiblingNewer},
	reflect.TypeFor[origin.DeclaredKind](): {origin.DeclaredKind(""), origin.AsLibrary, origin.AsStore},
	reflect.TypeFor[inside.Why]():          {inside.Free, inside.NotOurs, inside.NoPlace, inside.Frames, inside.Unsaved, inside.Unreadable},
	reflect.TypeFor[facts.Kind](): {facts.Audio, facts.Video, facts.Image, facts.Sequence, facts.Geometry, facts.Part,
		facts.Material, facts.Drawing, facts.Document, facts.Data, facts.Other},
}

// Of is the JSON schema of the types that cross the wire.
func Of(wire []reflect.Type) *jsonschema.Schema {
	r := jsonschema.Reflector{
		Anonymous: true, AllowAdditionalProperties: false, RequiredFromJSONSchemaTags: false,
		Mapper: func(t reflect.Type) *jsonschema.Schema {
			if values, ok := enums[t]; ok {
				return &jsonschema.Schema{Type: "string", Enum: values}
			}
			return nil
		},
	}
	s := &jsonschema.Schema{Version: jsonschema.Version, Title: "Wire", Type: "object", Definitions: jsonschema.Definitions{}, Properties: jsonschema.NewProperties()}
	named := map[string]reflect.Type{}
	for t := range enums {
		named[t.Name()] = t
	}
	for _, t := range wire {
		one := r.ReflectFromType(t)
		maps.Copy(s.Definitions, one.Definitions)
		s.Properties.Set(t.Name(), &jsonschema.Schema{Ref: "#/$defs/" + t.Name()})
	}
	for _, t := range wire {
		nullable(s.Definitions, t, named)
	}
	return s
}

// nullable says what the reflector does not: a nil pointer that is not left
// out is null on the wire. The schema knows types by their bare names, so two
// of one name would pass for each other: it panics on them.
func nullable(defs jsonschema.Definitions, t reflect.Type, named map[string]reflect.Type) {
	for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
		t = t.Elem()
	}
	if t.Kind() != reflect.Struct || named[t.Name()] == t {
		return
	}
	if other, taken := named[t.Name()]; taken && t.Name() != "" {
		panic("two types on the wire are called " + t.Name() + ": " + t.String() + " and " + other.String())
	}
	named[t.Name()] = t
	def := defs[t.Name()]
	for _, f := range reflect.VisibleFields(t) {
		name, rest, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.Type.Kind() == reflect.Pointer && name != "" && rest == "" && def != nil {
			if p, ok := def.Properties.Get(name); ok {
				def.Properties.Set(name, &jsonschema.Schema{AnyOf: []*jsonschema.Schema{p, {Type: "null"}}})
			}
		}
		if !f.Anonymous {
			nullable(defs, f.Type, named)
		}
	}
}
