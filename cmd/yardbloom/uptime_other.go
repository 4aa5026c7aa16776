//go:build !linux

package main

import "time"

// uptime returns the time since the program started. On some systems it does not advance while the machine
// sleeps.
func uptime() time.Duration { return time.Since(programStart) }
