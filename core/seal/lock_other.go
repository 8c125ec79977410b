//go:build !unix

package seal

import "os"

// lock holds nothing where the system has no such lock: there, two seals to one
// place are told apart by nothing.
func lock(*os.File) (bool, error) { return true, nil }
