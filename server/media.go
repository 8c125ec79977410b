package server

import (
	"io"
	"net/http"
	"path/filepath"
	"strings"

	"github.com/labstack/echo/v5"
	"github.com/pmezard/go-difflib/difflib"

	"boundcrate/core/media/look"
	"boundcrate/core/media/pcm"
	"boundcrate/server/api/tracing"
	"boundcrate/store"
)

// playable are the types a preview may be served as. Nothing a page could run
// is among them.
var playable = map[string]string{
	".wav": "audio/wav", ".aif": "audio/wav", ".aiff": "audio/wav", ".aifc": "audio/wav", ".mp3": "audio/mpeg", ".flac": "audio/flac", ".ogg": "audio/ogg",
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
	f, err := reach.Open(p)
	if err != nil {
		return err
	}
	defer f.Close()
	h := c.Response().Header()
	h.Set("Content-Type", kind)
	h.Set("Cache-Control", "no-cache")
	content := io.NewSectionReader(f, 0, f.Size())
	if kind == "audio/wav" && !strings.EqualFold(filepath.Ext(p), ".wav") { // no browser plays AIFF; the samples are the same
		if content, err = pcm.AsWAV(f, f.Size()); err != nil {
			return say(http.StatusUnsupportedMediaType, "No preview", "‘"+filepath.Base(p)+"’ cannot be played: "+err.Error()+".")
		}
	}
	http.ServeContent(c.Response(), c.Request(), "", info.ModTime, content)
	return nil
}

func (a *App) peaks(c *echo.Context) (tracing.Peaks, error) {
	reach, err := a.reach()
	if err != nil {
		return tracing.Peaks{}, err
	}
	f, err := reach.Open(filepath.Clean(c.QueryParam("path")))
	if err != nil {
		return tracing.Peaks{}, err
	}
	defer f.Close()
	low, high, seconds, err := pcm.Peaks(f, f.Size(), 320)
	if err != nil {
		return tracing.Peaks{}, say(http.StatusUnprocessableEntity, "No waveform", "‘"+c.QueryParam("path")+"’ is "+err.Error()+".")
	}
	return tracing.Peaks{Low: low, High: high, Seconds: seconds}, nil
}

// lookOf is what a missing file looked like when it was last seen: a waveform, or a
// small picture.
func (a *App) lookOf(c *echo.Context) error {
	memory, err := a.store.Memory(nil)
	if err != nil {
		return err
	}
	defer memory.Close()
	b, err := memory.Look(filepath.Clean(c.QueryParam("path")))
	if err != nil {
		return err
	}
	if low, high, seconds, err := look.Wave(b); err == nil {
		return c.JSON(http.StatusOK, tracing.Peaks{Low: low, High: high, Seconds: seconds})
	}
	small, err := look.Picture(b)
	if err != nil {
		return store.ErrNotFound
	}
	return c.Blob(http.StatusOK, "image/jpeg", small)
}

// differs tells how a candidate's text differs from the missing one's, as it was last
// seen: the lines that came and went, with some around them.
func (a *App) differs(c *echo.Context) (tracing.Differs, error) {
	out := tracing.Differs{Lines: []string{}}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return out, err
	}
	defer memory.Close()
	was, err := memory.Look(filepath.Clean(c.QueryParam("last")))
	if err != nil {
		return out, err
	}
	before, err := look.Text(was)
	if err != nil {
		return out, store.ErrNotFound
	}
	f, err := reach.Open(filepath.Clean(c.QueryParam("path")))
	if err != nil {
		return out, err
	}
	defer f.Close()
	is, err := look.Of(f, f.Size())
	if err != nil {
		return out, store.ErrNotFound
	}
	after, err := look.Text(is)
	if err != nil {
		return out, store.ErrNotFound
	}
	said, err := difflib.GetUnifiedDiffString(difflib.UnifiedDiff{A: difflib.SplitLines(before), B: difflib.SplitLines(after), Context: 1})
	if err != nil {
		return out, err
	}
	lines := strings.Split(strings.TrimSuffix(said, "\n"), "\n")
	if said != "" {
		out.Lines = lines[:min(len(lines), mostLines)]
	}
	return out, nil
}
