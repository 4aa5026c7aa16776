package recipe

import (
	"cmp"
	"math"
	"slices"

	"yardbloom/core/units"
)

// A writing is what a style writes pours from.
type writing struct {
	style       Style
	dose, water units.Grams   // water is what is poured
	balance     float64       // of the opening's water, the share of its first pour; 0: the style's own
	bloom       float64       // g/g
	bloomTime   units.Seconds // from the first water to the next pour
	pours       int           // after the bloom
	rate        float64       // of those, g/s
	temperature units.Celsius
}

// Write returns the recipe that a style makes of a dose and an amount of water in
// all, ice and dilution too: its pours, their times and the wanted drawdown. The
// temperature is what suits the coffee. Grind and rinse are left open.
func (s Style) Write(dose, total units.Grams, temperature units.Celsius) Recipe {
	ice, later := wholeGrams(total*units.Grams(s.Ice)), wholeGrams(total*units.Grams(s.Dilute))
	r := s.writing(dose, total-ice-later, temperature+s.hotter).recipe()
	if ice > 0 {
		r.Ice = iceKinds[0]
		r.Ice.Mass = ice
	}
	if later > 0 {
		r.Dilution = Dilution{Water: later, Temperature: diluteWith[0]}
	}
	return r
}

func (s Style) writing(dose, water units.Grams, temperature units.Celsius) writing {
	return writing{style: s, dose: dose, water: water, bloom: s.Bloom, bloomTime: s.BloomTime, pours: len(s.pours), rate: s.Rate, temperature: temperature}
}

func (w writing) recipe() Recipe {
	r := w.poured()
	styled := w
	styled.pours, styled.rate = len(w.style.pours), w.style.Rate
	// The wanted drawdown is that of the style's own pours: more pours do not move
	// it, which is why they want a coarser grind.
	r.Aim = lastEnd(styled.poured().Plan().Steps) + fives(float64(w.style.drain)*depth(w.dose))
	return r
}

// poured is the recipe with its pours, without an aim.
func (w writing) poured() Recipe {
	r := Recipe{Style: w.style.ID, Dose: w.dose}
	var start units.Seconds
	bloom := w.bloomWater()
	if bloom > 0 {
		r.Pours = append(r.Pours, Pour{Bloom: true, Water: bloom, Rate: min(gentle, w.rate), Height: Mid, Pattern: Circles, Temperature: w.temperature, Then: w.style.Hand})
		start = w.bloomTime
	}
	rest := w.water - bloom
	shares, gap := w.shares(), w.gap(rest)
	for i, s := range shares {
		p := Pour{Water: rest * units.Grams(s.of), Start: start + units.Seconds(i)*gap, WhenDrained: s.wait && i > 0, Rate: w.rate, Height: Mid, Pattern: cmp.Or(s.pattern, Spiral),
			Temperature: w.temperature - s.cooler}
		if s.low {
			p.Height = Low
		}
		if i == len(shares)-1 {
			p.Then = w.style.Last
		}
		r.Pours = append(r.Pours, p)
	}
	if w.style.Steep > 0 {
		r.Crust, r.Release = w.style.Steep-crustBefore, w.style.Steep
	}
	return r
}

// shares are the pours after the bloom, with the opening's water shared as it is wanted.
func (w writing) shares() []share {
	all := w.style.shares(w.pours)
	if w.balance == 0 || w.style.opening != 2 || len(all) < 2 {
		return all
	}
	all = slices.Clone(all)
	opening := all[0].of + all[1].of
	all[0].of, all[1].of = opening*w.balance, opening*(1-w.balance)
	return all
}

// crustBefore is how long before the valve opens the crust is broken, s.
const crustBefore = 45

// bloomWater is the bloom in g, never so much that little is left to pour.
func (w writing) bloomWater() units.Grams { return bloomOf(w.dose, w.water, w.bloom) }

func bloomOf(dose, water units.Grams, bloom float64) units.Grams {
	const most = 0.6 // of all the water
	return min(dose*units.Grams(bloom), water*most)
}

// gap is the time from the start of one pour to the start of the next. It keeps
// the style's pause between pours however many they are, since it is in the pause
// that the water sinks in; the pause grows with the dose like the style's gap. Two
// pours never run into each other.
func (w writing) gap(rest units.Grams) units.Seconds {
	if w.pours < 2 {
		return 0
	}
	pause := float64(w.style.gap)*depth(w.dose) - pourTime(rest, len(w.style.pours), w.rate)
	longest := 0.0
	for _, s := range w.shares() {
		longest = max(longest, s.of)
	}
	return max(fives(pause+pourTime(rest, w.pours, w.rate)), leastGap(rest*units.Grams(longest), 1, w.rate))
}

// depth is how much longer a bed of this dose drains than one of 18 g.
func depth(dose units.Grams) float64 { return math.Sqrt(float64(dose) / 18) }

// pourTime is how long one of n equal pours runs, s.
func pourTime(water units.Grams, n int, rate float64) float64 {
	return float64(water) / float64(n) / rate
}

// leastGap is the shortest gap in which one of n equal pours is done and the hand is free again.
func leastGap(water units.Grams, n int, rate float64) units.Seconds {
	return upToFives(pourTime(water, n, rate)+1) + minPause // a second for whole grams
}

// upToFives rounds a span up to five seconds.
func upToFives(s float64) units.Seconds { return units.Seconds(math.Ceil(s/5) * 5) }

// fives rounds a span to five seconds, at least five: nobody pours by the second.
func fives(s float64) units.Seconds {
	return units.Seconds(math.Max(5, math.Round(s/5)*5))
}

// writing is what the recipe's style would have written these pours from, and
// whether they still are what it writes.
func (r Recipe) writing() (w writing, same bool) {
	style, after := r.Style.Style(), r.after()
	if len(style.pours) == 0 || len(after) == 0 {
		return w, false
	}
	w = style.writing(r.Dose, r.Water(), r.Temperature())
	w.balance = getBalance(r)
	w.pours, w.rate = len(after), after[0].Rate
	w.bloom = 0
	if r.blooms() > 0 {
		w.bloom, w.bloomTime = float64(r.Pours[0].Water/r.Dose), after[0].Start
	}
	written := w.poured().Pours
	if len(written) != len(r.Pours) {
		return w, false
	}
	for i, p := range written {
		own := r.Pours[i]
		if own.Pinned || !near(float64(p.Water), float64(own.Water)) || !near(float64(p.Start), float64(own.Start)) || !near(p.Rate, own.Rate) {
			return w, false
		}
	}
	return w, true
}

func near(a, b float64) bool { return math.Abs(a-b) < 1e-6 }
