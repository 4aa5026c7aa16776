package written

import (
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// mass reads an amount of coffee, water or ice.
func (r *reader) mass(t token) {
	g := units.Grams(units.Round(t.value, 1))
	after, then := r.next(1), r.next(2)
	if after.word == "of" || after.word == "total" || after.word == "hot" || after.word == "more" {
		after = then
	}
	if r.now == steeping || r.now == finishing {
		r.now = nothing
	}
	switch {
	case after.word == "ice" || after.word == "ice-cubes" || r.now == icing:
		r.Ice = g
		r.now = nothing
		r.figure("{%s g} of ice", units.Trim(float64(g), 0))
	case after.word == "coffee" || after.word == "grounds" || after.word == "beans" || after.word == "dose" || r.now == dosing && r.Dose == 0:
		r.dose(g)
	case after.word == "bloom" && r.joined() && r.now != pouring:
		r.hanging = g
		r.figure("bloom of {%s g}", units.Trim(float64(g), 0))
	case r.now == blooming && r.bloom().Water == 0 && r.bloom().Times == 0:
		r.bloom().Water = g
		r.figure("bloom of {%s g}", units.Trim(float64(g), 0))
	case (after.word == "water" || r.now == watering || r.before().word == "total") && !r.cumulative && r.now != pouring:
		r.water(g)
	case r.Dose == 0 && t.kind != volume && len(r.Pours) == 0 && g <= units.Grams(recipe.Dose.Range().Hi) && r.now == nothing:
		r.dose(g)
	case r.Water == 0 && len(r.Pours) == 0 && r.now == nothing && r.starts == nil && r.count == 0:
		r.water(g)
	case len(r.Pours) == 0 && r.now == nothing && r.starts == nil && r.count == 0 && (t.kind == volume || g >= 100):
		r.water(g)
	default:
		r.pour(g)
	}
}

func (r *reader) dose(g units.Grams) {
	if r.Dose > 0 && r.Dose != g {
		r.problem("Two doses are written: {%s g} and {%s g}.", units.Trim(float64(r.Dose), 1), units.Trim(float64(g), 1))
	}
	r.Dose, r.now = g, nothing
	r.figure("{%s g} of coffee", units.Trim(float64(g), 1))
}

func (r *reader) water(g units.Grams) {
	if r.Water > 0 && r.Water != g {
		r.problem("Two totals are written: {%s g} and {%s g} of water.", units.Trim(float64(r.Water), 0), units.Trim(float64(g), 0))
	}
	r.Water, r.now = g, nothing
	r.figure("{%s g} of water in total", units.Trim(float64(g), 0))
}

// poured returns the water of the pours so far. A bloom in multiples of the dose counts with the dose.
func (r *Reading) poured() (sum units.Grams) {
	for _, p := range r.Pours {
		sum += r.waterOf(p)
	}
	return sum
}

func (r *Reading) waterOf(p Pour) units.Grams {
	if p.Times > 0 {
		return units.Grams(p.Times) * r.Dose
	}
	return p.Water
}

// pour reads the water of a pour, or of several equal ones.
func (r *reader) pour(g units.Grams) {
	before := r.poured()
	water := g
	if r.cumulative {
		water = g - before
		if water <= 0 {
			r.problem("A pour to {%s g} cannot follow {%s g}.", units.Trim(float64(g), 0), units.Trim(float64(before), 0))
			water = g
		}
	}
	n := max(1, r.count)
	for i := range min(n, recipe.MaxPours) {
		p := Pour{Water: water}
		if r.starts != nil && i == 0 {
			p.Start, p.Starts = *r.starts, true
		}
		r.Pours = append(r.Pours, p)
	}
	switch {
	case n > 1:
		r.figure("%d pours of {%s g}", n, units.Trim(float64(water), 0))
	case r.cumulative:
		r.figure("pour {%s g}, to {%s g}", units.Trim(float64(water), 0), units.Trim(float64(g), 0))
	default:
		r.figure("pour {%s g}", units.Trim(float64(water), 0))
	}
	r.starts, r.count, r.cumulative, r.now = nil, 0, false, pouring
}
