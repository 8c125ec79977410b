package main

import (
	"fmt"
	"runtime"
	"runtime/debug"

	"github.com/spf13/cobra"
)

// release is set where a release is built (make release).
var release = "dev"

// built is what a binary knows of itself, the JSON of `boundcrate version --json`.
type built struct {
	Version  string `json:"version"`
	Revision string `json:"revision"` // of the source; "" where it was built from no checkout
	Go       string `json:"go"`
	System   string `json:"system"`
}

func builtFrom() built {
	b := built{Version: release, Go: runtime.Version(), System: runtime.GOOS + "/" + runtime.GOARCH}
	if info, ok := debug.ReadBuildInfo(); ok {
		dirty := false
		for _, s := range info.Settings {
			switch s.Key {
			case "vcs.revision":
				b.Revision = s.Value
			case "vcs.modified":
				dirty = s.Value == "true"
			}
		}
		if dirty && b.Revision != "" {
			b.Revision += " and changes"
		}
	}
	return b
}

func versionCommand() *cobra.Command {
	var asJSON bool
	cmd := &cobra.Command{
		Use: "version [--json]", Short: "version and build", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			b := builtFrom()
			if asJSON {
				return printJSON(cmd.OutOrStdout(), b)
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Bound Crate %s (%s, %s", b.Version, b.System, b.Go)
			if b.Revision != "" {
				fmt.Fprintf(cmd.OutOrStdout(), ", from %s", b.Revision)
			}
			fmt.Fprintln(cmd.OutOrStdout(), ")")
			return nil
		},
	}
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return cmd
}
