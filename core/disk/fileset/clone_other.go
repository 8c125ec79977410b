//go:build !linux

package fileset

import "errors"

// Clone is not made here.
func Clone(string, string) error { return errors.ErrUnsupported }
