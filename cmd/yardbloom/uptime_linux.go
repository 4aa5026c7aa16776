package main

import (
	"time"

	"golang.org/x/sys/unix"
)

// uptime returns the time since the machine started, including sleep. Setting the wall clock does not
// change it.
func uptime() time.Duration {
	var t unix.Timespec
	if err := unix.ClockGettime(unix.CLOCK_BOOTTIME, &t); err != nil {
		return time.Since(programStart)
	}
	return time.Duration(t.Nano())
}
