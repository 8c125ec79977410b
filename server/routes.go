package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"boundcrate/app"
)

const (
	get  = http.MethodGet
	post = http.MethodPost
	put  = http.MethodPut
	drop = http.MethodDelete
)

// route is something that can be asked for: an address, the act that answers, and what an act
// that changes something makes stale on every page.
type route struct {
	method, path string
	act
	stale *group
}

// group is what a change may touch: the addresses, and all beneath them, that a page asks
// anew. A page has it under the group's name.
type group struct {
	name  string
	paths []string
}

var (
	// untouched is what an act leaves that changes nothing, or whose work goes on and tells
	// itself what came of it.
	untouched = &group{"untouched", nil}
	drives    = &group{"drives", []string{"/state", "/drives", "/stock", "/held", "/browse", "/machine", "/doctor", "/projects"}}
	projects  = &group{"projects", []string{"/state", "/stock", "/held"}}
	held      = &group{"held", []string{"/held", "/drives", "/state", "/stock"}}
	asReads   = &group{"asReads", []string{"/rules", "/habits", "/state"}}
	settings  = &group{"settings", []string{"/settings", "/state"}}
	recipes   = &group{"recipes", []string{"/recipes", "/projects"}}
	// ofProject is all that is told of a project, ofPlan what leans on its choices.
	ofProject = &group{"ofProject", []string{"/projects/:id"}}
	ofKeep    = &group{"ofKeep", []string{"/projects/:id/keep", "/projects/:id/editions"}}
	ofPlan    = &group{"ofPlan", []string{
		"/projects/:id/", "/projects/:id/stow", "/projects/:id/tables/berths", "/projects/:id/estimates", "/projects/:id/strays",
		"/projects/:id/destination", "/projects/:id/sealed", "/projects/:id/decisions", "/recipes",
	}}
)

// routes are all of them.
func routes(a *app.App) []route {
	list := []route{
		{get, "/state", tell(a.State), nil},
		{post, "/jobs/:id/stop", tellOf(a.StopJob), projects},
		{get, "/doctor", tell(a.Doctor), nil},
		{get, "/drives", tell(a.DriveCards), nil},
		{post, "/drives", made(with(a.AddDrive)), drives},
		{put, "/drives/:id", withOf(a.NameDrive), drives},
		{drop, "/drives/:id", tellOf(a.DropDrive), drives},
		{post, "/drives/:id/plug", withOf(a.Plug), drives},
		{put, "/drives/:id/set", withOf(a.SetDrive), drives},
		{post, "/drives/:id/index", tellOf(a.IndexDrive), projects},
		{post, "/drives/:id/measure", tellOf(a.Measure), projects},
		{post, "/declared", with(a.Declare), drives},
		{get, "/stock", tell(a.Stock), nil},
		{post, "/stock", tell(a.TakeStock), projects},
		{get, "/machine", with(a.Machine), nil},
		{get, "/browse", with(a.Browse), nil},
		{get, "/peaks", with(a.Peaks), nil},
		{get, "/differs", with(a.Differs), nil},
		{post, "/receive", with(a.Receive), projects},
		{get, "/receive/:id", tellOf(a.Received), nil},
		{post, "/compare", with(a.Compare), projects},
		{get, "/compare/:id", tellOf(a.Compared), nil},
		{post, "/clearout", with(a.Clearout), projects},
		{get, "/clearout/:id", tellOf(a.ClearedOut), nil},
		{post, "/clearout/:id/hold", withOf(a.Hold), drives},
		{get, "/held", tell(a.Held), nil},
		{post, "/held/:id/back", tellOf(a.BringBack), drives},
		{post, "/held/:id/erase", tellOf(a.Erase), held},
		{get, "/templates", tell(a.Templates), nil},
		{post, "/templates", made(with(a.Begin)), projects},
		{post, "/dropped", with(a.Dropped), untouched},
		{get, "/settings", tell(a.Settings), nil},
		{put, "/settings", with(a.SetSettings), settings},
		{post, "/reveal", do(a.Reveal), untouched},
		{post, "/folders", made(with(a.MakeFolder)), drives},
		{get, "/habits", tell(a.Habits), nil},
		{put, "/habits", with(a.SetHabits), asReads},
		{post, "/habits/try", with(a.TryHabits), untouched},
		{get, "/rules", tell(a.Rules), nil},
		{put, "/rules", with(a.SetRules), asReads},
		{drop, "/rules/:id", tellOf(a.DropRules), asReads},
		{post, "/rules/try", with(a.TryRules), untouched},
		{post, "/rules/learn", with(a.LearnRules), untouched},
		{get, "/recipes", with(a.Recipes), nil},
		{put, "/recipes", do(a.SetRecipe), recipes},
		{drop, "/recipes/:id", doOf(a.DropRecipe), recipes},
		{post, "/projects", made(with(a.AddProject)), projects},
		{post, "/sets", made(with(a.Gather)), projects},
		{drop, "/projects/:id", doOf(a.DropProject), projects},
	}
	for _, r := range projectRoutes(a) {
		r.path = wholeProject + r.path
		list = append(list, r)
	}
	return list
}

func projectRoutes(a *app.App) []route {
	return []route{
		{get, "", tellOf(a.Summary), nil},
		{post, "/trace", tellOf(a.Retrace), projects},
		{post, "/look", doOf(a.Refresh), untouched},
		{get, "/slip", withOf(a.Slip), nil},
		{get, "/mend", tellOf(a.Mend), nil},
		{get, "/wanted", withOf(a.Wanted), nil},
		{post, "/search", withOf(a.Search), ofProject},
		{put, "/search", withOf(a.SetSearch), ofProject},
		{post, "/repairs", withOf(a.Choose), ofProject},
		{post, "/frames", withOf(a.CopyFrames), ofProject},
		{drop, "/repairs/:repair", doWithOf(a.UndoRepair), ofProject},
		{post, "/moves", withOf(a.Move), ofProject},
		{post, "/aside", withOf(a.SetAside), ofProject},
		{post, "/spell", tellOf(a.Spell), ofProject},
		{post, "/meant", withOf(a.SayMeant), ofProject},
		{get, "/group", withOf(a.Group), nil},
		{get, "/move", withOf(a.CountMove), nil},
		{post, "/group", withOf(a.MendGroup), ofProject},
		{post, "/accept", withOf(a.Accept), ofProject},
		{get, "/decisions", tellOf(a.Decisions), nil},
		{post, "/undo", doOf(a.Undo), ofProject},
		{post, "/redo", doOf(a.Redo), ofProject},
		{post, "/write", withOf(a.Write), ofProject},
		{post, "/putback", doWithOf(a.PutBack), ofProject},
		{get, "/spread", tellOf(a.Spread), nil},
		{get, "/sibling", withOf(a.Sibling), nil},
		{get, "/points", tellOf(a.Points), nil},
		{post, "/points", withOf(a.SetPoints), ofProject},
		{get, "/inside", tellOf(a.NoFiles), nil},
		{post, "/inside", withOf(a.WriteOut), ofProject},
		{get, "/home", tellOf(a.HomePlan), nil},
		{post, "/home", withOf(a.BringHome), ofProject},
		{put, "/home", doWithOf(a.AskHome), ofProject},
		{get, "/stow", tellOf(a.Stow), nil},
		{put, "/stow", withOf(a.SetStow), ofPlan},
		{post, "/recipe", withOf(a.FollowRecipe), ofPlan},
		{get, "/estimates", tellOf(a.Estimates), nil},
		{put, "/berths", doWithOf(a.Wish), ofPlan},
		{get, "/strays", withOf(a.Strays), nil},
		{post, "/adopt", doWithOf(a.Adopt), ofPlan},
		{post, "/putaway", withOf(a.PutAway), ofProject},
		{get, "/destination", withOf(a.Destination), nil},
		{get, "/sealed", tellOf(a.Sealed), nil},
		{post, "/seal", withOf(a.Seal), ofProject},
		{get, "/crates", tellOf(a.Crates), nil},
		{get, "/keep", tellOf(a.Kept), nil},
		{post, "/keep", withOf(a.KeepNow), ofKeep},
		{put, "/keep", withOf(a.SetKeep), ofKeep},
		{post, "/keep/saves", withOf(a.TakeIn), ofKeep},
		{put, "/keep/note", doWithOf(a.SetNote), ofKeep},
		{post, "/restore", withOf(a.Restore), ofProject},
		{get, "/set", tellOf(a.LooseSet), nil},
		{put, "/set", withOf(a.SetLoose), ofProject},
		{get, "/editions", withOf(a.CompareEditions), nil},
		{post, "/backup", tellOf(a.Backup), projects},
		{post, "/backup/verify", withOf(a.VerifyBackup), projects},
		{post, "/backup/dry", withOf(a.DryRestore), projects},
		{get, "/backup/files", withOf(a.HeldFiles), nil},
		{post, "/backup/back", withOf(a.TakeBack), ofProject},
		{post, "/carrier", withOf(a.Carrier), untouched},
		{post, "/send", withOf(a.Send), ofProject},
	}
}

// stream is what is no JSON, or is asked in a manner of its own: by these names.
type stream struct {
	path  string
	names []string
	call  echo.HandlerFunc
}

func streams(s *Server) []stream {
	return []stream{
		{"/events", nil, s.events},
		{"/jobs/:id/result", nil, s.result},
		{"/media", []string{"path"}, s.media},
		{"/look", []string{"path"}, s.look},
		{"/projects/:id/tables/:table", listNames, s.window},
		{"/projects/:id/tables/:table/stretch", listNames, s.stretch},
		{"/projects/:id/csv/:table", listNames, s.csv},
		{"/projects/:id/print/:table", listNames, s.print},
		{"/projects/:id/sheet", nil, s.sealedSheet},
		{"/receive/:id/sheet", nil, s.receivedSheet},
	}
}
