package server

import (
	"net/netip"
	"sync"

	"github.com/prometheus/procfs"
)

// kernel tells of sockets; opened once.
var kernel = sync.OnceValues(procfs.NewDefaultFS)

// established is that state of a socket (linux/include/net/tcp_states.h).
const established = 1

// accountOf asks the kernel whose a connection within this machine is: the user
// that holds its other end, a socket whose own address is from and that leads to
// to. False where it does not tell. A socket that its owner closed already is
// counted to root: only established ones tell.
func accountOf(from, to netip.AddrPort) (uid int, ok bool) {
	fs, err := kernel()
	if err != nil {
		return 0, false
	}
	same := func(a netip.AddrPort, ip []byte, port uint64) bool {
		addr, ok := netip.AddrFromSlice(ip)
		return ok && uint64(a.Port()) == port && addr.Unmap() == a.Addr().Unmap()
	}
	//lint:ignore SA1019 a netlink connection would be a package more for one line of a table that stands in /proc
	for _, table := range []func() (procfs.NetTCP, error){fs.NetTCP, fs.NetTCP6} {
		lines, err := table()
		if err != nil {
			continue // no such protocol here
		}
		for _, l := range lines {
			if l.St == established && same(from, l.LocalAddr, l.LocalPort) && same(to, l.RemAddr, l.RemPort) {
				return int(l.UID), true
			}
		}
	}
	return 0, false
}
