package yard_test

import (
	"testing"
	"time"
)

// Mutation caught: a plan that is calculated for every event of every open screen.
func TestPresentationIsPlannedOncePerVersion(t *testing.T) {
	t.Parallel()
	y, clock := openDemo(t)
	plan := func(cups, want int, when string) {
		t.Helper()
		if _, _, err := y.PlanCups(t.Context(), "slate-terrace-3-kept", cups); err != nil {
			t.Fatal(err)
		}
		if y.PlansMade() != want {
			t.Errorf("%s: %d plans were calculated, want %d", when, y.PlansMade(), want)
		}
	}
	plan(3, 1, "the page")
	for range 6 {
		plan(3, 1, "a rehearsal on two screens")
	}
	plan(2, 2, "two cups")
	clock.add(24 * time.Hour)
	plan(2, 3, "a day later")
}
