package coach_test

import (
	"fmt"
	"math"
	"sync"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
)

// The oracle of the family is not an adviser but a bound: it knows how marks and words arise, and which aims, coffees and mills there are,
// but not which of them a pupil has. It turns one knob at a time, for the highest probability of a good next cup.

// An oracleTruth is a possible pupil.
type oracleTruth struct {
	liking
	coffee int
	mill   float64 // µm
}

// An oracle holds the probabilities of the possible pupils of a world.
type oracle struct {
	*pupil
	truths []oracleTruth
	weight []float64
}

func newOracle(p *pupil) *oracle {
	o := &oracle{pupil: p}
	for _, l := range p.likings {
		for c := range pupilCoffees {
			for _, mill := range []float64{-35, 0, 35} {
				o.truths, o.weight = append(o.truths, oracleTruth{l, c, mill}), append(o.weight, 1)
			}
		}
	}
	return o
}

// oracleCups caches the cups of recipes by coffee and mill.
var oracleCups sync.Map

// cup returns the yield and strength of a recipe for a possible pupil; both are 0 for a bed that does not drain.
func (o *oracle) cup(q forecast.Question, t oracleTruth) [2]float64 {
	r := q.Recipe
	key := fmt.Sprintf("%s %.0f %.1f %.1f %.0f %d %.0f", r.Style, float64(r.Grind), float64(r.Dose), float64(r.Total()), float64(r.Temperature()),
		t.coffee, t.mill)
	if known, ok := oracleCups.Load(key); ok {
		return known.([2]float64)
	}
	as := *o.pupil
	as.rate, as.fines = pupilCoffees[t.coffee][0], pupilCoffees[t.coffee][1]
	out := [2]float64{}
	var run sim.Result
	if sim.RunCoarse(&run, as.brewOf(q, t.mill)) == nil && run.Drained {
		out = [2]float64{run.EY, run.TDS}
	}
	oracleCups.Store(key, out)
	return out
}

const oracleMarks = 0.42 // standard deviation of a given mark: noise and rounding

// learn updates the probabilities by a cup.
func (o *oracle) learn(q forecast.Question, given int, said map[cup.Sense]int) {
	for i, t := range o.truths {
		at := o.cup(q, t)
		as := *o.pupil
		as.liking = t.liking
		sum := 0.0
		for _, bed := range []struct {
			uneven bool
			chance float64
		}{{false, 1 - o.uneven}, {true, o.uneven}} {
			mark := 1.0
			if at[0] > 0 {
				mark = max(1, as.mark(at[0], at[1], bed.uneven))
			}
			like := bed.chance * (1e-4 + math.Exp(-math.Pow((float64(given)-mark)/oracleMarks, 2)/2))
			e, s := at[0]-t.yield, at[1]-t.strength
			sour, bitter := -e, e
			if o.loose {
				sour, bitter = -0.3*e-10*s, 0.3*e+10*s
			}
			like *= saidChance(said[cup.Acidity], sour, bed.uneven, -3, -1.5, 0.8, 2)
			like *= saidChance(said[cup.Bitterness], bitter, bed.uneven, -1.5, 0.3, 1, 2.2)
			if said[cup.Body] > 0 {
				like *= saidChance(said[cup.Body], 5*s, false, -0.9, -0.4, 0.4, 0.9)
			}
			sum += like
		}
		o.weight[i] *= sum + 1e-12
	}
}

// saidChance returns the probability of a step for a value with the noise of a tongue and its bias.
func saidChance(step int, v float64, uneven bool, limits ...float64) float64 {
	const noise = 0.53
	below := func(limit float64) float64 { return math.Erfc((v-limit)/noise/math.Sqrt2) / 2 }
	lo, hi := 0.0, 1.0
	if step > 1 {
		lo = below(limits[step-2])
	}
	if step < 5 {
		hi = below(limits[step-1])
	}
	if uneven && step < 4 {
		return 1e-3
	}
	return max(1e-3, hi-lo)
}

// next returns the recipe with the highest probability of a good cup.
func (o *oracle) next(q forecast.Question) recipe.Recipe {
	best, most := q.Recipe, -1.0
	try := func(r recipe.Recipe) {
		then := q
		then.Recipe = r
		chance, total := 0.0, 0.0
		for i, t := range o.truths {
			as := *o.pupil
			as.liking = t.liking
			total += o.weight[i]
			if at := o.cup(then, t); at[0] > 0 {
				chance += o.weight[i] * math.Erfc((good-0.5-as.mark(at[0], at[1], false))/oracleMarks/math.Sqrt2) / 2
			}
		}
		if chance /= total; chance > most {
			best, most = r, chance
		}
	}
	try(q.Recipe)
	for _, by := range []float64{-8, -6, -4, -3, -2, -1, 1, 2, 3, 4, 6, 8} {
		try(q.Recipe.With(recipe.AddressOf(recipe.Grind), float64(q.Recipe.Grind)+25*by))
	}
	knob := recipe.Ratio
	if q.Recipe.Serving() == recipe.OverIce {
		knob = recipe.Coffee
	}
	for _, by := range []float64{-4, -3, -2, -1.5, -1, -0.5, 0.5, 1, 1.5, 2, 3, 4} {
		try(q.Recipe.With(recipe.AddressOf(knob), q.Recipe.Value(recipe.AddressOf(knob))+by))
	}
	return best
}

// followOracle returns the brews to the first good cup.
func (p *pupil) followOracle() int {
	o, q := newOracle(p), p.question()
	for n := 1; n <= mostBrews; n++ {
		c, given, _ := p.brew(q)
		if given >= good {
			return n
		}
		o.learn(q, given, c.Cup.Steps)
		q.Recipe = o.next(q)
	}
	return mostBrews + 1
}
