//go:build !linux

package drive

// Forget has no portable form.
func Forget(File) {}
