//go:build unix

// Package disk tells how much room a disk has.
package disk

import "golang.org/x/sys/unix"

// Free returns the number of bytes that this process can still write to the disk with a folder.
func Free(folder string) (uint64, error) {
	var s unix.Statfs_t
	if err := unix.Statfs(folder, &s); err != nil {
		return 0, err
	}
	return uint64(s.Bavail) * uint64(s.Bsize), nil
}
