package server

import (
	"io"
	"net/http"
	"path/filepath"
	"strings"

	"github.com/labstack/echo/v5"

	"boundcrate/core/drive"
	"boundcrate/core/pcm"
	"boundcrate/server/api"
)

// playable are the types a preview may be served as. Nothing a page could run
// is among them.
var playable = map[string]string{
	".wav": "audio/wav", ".mp3": "audio/mpeg", ".flac": "audio/flac", ".ogg": "audio/ogg",
	".png": "image/png", ".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".gif": "image/gif", ".webp": "image/webp",
}

// media streams a file of the drives for listening and looking.
func (a *App) media(c *echo.Context) error {
	reach, err := a.reach()
	if err != nil {
		return err
	}
	p := filepath.Clean(c.QueryParam("path"))
	kind, ok := playable[strings.ToLower(filepath.Ext(p))]
	if !ok {
		return say(http.StatusUnsupportedMediaType, "No preview", "Files of this kind are not shown here.")
	}
	info, err := reach.Stat(p)
	if err != nil {
		return err
	}
	f, err := drive.OpenSized(reach, p)
	if err != nil {
		return err
	}
	defer f.Close()
	h := c.Response().Header()
	h.Set("Content-Type", kind)
	h.Set("Cache-Control", "no-cache")
	http.ServeContent(c.Response(), c.Request(), "", info.ModTime, io.NewSectionReader(f, 0, f.Size()))
	return nil
}

func (a *App) peaks(c *echo.Context) (api.Peaks, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Peaks{}, err
	}
	f, err := drive.OpenSized(reach, filepath.Clean(c.QueryParam("path")))
	if err != nil {
		return api.Peaks{}, err
	}
	defer f.Close()
	low, high, seconds, err := pcm.Peaks(f, f.Size(), 320)
	if err != nil {
		return api.Peaks{}, say(http.StatusUnprocessableEntity, "No waveform", "‘"+c.QueryParam("path")+"’ is "+err.Error()+".")
	}
	return api.Peaks{Low: low, High: high, Seconds: seconds}, nil
}
