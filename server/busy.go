package server

import (
	"errors"
	"fmt"
	"net"
	"strconv"
	"syscall"

	gonet "github.com/shirou/gopsutil/v4/net"
	"github.com/shirou/gopsutil/v4/process"
)

// busy says, of an address that another program listens on, which one it is, as far as the
// system tells this account.
func busy(addr string, err error) error {
	if !errors.Is(err, syscall.EADDRINUSE) {
		return err
	}
	_, port, _ := net.SplitHostPort(addr)
	return fmt.Errorf("Port %s is already used by %s. Stop it, or choose another port with --addr 127.0.0.1:PORT.", port, listening(port))
}

// listening names the program that listens on a port.
func listening(port string) string {
	const unknown = "another program"
	n, err := strconv.ParseUint(port, 10, 16)
	if err != nil {
		return unknown
	}
	list, err := gonet.Connections("tcp")
	if err != nil {
		return unknown
	}
	for _, c := range list {
		if c.Laddr.Port != uint32(n) || c.Status != "LISTEN" || c.Pid == 0 {
			continue
		}
		p, err := process.NewProcess(c.Pid)
		if err != nil {
			continue
		}
		if name, err := p.Name(); err == nil && name != "" {
			return fmt.Sprintf("“%s” (process %d)", name, c.Pid)
		}
	}
	return unknown
}
