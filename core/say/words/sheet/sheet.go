// Package sheet writes the texts for people that lie in a crate, and what its
// proof came to.
package sheet

import (
	"fmt"
	"path/filepath"
	"strings"

	"boundcrate/core/pack/seal"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/text/bag"
)

// Part is what a part of an archive says beside its files.
func Part(name string, part, of int) string {
	return fmt.Sprintf("This is part %d of %d of “%s”. Unpack all %d into one folder: together they are\nthe crate, and its documents find everything. Each part can be checked by itself,\nbefore it is unpacked with others:\n\n    sha256sum -c manifest-sha256.txt\n", part, of, name, of)
}

// Text is the sheet for people that lies in a crate.
func Text(s seal.Sheet) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n%s\n\nSealed on %s: %s, %s.\n", s.Name, strings.Repeat("=", len(s.Name)), s.Made.Format("2 January 2006"), phrase.Plural(s.Files, "file"), phrase.Plural(int(s.Bytes), "byte"))
	if s.For != "" {
		fmt.Fprintf(&b, "For: %s\n", s.For)
	}
	if s.From != "" {
		fmt.Fprintf(&b, "From: %s\n", s.From)
	}
	if s.Note != "" {
		fmt.Fprintf(&b, "\n%s\n", strings.TrimSpace(s.Note))
	}
	b.WriteString("\nOpen\n----\n")
	for _, d := range s.Documents {
		fmt.Fprintf(&b, "%s\n", d)
	}
	if s.Tally.References > 0 {
		fmt.Fprintf(&b, "\nThe project, when this was sealed: %s\n", words.Tally(s.Tally))
	}
	b.WriteString("\nAll files are in the folder \"data\". The documents reference them by relative paths,\nso this folder can be placed anywhere. It is a BagIt 1.0 bag (RFC 8493). To check\nevery byte without any special program, run in this folder:\n\n    sha256sum -c manifest-sha256.txt\n")
	if len(s.Left) > 0 {
		b.WriteString("\nNot in this crate\n-----------------\n")
		for _, l := range s.Left {
			fmt.Fprintf(&b, "%s: %s\n", l.Path, words.Absence(l.Why, l.Detail))
		}
	}
	if len(s.Suspect) > 0 {
		b.WriteString("\nPlease check\n------------\n")
		for _, x := range s.Suspect {
			fmt.Fprintf(&b, "%s: %s\n", x.Path, words.Suspicion(x.Why...))
		}
	}
	if len(s.Revisions) > 0 {
		b.WriteString("\nFrom a managed store\n--------------------\n")
		for _, r := range s.Revisions {
			fmt.Fprintf(&b, "%s is of revision %s, from %s\n", r.To, r.Is, r.From)
		}
	}
	if s.SoundLoses != nil {
		fmt.Fprintf(&b, "\nNot kept\n--------\n%s\n", words.Loss(*s.SoundLoses))
	}
	for _, m := range s.Simpler {
		if m.Form == "" {
			fmt.Fprintf(&b, "\nRelink by hand\n--------------\n%s lists the references in documents that could not be rewritten,\nand the file for each.\n", m.To)
			continue
		}
		title := "Not kept in " + m.To
		fmt.Fprintf(&b, "\n%s\n%s\n", title, strings.Repeat("-", len(title)))
		for _, l := range m.Losses {
			fmt.Fprintf(&b, "%s\n", words.Loss(l))
		}
		if len(m.Losses) == 0 {
			b.WriteString("Everything is kept.\n")
		}
	}
	if len(s.Renamed) > 0 {
		b.WriteString("\nRenamed\n-------\n")
		for _, r := range s.Renamed {
			fmt.Fprintf(&b, "%s is now %s: %s\n", filepath.Base(r.From), strings.TrimPrefix(r.To, bag.Payload+"/"), words.Renaming(r.Why))
		}
	}
	return b.String()
}
