package brew

import (
	"fmt"
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Bent is a plan whose rest was worked out anew, and the change in a few words.
type Bent struct {
	Plan recipe.Plan
	Said string
}

const (
	// leastWater and leastTime are the smallest changes that are worth saying.
	leastWater units.Grams   = 2
	leastTime  units.Seconds = 3
	// leastPour is the least that a pour is left with: a hand cannot pour less well.
	leastPour units.Grams = 5
	// handFree is the least time from the end of one pour to the next, s.
	handFree units.Seconds = 3
	// longestWait is how much longer than planned a wait may be stretched for the bed, s.
	longestWait units.Seconds = 45
	// mostMore is the most by which the water of a brew is changed for its strength or yield.
	mostMore = 0.12
	// kettleOff is how much cooler than wanted a kettle must be to count, K, and otherKettle
	// from where on it cannot be the one that is poured from.
	kettleOff, otherKettle units.Celsius = 1.5, 25
)

// Bend works out how a running brew goes on after what happened so far: the rest of the
// water so that the total, or by the person's habit the strength or the yield, still comes
// out, and each pour when the bed is as it was meant to be then, by the brew model. kettle
// is the water's temperature now, 0 where nobody knows. It returns false where the plan
// stands, while a pour runs, and where the recipe lies outside the model's ranges.
func (b Brew) Bend(now units.Seconds, kettle units.Celsius) (Bent, bool) {
	state := At(b.Plan, b.Events, now)
	if b.Status != Running || state.Finished || state.Now().Does() {
		return Bent{}, false
	}
	next := state.Now().Step + 1
	if next >= len(b.Plan.Steps) {
		return Bent{}, false
	}
	w := bending{brew: b, state: state, next: next, kettle: kettle}
	if w.planned.AskRoughly(b.Sheet.Question(b.Started)) != nil {
		return Bent{}, false
	}
	w.steps = w.asItWas()
	w.share(w.usual())
	if !w.time() {
		return Bent{}, false
	}
	if keep := b.Habits.Keep; keep != recipe.KeepTotal {
		w.reach(keep)
		w.time()
	}
	p := w.plan()
	said := w.say(p)
	return Bent{p, said}, said != ""
}

// bending is the work on one plan.
type bending struct {
	brew    Brew
	state   State
	next    int // the first step that lies ahead
	kettle  units.Celsius
	steps   []recipe.Step
	planned forecast.Forecast // of the plan as it was made
	model   forecast.Forecast // of the steps as they are now
}

// asItWas are the steps with what happened in place of what was planned, and the plan as it
// was made for those that lie ahead.
func (w *bending) asItWas() []recipe.Step {
	steps := append(w.state.Steps()[:w.next:w.next], w.brew.Plan.Steps[w.next:]...)
	for i := w.next; i < len(steps) && w.kettle > 0; i++ {
		if off := steps[i].Temperature - w.kettle; off > kettleOff && off < otherKettle && (i == w.next || !w.brew.Gear.Kettle.Thermostat) {
			steps[i].Temperature = w.kettle
		}
	}
	return steps
}

// usual is the water that is left of the planned total.
func (w *bending) usual() units.Grams {
	return w.brew.Plan.Steps[len(w.brew.Plan.Steps)-1].Total - w.steps[w.next-1].Total
}

// share gives the pours that lie ahead so much water between them, in the proportions in
// which it was planned.
func (w *bending) share(left units.Grams) {
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
			water := leastPour
			if planned > 0 {
				water = max(leastPour, left*w.brew.Plan.Steps[i].Water/planned)
			}
			exact += water
			s.Water = units.Grams(math.Round(float64(exact))) - total
			s.Lasts = units.Seconds(math.Ceil(float64(s.Water) / s.Rate))
			total += s.Water
		}
		s.Total = total
	}
}

// time sets when each step that lies ahead begins: a pour when the water stands over the
// bed as high as it was meant to then, or has been gone for as long; what is done to a
// steep, as long after its water as it was planned.
func (w *bending) time() bool {
	plan := w.brew.Plan.Steps
	late := w.steps[w.next-1].End() - plan[w.next-1].End()
	pour := 0
	for _, s := range plan[:w.next] {
		if s.Act == recipe.PourWater {
			pour++
		}
	}
	held := w.state.held
	for i := w.next; i < len(w.steps); i++ {
		s := &w.steps[i]
		least := w.steps[i-1].End() + handFree
		s.Start = plan[i].Start + late
		if s.Act == recipe.PourWater && pour < len(w.planned.Pours) {
			at, ok := w.ready(i, pour)
			if !ok {
				return false
			}
			s.Start = min(max(at, plan[i].Start+late-longestWait), plan[i].Start+late+longestWait)
			pour++
		}
		if i == w.next && held > 0 {
			least = max(least, w.state.due(i))
		}
		s.Start = units.Seconds(math.Round(float64(max(s.Start, least))))
		late = s.End() - plan[i].End()
	}
	return w.model.AskRoughly(w.question(len(w.steps))) == nil
}

// ready is when the bed is as the plan meant it to be at the beginning of a pour.
func (w *bending) ready(step, pour int) (units.Seconds, bool) {
	if w.model.AskRoughly(w.question(step)) != nil {
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

// question asks about the first steps alone.
func (w *bending) question(steps int) forecast.Question {
	q := w.brew.Sheet.Question(w.brew.Started)
	q.Recipe = q.Recipe.Along(w.steps[:steps])
	return q
}

// reach changes the water that lies ahead until the strength or the yield is what was planned.
func (w *bending) reach(keep recipe.Keep) {
	meant := func(f *forecast.Forecast) float64 {
		if keep == recipe.KeepYield {
			return f.Yield.Value
		}
		return f.TDS
	}
	wanted := meant(&w.planned)
	usual := w.usual()
	off := func(more units.Grams) (float64, bool) {
		w.share(usual + more)
		err := w.model.AskRoughly(w.question(len(w.steps)))
		return meant(&w.model) - wanted, err == nil
	}
	most := units.Grams(mostMore) * w.brew.Plan.Steps[len(w.brew.Plan.Steps)-1].Total
	lo, hi := max(-most, leastPour-usual), most
	atLo, ok1 := off(lo)
	atHi, ok2 := off(hi)
	best := units.Grams(0)
	switch {
	case !ok1 || !ok2:
	case (atLo > 0) == (atHi > 0): // out of reach: as near as it comes
		best = lo
		if math.Abs(atHi) < math.Abs(atLo) {
			best = hi
		}
	default:
		for range 7 {
			best = lo + (hi-lo)*units.Grams(atLo/(atLo-atHi))
			at, ok := off(best)
			if !ok || math.Abs(at) < 1e-3 {
				break
			}
			if (at > 0) == (atLo > 0) {
				lo, atLo = best, at
			} else {
				hi, atHi = best, at
			}
		}
	}
	w.share(usual + best)
}

// plan is the plan with the steps as they are now, its end moved by what the model expects.
func (w *bending) plan() recipe.Plan {
	p := w.brew.Plan
	p.Steps = w.steps
	if w.model.Drained && w.planned.Drained {
		by := units.Seconds(math.Round(float64(w.model.Drawdown - w.planned.Drawdown)))
		p.Finish = max(p.Finish+by, w.steps[len(w.steps)-1].End()+recipe.LeastDrain)
		if p.Window.Set() {
			by = p.Finish - w.brew.Plan.Finish
			p.Window.From, p.Window.To = p.Window.From+by, p.Window.To+by
		}
	}
	return p
}

// say says in a few words how the plan is now against how it was made; empty where that is
// how it stands already.
func (w *bending) say(p recipe.Plan) string {
	stands, made, last := w.state.Plan(), w.brew.Plan, len(p.Steps)-1
	next := func(q recipe.Plan) recipe.Step { return q.Steps[w.next] }
	if abs(next(p).Total-next(stands).Total) < leastWater && abs(p.Steps[last].Total-stands.Steps[last].Total) < leastWater && abs(next(p).Start-next(stands).Start) < leastTime {
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
	case next(p).Act == recipe.PourWater && abs(more) >= leastWater:
		return amount(more) + " next"
	case abs(total) >= leastWater:
		return "total " + amount(total)
	case later >= leastTime:
		return fmt.Sprintf("next %.0f s later", float64(later))
	case later <= -leastTime:
		return fmt.Sprintf("next %.0f s earlier", float64(-later))
	}
	return "on plan again"
}

func abs[T units.Grams | units.Seconds](v T) T { return max(v, -v) }
