package server

import (
	"context"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"
)

// healthPath is asked by whoever keeps services running.
const healthPath = "/healthz"

// healthWaits is how long the database has to answer.
const healthWaits = 2 * time.Second

// health answers 200 while the application and its database do.
func (s *Server) health(c *echo.Context) error {
	ctx, done := context.WithTimeout(c.Request().Context(), healthWaits)
	defer done()
	if err := s.app.Well(ctx); err != nil {
		return refuse(http.StatusServiceUnavailable, "Not ready", "The database is not responding.")
	}
	return c.JSON(http.StatusOK, map[string]bool{"ok": true})
}

// logged tells of each request at level debug.
func (s *Server) logged(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		began := time.Now()
		err := next(c)
		r := c.Request()
		s.log.Debug("request", "method", r.Method, "path", r.URL.Path, "took", time.Since(began).Round(time.Microsecond), "failed", err != nil)
		return err
	}
}
