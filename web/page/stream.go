package page

import (
	"net/http"
	"time"
)

// longWork is the time for a response that takes long to compute, such as staging a large file.
const longWork = time.Hour

// TakeLong releases the concurrency slot of a request and extends its write deadline.
func TakeLong(w http.ResponseWriter, r *http.Request) {
	LeaveQueue(r)
	_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(longWork)) // a recorder in a test has no deadlines
}

// CutOff ends a download that cannot be completed with a broken connection, so that half of a file is not taken for the whole.
func CutOff() { panic(http.ErrAbortHandler) }
