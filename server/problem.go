package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"html"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

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
	fault.Broken:      {http.StatusInternalServerError, "broken", "An internal error of Bound Crate. The log has details. Trying again may help."},
	fault.Wrong:       {http.StatusBadRequest, "wrong", "The request is not valid: an unknown value or not a path. Repeating it will not help."},
	fault.Unfit:       {http.StatusUnprocessableEntity, "unfit", "The request is valid but cannot be carried out: a document that cannot be read, or choices that exclude each other."},
	fault.Unknown:     {http.StatusNotFound, "unknown", "It does not exist, or no longer exists."},
	fault.Conflict:    {http.StatusConflict, "conflict", "The request does not fit the present state: something changed, is still running, or needs confirmation first. Nothing was done. Reload and decide again."},
	fault.Forbidden:   {http.StatusForbidden, "forbidden", "Not allowed: it is outside the drives, or the system denies access."},
	fault.Unavailable: {http.StatusServiceUnavailable, "unavailable", "Not available right now. Try again later."},
	fault.Unsupported: {http.StatusUnsupportedMediaType, "unsupported", "Not supported for this kind of file."},
}

// problemsPath is the page that explains the types of problems.
const problemsPath = "/problems"

// problems explains each type of problem, at the address that is its name.
func problems(c *echo.Context) error {
	var b strings.Builder
	b.WriteString("<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><title>Problems · Bound Crate</title><h1>Problem types</h1><dl>")
	for code := fault.Broken; code <= fault.Unsupported; code++ {
		k := kinds[code]
		fmt.Fprintf(&b, "<dt id=%q><b>%s</b> (%d)</dt><dd>%s</dd>", k.name, k.name, k.status, html.EscapeString(k.says))
	}
	b.WriteString("</dl></html>")
	return c.HTML(http.StatusOK, b.String())
}

// refusal is a refusal of the server itself.
type refusal struct {
	status        int
	title, detail string
}

func (s *refusal) Error() string { return s.detail }

func refuse(status int, title, detail string) error { return &refusal{status, title, detail} }

// explain makes an error problem details (RFC 9457).
func explain(err error) api.ProblemReply {
	out := api.ProblemReply{Type: "about:blank"}
	var own *refusal
	var coder echo.HTTPStatusCoder
	var panicked *middleware.PanicStackError
	switch {
	case errors.As(err, &own):
		out.Status, out.Title, out.Detail = own.status, own.title, own.detail
	case errors.As(err, &coder):
		out.Status, out.Title = coder.StatusCode(), http.StatusText(coder.StatusCode())
		switch out.Status {
		case http.StatusRequestEntityTooLarge:
			out.Detail = "A request can have at most 1 MB."
		case http.StatusMethodNotAllowed:
			out.Detail = "This method is not supported at this address."
		default:
			out.Detail = "There is nothing at this address."
		}
	case errors.As(err, &panicked): // its stack is for the log alone
		k := kinds[fault.Broken]
		out.Type, out.Status, out.Title, out.Detail = problemsPath+"#"+k.name, k.status, "Internal error", "An internal error of Bound Crate. The log has details. Trying again may help."
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
