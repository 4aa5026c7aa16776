package brew

import (
	"testing"
	"time"
)

// Mutation caught: another limit than half a day.
func TestLateStartIsLimitedToHalfADay(t *testing.T) {
	t.Parallel()
	if ago, err := agoOf("43200"); err != nil || ago != 12*time.Hour {
		t.Errorf("a start half a day late: %v, %v", ago, err)
	}
	if _, err := agoOf("43200.1"); err == nil {
		t.Error("a start more than half a day late is taken")
	}
}
