// Package all lists every type on the wire. TypeScript's types are generated from it.
package all

import (
	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/places"
	"boundcrate/app/api/ruling"
	"boundcrate/app/api/tracing"
)

// Document names every type that crosses the wire, for the type generator.
type Document struct {
	AppState     api.AppState         `json:"appState"`
	Folder       api.Folder           `json:"folder"`
	NewDrive     api.NewDrive         `json:"newDrive"`
	Plug         api.Plug             `json:"plug"`
	NewProject   api.NewProject       `json:"newProject"`
	Summary      tracing.Summary      `json:"summary"`
	Files        tracing.Files        `json:"files"`
	WantedList   mending.WantedList   `json:"wantedList"`
	Berths       packing.Berths       `json:"berths"`
	DocumentList tracing.DocumentList `json:"documentList"`
	Keys         api.Keys             `json:"keys"`
	Slip         tracing.Slip         `json:"slip"`
	Search       mending.Search       `json:"search"`
	Mend         mending.Mend         `json:"mend"`
	Wanted       mending.Wanted       `json:"wanted"`
	MoveFolder   mending.MoveFolder   `json:"moveFolder"`
	SetAside     mending.SetAside     `json:"setAside"`
	SayMeant     mending.SayMeant     `json:"sayMeant"`
	WriteRepairs mending.WriteRepairs `json:"writeRepairs"`
	Strays       packing.Strays       `json:"strays"`
	Adopt        packing.Adopt        `json:"adopt"`
	PutAway      packing.PutAway      `json:"putAway"`
	Estimates    packing.Estimates    `json:"estimates"`
	Recipes      packing.Recipes      `json:"recipes"`
	SetRecipe    packing.SetRecipe    `json:"setRecipe"`
	UseRecipe    packing.UseRecipe    `json:"useRecipe"`
	GroupFiles   mending.GroupFiles   `json:"groupFiles"`
	MendGroup    mending.MendGroup    `json:"mendGroup"`
	Decisions    mending.Decisions    `json:"decisions"`
	Choose       mending.Choose       `json:"choose"`
	Chosen       mending.Chosen       `json:"chosen"`
	WriteResult  mending.WriteResult  `json:"writeResult"`
	Stow         packing.Stow         `json:"stow"`
	StowOptions  packing.StowOptions  `json:"stowOptions"`
	Wish         packing.Wish         `json:"wish"`
	Destination  packing.Destination  `json:"destination"`
	SealRequest  packing.SealRequest  `json:"sealRequest"`
	Sealed       packing.Sealed       `json:"sealed"`
	Receive      packing.Receive      `json:"receive"`
	Received     packing.Received     `json:"received"`
	AskClearout  overview.AskClearout `json:"askClearout"`
	LearnRules   ruling.LearnRules    `json:"learnRules"`
	RulesLearned ruling.RulesLearned  `json:"rulesLearned"`
	HomePlan     places.HomePlan      `json:"homePlan"`
	BringHome    places.BringHome     `json:"bringHome"`
	AskHome      places.AskHome       `json:"askHome"`
	Points       places.Points        `json:"points"`
	SetPoints    places.SetPoints     `json:"setPoints"`
	Aimed        places.Aimed         `json:"aimed"`
	PutBack      api.PutBack          `json:"putBack"`
	NoFiles      places.NoFiles       `json:"noFiles"`
	WriteOut     places.WriteOut      `json:"writeOut"`
	DriveCards   overview.DriveCards  `json:"driveCards"`
	SetDrive     overview.SetDrive    `json:"setDrive"`
	Declare      overview.Declare     `json:"declare"`
	Stock        overview.Stock       `json:"stock"`
	Hold         overview.Hold        `json:"hold"`
	HeldList     overview.HeldList    `json:"heldList"`
	Examined     overview.Examined    `json:"examined"`
	SetSearch    mending.SetSearch    `json:"setSearch"`
	Compared     places.Compared      `json:"compared"`
	Spread       places.Spread        `json:"spread"`
	Habits       ruling.Habits        `json:"habits"`
	Templates    overview.Templates   `json:"templates"`
	Begin        overview.Begin       `json:"begin"`
	Begun        overview.Begun       `json:"begun"`
	SetHabits    ruling.SetHabits     `json:"setHabits"`
	HabitsTried  ruling.HabitsTried   `json:"habitsTried"`
	Cleared      overview.Cleared     `json:"cleared"`
	Differs      tracing.Differs      `json:"differs"`
	Peaks        tracing.Peaks        `json:"peaks"`
	Started      api.Started          `json:"started"`
	Rules        ruling.Rules         `json:"rules"`
	SetRules     ruling.SetRules      `json:"setRules"`
	TryRules     ruling.TryRules      `json:"tryRules"`
	RulesTried   ruling.RulesTried    `json:"rulesTried"`
	Event        api.Event            `json:"event"`
	ProblemReply api.ProblemReply     `json:"problemReply"`
}
