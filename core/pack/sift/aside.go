package sift

import (
	"context"
	"errors"
	"path/filepath"

	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
)

// Asides traces, each by itself, those of the files that go along which are documents of
// their own: drawings of the parts, and what a person adopted. What they name goes with
// them, and is named anew. So are lists that tell of bytes, wherever they lie, but bring nothing. Earlier states stay as they are to the byte. One that cannot be
// read travels as it is.
func Asides(ctx context.Context, o trace.Options, chosen []Extra) (map[string]*graph.Graph, error) {
	var out map[string]*graph.Graph
	for _, e := range chosen {
		if e.What != Drawings && e.What != Adopted && e.What != Strays {
			continue
		}
		b, err := head(o.Reach, e.Path, format.HeadSize)
		if err != nil {
			continue
		}
		f := o.Formats.Sure(filepath.Base(e.Path), b)
		if _, list := f.(format.Tells); f == nil || e.What == Strays && !list {
			continue
		}
		g, err := trace.Run(ctx, o, e.Path)
		var bad *trace.Error
		if errors.As(err, &bad) {
			continue
		}
		if err != nil {
			return nil, err
		}
		if out == nil {
			out = map[string]*graph.Graph{}
		}
		out[e.Path] = g
	}
	return out, nil
}
