package words

import (
	"strings"
	"testing"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/units"
)

// Mutation caught: a date of another year without its year.
func TestMomentShowsAnotherYear(t *testing.T) {
	now := time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)
	for at, want := range map[time.Time]string{now.AddDate(0, -1, 0): "12 Apr 09:00", now.AddDate(-1, 0, 0): "12 May 2025 09:00",
		now.AddDate(0, 8, 0): "12 Jan 2027 09:00"} {
		if got := Moment(at, now); got != want {
			t.Errorf("%v reads %q, want %q", at, got, want)
		}
	}
}

func TestLongTimesAreShownInMinutes(t *testing.T) {
	for by, want := range map[float64]string{20: "drawdown about +20 s", -120: "drawdown about −2:00"} {
		if got := Effect(coach.Effect{Time: units.Seconds(by)}); !strings.Contains(got, want) {
			t.Errorf("%v s reads %q, want %q", by, got, want)
		}
	}
}
