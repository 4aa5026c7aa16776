package coffee

import (
	"testing"
	"time"
)

// A bag that is too fresh has a day from which it is best. Mutations caught: a day counted from today, a frozen bag that rests.
func TestBestFrom(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)
	fresh := Bag{Roast: Light, RoastedOn: "2026-05-09"} // three days; ten are wanted
	if day, resting := fresh.BestFrom(now); !resting || day.Format(Day) != "2026-05-19" {
		t.Errorf("%v, %v", day, resting)
	}
	frozen := fresh
	frozen.FrozenOn = "2026-05-10"
	for _, b := range []Bag{frozen, {Roast: Light, RoastedOn: "2026-04-20"}, {Roast: Light}} {
		if day, resting := b.BestFrom(now); resting {
			t.Errorf("%+v rests until %v", b, day)
		}
	}
}
