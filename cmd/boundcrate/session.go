package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"boundcrate/app/desk"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// session is one command's documents, what the flags say of them, and what is
// remembered.
type session struct {
	common
	ctx    context.Context
	docs   []string
	trace  trace.Options
	origin origin.Options
	judged *origin.Judged // what was judged last
	layout stow.Layout    // that the destination asks for; "" leaves it to the recipe
	store  *store.Store   // nil: nothing is remembered
	memory *store.Memory  // nil: the same
}

// open reads the flags and opens the memory.
func (c *common) open(ctx context.Context, documents []string) (*session, error) {
	drives, err := parseDrives(c.drives)
	if err != nil {
		return nil, err
	}
	s := &session{common: *c, ctx: ctx}
	if s.docs, err = absolute(documents); err != nil {
		return nil, err
	}
	s.trace = trace.Options{Reach: drive.System{Drives: drives}, Drives: drives, Readings: &trace.Readings{}}
	s.origin = origin.Options{Reach: s.trace.Reach, Drives: drives}
	for flag, list := range map[string][]string{"--library": c.libraries, "--store": c.stores} {
		dirs, err := absolute(list)
		if err != nil {
			return nil, err
		}
		for _, d := range dirs {
			if fi, err := os.Stat(d); err != nil || !fi.IsDir() {
				return nil, fmt.Errorf("%s ‘%s’ is not a folder", flag, d)
			}
		}
		if flag == "--library" {
			s.origin.Libraries = dirs
		} else {
			s.origin.Stores = dirs
		}
	}
	if c.root != "" {
		if s.trace.Root, err = filepath.Abs(c.root); err != nil {
			return nil, err
		}
		if fi, err := os.Stat(s.trace.Root); err != nil || !fi.IsDir() {
			return nil, fmt.Errorf("--root ‘%s’ is not a folder", s.trace.Root)
		}
	}
	s.store = c.openStore()
	if at := s.journals(); at != "" {
		done, err := fileset.Recover(at)
		for _, d := range done {
			fmt.Fprintf(os.Stderr, "An interrupted write to ‘%s’ was finished now.\n", d.Path)
		}
		if err != nil {
			fmt.Fprintln(os.Stderr, words.Error(err))
		}
	}
	if s.trace.Formats, err = c.formats(s.store); err != nil {
		s.close()
		return nil, err
	}
	if s.store != nil {
		if s.memory, err = s.store.Memory(drives); err != nil {
			fmt.Fprintln(os.Stderr, "Nothing will be remembered for later:", err)
			s.memory = nil
		}
		if known, err := s.store.CoreDrives(); err == nil && s.memory != nil {
			if err := s.store.Surround(&s.origin, 0, "", known); err != nil {
				fmt.Fprintln(os.Stderr, err)
			}
		}
	}
	if s.memory != nil {
		s.trace.Doubt, s.trace.Known = s.memory.Doubt(ctx, s.trace.Reach), s.memory.Known
	}
	return s, nil
}

// journals is the folder of what is being written; "" where there is no data
// folder.
func (s *session) journals() string {
	if s.store == nil {
		return ""
	}
	return s.store.Journals()
}

func (s *session) close() {
	if s.memory != nil {
		s.memory.Close()
	}
	if s.store != nil {
		s.store.Close()
	}
}

// run traces the documents and judges what was found.
func (s *session) run() (*graph.Graph, *origin.Judged, error) {
	g, err := trace.Run(s.ctx, s.trace, s.docs...)
	if err != nil {
		return nil, nil, err
	}
	return g, s.judge(g), nil
}

// judge tells where a graph's material lives and what of it is not what it should be.
func (s *session) judge(g *graph.Graph) *origin.Judged {
	s.judged = desk.Judge(s.ctx, g, s.origin, s.memory, nil)
	return s.judged
}

// remember keeps what a trace found. That it cannot be kept is a warning.
func (s *session) remember(g *graph.Graph, known map[string]string) error {
	if s.memory == nil {
		return nil
	}
	now := time.Now()
	err := errors.Join(s.keepBeside(), s.memory.Remember(s.ctx, g, s.trace.Reach, known, now, nil), s.store.KeepUses(0, s.trace.Reach, s.trace.Formats, now, g))
	if err != nil && s.ctx.Err() == nil {
		fmt.Fprintln(os.Stderr, "This trace could not be remembered for later:", err)
		return nil
	}
	return s.ctx.Err()
}

// keepBeside keeps which companions stood where, so that one that is gone is told.
func (s *session) keepBeside() error {
	if s.judged == nil {
		return nil
	}
	drives, err := s.store.CoreDrives()
	if err != nil {
		return err
	}
	return s.store.KeepBeside(s.judged.Beside(), drives)
}

// reading is what candidates are compared by; tally counts the bytes read.
func (s *session) reading(tally *int64) mend.Reading {
	once := mend.Once(s.trace.Reach, func(n int64) { *tally += n })
	rd := mend.Reading{Reach: s.trace.Reach, Hash: once, Memory: mend.Nothing}
	if s.memory != nil {
		rd.Memory, rd.Heard = s.memory.Of, s.memory.Sound
	}
	return rd
}

// onDocuments makes a command over documents.
func onDocuments(use, short string, args cobra.PositionalArgs, c *common, flags func(*cobra.Command), run func(*cobra.Command, *session) error) *cobra.Command {
	cmd := &cobra.Command{Use: use, Short: short, Args: args, RunE: func(cmd *cobra.Command, args []string) error {
		s, err := c.open(cmd.Context(), args)
		if err != nil {
			return err
		}
		defer s.close()
		return run(cmd, s)
	}}
	c.flags(cmd)
	if flags != nil {
		flags(cmd)
	}
	return cmd
}
