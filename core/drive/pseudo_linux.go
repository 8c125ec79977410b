package drive

import (
	"os"
	"slices"

	"golang.org/x/sys/unix"
)

// pseudo tells files of the file systems in which the kernel talks: they call
// themselves regular, have no bytes on any disk, and reading one may wait for
// ever.
func pseudo(f *os.File) bool {
	var s unix.Statfs_t
	if unix.Fstatfs(int(f.Fd()), &s) != nil {
		return false
	}
	return slices.Contains(kernels, int64(s.Type))
}

var kernels = []int64{
	unix.PROC_SUPER_MAGIC, unix.SYSFS_MAGIC, unix.DEBUGFS_MAGIC, unix.TRACEFS_MAGIC, unix.SECURITYFS_MAGIC, unix.SELINUX_MAGIC,
	unix.CGROUP_SUPER_MAGIC, unix.CGROUP2_SUPER_MAGIC, unix.BPF_FS_MAGIC, unix.DEVPTS_SUPER_MAGIC, unix.EFIVARFS_MAGIC, unix.PSTOREFS_MAGIC,
}
