package brew

import (
	"math"
	"testing"

	"yardbloom/core/units"
)

// The limits of scale events: how early water counts for the next pour, the least amount of a pour, the allowed shortfall.
// Mutations caught: each limit moved or with the wrong sign.
func TestLimitsOfScaleEventsAreExact(t *testing.T) {
	plan := begun(t).Plan
	bloom, second := plan.Steps[0], plan.Steps[1]
	wait := []Event{{Kind: Watched}, {Kind: Began, At: 0.2}, {Kind: Ended, At: 12, Grams: bloom.Total}}
	pouring := append(wait[:3:3], Event{Kind: Began, At: second.Start})
	gone := func(missing units.Grams) []Event {
		return append(pouring[:4:4], Event{Kind: Ended, At: second.End(), Grams: second.Total - missing})
	}
	tolerance := max(shortfall, shortfallShare*second.Water)
	early := append(wait[:3:3], Event{Kind: Began, At: 20})
	for _, c := range []struct {
		name    string
		events  []Event
		kind    StageKind
		step    int
		entered units.Seconds
		late    units.Seconds
	}{
		{"first water at once", []Event{{Kind: Watched}, {Kind: Began, At: 2.9}}, Pouring, 0, 0, 0},
		{"first water late", []Event{{Kind: Watched}, {Kind: Began, At: 3}}, Pouring, 0, 3, 3},
		{"water 10 s early", append(wait[:3:3], Event{Kind: Began, At: second.Start - 10}), Pouring, 1, second.Start - 10, -10},
		{"water earlier", append(wait[:3:3], Event{Kind: Began, At: second.Start - 10.1}), Waiting, 0, 12, 0},
		{"early water below the excess", append(early[:4:4], Event{Kind: Grown, At: 25, Grams: bloom.Total + 7.9}), Waiting, 0, 12, 0},
		{"early water of the excess", append(early[:4:4], Event{Kind: Grown, At: 25, Grams: bloom.Total + 8}), Pouring, 1, 20, 20 - second.Start},
		{"half a pour early is none", append(early[:4:4], Event{Kind: Ended, At: 25, Grams: bloom.Total + second.Water/2}), Waiting, 0, 12, 0},
		{"over half a pour early, but not all", append(early[:4:4], Event{Kind: Ended, At: 25, Grams: bloom.Total + second.Water/2 + 0.1}), Pouring, 1, 20,
			20 - second.Start},
		{"a whole pour early", append(early[:4:4], Event{Kind: Ended, At: 33, Grams: second.Total}), Waiting, 1, 33, 20 - second.Start},
		{"a pour as planned", gone(0), Waiting, 1, second.End(), 0},
		{"as much missing as allowed", gone(tolerance - 0.01), Waiting, 1, second.End(), 0},
		{"more missing", gone(tolerance + 0.01), Pouring, 1, second.Start, 0},
		{"a second beginning of one pour", append(pouring[:4:4], Event{Kind: Began, At: second.Start + 6}), Pouring, 1, second.Start, 0},
		{"water after the clock began the pour", append(wait[:3:3], Event{Kind: Began, At: second.Start + 7}), Pouring, 1, second.Start + 7, 7},
	} {
		b := watched(t, begun(t), c.events...)
		s := At(b.Plan, b.Events, c.events[len(c.events)-1].At)
		if now := s.Now(); now.Kind != c.kind || now.Step != c.step || !isNearTime(now.Entered, c.entered) || !isNearTime(s.Late, c.late) {
			t.Errorf("%s: %s of step %d since %v, %v late; want %s of step %d since %v, %v late", c.name, now.Kind, now.Step, float64(now.Entered),
				float64(s.Late), c.kind, c.step, float64(c.entered), float64(c.late))
		}
	}
}

// The last pour's weight is the settled one, also after the end, and lifting counts only in the last stage. Mutations caught:
// the weight at an earlier pour, a brew that ends in the middle.
func TestWeightGoesToTheLastFinishedPour(t *testing.T) {
	plan := begun(t).Plan
	b := watched(t, begun(t), Event{Kind: Watched}, Event{Kind: Began, At: 0.2}, Event{Kind: Ended, At: 12, Grams: 52},
		Event{Kind: Weighed, At: 15, Grams: 54.5})
	s := At(b.Plan, b.Events, 16)
	if s.Stages[0].Weighed != 54.5 || s.Stages[2].Weighed != 0 || s.Weight != 54.5 {
		t.Errorf("bloom %v, second pour %v", s.Stages[0].Weighed, s.Stages[2].Weighed)
	}
	for _, p := range plan.Steps[1:] {
		b = watched(t, b, Event{Kind: Began, At: p.Start}, Event{Kind: Ended, At: p.End(), Grams: p.Total})
	}
	last := 2 * (len(plan.Steps) - 1)
	b = watched(t, b, Event{Kind: Finish, At: 210}, Event{Kind: Weighed, At: 209, Grams: 301})
	if s = b.At(b.Ended); s.Stages[last].Weighed != 301 || s.Stages[last-2].Weighed != plan.Steps[2].Total {
		t.Errorf("last pour %v, the one before %v", s.Stages[last].Weighed, s.Stages[last-2].Weighed)
	}
}

// Two taps within 0.7 s are one; a tap up to 3 s after the clock confirms it, and one up to half the draining. Mutations caught:
// each limit moved.
func TestLimitsOfTapsAreExact(t *testing.T) {
	for _, c := range []struct {
		name    string
		taps    []units.Seconds
		current int
		entered units.Seconds
	}{
		{"two taps 0.7 s apart", []units.Seconds{12, 12.75, 30}, 3, 30},
		{"two taps closer", []units.Seconds{12, 12.6, 30}, 2, 30},
		{"a tap 3 s after the clock", []units.Seconds{12, 48}, 2, 48},
		{"a tap later than 3 s after the clock", []units.Seconds{12, 48.1}, 3, 48.1},
	} {
		s := At(plan, taps(c.taps...), c.taps[len(c.taps)-1])
		if s.Current != c.current || !isNearTime(s.Now().Entered, c.entered) {
			t.Errorf("%s: stage %d since %v, want %d since %v", c.name, s.Current, float64(s.Now().Entered), c.current, float64(c.entered))
		}
	}
	drain := At(plan, nil, 1000).Now()
	half := drain.Entered + drain.Lasts/2
	if s := At(plan, taps(half), half); s.Finished || !isNearTime(s.Now().Entered, half) {
		t.Errorf("a tap at half the draining finished the brew: %v", s.Finished)
	}
	if s := At(plan, taps(half+0.1), half+0.1); !s.Finished || !isNearTime(s.Drawdown, half+0.1) {
		t.Errorf("a tap in the second half: finished %v", s.Finished)
	}
}

// A tap that ends a pour keeps the weight shown by the scale, if any water was poured. Mutation caught: the weight of an empty pour.
func TestTapKeepsTheWeightOfItsPour(t *testing.T) {
	first := begun(t).Plan.Steps[0]
	with := func(grams units.Grams) units.Grams {
		b := watched(t, begun(t), Event{Kind: Watched}, Event{Kind: ScaleReading, At: 5, Grams: grams}, Event{Kind: Advance, At: 9})
		return At(b.Plan, b.Events, 9).Stages[0].Weighed
	}
	if with(40) != 40 || with(first.Total) != first.Total || with(0) != 0 || with(-3) != 0 {
		t.Errorf("weights: %v, %v, %v, %v", with(40), with(first.Total), with(0), with(-3))
	}
}

// A plan's stages have the times of its steps and the waits between them; overlapping ones have none. Mutations caught: a
// boundary at the next step's end, a negative wait.
func TestStagesOfAPlanAreExact(t *testing.T) {
	stages := Stages(plan)
	if len(stages) != 2*len(plan.Steps) {
		t.Fatalf("%d stages", len(stages))
	}
	for i, s := range plan.Steps {
		do, after := stages[2*i], stages[2*i+1]
		next := plan.Finish
		if i+1 < len(plan.Steps) {
			next = plan.Steps[i+1].Start
		}
		if do.From != s.Total-s.Water || do.To != s.Total || do.Entered != s.Start || do.Left != s.End() || do.Lasts != s.Lasts {
			t.Errorf("step %d: %+v", i, do)
		}
		if after.From != s.Total || after.To != s.Total || after.Entered != s.End() || after.Left != next || after.Lasts != next-s.End() {
			t.Errorf("after step %d: %+v", i, after)
		}
	}
	overlapping := plan
	overlapping.Finish = plan.Steps[len(plan.Steps)-1].End() - 5
	if last := Stages(overlapping)[len(stages)-1]; last.Lasts != 0 {
		t.Errorf("a draining of %v s", float64(last.Lasts))
	}
}

// The typed ratio stays shown as long as whole grams allow, to half a gram in both directions. Mutation caught: either limit.
func TestTypedRatioHoldsToHalfAGram(t *testing.T) {
	for _, off := range []float64{-0.6, -0.5, 0, 0.5, 0.6} {
		d := draft()
		d.Recipe = d.Recipe.ResizeRounded(23, 380)
		d.SetRatio = (float64(d.Recipe.Total()) + off) / float64(d.Recipe.Dose)
		if got := d.Ratio(); (got == d.SetRatio) != (math.Abs(off) <= 0.5) {
			t.Errorf("%.1f g off: 1 : %v for 1 : %v", off, got, d.SetRatio)
		}
	}
}

func isNearTime(a, b units.Seconds) bool { return math.Abs(float64(a-b)) < 1e-6 }
