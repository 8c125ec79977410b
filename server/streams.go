package server

import (
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"boundcrate/app"
	"boundcrate/app/table"
)

// stillHere is how often a silent stream says that it stands.
const stillHere = 20 * time.Second

// events streams to one page (server-sent events).
func (s *Server) events(c *echo.Context) error {
	line, err := s.app.Listen()
	if err != nil {
		return err
	}
	defer line.Close()
	w := c.Response()
	flush := http.NewResponseController(w)
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	fmt.Fprint(w, ": open\n\n")
	if err := flush.Flush(); err != nil {
		return err
	}
	beat := time.NewTicker(stillHere)
	defer beat.Stop()
	for {
		select {
		case <-c.Request().Context().Done():
			return nil
		case <-s.app.Done():
			return nil
		case <-beat.C:
			fmt.Fprint(w, ": still here\n\n")
		case <-line.Wake():
			for _, e := range line.Take() {
				b, err := json.Marshal(e)
				if err != nil {
					return err
				}
				fmt.Fprintf(w, "data: %s\n\n", b)
			}
		}
		if err := flush.Flush(); err != nil {
			return nil // the page is gone
		}
	}
}

// result is what a job resulted in, which may be waited for.
func (s *Server) result(c *echo.Context) error {
	b, err := s.app.Result(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	return c.JSONBlob(http.StatusOK, b)
}

// media streams a file of the drives for listening and looking.
func (s *Server) media(c *echo.Context) error {
	p, err := s.app.Preview(c.QueryParam("path"))
	if err != nil {
		return err
	}
	defer p.Close()
	h := c.Response().Header()
	h.Set("Content-Type", p.Type)
	h.Set("Cache-Control", "no-cache")
	http.ServeContent(c.Response(), c.Request(), "", p.Modified, p)
	return nil
}

// look answers what a missing file looked like: a waveform as JSON, or a picture.
func (s *Server) look(c *echo.Context) error {
	wave, picture, err := s.app.LookOf(c.QueryParam("path"))
	switch {
	case err != nil:
		return err
	case wave != nil:
		return c.JSON(http.StatusOK, wave)
	}
	return c.Blob(http.StatusOK, "image/jpeg", picture)
}

// listNames are what every list is asked by; whatever else is named narrows it.
var listNames = []string{"filter", "sort", "group", "offset", "limit", "beside", "from", "to"}

func queryOf(c *echo.Context) table.Query {
	q := table.Query{Filter: c.QueryParam("filter"), Sort: c.QueryParam("sort"), Group: c.QueryParam("group"), Facets: map[string]string{}}
	for name, values := range c.QueryParams() {
		if !slices.Contains(listNames, name) {
			q.Facets[name] = values[0]
		}
	}
	return q
}

func (s *Server) window(c *echo.Context) error {
	project, err := idOf[int64](c)
	if err != nil {
		return err
	}
	var part struct {
		Offset int `query:"offset"`
		Limit  int `query:"limit"`
	}
	if err := echo.BindQueryParams(c, &part); err != nil {
		return unread(err)
	}
	w, err := s.app.Window(c.Request().Context(), project, c.Param("table"), queryOf(c), part.Offset, part.Limit)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, w)
}

func (s *Server) stretch(c *echo.Context) error {
	project, err := idOf[int64](c)
	if err != nil {
		return err
	}
	x, err := s.app.Stretch(c.Request().Context(), project, c.Param("table"), queryOf(c), c.QueryParam("beside"), c.QueryParam("from"), c.QueryParam("to"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, x)
}

func (s *Server) csv(c *echo.Context) error {
	project, err := idOf[int64](c)
	if err != nil {
		return err
	}
	name := strings.TrimSuffix(c.Param("table"), ".csv")
	write, err := s.app.Rows(c.Request().Context(), project, name, queryOf(c))
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Content-Type", "text/csv; charset=utf-8")
	h.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-%d.csv"`, name, project))
	c.Response().WriteHeader(http.StatusOK)
	return write(c.Response())
}

// print answers a list as a page for paper, which has a style of its own and no script.
func (s *Server) print(c *echo.Context) error {
	project, err := idOf[int64](c)
	if err != nil {
		return err
	}
	write, err := s.app.Paper(c.Request().Context(), project, c.Param("table"), queryOf(c))
	if err != nil {
		return err
	}
	onPaper(c, table.PrintStyle)
	return write(c.Response())
}

// sealedSheet answers the handoff sheet of a project's last sealing.
func (s *Server) sealedSheet(c *echo.Context) error {
	project, err := idOf[int64](c)
	if err != nil {
		return err
	}
	page, err := s.app.SealedSheet(project)
	return answerSheet(c, page, err)
}

// receivedSheet answers that of what a job received.
func (s *Server) receivedSheet(c *echo.Context) error {
	page, err := s.app.ReceivedSheet(c.Param("id"))
	return answerSheet(c, page, err)
}

// answerSheet answers a handoff sheet, which has a style of its own and no script.
func answerSheet(c *echo.Context, page []byte, err error) error {
	if err != nil {
		return err
	}
	onPaper(c, app.SheetStyle)
	_, err = c.Response().Write(page)
	return err
}

// onPaper lets a page in that has one style and nothing else.
func onPaper(c *echo.Context, style string) {
	sum := sha256.Sum256([]byte(style))
	h := c.Response().Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'sha256-"+base64.StdEncoding.EncodeToString(sum[:])+"'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'")
	c.Response().WriteHeader(http.StatusOK)
}
