package coach

import (
	"slices"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A lever is one way to turn one knob: by how much, and when it must be left
// alone. It goes no further than the knob's usual range.
type lever struct {
	knob   recipe.Knob
	by     float64 // in the knob's unit
	unless []sign
	only   cup.Method // empty: both
	reason string
}

var (
	finer = lever{knob: recipe.Grind, by: -35, unless: []sign{slow, stalled, clogging},
		reason: "Finer grounds have more surface and hold the water longer."}
	coarser = lever{knob: recipe.Grind, by: +40, unless: []sign{fast},
		reason: "Coarser grounds let the water through sooner and give less away."}
	hotter = lever{knob: recipe.Temperature, by: +2,
		reason: "Hotter water takes more along in the same time."}
	cooler = lever{knob: recipe.Temperature, by: -2,
		reason: "Cooler water takes less of the bitter end along; the flow stays as it is."}
	lessWater = lever{knob: recipe.Ratio, by: -1,
		reason: "Less water on the same dose is stronger."}
	moreWater = lever{knob: recipe.Ratio, by: +1,
		reason: "More water on the same dose is lighter, and clearer."}
	moreBloom = lever{knob: recipe.Bloom, by: +0.5, only: cup.Percolation,
		reason: "More water in the bloom reaches grounds that would stay dry."}
	longerBloom = lever{knob: recipe.BloomTime, by: +15, only: cup.Percolation,
		reason: "A longer bloom wets the core of each grain before the flow begins."}
	swirl = lever{knob: recipe.HandAfter, by: +1, only: cup.Percolation,
		reason: "A swirl after the bloom and after the last pour levels the bed and wets all of it."}
	noSwirl = lever{knob: recipe.HandAfter, by: -1, only: cup.Percolation,
		reason: "Without the swirl the fines stay where they are."}
	fewerPours = lever{knob: recipe.Pours, by: -1, only: cup.Percolation,
		reason: "Fewer pours stir the bed less, so fewer fines settle in it."}
	lowerPour = lever{knob: recipe.PourHeight, by: -1,
		reason: "A lower stream digs less into the bed."}
	longerSteep = lever{knob: recipe.Release, by: +30, only: cup.Immersion,
		reason: "A longer steep takes more along, slowly."}
	shorterSteep = lever{knob: recipe.Release, by: -30, only: cup.Immersion,
		reason: "A shorter steep leaves the late, bitter part behind."}
	breakLater = lever{knob: recipe.Release, by: +15, only: cup.Immersion,
		reason: "The crust is broken 45 s before the valve opens: a little more time lets every grain sink and get wet."}
	rinse = lever{knob: recipe.Rinse, by: +1,
		reason: "The rinse goes down the sink, and the taste of paper with it."}
)

// An Effect is what a change is expected to do, by the brew model.
type Effect struct {
	Yield float64       // percentage points of EY
	Time  units.Seconds // of drawdown
	// YieldError and TimeError are one standard error of the difference.
	YieldError float64
	TimeError  units.Seconds
}

// expect asks the model what the two choices do to this brew. Where a recipe lies
// outside the model's ranges, no effect is given.
func (c Case) expect(first, second *Proposal) {
	if first == nil {
		return
	}
	q := c.question()
	var now forecast.Forecast
	if now.Ask(q) != nil {
		return
	}
	moves := []forecast.Move{{Address: first.Address, To: first.To}}
	if second != nil {
		moves = append(moves, forecast.Move{Address: second.Address, To: second.To})
	}
	differences := forecast.Try(q, now, moves)
	forecast.Sure(q, moves, differences)
	for i, p := range []*Proposal{first, second} {
		if i < len(differences) && differences[i] != nil {
			d := differences[i]
			p.Effect = Effect{Yield: d.Yield, Time: d.Time, YieldError: d.YieldError, TimeError: d.TimeError}
		}
	}
}

// A Proposal is one change to a recipe, in the person's own terms.
type Proposal struct {
	recipe.Change
	Say     string // "2 clicks finer"
	LeadsTo string // "20 clicks (614 µm)"
	Reason  string
	Effect  Effect
}

// pull turns a lever on a brew. It returns false where the lever's limits do not allow it.
func (l lever) pull(c Case) (Proposal, bool) {
	if l.only != "" && l.only != c.Method() || !c.Recipe.Has(recipe.Of(l.knob)) {
		return Proposal{}, false
	}
	for _, s := range l.unless {
		if s(c) != "" {
			return Proposal{}, false
		}
	}
	from := c.Recipe.Value(recipe.Of(l.knob))
	to := l.reach(c, from)
	if l.by > 0 && to <= from || l.by < 0 && to >= from {
		return Proposal{}, false
	}
	p := Proposal{Change: recipe.Change{Address: recipe.Of(l.knob), From: from, To: to}, Reason: l.reason}
	p.Say, p.LeadsTo = Describe(c.Recipe, c.Gear.Grinder, p.Change, c.Prefs)
	return p, true
}

// reach is where the knob ends up: as far as the lever wants and its limits let it.
func (l lever) reach(c Case, from float64) float64 {
	switch l.knob {
	case recipe.Grind:
		m := c.Gear.Grinder.Nudge(units.Micrometres(from), units.Micrometres(l.by))
		if l.limit(float64(m.Size)) != float64(m.Size) {
			return from
		}
		return float64(m.Size)
	case recipe.HandAfter: // from nothing to a swirl, and from whatever the hand does to nothing
		swirl := float64(slices.Index(recipe.Hands(), recipe.Swirl))
		if l.by < 0 {
			return 0
		}
		return max(from, swirl)
	case recipe.Temperature:
		return min(l.limit(from+l.by), float64(gear.Hottest(c.Gear.Boiling)))
	}
	return l.limit(from + l.by)
}

// limit holds a value at the end of the usual range that the lever moves towards.
// From outside the other end it may come back step by step.
func (l lever) limit(v float64) float64 {
	if l.by < 0 {
		return max(v, l.knob.Usual().Lo)
	}
	return min(v, l.knob.Usual().Hi)
}
