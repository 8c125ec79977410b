package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"html"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
)

// kind is a kind of refusal: how HTTP says it (RFC 9110 §15), what its type is called, and what
// it means to a program that meets it.
type kind struct {
	status     int
	name, says string
}

var kinds = map[fault.Code]kind{
	fault.Broken:      {http.StatusInternalServerError, "broken", "It went wrong inside, which is a fault of Bound Crate. The log tells more. Asking again may help."},
	fault.Wrong:       {http.StatusBadRequest, "wrong", "What was asked makes no sense: a value that does not exist, a path that is none. Asking the same again will not help."},
	fault.Unfit:       {http.StatusUnprocessableEntity, "unfit", "What was asked makes sense and cannot be done with what was given: a document that cannot be read, a choice that does not fit another."},
	fault.Unknown:     {http.StatusNotFound, "unknown", "There is no such thing, or not any more."},
	fault.Conflict:    {http.StatusConflict, "conflict", "It does not fit what holds by now: something changed since it was shown, is under way, or somebody has to say more first. Nothing was done. Ask for what holds, then decide anew."},
	fault.Forbidden:   {http.StatusForbidden, "forbidden", "Nobody may: it lies outside the drives, or the system refuses it."},
	fault.Unavailable: {http.StatusServiceUnavailable, "unavailable", "It cannot be told at present. Ask again later."},
	fault.Unsupported: {http.StatusUnsupportedMediaType, "unsupported", "Not for files of this kind."},
}

// problemsPath is the page that explains the types of problems.
const problemsPath = "/problems"

// problems explains each type of problem, at the address that is its name.
func problems(c *echo.Context) error {
	var b strings.Builder
	b.WriteString("<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><title>Problems · Bound Crate</title><h1>What a refusal means</h1><dl>")
	for code := fault.Broken; code <= fault.Unsupported; code++ {
		k := kinds[code]
		fmt.Fprintf(&b, "<dt id=%q><b>%s</b> (%d)</dt><dd>%s</dd>", k.name, k.name, k.status, html.EscapeString(k.says))
	}
	b.WriteString("</dl></html>")
	return c.HTML(http.StatusOK, b.String())
}

// said is a refusal of the server itself.
type said struct {
	status        int
	title, detail string
}

func (s *said) Error() string { return s.detail }

func say(status int, title, detail string) error { return &said{status, title, detail} }

// explain makes an error problem details (RFC 9457).
func explain(err error) api.ProblemReply {
	out := api.ProblemReply{Type: "about:blank"}
	var own *said
	var coder echo.HTTPStatusCoder
	switch {
	case errors.As(err, &own):
		out.Status, out.Title, out.Detail = own.status, own.title, own.detail
	case errors.As(err, &coder):
		out.Status, out.Title = coder.StatusCode(), http.StatusText(coder.StatusCode())
		switch out.Status {
		case http.StatusRequestEntityTooLarge:
			out.Detail = "A request holds 1 MB at the most."
		case http.StatusMethodNotAllowed:
			out.Detail = "This address is not asked in that manner."
		default:
			out.Detail = "There is nothing at this address."
		}
	default:
		f := fault.Explain(err)
		k := kinds[f.Code]
		out.Type, out.Status, out.Title, out.Detail, out.More = problemsPath+"#"+k.name, k.status, f.Title, f.Detail, f.Problem
	}
	return out
}

func (s *Server) fail(c *echo.Context, err error) {
	if on := (*jobs.Underway)(nil); errors.As(err, &on) {
		c.Response().Header().Set("Location", "/api/jobs/"+on.Job.ID+"/result")
		_ = c.JSON(http.StatusAccepted, on.Started)
		return
	}
	p := explain(err)
	if p.Status >= 500 {
		s.log.Error("request failed", "path", c.Request().URL.Path, "error", err)
	}
	b, _ := json.Marshal(p)
	_ = c.Blob(p.Status, "application/problem+json", b)
}
