package main

import (
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"boundcrate/core/bring/connect"
	"boundcrate/core/disk/edition"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
)

func receiveCommand() *cobra.Command {
	var c common
	var into, material string
	var bases, docs []string
	cmd := &cobra.Command{
		Use: "receive --into DIR [--base CRATE]... [--material DIR] [--for DOCUMENT]... [--json] CRATE", Short: "check a crate, then unpack it to DIR/NAME; connect documents that arrived apart from it", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := c.open(cmd.Context(), docs)
			if err != nil {
				return err
			}
			defer s.close()
			p, err := absolute(append([]string{args[0]}, bases...))
			if err != nil {
				return err
			}
			o := receive.Options{Crate: p[0], Bases: p[1:], Formats: s.trace.Formats}
			for _, dir := range []struct {
				flag string
				to   *string
			}{{into, &o.Into}, {material, &o.Material}} {
				if dir.flag != "" {
					at, err := absolute([]string{dir.flag})
					if err != nil {
						return err
					}
					*dir.to = at[0]
				}
			}
			rep, err := s.receive(o)
			if err != nil {
				return err
			}
			well := rep.Well() && len(rep.DoesNotFit) == 0
			var done *connect.Done
			if len(docs) > 0 && (rep.Into != "" || o.Into == "") {
				if done, err = s.connect(o, rep); err != nil {
					return err
				}
				well = len(done.Left)+len(done.Problems) == 0 && rep.Harm() == 0
			}
			out := report.OfReceive(rep)
			if done != nil {
				out.Connect(done)
			}
			if c.json {
				if err := printJSON(cmd.OutOrStdout(), out); err != nil {
					return err
				}
				return verdict(well)
			}
			return errors.Join(c.received(cmd, rep, out), verdict(well))
		},
	}
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	cmd.Flags().StringVar(&into, "into", "", "the folder to unpack into")
	cmd.Flags().StringVar(&material, "material", "", "a folder for sounds and pictures; the documents name them there")
	cmd.Flags().StringArrayVar(&docs, "for", nil, "a document that lies elsewhere, to be connected to the files (repeatable)")
	cmd.Flags().StringArrayVar(&c.drives, "drive", nil, "a drive as NAME=DIR (repeatable)")
	baseFlag(cmd, &bases)
	c.dataFlag(cmd)
	return cmd
}

// receive unpacks a crate. For documents that arrived apart, a folder may stay where it is, and an
// archive need not be a crate.
func (s *session) receive(o receive.Options) (*receive.Report, error) {
	fi, err := os.Stat(o.Crate)
	folder := err == nil && fi.IsDir()
	if o.Into == "" && (len(s.docs) == 0 || !folder) {
		return nil, errors.New("Give a folder to unpack into: --into DIR.")
	}
	switch {
	case o.Into == "" && seal.IsBag(o.Crate):
		checked, err := seal.Inspect(s.ctx, o.Crate, o.Formats, o.Bases...)
		if err != nil {
			return nil, err
		}
		return &receive.Report{Report: *checked.Report, Meant: checked.Meant(), At: func(place string) string { return seal.At(o.Crate, place) }}, nil
	case len(s.docs) == 0 || err != nil || seal.IsBag(o.Crate):
		return receive.Run(s.ctx, o)
	case folder: // nobody sealed it; it stays where it is
		return &receive.Report{Report: seal.Report{Crate: o.Crate, Complete: true}, Into: o.Crate}, nil
	}
	at, err := receive.Plain(s.ctx, o.Crate, o.Into)
	return &receive.Report{Report: seal.Report{Crate: o.Crate, Complete: err == nil}, Into: at}, err
}

// connect makes the documents name what was received.
func (s *session) connect(o receive.Options, rep *receive.Report) (*connect.Done, error) {
	folders := []string{rep.Into}
	if rep.Into == "" {
		folders = []string{o.Crate}
	}
	if rep.Material != "" {
		folders = append(folders, rep.Material)
	}
	var read int64
	done, err := connect.Run(s.ctx, connect.Options{
		Documents: s.docs, Folders: folders, Trace: s.trace, Judge: s.judge, Meant: rep.Meant, At: rep.At, Keep: edition.Keeper{}, Journals: s.journals(),
		Reading: func(g *graph.Graph) mend.Reading {
			rd := s.reading(&read)
			if rd.Used = mend.Used(g); s.memory != nil {
				rd.Claimed, rd.Others = s.memory.Claimed(g), s.memory.NamedBelow(g)
			}
			return rd
		},
	})
	if err != nil {
		return nil, err
	}
	for _, p := range words.Problems(done.Problems) {
		fmt.Fprintln(os.Stderr, p)
	}
	rep.DoesNotFit = append(rep.DoesNotFit, done.Rates(rep, folders)...)
	return done, s.remember(done.Graph, nil)
}

// received prints what came of it.
func (c *common) received(cmd *cobra.Command, rep *receive.Report, out report.Receive) error {
	w := cmd.OutOrStdout()
	switch {
	case rep.Into == "" && rep.Harm()+len(rep.ToFetch) > 0:
		fmt.Fprintln(w, "The check failed. Nothing was unpacked.")
	case rep.Into == "" && len(rep.DoesNotFit) > 0:
		fmt.Fprintln(w, "Nothing was unpacked.")
	case rep.Into != "" && rep.Into != rep.Crate:
		fmt.Fprintln(w, "Unpacked to", rep.Into)
	}
	if rep.Material != "" {
		fmt.Fprintln(w, "Sounds and pictures are in", rep.Material)
	}
	for _, m := range out.DoesNotFit {
		fmt.Fprintf(w, "%s %s\n", m.Path, m.Message)
	}
	printConnected(w, out)
	if rep.Proof.By == "" && len(rep.Problems)+len(rep.Faults) == 0 && rep.Files == 0 {
		return nil // nobody sealed it: there is nothing to be proved
	}
	err := c.report(cmd, &rep.Report)
	if errors.Is(err, verdict(false)) {
		return nil // told by whoever asks
	}
	return err
}

func printConnected(w io.Writer, out report.Receive) {
	for _, x := range out.Connected {
		fmt.Fprintf(w, "Connected: %s, %s, earlier state kept as %s\n", x.Document, phrase.Plural(x.References, "reference"), x.Edition)
	}
	for _, l := range out.Left {
		if l.Written != "" {
			fmt.Fprintf(w, "Not connected: %s in %s: %s\n", l.Written, l.Document, l.Message)
		}
	}
}
