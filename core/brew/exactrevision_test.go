package brew

import (
	"math"
	"strings"
	"testing"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// secondPour returns a reviser after a second pour of 15 g too much, at its planned time.
func secondPour(t *testing.T) (*reviser, recipe.Plan) {
	t.Helper()
	plan := begun(t).Plan
	b := poured(t, "", plan.Steps[0].Total, plan.Steps[1].Start, plan.Steps[1].End(), plan.Steps[1].Total+15)
	w := &reviser{brew: b, state: At(b.Plan, b.Events, plan.Steps[1].End()+2), next: 2}
	if err := w.planned.RunCoarse(b.Sheet.Question(b.Started)); err != nil {
		t.Fatal(err)
	}
	w.steps = w.asPlanned()
	return w, plan
}

// The words of a revision name its largest consequence, from 2 g and 3 s on. Mutations caught: a limit moved, a sign
// turned round, a comparison with the plan in force instead of the original one, another pour than the next.
func TestWordsOfARevisionAreExact(t *testing.T) {
	for _, c := range []struct {
		name               string
		water, total       units.Grams // more in the next pour, and in all later ones
		start              units.Seconds
		inForce            units.Grams // more in the next pour of the plan in force
		later              units.Seconds
		want               string
		nextIsAnotherThing bool
	}{
		{name: "nothing", want: ""},
		{name: "less than 2 g", water: 1.9, total: -1.9, want: ""},
		{name: "2 g more", water: 2, want: "2 g more next"},
		{name: "2 g less", water: -2, want: "2 g less next"},
		{name: "9 g more, later too", water: 9, start: 20, want: "9 g more next"},
		{name: "the total", total: 7, want: "total 7 g more"},
		{name: "the total, less", total: -7, want: "total 7 g less"},
		{name: "less than 3 s", start: 2.9, want: ""},
		{name: "less than 3 s earlier", start: -2.9, want: ""},
		{name: "3 s later", start: 3, want: "next 3 s later"},
		{name: "4 s earlier", start: -4, want: "next 4 s earlier"},
		{name: "back to the plan", inForce: 12, want: "on plan again"},
		{name: "back to its time", later: 8, want: "on plan again"},
		{name: "a steep whose next step is no pour", water: 6, nextIsAnotherThing: true, want: "total 6 g more"},
	} {
		w, plan := secondPour(t)
		inForce := w.state.plan
		inForce.Steps = append([]recipe.Step(nil), plan.Steps...)
		for i := 2; i < 4; i++ {
			inForce.Steps[i].Total += c.inForce
			inForce.Steps[i].Start += c.later
		}
		w.state.plan, w.state.Late = inForce, 0
		revised := plan
		revised.Steps = append([]recipe.Step(nil), plan.Steps...)
		revised.Steps[2].Water += c.water
		revised.Steps[2].Total += c.water
		revised.Steps[3].Total += c.water + c.total
		revised.Steps[2].Start += c.start
		if c.nextIsAnotherThing {
			revised.Steps[2].Act = recipe.BreakCrust
		}
		if got := strings.ReplaceAll(w.describe(revised), "\u00a0", " "); got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
}

// The end of a revised plan, and its window, move by the change of the predicted drawdown, and never before the last pour
// has run through. Mutations caught: a sign, a window that stays or moves twice, an end without its minimum.
func TestEndOfARevisedPlanIsExact(t *testing.T) {
	for _, c := range []struct {
		name             string
		was, is          units.Seconds
		drained, planned bool
		lastEnds         units.Seconds // after the planned end of the plan
		moved            units.Seconds
	}{
		{"12 s longer", 200, 212.4, true, true, -60, 12},
		{"7 s shorter", 200, 192.7, true, true, -60, -7},
		{"the revised plan does not drain", 200, 212, false, true, -60, 0},
		{"the plan did not drain", 200, 212, true, false, -60, 0},
		{"the last pour ends after it", 200, 202, true, true, 30, 30 + recipe.MinDrain},
	} {
		w, plan := secondPour(t)
		w.planned.Drawdown, w.model.Drawdown, w.planned.Drained, w.model.Drained = c.was, c.is, c.planned, c.drained
		w.steps[3].Start = plan.Finish + c.lastEnds - w.steps[3].Lasts
		p := w.plan()
		if got := p.Finish - plan.Finish; math.Abs(float64(got-c.moved)) > 1e-9 {
			t.Errorf("%s: the end moves by %v s, want %v", c.name, float64(got), float64(c.moved))
		}
		if from, to := p.Window.From-plan.Window.From, p.Window.To-plan.Window.To; !plan.Window.IsSet() ||
			math.Abs(float64(from-c.moved)) > 1e-9 || math.Abs(float64(to-c.moved)) > 1e-9 {
			t.Errorf("%s: the window moves by %v and %v s, want %v", c.name, float64(from), float64(to), float64(c.moved))
		}
	}
}

// A pour is due when the water over the bed has sunk to the planned level, interpolated within the second; over a dry bed, as long
// after the last water as planned. Mutations caught: the bed's height added, a second next to it, a level that is passed early.
func TestTimeOfAPourFollowsTheLevelExactly(t *testing.T) {
	w, _ := secondPour(t)
	if err := w.model.RunCoarse(w.question(2)); err != nil {
		t.Fatal(err)
	}
	end := int(w.steps[1].End())
	over := func(i int) float64 { return w.model.Level[i] - w.model.BedHeight }
	for _, after := range []int{3, 8, 12} {
		for _, part := range []float64{0.25, 0.75} {
			before, behind := over(end+after-1), over(end+after)
			if behind <= 0.5 || behind >= before {
				t.Fatalf("the level is %v and %v mm", before, behind)
			}
			w.planned.Pours[2].Above = before + part*(behind-before)
			want := float64(end+after-1) + part
			if at, ok := w.readyAt(2, 2); !ok || math.Abs(float64(at)-want) > 1e-6 {
				t.Errorf("level %.2f mm: due at %v, want %v", w.planned.Pours[2].Above, float64(at), want)
			}
		}
	}
	w.planned.Pours[2].Above = over(end) + 1
	if at, ok := w.readyAt(2, 2); !ok || at != units.Seconds(end) {
		t.Errorf("level already passed: due at %v, want at the end of the pour, %d", float64(at), end)
	}
	for _, above := range []float64{0.5, 0, -2} {
		w.planned.Pours[2].Above, w.planned.Pours[2].Dry = above, 9
		if at, ok := w.readyAt(2, 2); !ok || at != w.model.Dry+9 || w.model.Dry <= 0 {
			t.Errorf("dry bed (%v mm): due at %v, want 9 s after %v", above, float64(at), float64(w.model.Dry))
		}
	}
}

// The schedule keeps the time between pours within 45 s of the plan, 3 s free hands, and a requested delay.
// Mutations caught: a limit with the wrong sign, the delay of the last step lost, a start that is not rounded.
func TestScheduleOfTheRestIsExact(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(*reviser)
		want   func(w *reviser, late units.Seconds, planned recipe.Step) units.Seconds
	}{
		{"a bed that never drains", func(w *reviser) { w.planned.Pours[2].Above, w.planned.Pours[2].Dry = 0, 500 },
			func(_ *reviser, late units.Seconds, planned recipe.Step) units.Seconds {
				return planned.Start + late + maxWait
			}},
		{"a bed that was meant to be full", func(w *reviser) { w.planned.Pours[2].Above = 500 },
			func(w *reviser, _ units.Seconds, _ recipe.Step) units.Seconds { return w.steps[1].End() + handFree }},
		{"a requested delay", func(w *reviser) { w.planned.Pours[2].Above, w.state.Late, w.state.delay = 500, 40, 40 },
			func(w *reviser, _ units.Seconds, planned recipe.Step) units.Seconds { return planned.Start + 40 }},
	} {
		w, plan := secondPour(t)
		w.distribute(w.plannedRest())
		c.change(w)
		if !w.schedule() {
			t.Fatalf("%s: outside the model's range", c.name)
		}
		want := units.Seconds(math.Round(float64(c.want(w, w.steps[1].End()-plan.Steps[1].End(), plan.Steps[2]))))
		if got := w.steps[2].Start; got != want {
			t.Errorf("%s: the third pour starts at %v, want %v", c.name, float64(got), float64(want))
		}
		if got := w.steps[3].Start; got < w.steps[2].End()+handFree-0.5 || got != units.Seconds(math.Round(float64(got))) {
			t.Errorf("%s: the last pour starts at %v after %v", c.name, float64(got), float64(w.steps[2].End()))
		}
	}
}

// Strength and yield are met to the gram, or as closely as 12 % of the water allow. Mutations caught: a wrong target, the
// wrong end of the range when it is out of reach.
func TestWaterThatKeepsTheStrengthIsExact(t *testing.T) {
	of := map[recipe.Keep]func(*forecast.Forecast) float64{
		recipe.KeepStrength: func(f *forecast.Forecast) float64 { return f.TDS },
		recipe.KeepYield:    func(f *forecast.Forecast) float64 { return f.Yield.Value },
	}
	for keep, figure := range of {
		w, plan := secondPour(t)
		usual := w.plannedRest()
		most := maxExtraWater * float64(plan.Steps[3].Total)
		predicted := func(more float64) float64 {
			w.distribute(usual + units.Grams(more))
			if err := w.model.RunCoarse(w.question(4)); err != nil {
				t.Fatal(err)
			}
			return figure(&w.model)
		}
		w.distribute(usual)
		if !w.schedule() {
			t.Fatal("outside the model's range")
		}
		least, greatest := max(-most, float64(minPour-usual)), most
		low, high := predicted(least), predicted(greatest)
		for _, share := range []float64{0.3, 0.5, 0.8} {
			wanted := low + share*(high-low)
			setFigure(&w.planned, keep, wanted)
			w.adjustWater(keep)
			got := w.steps[3].Total
			if err := w.model.RunCoarse(w.question(4)); err != nil {
				t.Fatal(err)
			}
			perGram := math.Abs(high-low) / (greatest - least)
			if math.Abs(figure(&w.model)-wanted) > 2*perGram {
				t.Errorf("%s: %v g gives %.3f, want %.3f", keep, got, figure(&w.model), wanted)
			}
		}
		for _, c := range []struct {
			wanted, more float64
		}{{high + 10*(high-low), greatest}, {low - 10*(high-low), least}} {
			setFigure(&w.planned, keep, c.wanted)
			w.adjustWater(keep)
			if got := float64(w.steps[3].Total - w.steps[1].Total - usual); math.Abs(got-c.more) > 0.51 {
				t.Errorf("%s out of reach: %.1f g more, want %.1f", keep, got, c.more)
			}
		}
	}
}

func setFigure(f *forecast.Forecast, keep recipe.Keep, v float64) {
	if keep == recipe.KeepYield {
		f.Yield.Value = v
	} else {
		f.TDS = v
	}
}
