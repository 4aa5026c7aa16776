package trial

import (
	"fmt"
	"math"

	"yardbloom/core/units"
)

// An Effect is a difference with its standard error.
type Effect struct {
	By, Error   float64
	Significant bool // at the 95 % level
}

// A Pair is the result of two factors at two levels each.
type Pair struct {
	// First and Second are the effects of one factor from its lower to its higher level, over both levels of the other.
	First, Second Effect
	// Together is the interaction: the effect of the first factor at the higher level of the second minus that at the lower.
	Together Effect
	Missing  bool // a pair of levels has no brew, so that the effects are not separable
}

// The weights of the cells in an effect: low and low, high and low, low and high, high and high.
var (
	firstWeights    = [4]float64{-0.5, 0.5, -0.5, 0.5}
	secondWeights   = [4]float64{-0.5, -0.5, 0.5, 0.5}
	togetherWeights = [4]float64{1, -1, -1, 1}
)

// pair returns the effects from the means of the four cells. contrast returns a weighted sum of them with its error.
func (a Answer) pair(contrast func([4]float64) (by, err float64)) *Pair {
	if len(a.Levels) < 4 {
		return &Pair{Missing: true}
	}
	effect := func(weights [4]float64) Effect {
		by, err := contrast(weights)
		return Effect{by, err, err > 0 && math.Abs(by) > a.criticalValue()*err}
	}
	return &Pair{First: effect(firstWeights), Second: effect(secondWeights), Together: effect(togetherWeights)}
}

// describePair describes the answer of two factors in sentences, in the person's units.
func (t Trial) describePair(a Answer, prefs units.Prefs) string {
	p := a.Pair
	if p.Missing {
		return "One pair of the two has not been brewed yet: brew it before you compare."
	}
	one := func(f Factor, e Effect) string {
		out := fmt.Sprintf("%s, from %s to %s: %s", f.Label(), f.LevelName(f.Levels[0], prefs), f.LevelName(f.Levels[1], prefs), t.amount(a, e))
		if a.Freedom > 0 && !e.Significant {
			out += ", not distinguishable"
		}
		return out + ". "
	}
	out := one(t.Factor, p.First) + one(*t.Second, p.Second)
	if a.Freedom < 1 {
		return out + "Too few repeats to tell whether one changes the effect of the other: brew each pair again."
	}
	switch largest := max(math.Abs(p.First.By), math.Abs(p.Second.By)); {
	case p.Together.Significant:
		return out + fmt.Sprintf("One changes the effect of the other: with %s instead of %s, %s adds %s.", t.Second.LevelName(t.Second.Levels[1], prefs),
			t.Second.LevelName(t.Second.Levels[0], prefs), t.Variable(), t.amount(a, p.Together))
	case a.criticalValue()*p.Together.Error > max(largest, visible[t.Measure]):
		return out + fmt.Sprintf("Too few repeats to tell whether one changes the effect of the other (%s).", t.amount(a, p.Together))
	}
	return out + fmt.Sprintf("Together they do what each does alone (%s).", t.amount(a, p.Together))
}

// visible holds the smallest interaction that matters, by measure.
var visible = map[Measure]float64{ByMark: 0.5, ByYield: 0.5, ByStrength: 0.05, ByTime: 10, ByHeat: 2}

// amount formats an effect with its unit.
func (t Trial) amount(a Answer, e Effect) string {
	d := decimals[t.Measure]
	if a.Freedom < 1 {
		return fmt.Sprintf("%s %s, from too few brews to say how sure that is", units.Points(e.By, d), unitOf[t.Measure])
	}
	return fmt.Sprintf("%s ± %.*f %s", units.Points(e.By, d), d, LeastError(e.Error, d), unitOf[t.Measure])
}
