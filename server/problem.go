package server

import (
	"context"
	"encoding/json"
	"errors"
	"io/fs"
	"net/http"
	"syscall"

	"github.com/labstack/echo/v5"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/server/api"
	"boundcrate/store"
)

// said is an error that already is a sentence for people.
type said struct {
	status        int
	title, detail string
	problem       *words.Problem
}

func (s *said) Error() string { return s.detail }

func say(status int, title, detail string) error {
	return &said{status: status, title: title, detail: detail}
}

// explain is the one place where errors become problem details (RFC 9457).
func explain(err error) api.ProblemReply {
	var (
		s       *said
		doc     *trace.Error
		changed *trace.ChangedError
		copied  *content.ChangedError
		refusal *seal.Refusal
		no      *seal.NoCrate
		coder   echo.HTTPStatusCoder
	)
	out := api.ProblemReply{Type: "about:blank", Status: http.StatusInternalServerError, Title: "It did not work", Detail: words.Error(err)}
	switch {
	case errors.As(err, &s):
		out.Status, out.Title, out.Detail, out.More = s.status, s.title, s.detail, s.problem
	case errors.As(err, &changed), errors.As(err, &copied):
		out.Status, out.Title = http.StatusConflict, "It changed meanwhile"
	case errors.As(err, &doc):
		out.Status, out.Title = http.StatusUnprocessableEntity, "The document could not be read"
	case errors.As(err, &refusal), errors.As(err, &no), errors.Is(err, receive.ErrThere):
		out.Status, out.Title = http.StatusConflict, "Refused"
	case errors.Is(err, store.ErrNotFound):
		out.Status, out.Title, out.Detail = http.StatusNotFound, "Not known", "It is not known here any more."
	case errors.Is(err, syscall.ENAMETOOLONG):
		out.Status, out.Title, out.Detail = http.StatusBadRequest, "Too long", "A name is longer than the disk takes."
	case errors.Is(err, syscall.EINVAL), errors.Is(err, syscall.ENOTDIR), errors.Is(err, syscall.ELOOP):
		out.Status, out.Title, out.Detail = http.StatusBadRequest, "Not a path", "That is no path to a file or folder here."
	case errors.Is(err, drive.ErrOutside):
		out.Status, out.Title = http.StatusForbidden, "Outside your drives"
	case errors.Is(err, drive.ErrUnplugged):
		out.Status, out.Title = http.StatusConflict, "Drive not connected"
	case errors.Is(err, fs.ErrNotExist):
		out.Status, out.Title = http.StatusNotFound, "Not there"
	case errors.Is(err, drive.ErrNotRegular):
		out.Status, out.Title = http.StatusBadRequest, "Not a file"
	case errors.Is(err, fs.ErrPermission):
		out.Status, out.Title = http.StatusForbidden, "Permission denied"
	case errors.Is(err, context.Canceled):
		out.Status, out.Title, out.Detail = http.StatusConflict, "Stopped", "It was stopped."
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
	}
	return out
}

func (a *App) fail(c *echo.Context, err error) {
	p := explain(err)
	if p.Status >= 500 {
		a.log.Error("request failed", "path", c.Request().URL.Path, "error", err)
	}
	b, _ := json.Marshal(p)
	_ = c.Blob(p.Status, "application/problem+json", b)
}
