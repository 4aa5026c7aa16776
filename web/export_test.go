package web

import (
	"net/http"
	"time"

	"yardbloom/web/stream"
)

// Internals for tests of package web_test.
const (
	FreeTries     = freeTries
	Forgiven      = forgetAfter
	MaxBody       = maxBody
	MaxConcurrent = maxConcurrent
	QueueTime     = queueTime
	LongestWait   = longestWait
)

var (
	PasswordFits = passwordFits
	ErrCheckBusy = errCheckBusy
)

// MaxStreams is the number of open streams.
const MaxStreams = stream.MaxStreams

// HoldChecks occupies all slots for checking passwords until release is called.
func HoldChecks(slots int) (release func()) {
	for range slots {
		checkSlots <- struct{}{}
	}
	return func() {
		for range slots {
			<-checkSlots
		}
	}
}

// WaitingChecks returns the number of passwords that are checked or wait.
func WaitingChecks() int { return len(checkQueue) }

// WaitAfter returns the wait of a network after a number of failed sign-ins.
func WaitAfter(count int) time.Duration { return failures{count: count}.wait() }

func (s *Server) RecoverPanics(next http.Handler) http.Handler { return s.recoverPanics(next) }

func (s *Server) LimitConcurrency(most int, patience time.Duration) func(http.Handler) http.Handler {
	return s.limitConcurrency(most, patience)
}

func (s *Server) Fail(w http.ResponseWriter, r *http.Request, err error) { s.site.Fail(w, r, err) }

func (s *Server) Asset(name string) string { return s.static.url(name) }
