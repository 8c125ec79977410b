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

// route is something that can be asked for: an address, and the act that answers.
type route struct {
	method, path string
	act
}

// routes are all of them.
func routes(a *app.App) []route {
	list := []route{
		{get, "/state", tell(a.State)},
		{post, "/jobs/:id/stop", tellOf(a.StopJob)},
		{get, "/doctor", tell(a.Doctor)},
		{get, "/drives", tell(a.DriveCards)},
		{post, "/drives", made(with(a.AddDrive))},
		{put, "/drives/:id", withOf(a.NameDrive)},
		{drop, "/drives/:id", tellOf(a.DropDrive)},
		{post, "/drives/:id/plug", withOf(a.Plug)},
		{put, "/drives/:id/set", withOf(a.SetDrive)},
		{post, "/drives/:id/index", tellOf(a.IndexDrive)},
		{post, "/drives/:id/measure", tellOf(a.Measure)},
		{post, "/declared", with(a.Declare)},
		{get, "/stock", tell(a.Stock)},
		{post, "/stock", tell(a.TakeStock)},
		{get, "/machine", with(a.Machine)},
		{get, "/browse", with(a.Browse)},
		{get, "/peaks", with(a.Peaks)},
		{get, "/differs", with(a.Differs)},
		{post, "/receive", with(a.Receive)},
		{get, "/receive/:id", tellOf(a.Received)},
		{post, "/clearout", with(a.Clearout)},
		{get, "/clearout/:id", tellOf(a.ClearedOut)},
		{post, "/clearout/:id/hold", withOf(a.Hold)},
		{get, "/held", tell(a.Held)},
		{post, "/held/:id/back", tellOf(a.BringBack)},
		{post, "/held/:id/erase", tellOf(a.Erase)},
		{get, "/templates", tell(a.Templates)},
		{post, "/templates", made(with(a.Begin))},
		{get, "/habits", tell(a.Habits)},
		{put, "/habits", with(a.SetHabits)},
		{post, "/habits/try", with(a.TryHabits)},
		{get, "/rules", tell(a.Rules)},
		{put, "/rules", with(a.SetRules)},
		{drop, "/rules/:id", tellOf(a.DropRules)},
		{post, "/rules/try", with(a.TryRules)},
		{post, "/rules/learn", with(a.LearnRules)},
		{get, "/recipes", with(a.Recipes)},
		{put, "/recipes", do(a.SetRecipe)},
		{drop, "/recipes/:id", doOf(a.DropRecipe)},
		{post, "/projects", made(with(a.AddProject))},
		{drop, "/projects/:id", doOf(a.DropProject)},
	}
	for _, r := range projectRoutes(a) {
		r.path = "/projects/:id" + r.path
		list = append(list, r)
	}
	return list
}

func projectRoutes(a *app.App) []route {
	return []route{
		{get, "", tellOf(a.Summary)},
		{post, "/trace", tellOf(a.Retrace)},
		{post, "/look", doOf(a.Refresh)},
		{get, "/slip", withOf(a.Slip)},
		{get, "/mend", tellOf(a.Mend)},
		{get, "/wanted", withOf(a.Wanted)},
		{post, "/search", withOf(a.Search)},
		{put, "/search", withOf(a.SetSearch)},
		{post, "/repairs", withOf(a.Choose)},
		{drop, "/repairs/:repair", doWithOf(a.UndoRepair)},
		{post, "/moves", withOf(a.Move)},
		{post, "/aside", withOf(a.SetAside)},
		{post, "/spell", tellOf(a.Spell)},
		{post, "/meant", withOf(a.SayMeant)},
		{get, "/group", withOf(a.Group)},
		{post, "/group", withOf(a.MendGroup)},
		{get, "/decisions", tellOf(a.Decisions)},
		{post, "/undo", doOf(a.Undo)},
		{post, "/redo", doOf(a.Redo)},
		{post, "/write", withOf(a.Write)},
		{post, "/putback", doWithOf(a.PutBack)},
		{get, "/spread", tellOf(a.Spread)},
		{get, "/sibling", withOf(a.Sibling)},
		{get, "/points", tellOf(a.Points)},
		{post, "/points", withOf(a.SetPoints)},
		{get, "/inside", tellOf(a.NoFiles)},
		{post, "/inside", withOf(a.WriteOut)},
		{get, "/home", tellOf(a.HomePlan)},
		{post, "/home", withOf(a.BringHome)},
		{put, "/home", doWithOf(a.AskHome)},
		{get, "/stow", tellOf(a.Stow)},
		{put, "/stow", withOf(a.SetStow)},
		{post, "/recipe", withOf(a.UseRecipe)},
		{get, "/estimates", tellOf(a.Estimates)},
		{put, "/berths", doWithOf(a.Wish)},
		{get, "/strays", tellOf(a.Strays)},
		{post, "/adopt", doWithOf(a.Adopt)},
		{post, "/putaway", withOf(a.PutAway)},
		{get, "/destination", withOf(a.Destination)},
		{get, "/sealed", tellOf(a.Sealed)},
		{post, "/seal", withOf(a.Seal)},
	}
}

// stream is what is no JSON, or is asked in a manner of its own: by these names.
type stream struct {
	path  string
	names []string
	call  echo.HandlerFunc
}

func streams(s *Server) []stream {
	rows := []string{"filter", "sort", "group", "offset", "limit", "beside"}
	return []stream{
		{"/events", nil, s.events},
		{"/media", []string{"path"}, s.media},
		{"/look", []string{"path"}, s.look},
		{"/projects/:id/tables/:table", rows, s.window},
		{"/projects/:id/tables/:table/keys", rows, s.rowKeys},
		{"/projects/:id/csv/:table", rows, s.csv},
	}
}
