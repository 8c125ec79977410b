package drive

import "syscall"

func changed(st *syscall.Stat_t) int64 { return st.Ctim.Nano() }
