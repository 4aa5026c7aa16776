// Package disk tells how much room a disk has.
package disk

import "golang.org/x/sys/windows"

// Free returns the number of bytes that this process can still write to the disk with a folder.
func Free(folder string) (free uint64, err error) {
	name, err := windows.UTF16PtrFromString(folder)
	if err != nil {
		return 0, err
	}
	err = windows.GetDiskFreeSpaceEx(name, &free, nil, nil)
	return free, err
}
