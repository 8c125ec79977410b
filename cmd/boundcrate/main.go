// Boundcrate traces every file a project document references, mends what is
// missing, and seals everything into one proved crate.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"boundcrate/core/disk/drive"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// Exit statuses of the command line's contract.
const (
	allWell    = 0
	needPerson = 1
	notDone    = 2
)

// errPerson ends a command whose work was done and left something to a person.
var errPerson = errors.New("needs a person")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

func run(ctx context.Context, args []string) int {
	root := &cobra.Command{
		Use: "boundcrate", Short: "Trace, mend, stow and seal the files a project depends on",
		SilenceErrors: true, SilenceUsage: true,
	}
	root.CompletionOptions.HiddenDefaultCmd = true // `boundcrate completion bash|zsh|fish|powershell`
	root.AddCommand(traceCommand(), mendCommand(), siftCommand(), stowCommand(), exportCommand(), sealCommand(), checkCommand(), receiveCommand(), sheetCommand(), sendCommand(), carrierCommand(), compareCommand(), keepCommand(), editionsCommand(), restoreCommand(), backupCommand(), gatherCommand(), indexCommand(), whereCommand(), clearoutCommand(), bringHomeCommand(), rulesCommand(), serveCommand(), demoCommand(), versionCommand(), doctorCommand())
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	switch {
	case err == nil:
		return allWell
	case errors.Is(err, errPerson):
		return needPerson
	case errors.Is(err, context.Canceled):
		fmt.Fprintln(os.Stderr, "Stopped.")
		return notDone
	}
	fmt.Fprintln(os.Stderr, strings.ReplaceAll(words.Error(err), "\n", " "))
	return notDone
}

// verdict is nil or errPerson.
func verdict(well bool) error {
	if well {
		return nil
	}
	return errPerson
}

// common are the flags several commands share.
type common struct {
	drives    []string
	data      string
	root      string
	rules     []string
	libraries []string
	stores    []string
	json      bool
}

func (c *common) flags(cmd *cobra.Command) {
	cmd.Flags().StringArrayVar(&c.drives, "drive", nil, "a drive, as NAME=DIR; can be given several times")
	c.dataFlag(cmd)
	cmd.Flags().StringArrayVar(&c.rules, "rules", nil, "an additional rules file; can be given several times")
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	cmd.Flags().StringVar(&c.root, "root", "", "the project folder (default: the folder of the document, or the common one of several)")
	cmd.Flags().StringArrayVar(&c.libraries, "library", nil, "a folder that is a parts or sample library; can be given several times")
	cmd.Flags().StringArrayVar(&c.stores, "store", nil, "a folder that is a managed store; can be given several times")
}

func (c *common) dataFlag(cmd *cobra.Command) {
	cmd.Flags().StringVar(&c.data, "data", "", "data folder (default: the user's)")
}

// parseDrives reads NAME=DIR. A folder that is not there is a drive that is not
// connected.
func parseDrives(list []string) ([]drive.Drive, error) {
	var out []drive.Drive
	for _, s := range list {
		name, dir, ok := strings.Cut(s, "=")
		if !ok || name == "" || dir == "" || strings.ContainsAny(name, ":/") {
			return nil, fmt.Errorf("--drive %q is not NAME=DIR", s)
		}
		abs, err := filepath.Abs(dir)
		if err != nil {
			return nil, err
		}
		if fi, err := os.Stat(abs); err == nil && !fi.IsDir() {
			return nil, fmt.Errorf("--drive %s: ‘%s’ is not a folder", name, abs)
		}
		for _, d := range out {
			if d.Name == name {
				return nil, fmt.Errorf("--drive %s is given twice", name)
			}
		}
		out = append(out, drive.Drive{ID: name, Name: name, Dir: abs, Kind: drive.GuessKind(abs)})
	}
	return out, nil
}

// openStore opens the store. A store that cannot be opened costs the memory of
// what was last seen, not the work.
func (c *common) openStore() *store.Store {
	dir := c.data
	if dir == "" {
		var err error
		if dir, err = store.DefaultDir(); err != nil {
			fmt.Fprintln(os.Stderr, "Nothing will be remembered for later:", err)
			return nil
		}
	}
	s, err := store.Open(dir)
	if err != nil {
		fmt.Fprintln(os.Stderr, "Nothing will be remembered for later:", err)
		return nil
	}
	return s
}

func absolute(paths []string) ([]string, error) {
	out := make([]string, len(paths))
	for i, p := range paths {
		abs, err := filepath.Abs(p)
		if err != nil {
			return nil, err
		}
		out[i] = abs
	}
	return out, nil
}
