package written

import (
	"cmp"
	"fmt"
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// settle completes figures that came before their subject.
func (r *reader) settle() {
	if r.swirlAll != recipe.NoHand {
		for i := range r.Pours {
			r.Pours[i].Then = r.swirlAll
		}
	}
	if r.count > 0 && r.Water > 0 { // "in three pours"
		bloom := r.poured()
		for range r.count {
			r.Pours = append(r.Pours, Pour{Water: (r.Water - bloom) / units.Grams(r.count)})
		}
	}
	if r.starts != nil {
		r.problem("A time, %s, has no pour.", *r.starts)
	}
}

// check finds figures that contradict each other or are out of range.
func (r *reader) check() {
	const near = 0.02 // of the water: rounding
	total, ratio := r.total(), r.Ratio
	if r.Dose > 0 && r.Water > 0 && ratio > 0 && math.Abs(float64(r.Dose)*ratio-float64(total)) > near*float64(total)+1 {
		r.problem("{%s g} at 1 : %s need {%.0f g} of water, and {%.0f g} are written.", units.Trim(float64(r.Dose), 1), units.Trim(ratio, 1),
			float64(r.Dose)*ratio, float64(total))
	}
	poured, water := r.poured(), r.wanted()
	switch main := r.mainPours(); {
	case len(main) == 0 || r.anyUnsaid():
	case water > 0 && math.Abs(float64(poured-water)) > near*float64(water)+1:
		r.problem("The pours add up to {%.0f g}, and {%.0f g} of water are written.", float64(poured), float64(water))
	}
	for i, p := range r.Pours {
		if i > 0 && p.Starts && r.Pours[i-1].Starts && p.Start <= r.Pours[i-1].Start {
			r.problem("A pour at %s cannot follow one at %s.", p.Start, r.Pours[i-1].Start)
		}
	}
	if n := len(r.Pours); n > 0 && r.Finish > 0 && r.Pours[n-1].Starts && r.Finish <= r.Pours[n-1].Start {
		r.problem("It cannot be finished at %s, before the last pour at %s.", r.Finish, r.Pours[n-1].Start)
	}
	for _, limit := range []struct {
		knob  recipe.Knob
		value float64
		form  string
	}{{recipe.Dose, float64(r.Dose), "{%s g}"}, {recipe.Water, float64(max(water, poured)), "{%s g}"}, {recipe.Ratio, ratio, "1 : %s"},
		{recipe.Temperature, float64(r.Celsius), "{%s °C}"}, {recipe.Grind, float64(r.Grind), "%s µm"}} {
		if v := limit.knob.Range(); limit.value != 0 && !v.Contains(limit.value) {
			r.problem("%s of "+limit.form+" is out of range: "+limit.form+" to "+limit.form+".", limit.knob.Label(), units.Trim(limit.value, 1),
				units.Trim(v.Lo, 1), units.Trim(v.Hi, 1))
		}
	}
	if r.Dose == 0 && (r.total() == 0 || r.Ratio == 0) {
		r.problem("How much coffee? The text does not say.")
	}
	if r.wanted() == 0 && poured == 0 && r.Ratio == 0 {
		r.problem("How much water? The text does not say.")
	}
}

// total returns the water with the ice, as the ratio counts it.
func (r *Reading) total() units.Grams {
	if r.Water == 0 {
		return 0
	}
	return r.Water + r.Ice
}

// wanted returns the water to pour, as written or from the ratio; 0 if neither was said.
func (r *Reading) wanted() units.Grams {
	switch {
	case r.Water > 0:
		return r.Water
	case r.Ratio > 0 && r.Dose > 0:
		return r.Dose*units.Grams(r.Ratio) - r.Ice
	}
	return 0
}

func (r *Reading) mainPours() []Pour {
	if len(r.Pours) > 0 && r.Pours[0].Bloom {
		return r.Pours[1:]
	}
	return r.Pours
}

// anyUnsaid reports whether a pour has no amount.
func (r *Reading) anyUnsaid() bool {
	for _, p := range r.Pours {
		if r.waterOf(p) == 0 {
			return true
		}
	}
	return false
}

// Unread returns the pieces of the text that were not understood.
func (r *Reading) Unread() (out []string) {
	for _, p := range r.Pieces {
		if p.Unread {
			out = append(out, p.Text)
		}
	}
	return out
}

// Recipe returns the recipe as written. Missing figures are taken from a base recipe and listed in sentences.
func (r Reading) Recipe(base recipe.Recipe) (out recipe.Recipe, assumed []string) {
	assume := func(there bool, format string, args ...any) {
		if !there {
			assumed = append(assumed, fmt.Sprintf(format, args...))
		}
	}
	dose, ratio := r.Dose, r.Ratio
	if dose == 0 && ratio > 0 {
		dose = r.total() / units.Grams(ratio)
	}
	poured := r.poured()
	water := cmp.Or(r.wanted(), poured)
	base.Ice, base.Dilution = recipe.Ice{}, recipe.Dilution{}
	out = base.ResizePoured(cmp.Or(dose, base.Dose), cmp.Or(water, base.Water()))
	at := cmp.Or(r.Celsius, base.Temperature())
	assume(r.Celsius > 0, "Water at {%.0f °C}.", float64(at))
	out = out.With(recipe.AddressOf(recipe.Temperature), float64(at))
	assume(r.Grind > 0, "The same grind.")
	if r.Grind > 0 {
		out.Grind = r.Grind
	}
	out.Rinse = out.Rinse || r.Rinse
	if r.Ice > 0 {
		out.Ice = recipe.Ice{Mass: r.Ice}
	}
	if r.Release > 0 {
		out.Release, out.Crust = r.Release, 0
	}
	if len(r.Pours) == 0 {
		assume(false, "The pours of the style.")
		return out, assumed
	}
	out.Pours = r.pours(dose, water, at, assume)
	if r.Finish > 0 {
		out.Aim = r.Finish
	} else {
		const drains = 60 // s
		last := out.Pours[len(out.Pours)-1]
		out.Aim = units.Seconds(math.Round(float64(last.Start + last.Lasts() + drains)))
		assume(false, "It is wanted to drain by %s.", out.Aim)
	}
	return out, assumed
}

// pours returns the pours with missing figures filled in: pours without water share the rest, those without a time follow the previous
// one after a pause.
func (r Reading) pours(dose, water units.Grams, at units.Celsius, assume func(bool, string, ...any)) (out []recipe.Pour) {
	const rate, bloomRate, pause, bloomTimes = 5.0, 4.5, 20, 3
	rest, unsaid := water-r.poured(), 0
	for _, p := range r.Pours {
		if r.waterOf(p) == 0 {
			unsaid++
		}
	}
	end, celsius, bloomed := units.Seconds(0), at, units.Seconds(0)
	for i, p := range r.Pours {
		w := r.waterOf(p)
		switch {
		case w > 0:
		case p.Bloom:
			w = bloomTimes * dose
			rest -= w
			unsaid--
			assume(false, "A bloom of three times the dose, {%.0f g}.", float64(w))
		default:
			w = rest / units.Grams(max(1, unsaid))
			assume(false, "Pour %d: {%.0f g}, its share of the rest.", i+1, float64(w))
		}
		celsius = cmp.Or(p.Celsius, celsius)
		pour := recipe.Pour{Bloom: p.Bloom, Water: w, Rate: rate, Height: recipe.Mid, Pattern: recipe.Spiral, Temperature: celsius, Then: p.Then}
		if p.Bloom {
			pour.Rate, pour.Pattern = bloomRate, recipe.Circles
		}
		switch {
		case p.Starts:
			pour.Start = p.Start
		case i > 0 && bloomed > 0:
			pour.Start = max(bloomed, end)
		case i > 0:
			pour.Start = end + pause
			assume(false, "Pour %d starts at %s, %d s after the one before.", i+1, pour.Start, pause)
		}
		bloomed = 0
		if p.Bloom {
			bloomed = cmp.Or(p.Lasts, 45)
			assume(p.Lasts > 0 || len(r.Pours) > 1 && r.Pours[1].Starts, "A bloom of 45 s.")
		}
		end = pour.Start + pour.Lasts()
		out = append(out, pour)
	}
	if rest := water - sum(out); rest > 1 && len(out) == 1 && out[0].Bloom { // a bloom, and nothing on the rest
		assume(false, "The rest, {%.0f g}, in one pour.", float64(rest))
		out = append(out, recipe.Pour{Water: rest, Start: bloomed, Rate: rate, Height: recipe.Mid, Pattern: recipe.Spiral, Temperature: celsius})
	}
	assume(false, "Poured at {%g g/s}.", rate)
	return out
}

func sum(pours []recipe.Pour) (water units.Grams) {
	for _, p := range pours {
		water += p.Water
	}
	return water
}
