package brew

import (
	"fmt"
	"math"
	"strings"

	"gonum.org/v1/gonum/stat/distuv"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// MaxCompared is the maximum number of brews in a comparison.
const MaxCompared = 6

// A Reality tells whether a difference between brews is real.
type Reality string

// The realities.
const (
	Real       Reality = "real"
	MaybeReal  Reality = "perhaps"
	CannotTell Reality = "cannot tell"
)

// A Gap is the largest difference of a measured quantity among some brews.
type Gap struct {
	What      string // the quantity
	Low, High int    // indices of the brews
	By, Error float64
	Unit      string
	Decimals  int
	Reality   Reality
}

// a quantity of a brew in which brews are compared, with its error: measurement and the scatter from brew to brew.
type quantity struct {
	what, unit string
	decimals   int
	read       func(Brew) (value, err float64, ok bool)
	// shared returns the part of the error that two brews have in common, which cancels in their difference; nil: none.
	shared func(Brew) float64
}

// quantities lists them, the most telling one first.
var quantities = []quantity{
	{"Extraction", "points", 1, func(b Brew) (float64, float64, bool) {
		y, ok := b.Yield()
		own := b.scatter(forecast.Outcome{Yield: y.Value}).Yield
		return y.Value, math.Hypot(y.Error, own), ok
	}, func(b Brew) float64 { return cup.RetainedError(b.measurement(), cup.UsualInstruments) }},
	{"TDS", "points", 2, func(b Brew) (float64, float64, bool) {
		own := b.scatter(forecast.Outcome{Strength: b.Cup.TDS}).Strength
		return b.Cup.TDS, math.Hypot(cup.UsualInstruments.TDS, own), b.Cup.TDS > 0
	}, nil},
	{"Drawdown", "s", 0, func(b Brew) (float64, float64, bool) {
		t := float64(b.Cup.Drawdown)
		const tapped = 2 // s: the last steady stream is not a sharp moment
		own := b.scatter(forecast.Outcome{Drawdown: t}).Drawdown
		return t, math.Hypot(tapped, own), t > 0
	}, nil},
	{"Mark", "of 10", 1, func(b Brew) (float64, float64, bool) {
		const again = 0.7 // marks: how far one person's marks of two equal cups are apart
		return float64(b.Cup.Overall), again, b.Cup.Overall > 0
	}, nil},
}

// scatter returns the standard deviation between brews of this recipe.
func (b Brew) scatter(o forecast.Outcome) forecast.Outcome {
	return b.Sheet.Question(b.Started).Scatter(o, o.Drawdown-float64(b.Recipe.Release))
}

func (b Brew) measurement() cup.Measurement {
	return coach.Case{Recipe: b.AsBrewed(), Gear: b.Gear, Cup: b.Cup}.Measurement()
}

// LargestGap returns the largest difference among two or more brews of the first quantity that all of them have; false if there is
// none. A difference from two standard errors on is real, from one to two perhaps. Of more than two brews the largest difference
// is larger by chance, so the limits grow with the number of pairs (Dunn 1961).
func LargestGap(brews []Brew) (Gap, bool) {
	if len(brews) < 2 {
		return Gap{}, false
	}
	for _, q := range quantities {
		values, errors := make([]float64, len(brews)), make([]float64, len(brews))
		all := true
		for i, b := range brews {
			var ok bool
			values[i], errors[i], ok = q.read(b)
			all = all && ok
		}
		if !all {
			continue
		}
		g := Gap{What: q.what, Unit: q.unit, Decimals: q.decimals}
		for i, v := range values {
			if v < values[g.Low] {
				g.Low = i
			}
			if v > values[g.High] {
				g.High = i
			}
		}
		if g.Low == g.High { // all are equal
			g.Low, g.High = 0, 1
		}
		g.By = values[g.High] - values[g.Low]
		variance := square(errors[g.High]) + square(errors[g.Low])
		if low, high := brews[g.Low], brews[g.High]; q.shared != nil && low.Gear.Brewer.ID == high.Gear.Brewer.ID {
			variance -= 2 * q.shared(low) * q.shared(high)
		}
		g.Error = math.Sqrt(max(0, variance))
		pairs := float64(len(brews)*(len(brews)-1)) / 2
		g.Reality = reality(g.By/g.Error, pairs)
		return g, true
	}
	return Gap{}, false
}

// reality judges a difference in standard errors, the largest of a number of pairs.
func reality(z, pairs float64) Reality {
	outside := func(z float64) float64 { return 2 * distuv.UnitNormal.Survival(z) }
	limit := func(z float64) float64 { return distuv.UnitNormal.Quantile(1 - outside(z)/pairs/2) }
	switch {
	case z >= limit(2):
		return Real
	case z >= limit(1):
		return MaybeReal
	}
	return CannotTell
}

// Sentence describes the gap, such as "Extraction 0.6 ± 0.4 points apart: perhaps; brew both again to tell."
func (g Gap) Sentence() string {
	after := map[Reality]string{Real: "real.", MaybeReal: "perhaps; brew both again to tell.", CannotTell: "cannot tell; brew both again."}[g.Reality]
	return fmt.Sprintf("%s %.*f ± %.*f %s apart: %s", g.What, g.Decimals, g.By, g.Decimals, max(g.Error, math.Pow10(-g.Decimals)), g.Unit, after)
}

// SameBut names the differences between the recipes, the coffee and the gear of some brews in a sentence, such as "Same recipe but
// for the grind."
func SameBut(brews []Brew) string {
	const most = 3
	var out []string
	add := func(name string) {
		for _, known := range out {
			if known == name {
				return
			}
		}
		out = append(out, name)
	}
	first := brews[0]
	for _, b := range brews[1:] {
		for _, d := range []struct {
			name string
			same bool
		}{{"the coffee", sameCoffee(first, b)}, {"the brewer", first.Gear.Brewer.ID == b.Gear.Brewer.ID},
			{"the filter", first.Gear.Brewer.Filter == b.Gear.Brewer.Filter}, {"the grinder", first.Gear.Grinder.ID == b.Gear.Grinder.ID},
			{"the water", first.Gear.Water.ID == b.Gear.Water.ID}, {"the style", first.Recipe.Style == b.Recipe.Style}} {
			if !d.same {
				add(d.name)
			}
		}
		for _, c := range recipe.Changes(first.AsBrewed(), b.AsBrewed()) {
			if c.Knob != recipe.Grind || !sameSetting(first.Gear.Grinder, b.Gear.Grinder, c) {
				add(c.Knob.Name())
			}
		}
	}
	switch {
	case len(out) == 0:
		return "The same recipe."
	case len(out) > most:
		return fmt.Sprintf("Different in %s and %d other things.", strings.Join(out[:most], ", "), len(out)-most)
	case len(out) == 1:
		return fmt.Sprintf("Same recipe but for %s.", out[0])
	}
	return fmt.Sprintf("Same recipe but for %s and %s.", strings.Join(out[:len(out)-1], ", "), out[len(out)-1])
}

func sameCoffee(a, b Brew) bool { return a.Bag.CoffeeID() == b.Bag.CoffeeID() }

// sameSetting reports whether a change of grind is less than a step of a grinder that both brews used.
func sameSetting(a, b gear.Grinder, c recipe.Change) bool {
	return a.ID == b.ID && a.Step != 0 && a.Steps(units.Micrometres(c.From)) == b.Steps(units.Micrometres(c.To))
}

func square(v float64) float64 { return v * v }
