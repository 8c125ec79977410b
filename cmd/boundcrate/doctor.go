package main

import (
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"boundcrate/app/examine"
	"boundcrate/core/disk/drive"
	"boundcrate/core/say/words"
	"boundcrate/server"
	"boundcrate/store"
)

// examined is the JSON of `boundcrate doctor --json`.
type examined struct {
	Built    built            `json:"built"`
	Accounts bool             `json:"accounts"` // the system tells which account asks
	Database string           `json:"database"` // what is wrong with it; "" nothing
	Folders  []examine.Tested `json:"folders"`
	Well     bool             `json:"well"` // nothing that is needed fails
}

func doctorCommand() *cobra.Command {
	var c common
	cmd := &cobra.Command{
		Use: "doctor [--drive NAME=DIR]… [--data DIR] [--json]", Short: "test what works on this machine: database, data folder, every drive", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			given, err := parseDrives(c.drives)
			if err != nil {
				return err
			}
			rep, err := examineAll(c.data, given)
			if err != nil {
				return err
			}
			if c.json {
				err = printJSON(cmd.OutOrStdout(), rep)
			} else {
				printExamined(cmd.OutOrStdout(), rep)
			}
			if err != nil {
				return err
			}
			return verdict(rep.Well)
		},
	}
	cmd.Flags().StringArrayVar(&c.drives, "drive", nil, "a drive, as NAME=DIR; can be given several times (default: all known)")
	c.dataFlag(cmd)
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	return cmd
}

func examineAll(data string, drives []drive.Drive) (*examined, error) {
	if data == "" {
		var err error
		if data, err = store.DefaultDir(); err != nil {
			return nil, err
		}
	}
	rep := &examined{Built: builtFrom(), Accounts: server.KnowsAccounts(), Well: true}
	s, err := store.Open(data)
	if err == nil {
		defer s.Close()
		err = s.Check()
	}
	if err == nil && len(drives) == 0 {
		drives, err = s.CoreDrives()
	}
	if err != nil {
		rep.Database, rep.Well = words.Error(err), false
	}
	rep.Folders = examine.All(data, drives)
	for _, f := range rep.Folders {
		rep.Well = rep.Well && f.Well()
	}
	return rep, nil
}

func printExamined(w io.Writer, r *examined) {
	fmt.Fprintf(w, "Bound Crate %s, %s, %s\n", r.Built.Version, r.Built.System, r.Built.Go)
	if r.Accounts {
		fmt.Fprintln(w, "Other accounts of this machine are refused; the system tells which account connects.")
	} else {
		fmt.Fprintln(w, "The system does not tell which account connects; a token in the address that serve prints keeps other accounts out.")
	}
	if r.Database == "" {
		fmt.Fprintln(w, "The database is intact.")
	} else {
		fmt.Fprintln(w, "The database:", r.Database)
	}
	for _, f := range r.Folders {
		fmt.Fprintf(w, "\n%s, %s\n", f.Name, f.Dir)
		switch {
		case f.Silent:
			fmt.Fprintln(w, "! not responding")
		case !f.There:
			fmt.Fprintln(w, "not connected")
		}
		for _, t := range f.Tried {
			mark := "  "
			if !t.Can {
				mark = "– "
			}
			if !t.Can && t.Needed {
				mark = "! "
			}
			fmt.Fprintf(w, "  %s%s\n", mark, t.Says)
		}
	}
}
