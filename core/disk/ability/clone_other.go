//go:build !linux

package ability

import "errors"

func clone(string, string) error { return errors.ErrUnsupported }
