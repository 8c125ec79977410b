package drive

import (
	"os"
	"slices"
	"sync"
	"time"

	"golang.org/x/sys/unix"
)

// pseudo tells files of the file systems in which the kernel talks: they call
// themselves regular, have no bytes on any disk, and reading one may wait for
// ever. They have no device, so that what lies on one (a major number that is not 0)
// is none of them; of the rest each file system is asked once a second, since the
// numbers of those that were taken away are given again.
func pseudo(f *os.File, dev uint64) bool {
	if unix.Major(dev) != 0 {
		return false
	}
	if a, ok := answers.Load(dev); ok && time.Since(a.(answer).at) < time.Second {
		return a.(answer).kernel
	}
	var s unix.Statfs_t
	if unix.Fstatfs(int(f.Fd()), &s) != nil {
		return false
	}
	a := answer{slices.Contains(kernels, int64(s.Type)), time.Now()}
	answers.Store(dev, a)
	return a.kernel
}

// answer is what a file system without a device said of itself, and when.
type answer struct {
	kernel bool
	at     time.Time
}

var answers sync.Map // by device number

var kernels = []int64{
	unix.PROC_SUPER_MAGIC, unix.SYSFS_MAGIC, unix.DEBUGFS_MAGIC, unix.TRACEFS_MAGIC, unix.SECURITYFS_MAGIC, unix.SELINUX_MAGIC,
	unix.CGROUP_SUPER_MAGIC, unix.CGROUP2_SUPER_MAGIC, unix.BPF_FS_MAGIC, unix.DEVPTS_SUPER_MAGIC, unix.EFIVARFS_MAGIC, unix.PSTOREFS_MAGIC,
}
