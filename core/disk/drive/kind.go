package drive

import (
	"os"
	"path/filepath"
	"strings"

	"github.com/shirou/gopsutil/v4/disk"
)

// The kinds of drives. A synced one is a folder that some other program copies to
// and from elsewhere: only a person can say that a folder is one.
const (
	Fixed     = "fixed"
	Removable = "removable"
	Network   = "network"
	Optical   = "optical"
	Synced    = "synced"
)

// Kinds lists them.
var Kinds = []string{Fixed, Removable, Network, Optical, Synced}

// networks are file systems whose files lie on another machine.
var networks = map[string]bool{"nfs": true, "nfs4": true, "cifs": true, "smb3": true, "smbfs": true, "afpfs": true, "webdav": true, "fuse.sshfs": true, "9p": true, "ceph": true, "afs": true}

// GuessKind guesses of what kind the drive is that holds a folder, from what the
// system tells of its mounts. What it does not tell is fixed.
func GuessKind(dir string) string {
	mounts, err := disk.Partitions(true)
	if err != nil {
		return Fixed
	}
	best := disk.PartitionStat{}
	for _, m := range mounts {
		if Within(m.Mountpoint, dir) && len(m.Mountpoint) >= len(best.Mountpoint) {
			best = m
		}
	}
	switch fs := strings.ToLower(best.Fstype); {
	case networks[fs]:
		return Network
	case fs == "iso9660", fs == "udf", fs == "cd9660", fs == "cdfs":
		return Optical
	}
	if removable(best.Device) {
		return Removable
	}
	return Fixed
}

// removable asks Linux whether a device can be taken out; elsewhere it is not told.
func removable(device string) bool {
	name := filepath.Base(device)
	for len(name) > 0 {
		if b, err := os.ReadFile(filepath.Join("/sys/class/block", name, "removable")); err == nil {
			return strings.TrimSpace(string(b)) == "1"
		}
		// A partition is told by the device it is a part of.
		cut := strings.TrimRight(name, "0123456789")
		if cut == name {
			cut = strings.TrimSuffix(name, "p")
		}
		if cut == name {
			return false
		}
		name = cut
	}
	return false
}

// What kinds of drives give where nobody measured, in bytes a second: DVD at 1×,
// 11.08 Mbit/s (ECMA-267); Ethernet at 100 Mbit/s (IEEE 802.3, clause 25); USB at
// 480 Mbit/s (USB 2.0 §4). Of other kinds no standard tells.
var standard = map[string]int64{Optical: 11_080_000 / 8, Network: 100_000_000 / 8, Removable: 480_000_000 / 8}

// Rate is what the drive gives in bytes a second: as measured, else the standard's
// figure for its kind; 0 where neither is known.
func (d Drive) Rate() (bytes int64, measured bool) {
	if d.Gives > 0 {
		return d.Gives, true
	}
	return standard[d.Kind], false
}
