//go:build !linux

package fileset

import "errors"

// exchange lets two names change places at once, which is not to be had here.
func exchange(string, string) error { return errors.ErrUnsupported }
