package app

import (
	"context"
	"io"
	"path/filepath"
	"strings"
	"time"

	"github.com/pmezard/go-difflib/difflib"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/look"
	"boundcrate/core/media/pcm"
	"boundcrate/store"
)

// playable are the types a preview may be served as. Nothing a page could run
// is among them.
var playable = map[string]string{
	".wav": "audio/wav", ".aif": "audio/wav", ".aiff": "audio/wav", ".aifc": "audio/wav", ".mp3": "audio/mpeg", ".flac": "audio/flac", ".ogg": "audio/ogg",
	".png": "image/png", ".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".gif": "image/gif", ".webp": "image/webp",
}

// Preview is a file of the drives for listening and looking. Close it.
type Preview struct {
	*io.SectionReader
	Type     string // the media type
	Modified time.Time
	file     drive.File
}

// Close lets go of the file.
func (p *Preview) Close() error { return p.file.Close() }

// Preview opens a file for listening and looking.
func (a *App) Preview(path string) (*Preview, error) {
	reach, err := a.reach()
	if err != nil {
		return nil, err
	}
	p := filepath.Clean(path)
	kind, ok := playable[strings.ToLower(filepath.Ext(p))]
	if !ok {
		return nil, fault.Say(fault.Unsupported, "No preview", "Files of this kind are not shown here.")
	}
	info, err := reach.Stat(p)
	if err != nil {
		return nil, err
	}
	f, err := reach.Open(p)
	if err != nil {
		return nil, err
	}
	content := io.NewSectionReader(f, 0, f.Size())
	if kind == "audio/wav" && !strings.EqualFold(filepath.Ext(p), ".wav") { // no browser plays AIFF; the samples are the same
		if content, err = pcm.AsWAV(f, f.Size()); err != nil {
			f.Close()
			return nil, fault.Say(fault.Unsupported, "No preview", "‘"+filepath.Base(p)+"’ cannot be played: "+err.Error()+".")
		}
	}
	return &Preview{content, kind, info.ModTime, f}, nil
}

// Peaks is the waveform of a sound.
func (a *App) Peaks(_ context.Context, q api.AskPath) (tracing.Peaks, error) {
	reach, err := a.reach()
	if err != nil {
		return tracing.Peaks{}, err
	}
	f, err := reach.Open(filepath.Clean(q.Path))
	if err != nil {
		return tracing.Peaks{}, err
	}
	defer f.Close()
	low, high, seconds, err := pcm.Peaks(f, f.Size(), 320)
	if err != nil {
		return tracing.Peaks{}, fault.Say(fault.Unfit, "No waveform", "‘"+q.Path+"’ is "+err.Error()+".")
	}
	return tracing.Peaks{Low: low, High: high, Seconds: seconds}, nil
}

// LookOf is what a missing file looked like when it was last seen: a waveform, or a
// small picture (JPEG).
func (a *App) LookOf(path string) (*tracing.Peaks, []byte, error) {
	memory, err := a.store.Memory(nil)
	if err != nil {
		return nil, nil, err
	}
	defer memory.Close()
	b, err := memory.Look(filepath.Clean(path))
	if err != nil {
		return nil, nil, err
	}
	if low, high, seconds, err := look.Wave(b); err == nil {
		return &tracing.Peaks{Low: low, High: high, Seconds: seconds}, nil, nil
	}
	small, err := look.Picture(b)
	if err != nil {
		return nil, nil, store.ErrNotFound
	}
	return nil, small, nil
}

// Differs tells how a candidate's text differs from the missing one's, as it was last
// seen: the lines that came and went, with some around them.
func (a *App) Differs(_ context.Context, q api.AskDiffers) (tracing.Differs, error) {
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
	was, err := memory.Look(filepath.Clean(q.Last))
	if err != nil {
		return out, err
	}
	before, err := look.Text(was)
	if err != nil {
		return out, store.ErrNotFound
	}
	f, err := reach.Open(filepath.Clean(q.Path))
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
		out.Lines = lines[:min(len(lines), maxLines)]
	}
	return out, nil
}
