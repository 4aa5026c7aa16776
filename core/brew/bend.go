package brew

import (
	"fmt"
	"math"
	"slices"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/root"
	"yardbloom/core/units"
)

// A Revision is a revised plan with a short description of the change.
type Revision struct {
	Plan        recipe.Plan
	Description string
}

const (
	// minWater and leastTime are the smallest changes that are described.
	minWater units.Grams   = 2
	minTime  units.Seconds = 3
	// minPour is the smallest amount left in a pour.
	minPour units.Grams = 5
	// handFree is the minimum time from the end of one pour to the next, s.
	handFree units.Seconds = 3
	// maxWait is the maximum extension of a wait for the bed, s.
	maxWait units.Seconds = 45
	// maxExtraWater limits the relative change of the water of a brew to keep its strength or yield.
	maxExtraWater = 0.12
	// kettleTolerance is the temperature deficit from which a kettle matters, K; from otherKettle on, the
	// thermometer belongs to another kettle.
	kettleTolerance, otherKettle units.Celsius = 1.5, 25
)

// Bend revises the rest of a running brew after what happened so far. It adjusts the remaining water so
// that the total or, by the person's habit, the strength or the yield is kept, and times each pour so that
// the bed is in the state that the plan had there, by the brew model. kettle is the current water
// temperature, 0 if unknown. It returns false if the plan needs no change, while a pour runs, and if the
// recipe is outside the model's range.
func (b Brew) Bend(now units.Seconds, kettle units.Celsius) (Revision, bool) {
	state := At(b.Plan, b.Events, now)
	if b.Status != Running || !state.canBend() {
		return Revision{}, false
	}
	return b.bend(state, kettle)
}

// canBend reports whether pours are left and none runs.
func (s State) canBend() bool {
	return !s.Finished && !s.Abandoned && !s.Now().Busy() && s.Now().Step+1 < len(s.plan.Steps)
}

func (b Brew) bend(state State, kettle units.Celsius) (Revision, bool) {
	w := reviser{brew: b, state: state, next: state.Now().Step + 1, kettle: kettle}
	run := w.planned.RunFlowCoarse
	if b.Habits.Keep != recipe.KeepTotal { // strength or yield matter too
		run = w.planned.RunCoarse
	}
	if run(b.Sheet.Question(b.Started)) != nil {
		return Revision{}, false
	}
	w.steps = w.asPlanned()
	w.distribute(w.plannedRest())
	if !w.schedule() {
		return Revision{}, false
	}
	if keep := b.Habits.Keep; keep != recipe.KeepTotal {
		w.adjustWater(keep)
		w.schedule()
	}
	p := w.plan()
	said := w.describe(p)
	return Revision{p, said}, said != ""
}

// Revised adds the revisions of the plan that follow from the events and are not among them yet, each for the events up to
// one of them. So a plan is revised in the same way whenever its events arrive. Revisions for other events stay in the record
// without effect.
func (b Brew) Revised() Brew {
	h := historyOf(b.Events)
	known, from := revisions(b.Events), h.basis()
	for i, e := range h.events {
		if !e.Kind.affectsPlan() {
			continue
		}
		from = from.with(e)
		if _, ok := known[from.String()]; ok {
			continue
		}
		state := h.state(b.Plan, known, i+1, e.At)
		if !state.canBend() {
			continue
		}
		bent, ok := b.bend(state, state.kettle)
		r := Event{Key: "bend-" + from.String(), Kind: Bend, Start: h.start.Key, At: e.At, Basis: from.String(), Note: bent.Description}
		if ok {
			r.Plan = &bent.Plan
		}
		known[r.Basis] = r
		b.Events = append(slices.Clone(b.Events), r)
	}
	return b
}

// reviser is the revision of one plan.
type reviser struct {
	brew    Brew
	state   State
	next    int // index of the first step in the future
	kettle  units.Celsius
	steps   []recipe.Step
	planned forecast.Forecast // for the original plan
	model   forecast.Forecast // for the steps as revised so far
}

// asPlanned returns the past steps as they happened and the future ones as originally planned.
func (w *reviser) asPlanned() []recipe.Step {
	steps := append(w.state.Steps()[:w.next:w.next], w.brew.Plan.Steps[w.next:]...)
	for i := w.next; i < len(steps) && w.kettle > 0; i++ {
		if steps[i].Second {
			continue
		}
		if off := steps[i].Temperature - w.kettle; off > kettleTolerance && off < otherKettle && (i == w.next || !w.brew.Gear.Kettle.Thermostat) {
			steps[i].Temperature = w.kettle
		}
	}
	return steps
}

// plannedRest returns the rest of the planned total.
func (w *reviser) plannedRest() units.Grams {
	return w.brew.Plan.Steps[len(w.brew.Plan.Steps)-1].Total - w.steps[w.next-1].Total
}

// distribute divides an amount of water among the future pours, in their planned proportions.
func (w *reviser) distribute(left units.Grams) {
	var planned units.Grams
	for _, s := range w.brew.Plan.Steps[w.next:] {
		planned += s.Water
	}
	total := units.Grams(0)
	if w.next > 0 {
		total = w.steps[w.next-1].Total
	}
	exact := total
	for i := w.next; i < len(w.steps); i++ {
		s := &w.steps[i]
		if s.Act == recipe.PourWater {
			water := minPour
			if planned > 0 {
				water = max(minPour, left*w.brew.Plan.Steps[i].Water/planned)
			}
			exact += water
			s.Water = units.Grams(math.Round(float64(exact))) - total
			s.Lasts = units.Seconds(math.Ceil(float64(s.Water) / s.Rate))
			total += s.Water
		}
		s.Total = total
	}
}

// schedule sets the start of each future step: for a pour, when the water level over the bed equals the planned
// one, or after the same time without water; for an action on a steep, after the planned time since its
// water.
func (w *reviser) schedule() bool {
	plan := w.brew.Plan.Steps
	late := w.steps[w.next-1].End() - plan[w.next-1].End()
	pour := 0
	for _, s := range plan[:w.next] {
		if s.Act == recipe.PourWater {
			pour++
		}
	}
	held := w.state.delay
	for i := w.next; i < len(w.steps); i++ {
		s := &w.steps[i]
		least := w.steps[i-1].End() + handFree
		s.Start = plan[i].Start + late
		if s.Act == recipe.PourWater && pour < len(w.planned.Pours) {
			at, ok := w.readyAt(i, pour)
			if !ok {
				return false
			}
			s.Start = min(max(at, plan[i].Start+late-maxWait), plan[i].Start+late+maxWait)
			pour++
		}
		if i == w.next && held > 0 {
			least = max(least, w.state.due(i))
		}
		s.Start = units.Seconds(math.Round(float64(max(s.Start, least))))
		late = s.End() - plan[i].End()
	}
	return w.model.RunFlowCoarse(w.question(len(w.steps))) == nil
}

// readyAt returns the time at which the bed reaches the planned state for the start of a pour.
func (w *reviser) readyAt(step, pour int) (units.Seconds, bool) {
	if w.model.RunFlowCoarse(w.question(step)) != nil {
		return 0, false
	}
	meant := w.planned.Pours[pour]
	if meant.Above <= 0.5 {
		return w.model.Dry + meant.Dry, true
	}
	from := int(w.steps[step-1].End())
	for i := from; i < len(w.model.Level); i++ {
		if over := w.model.Level[i] - w.model.BedHeight; over <= meant.Above {
			if i == from {
				return units.Seconds(i), true
			}
			before := w.model.Level[i-1] - w.model.BedHeight
			return units.Seconds(float64(i) - (meant.Above-over)/max(1e-6, before-over)), true
		}
	}
	return w.model.Dry, true
}

// question asks the model about the first steps only.
func (w *reviser) question(steps int) forecast.Question {
	q := w.brew.Sheet.Question(w.brew.Started)
	q.Recipe = q.Recipe.WithSteps(w.steps[:steps])
	return q
}

// adjustWater changes the remaining water until the strength or the yield is as planned.
func (w *reviser) adjustWater(keep recipe.Keep) {
	meant := func(f *forecast.Forecast) float64 {
		if keep == recipe.KeepYield {
			return f.Yield.Value
		}
		return f.TDS
	}
	wanted := meant(&w.planned)
	usual := w.plannedRest()
	off := func(more float64) (float64, error) {
		w.distribute(usual + units.Grams(more))
		err := w.model.RunCoarse(w.question(len(w.steps)))
		return meant(&w.model) - wanted, err
	}
	most := units.Grams(maxExtraWater) * w.brew.Plan.Steps[len(w.brew.Plan.Steps)-1].Total
	lo, hi := root.Point{X: float64(max(-most, minPour-usual))}, root.Point{X: float64(most)}
	var err1, err2 error
	lo.Y, err1 = off(lo.X)
	hi.Y, err2 = off(hi.X)
	best := 0.0
	switch {
	case err1 != nil || err2 != nil:
	case (lo.Y > 0) != (hi.Y > 0):
		const near = 1e-3                             // percentage points of yield or strength
		best, _ = root.FindBetween(off, lo, hi, near) // in case of an error, the last amount that was tried
	case math.Abs(hi.Y) < math.Abs(lo.Y): // out of reach: as close as possible
		best = hi.X
	default:
		best = lo.X
	}
	w.distribute(usual + units.Grams(best))
}

// plan returns the plan with the revised steps and its end moved by the change of the prediction.
func (w *reviser) plan() recipe.Plan {
	p := w.brew.Plan
	p.Steps = w.steps
	if w.model.Drained && w.planned.Drained {
		by := units.Seconds(math.Round(float64(w.model.Drawdown - w.planned.Drawdown)))
		p.Finish = max(p.Finish+by, w.steps[len(w.steps)-1].End()+recipe.MinDrain)
		if p.Window.IsSet() {
			by = p.Finish - w.brew.Plan.Finish
			p.Window.From, p.Window.To = p.Window.From+by, p.Window.To+by
		}
	}
	return p
}

// describe describes the change of the plan in a few words; empty for no change.
func (w *reviser) describe(p recipe.Plan) string {
	stands, made, last := w.state.Plan(), w.brew.Plan, len(p.Steps)-1
	next := func(q recipe.Plan) recipe.Step { return q.Steps[w.next] }
	if abs(next(p).Total-next(stands).Total) < minWater && abs(p.Steps[last].Total-stands.Steps[last].Total) < minWater &&
		abs(next(p).Start-next(stands).Start) < minTime {
		return ""
	}
	grams := w.brew.Prefs.Unit(units.Water)
	amount := func(g units.Grams) string {
		if g > 0 {
			return grams.Format(float64(g)) + " more"
		}
		return grams.Format(float64(-g)) + " less"
	}
	more, later, total := next(p).Water-next(made).Water, next(p).Start-next(made).Start, p.Steps[last].Total-made.Steps[last].Total
	switch {
	case next(p).Act == recipe.PourWater && abs(more) >= minWater:
		return amount(more) + " next"
	case abs(total) >= minWater:
		return "total " + amount(total)
	case later >= minTime:
		return fmt.Sprintf("next %.0f s later", float64(later))
	case later <= -minTime:
		return fmt.Sprintf("next %.0f s earlier", float64(-later))
	}
	return "on plan again"
}

func abs[T units.Grams | units.Seconds](v T) T { return max(v, -v) }
