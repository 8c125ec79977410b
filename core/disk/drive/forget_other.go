//go:build !linux

package drive

import "io"

// Forget has no portable form.
func Forget(io.Closer) {}
