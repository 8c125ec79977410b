package server

import (
	"encoding/json"
	"errors"
	"net/http"

	"github.com/labstack/echo/v5"

	"boundcrate/app"
	"boundcrate/app/api"
)

// status is how HTTP says a refusal (RFC 9110 §15).
var status = map[app.Code]int{
	app.Broken: http.StatusInternalServerError, app.Wrong: http.StatusBadRequest, app.Unfit: http.StatusUnprocessableEntity,
	app.Unknown: http.StatusNotFound, app.Conflict: http.StatusConflict, app.Forbidden: http.StatusForbidden,
	app.Unavailable: http.StatusServiceUnavailable, app.Unsupported: http.StatusUnsupportedMediaType,
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
		f := app.Explain(err)
		out.Status, out.Title, out.Detail, out.More = status[f.Code], f.Title, f.Detail, f.Problem
	}
	return out
}

func (s *Server) fail(c *echo.Context, err error) {
	p := explain(err)
	if p.Status >= 500 {
		s.log.Error("request failed", "path", c.Request().URL.Path, "error", err)
	}
	b, _ := json.Marshal(p)
	_ = c.Blob(p.Status, "application/problem+json", b)
}
