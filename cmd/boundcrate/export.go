package main

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/export"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/tally"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/text/mention"
)

func exportCommand() *cobra.Command {
	var c common
	var as, out string
	var only bool
	return onDocuments("export --as FORM --out FILE [--losses] DOCUMENT", "write a simpler document and list what it does not keep", cobra.ExactArgs(1), &c, func(cmd *cobra.Command) {
		cmd.Flags().StringVar(&as, "as", "", "edl, adl, m3u, xspf, otio-1 or list")
		cmd.Flags().StringVar(&out, "out", "", "the file to write")
		cmd.Flags().BoolVar(&only, "losses", false, "only list what is not kept; write nothing")
	}, func(cmd *cobra.Command, s *session) error {
		form := export.Form(as)
		if !slices.Contains(export.Forms, form) {
			return fmt.Errorf("Unknown format “%s”. Choose edl, adl, m3u, xspf, otio-1 or list.", as)
		}
		if out == "" && !only {
			return errors.New("Give a file to write: --out FILE.")
		}
		at := out
		if out != "" {
			var err error
			if at, err = filepath.Abs(out); err != nil {
				return err
			}
		}
		g, judged, err := s.run()
		if err != nil {
			return err
		}
		doc, err := s.export(g, form, at)
		if errors.Is(err, export.ErrNoTimeline) {
			return fmt.Errorf("‘%s’ has no timeline for an %s. Choose m3u, xspf or list.", s.docs[0], words.Form(form))
		}
		if err != nil {
			return err
		}
		rep := report.Export{As: form, Out: at, Losses: report.OfLosses(doc.Losses)}
		if !only {
			if err := writeNew(at, doc.Bytes); err != nil {
				return err
			}
			rep.Written = true
		}
		if c.json {
			err = printJSON(cmd.OutOrStdout(), rep)
		} else {
			printExport(cmd.OutOrStdout(), rep)
		}
		if err != nil {
			return err
		}
		return verdict(!tally.Of(g, judged, nil).NeedsPerson())
	})
}

// export makes a simpler document that will lie at a place; it names files relative to
// that.
func (s *session) export(g *graph.Graph, form export.Form, at string) (*export.Document, error) {
	var says *mention.Doc
	if g.Documents[0].Format == "otio" {
		file, err := s.trace.Reopen(g, 0)
		if err != nil {
			return nil, err
		}
		says = file.Doc
	}
	dir := filepath.Dir(at)
	if at == "" {
		dir = filepath.Dir(g.Documents[0].Path)
	}
	return export.Make(export.Options{As: form, Graph: g, Doc: 0, Says: says, Name: func(id graph.FileID) string {
		rel, err := filepath.Rel(dir, graph.Shown(g.Files[id].Path))
		if err != nil {
			return filepath.ToSlash(g.Files[id].Path)
		}
		return filepath.ToSlash(rel)
	}, Frames: func(id graph.FileID) (graph.Pattern, bool) {
		p, ok := graph.ParsePattern(g.Files[id].Path)
		if rel, err := filepath.Rel(dir, p.Dir); ok && err == nil {
			p.Dir = filepath.ToSlash(rel)
		}
		return p, ok
	}, Channels: func(id graph.FileID) (int, []string) { return export.ChannelsAt(s.trace.Reach, g.Files[id].Path), nil }})
}

// writeNew writes a file that is not there yet; its name appears when it is whole.
func writeNew(at string, b []byte) error {
	err := fileset.Create(at, 0o644, func(w io.Writer) error { _, err := w.Write(b); return err })
	if errors.Is(err, fs.ErrExist) {
		return fmt.Errorf("‘%s’ already exists. Nothing was written. Choose another name.", at)
	}
	return err
}

func printExport(w io.Writer, rep report.Export) {
	for _, l := range rep.Losses {
		fmt.Fprintln(w, "lost:", l.What)
	}
	if len(rep.Losses) == 0 {
		fmt.Fprintln(w, "Everything is kept.")
	}
	if rep.Written {
		fmt.Fprintln(w, "Written:", strings.TrimSpace(rep.Out))
	}
}
