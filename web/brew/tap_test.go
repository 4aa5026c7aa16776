package brew

import (
	"testing"
	"time"
)

// Mutation caught: another limit than 30 days.
func TestLateStartIsLimitedToThirtyDays(t *testing.T) {
	t.Parallel()
	if ago, err := agoOf("2592000"); err != nil || ago != 30*24*time.Hour {
		t.Errorf("a start 30 days late: %v, %v", ago, err)
	}
	if _, err := agoOf("2592000.1"); err == nil {
		t.Error("a start more than 30 days late is taken")
	}
}
