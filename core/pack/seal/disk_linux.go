package seal

import (
	"os"

	"golang.org/x/sys/unix"
)

// syncAll makes everything written to the file system of dir safe: once a
// batch, which costs far less than once a file.
func syncAll(dir string, _ []string) error {
	f, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer f.Close()
	return unix.Syncfs(int(f.Fd()))
}
