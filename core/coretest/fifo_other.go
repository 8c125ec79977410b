//go:build !unix

package coretest

import "errors"

// Fifo makes a pipe with a name, where the system has such.
func Fifo(string) error { return errors.ErrUnsupported }
