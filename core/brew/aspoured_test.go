package brew

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// A late hand makes a brew longer, but the grind no finer: model and coach use the pours detected by the
// scale.
func TestLateHandDoesNotChangeTheGrindEstimate(t *testing.T) {
	const late = 90
	b := begun(t)
	saw := []Event{{Kind: Watched}}
	for i, step := range b.Plan.Steps {
		by := units.Seconds(min(i, 1) * late)
		saw = append(saw, Event{Kind: Began, At: step.Start + by}, Event{Kind: Ended, At: step.End() + by, Grams: step.Total})
	}
	b = watched(t, b, append(saw, Event{Kind: Off, At: b.Forecast.Drawdown + late})...)

	var by, planned forecast.Forecast
	sample := b.Sample()
	if err := by.Run(sample.Question); err != nil {
		t.Fatal(err)
	}
	if err := planned.Run(b.Sheet.Question(b.Started)); err != nil {
		t.Fatal(err)
	}
	if off := math.Abs(sample.Drawdown - float64(by.Drawdown)); off > 8 || sample.Drawdown-float64(planned.Drawdown) < 40 {
		t.Errorf("%.0f s are learned from as %v, and planned were %v", sample.Drawdown, by.Drawdown, planned.Drawdown)
	}

	b, err := b.Taste(cup.Cup{Drawdown: b.Cup.Drawdown, Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Bitterness: 3}, Overall: 6}},
		coach.Person{})
	if err != nil {
		t.Fatal(err)
	}
	says := func(a coach.Advice) string { return fmt.Sprint(a.Signs) }
	if got := says(*b.Advice); strings.Contains(got, "later than predicted") {
		t.Errorf("the coach blames the mill: %s", got)
	}
	c := b.Case(coach.Person{})
	c.AsPoured = nil
	if got := says(coach.Advise(c)); !strings.Contains(got, "later than predicted") {
		t.Errorf("without the taps nothing came later than predicted, so this test says nothing: %s", got)
	}
}

// A poured amount above or below the plan counts for learning, and so does the total weighed at the end.
// Without either there is only the plan.
func TestPouredAmountsCount(t *testing.T) {
	b := begun(t)
	if _, known := b.AsPoured(); known {
		t.Error("a brew that runs was poured")
	}
	steps := b.Plan.Steps
	b = watched(t, b, Event{Kind: Watched}, Event{Kind: Ended, At: steps[0].End(), Grams: steps[0].Total + 9},
		Event{Kind: Began, At: steps[1].Start})
	for i, s := range steps[1:] {
		b = watched(t, b, Event{Kind: Ended, At: s.End(), Grams: s.Total + 9})
		if i+2 < len(steps) {
			b = watched(t, b, Event{Kind: Began, At: steps[i+2].Start})
		}
	}
	b = watched(t, b, Event{Kind: Off, At: 200})
	was, known := b.AsPoured()
	if !known || was.Pours[0].Water != steps[0].Water+9 || was.Water() != b.Recipe.Water()+9 {
		t.Errorf("9 g over are %v in the bloom and %v in all, %t", was.Pours[0].Water, was.Water(), known)
	}
	b.Cup.Water = b.Recipe.Water() + 12
	if was, _ = b.AsPoured(); math.Abs(float64(was.Water()-b.Cup.Water)) > 0.01 {
		t.Errorf("weighed %v, learned from %v", b.Cup.Water, was.Water())
	}
	short := after(t, begun(t), Event{Kind: Advance, At: 12}, Event{Kind: Finish, At: 100}) // in the third pour
	if was, _ := short.AsPoured(); len(was.Pours) != 3 {
		t.Errorf("ended in the third of four pours, and %d were poured", len(was.Pours))
	}
	alone := begun(t)
	alone.Ended = alone.Started.Add(4 * time.Minute)
	if _, known := alone.AsPoured(); known {
		t.Error("AsPoured returned true without taps or a scale")
	}
}
