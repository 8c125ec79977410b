package depot

import (
	"io"

	"golang.org/x/exp/slog"
)

// quiet says nothing: a simulated service that fails as it is asked to is no news.
func quiet() *slog.Logger { return slog.New(slog.NewTextHandler(io.Discard, nil)) }
