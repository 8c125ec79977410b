package server

import (
	"bytes"
	"crypto/rand"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// packedForm is how a file lies packed: what its name ends in, and what HTTP calls that.
type packedForm struct{ end, coding string }

// packedForms are how files of the interface lie packed beside themselves, the smallest first.
var packedForms = []packedForm{{".br", "br"}, {".gz", "gzip"}}

// packedAs is the smallest packedForm of a file that a browser takes; none where there is none.
func packedAs(files fs.FS, name, accept string) packedForm {
	for _, p := range packedForms {
		for _, word := range strings.Split(accept, ",") {
			coding, q, _ := strings.Cut(strings.TrimSpace(word), ";")
			if coding != p.coding || strings.TrimSpace(q) == "q=0" {
				continue
			}
			if _, err := fs.Stat(files, name+p.end); err == nil {
				return p
			}
		}
	}
	return packedForm{}
}

// answersPacked packs what is worth it: answers of some size, but no streams, which would wait
// for more, and no media, of which ranges are asked for.
func answersPacked() echo.MiddlewareFunc {
	return middleware.GzipWithConfig(middleware.GzipConfig{Level: 1, MinLength: 2048, Skipper: func(c *echo.Context) bool {
		at := c.Request().URL.Path
		return !strings.HasPrefix(at, "/api/") || at == "/api/events" || at == "/api/media" || at == "/api/look"
	}})
}

// static serves the built interface; every path that is no file is a place
// within it.
func static(files fs.FS) echo.HandlerFunc {
	server := http.FileServerFS(files)
	return func(c *echo.Context) error {
		r := c.Request()
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if strings.HasPrefix(name, "api/") {
			return refuse(http.StatusNotFound, "Not found", "There is nothing at this address.")
		}
		if fi, err := fs.Stat(files, name); name == "" || err != nil || fi.IsDir() {
			page, err := fs.ReadFile(files, "index.html")
			if err != nil {
				return refuse(http.StatusNotFound, "No interface", "This binary was built without its interface. Run make build.")
			}
			nonce := rand.Text()
			h := c.Response().Header()
			h.Set("Cache-Control", "no-store")
			h.Set("Content-Security-Policy", strings.Replace(policy, "style-src 'self'", "style-src 'self' 'nonce-"+nonce+"'", 1))
			return c.HTMLBlob(http.StatusOK, bytes.ReplaceAll(page, []byte(nonceMark), []byte(nonce)))
		}
		if strings.HasPrefix(name, "assets/") {
			c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			if as := packedAs(files, name, r.Header.Get("Accept-Encoding")); as.end != "" {
				h := c.Response().Header()
				h.Set("Content-Encoding", as.coding)
				h.Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
				h.Add("Vary", "Accept-Encoding")
				r = r.Clone(r.Context())
				r.URL.Path += as.end
			}
		}
		server.ServeHTTP(c.Response(), r)
		return nil
	}
}
