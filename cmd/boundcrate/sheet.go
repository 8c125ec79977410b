package main

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/say/words/sheet"
)

func sheetCommand() *cobra.Command {
	var c common
	var out string
	var bases []string
	cmd := &cobra.Command{
		Use: "sheet --out FILE.html [--base CRATE]... CRATE", Short: "write the handoff sheet of a crate, after checking it", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if out == "" {
				return errors.New("Give a file for the sheet: --out FILE.html.")
			}
			p, err := absolute([]string{args[0], out})
			if err != nil {
				return err
			}
			if bases, err = absolute(bases); err != nil {
				return err
			}
			formats, err := c.known()
			if err != nil {
				return err
			}
			checked, err := seal.Inspect(cmd.Context(), p[0], formats, bases...)
			if err != nil {
				return err
			}
			rep := checked.Report
			if drive.Within(p[0], p[1]) {
				return fmt.Errorf("‘%s’ is inside the crate. Choose another place for the sheet.", p[1])
			}
			if err := writeNew(p[1], sheet.Page(rep.Sheet, rep)); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s\n%s\n", p[1], sheet.Verdict(rep))
			return verdict(rep.Well())
		},
	}
	cmd.Flags().StringVar(&out, "out", "", "the file to write")
	baseFlag(cmd, &bases)
	c.dataFlag(cmd)
	return cmd
}
