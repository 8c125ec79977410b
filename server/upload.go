package server

import (
	"net/http"

	"github.com/labstack/echo/v5"
)

// uploadPath takes dropped archives in; it is the one address whose body is no JSON and may be large.
const uploadPath = "/api/upload"

// upload takes a file in as it comes, and answers where it is.
func (s *Server) upload(c *echo.Context) error {
	path, err := s.app.Upload(c.QueryParam("name"), c.Request().Body)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, map[string]string{"path": path})
}
