package demo

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A truth is a property of a coffee that neither the model nor the coach sees: factors of its extraction rate and of its fines, and ln of its
// permeability.
type truth struct{ rate, fines, flow float64 }

// offsets are the true differences of the grinders from their dials, µm. A blade differs each time.
var offsets = []units.Micrometres{benchGrinder: 12, apronMill: -10, oldBlade: 0}

// The bench grinder has ground finer since a day of the fourth week: its zero has moved.
const (
	driftedOn = 9 // days ago
	drift     = -75
	anyBlade  = 80 // standard deviation of the size of a blade, µm
	eachTime  = 6  // and of a burr grinder
)

// A palate is a person's taste: the cup that they like, % EY and % TDS, how much each matters, and the bias of their words for sour and bitter,
// in points of yield.
type palate struct{ yield, strength, ofYield, ofStrength, sour, bitter float64 }

// palates holds the tastes of the staff. Marta and Tilda like it clear; Ivo and Bruno find that thin.
var palates = map[string]palate{
	"marta": {20.9, 1.40, 1, 1, -0.6, 0}, "ivo": {20.2, 1.58, 0.8, 1.2, -0.2, 0.2}, "tilda": {21.3, 1.36, 1, 0.9, 0, -0.2},
	"bruno": {20.4, 1.52, 0.9, 1, 0.2, 0.1},
}

// An outcome is a brew in the cup, as it truly is.
type outcome struct {
	drawdown units.Seconds
	beverage units.Grams
	tds, ey  float64
	uneven   bool
	stale    bool
}

// outcomeOf pours a brew by the brew model in the world of the demo.
func outcomeOf(b brew.Brew, l line, t truth, days int, uneven bool, rng *rand.Rand) (outcome, error) {
	q := b.Question(b.Started)
	q.Recipe.Grind += offsets[l.grinder]
	spread := float64(eachTime)
	if l.grinder == oldBlade {
		spread = anyBlade
	}
	if l.grinder == benchGrinder && days <= driftedOn {
		q.Recipe.Grind += drift
	}
	q.Recipe.Grind += units.Micrometres(spread * rng.NormFloat64())
	r, err := ran(q, t)
	if err != nil {
		return outcome{}, err
	}
	dissolved := r.TDS * float64(r.Beverage/b.Recipe.Dose)
	if b.Recipe.Steeps() { // the liquid in the grounds is as strong
		dissolved += r.TDS * b.Gear.Brewer.Retained
	}
	o := outcome{drawdown: r.Drawdown, beverage: r.Beverage, tds: r.TDS, ey: dissolved, uneven: uneven,
		stale: b.Bag.Freshness(b.Started) == coffee.GettingOld}
	if uneven { // water runs through a few paths
		o.drawdown, o.tds, o.ey = o.drawdown*0.95, o.tds*0.97, o.ey*0.97
	}
	least := b.Plan.Steps[len(b.Plan.Steps)-1].End() + 12
	o.drawdown = units.Seconds(math.Round(max(float64(least), float64(o.drawdown)*math.Exp(0.02*rng.NormFloat64()))))
	return o, nil
}

// ran runs the brew model with the truth of a coffee.
func ran(q forecast.Question, t truth) (sim.Result, error) {
	b := q.Brew()
	b.Coffee.Rate *= t.rate
	b.Grind.Fines *= t.fines
	b.Grind.Flow *= math.Exp(t.flow)
	return sim.Run(b)
}

// measured returns the measurements of a cup: the refractometer scatters by 0.02 %, the scale by a gram.
func (o outcome) measured(b brew.Brew, rng *rand.Rand) cup.Cup {
	c := cup.Cup{Drawdown: b.Cup.Drawdown, TDS: units.Round(o.tds+0.02*rng.NormFloat64(), 2),
		Beverage: units.Grams(math.Round(float64(o.beverage) + rng.NormFloat64())), Bed: cup.FlatBed}
	if o.uneven {
		c.Bed = cup.DryPocket
	}
	return c
}

// tasted returns how a person tastes a cup.
func (p palate) tasted(o outcome, notes string, rng *rand.Rand) cup.Taste {
	e, t := o.ey-p.yield, o.tds-p.strength
	mark := 10 - 2*math.Sqrt(p.ofYield*e*e+p.ofStrength*100*t*t) + 0.3*rng.NormFloat64()
	e, t = e+0.3*rng.NormFloat64(), t+0.03*rng.NormFloat64()
	said := cup.Taste{Faults: map[cup.Fault]bool{}, Steps: map[cup.Sense]int{
		cup.Acidity: step(-e+p.sour, -3, -1.5, 0.8, 2), cup.Bitterness: step(e+p.bitter, -1.5, 0.3, 1, 2.2), cup.Dryness: step(e, -0.5, 1, 1.8, 3),
		cup.Sweetness: step(-math.Abs(e), -2.5, -1.4, -0.7, 1), cup.Aftertaste: step(e, -3, -1.2, 0.9, 3), cup.Clarity: 3,
		cup.Body: step(t, -0.18, -0.08, 0.08, 0.18)}}
	if o.uneven {
		mark -= 1.5
		said.Steps[cup.Acidity], said.Steps[cup.Bitterness] = max(4, said.Steps[cup.Acidity]), max(4, said.Steps[cup.Bitterness])
	}
	if o.stale {
		mark = min(mark-2.5, 5)
		said.Faults[cup.Flat] = true
		said.Steps[cup.Aftertaste], said.Steps[cup.Acidity] = 1, 1
	}
	said.Overall = int(max(1, min(10, math.Round(mark))))
	switch {
	case said.Overall >= 8:
		said.Serve = "yes"
	case said.Overall <= 5:
		said.Serve = "no"
	}
	said.Notes = noteOf(said, o, notes)
	return said
}

// step returns the step, 1 to 5, of a value between limits.
func step(v float64, limits ...float64) int {
	n, _ := slices.BinarySearch(limits, v)
	return n + 1
}

// noteOf returns the note of a taster: the most striking thing, or the notes of the bag.
func noteOf(t cup.Taste, o outcome, bag string) string {
	first, _, _ := strings.Cut(bag, ",")
	switch {
	case o.stale:
		return "Hardly rose in the bloom. Cardboard."
	case o.uneven:
		return "Sour and bitter in one sip."
	case t.Overall >= 8:
		return strings.ToUpper(first[:1]) + first[1:] + ", and a long sweet end."
	case t.Steps[cup.Acidity] >= 4:
		return "Sharp, and over at once."
	case t.Steps[cup.Bitterness] >= 4:
		return "A bitter edge stays."
	case t.Steps[cup.Body] <= 2:
		return "Clear, but thin."
	case t.Steps[cup.Body] >= 4:
		return "Heavy."
	}
	return ""
}

// marksOf are the marks of a person who pours an uneven bed: a dry spot in the bloom, and a channel after it.
func marksOf(p recipe.Plan, uneven bool) []brew.Mark {
	if !uneven {
		return nil
	}
	at := units.Seconds(96)
	if n := len(p.Steps); n > 2 {
		at = p.Steps[n-2].Start + 4
	}
	return []brew.Mark{{What: cup.DrySpot, At: 9}, {What: cup.Channel, At: at}}
}
