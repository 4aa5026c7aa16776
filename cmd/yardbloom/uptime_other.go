//go:build !linux

package main

import "time"

// uptime is the time since the program started. On some systems it stands still while
// the machine sleeps.
func uptime() time.Duration { return time.Since(programStart) }
