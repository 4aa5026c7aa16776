package recipe

import (
	"cmp"
	"math"

	"yardbloom/core/units"
)

// Weigh returns the recipe for other amounts, as they can be weighed out: the
// dose to a tenth of a gram, all the water, ice and dilution too, to a gram.
func (r Recipe) Weigh(dose, total units.Grams) Recipe {
	return r.Resize(units.Grams(units.Round(float64(dose), 1)), wholeGrams(total))
}

// Weighed returns the recipe with the dose and the poured water that were really weighed; 0
// keeps what it says.
func (r Recipe) Weighed(dose, poured units.Grams) Recipe {
	if dose == 0 && poured == 0 {
		return r
	}
	return r.Weigh(cmp.Or(dose, r.Dose), cmp.Or(poured, r.Water())+r.Ice.Mass+r.Dilution.Water)
}

// Resize returns the recipe for another dose and another amount of water in all,
// of which ice and dilution keep their shares.
func (r Recipe) Resize(dose, total units.Grams) Recipe {
	ice, later := wholeGrams(total*units.Grams(r.IceShare())), wholeGrams(total*units.Grams(r.DiluteShare()))
	r.Ice.Mass, r.Dilution.Water = ice, later
	return r.Pour(dose, total-ice-later)
}

// Pour returns the recipe for another dose and another amount of water to be poured.
// Where the pours are still those that the style wrote, it writes them again. Pours
// that a hand has changed are scaled: the bloom with the dose, the others with
// what is left, but for those that are pinned, and the times between them with the
// square root of the dose, because a deeper bed drains more slowly.
func (r Recipe) Pour(dose, water units.Grams) Recipe {
	if w, same := r.writing(); same {
		was := w.recipe()
		w.dose, w.water = dose, water
		return r.rewritten(was, w.recipe())
	}
	out := r.clone()
	out.Dose = dose
	bloom := units.Grams(0)
	if r.blooms() > 0 {
		bloom = bloomOf(dose, water, float64(r.Pours[0].Water/r.Dose))
		out.Pours[0].Water = bloom
	}
	after := out.after()
	if len(after) == 0 {
		return out
	}
	out.spread(water-out.Water(), -1)
	stretch := units.Seconds(math.Sqrt(float64(dose / r.Dose)))
	first := after[0].Start
	for i := range after {
		after[i].Start = first + (after[i].Start-first)*stretch
	}
	done := lastEnd(r.Plan().Steps)
	if r.Aim > 0 {
		out.Aim = lastEnd(out.Plan().Steps) + (r.Aim-done)*stretch
	}
	return out
}

// rewritten is the recipe with pours that its style wrote anew: what a hand has
// set for each pour, the valve and all else stay. The aim moves as the style's does.
func (r Recipe) rewritten(was, next Recipe) Recipe {
	out := r.clone()
	out.Dose = next.Dose
	old := r.after()
	out.Pours = next.Pours
	if r.blooms() > 0 && out.blooms() > 0 {
		out.Pours[0] = dressed(out.Pours[0], r.Pours[0])
	}
	after := out.after()
	for i := range after {
		if len(old) == 1 && len(after) > 1 {
			after[i].Pattern, after[i].Temperature = old[0].Pattern, old[0].Temperature
			continue
		}
		after[i] = dressed(after[i], old[like(i, len(after), len(old))])
	}
	if len(after) == 1 && len(old) > 1 { // one pour begins like the first and ends like the last
		last := old[len(old)-1]
		after[0].Pattern, after[0].Temperature, after[0].WhenDrained = old[0].Pattern, old[0].Temperature, old[0].WhenDrained
		after[0].Height, after[0].Then = last.Height, last.Then
	}
	if r.Aim > 0 {
		out.Aim = r.Aim + next.Aim - was.Aim
	}
	return out
}

// like is the old pour in whose manner the pour i of n is poured: the first like
// the first, the last like the last, those between like those between.
func like(i, n, old int) int {
	switch {
	case i == n-1:
		return old - 1
	case i == 0:
		return 0
	default:
		return max(0, min(i, old-2))
	}
}

// dressed returns a pour with everything from another one but its water, start and rate.
func dressed(p, manner Pour) Pour {
	p.Height, p.Pattern, p.Temperature, p.Then, p.WhenDrained, p.Pinned = manner.Height, manner.Pattern, manner.Temperature, manner.Then, manner.WhenDrained, manner.Pinned
	return p
}

// Divide returns the recipe with the water after the bloom in n equal pours, with
// the pause between them as it was. In the model the same water in the same time
// gives the same yield however it is cut, so it is the pause that is kept.
func (r Recipe) Divide(n int) Recipe {
	after := r.after()
	if n < 1 || n == len(after) || len(after) == 0 {
		return r
	}
	if w, same := r.writing(); same {
		was := w.recipe()
		w.pours = n
		return r.rewritten(was, w.recipe())
	}
	out := r.clone()
	if kept := r.Style.Style().opening; kept > 0 && len(after) > kept && n > kept { // the opening stays as it is
		after, n = after[kept:], n-kept
	}
	out.Pours = append(out.Pours[:len(r.Pours)-len(after)], divided(after, n)...)
	return out
}

// divided are n equal pours with the water of some, in their manner and with the pause between them.
func divided(after []Pour, n int) []Pour {
	var rest units.Grams
	for _, p := range after {
		rest += p.Water
	}
	rate := after[0].Rate
	pause := float64(minPause)
	if len(after) > 1 {
		pause = float64(after[1].Start-after[0].Start) - float64(after[0].Water)/rate
	}
	gap := max(fives(pause+pourTime(rest, n, rate)), leastGap(rest, n, rate))
	out := make([]Pour, n)
	for i := range out {
		out[i] = after[like(i, n, len(after))]
		out[i].Water, out[i].Start, out[i].Rate, out[i].Pinned = rest/units.Grams(n), after[0].Start+units.Seconds(i)*gap, rate, false
	}
	return out
}

// withBloom returns the recipe with a bloom of so many g per g of dose, and all
// the water that it had. Without a bloom the first pour begins at once; a bloom
// that was not there is poured and timed as the style does it.
func (r Recipe) withBloom(per float64) Recipe {
	if w, same := r.writing(); same {
		was := w.recipe()
		w.bloom = per
		return r.rewritten(was, w.recipe())
	}
	total, out := r.Water(), r.clone()
	had := r.blooms() > 0
	switch {
	case per <= 0 && !had:
		return out
	case per <= 0:
		by := out.after()[0].Start
		out.Pours = out.after()
		out.shift(0, -by)
	case !had:
		style, first := r.Style.Style(), r.Pours[0]
		bloom := Pour{Bloom: true, Rate: min(gentle, first.Rate), Height: first.Height, Pattern: Circles, Temperature: first.Temperature, Then: style.Hand}
		out.Pours = append([]Pour{bloom}, out.Pours...)
		out.shift(1, max(style.BloomTime, 30))
	}
	if per > 0 {
		out.Pours[0].Water = bloomOf(r.Dose, total, per)
	}
	out.spread(total-out.Water(), -1)
	return out
}

// shift moves the pours from one on, the crust, the valve and the aim. The
// recipe's pours are changed in place: clone it first.
func (r *Recipe) shift(from int, by units.Seconds) {
	for i := from; i < len(r.Pours); i++ {
		r.Pours[i].Start += by
	}
	if r.Release > 0 {
		r.Crust, r.Release = r.Crust+by, r.Release+by
	}
	if r.Aim > 0 {
		r.Aim += by
	}
}

// LeastGap is the shortest gap in which a pour after the bloom is done and the hand is free again.
func (r Recipe) LeastGap() units.Seconds {
	var longest float64
	for _, p := range r.after() {
		longest = max(longest, float64(p.Water)/p.Rate)
	}
	return upToFives(longest+1) + minPause
}

// LeastBloom is the shortest bloom in which its water is poured and the hand is free again.
func (r Recipe) LeastBloom() units.Seconds {
	if r.blooms() == 0 {
		return 0
	}
	return upToFives(float64(r.Pours[0].Water)/r.Pours[0].Rate) + minPause
}
