//go:build unix

package coretest

import "syscall"

// Fifo makes a pipe with a name, where the system has such.
func Fifo(path string) error { return syscall.Mkfifo(path, 0o644) }
