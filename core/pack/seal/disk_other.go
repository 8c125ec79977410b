//go:build !linux

package seal

import "os"

// syncAll makes the written files safe, one by one.
func syncAll(_ string, files []string) error {
	for _, p := range files {
		f, err := os.Open(p)
		if err != nil {
			return err
		}
		err = f.Sync()
		f.Close()
		if err != nil {
			return err
		}
	}
	return nil
}
