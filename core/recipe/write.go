package recipe

import (
	"cmp"
	"math"
	"slices"

	"yardbloom/core/units"
)

// A styleInput holds the inputs from which a style generates pours.
type styleInput struct {
	style       Style
	dose, water units.Grams   // water is the poured water
	balance     float64       // share of the first pour in the water of the opening; 0: the style's own
	bloom       float64       // g/g
	bloomTime   units.Seconds // from the first water to the next pour
	pours       int           // after the bloom
	rate        float64       // rate of those pours, g/s
	temperature units.Celsius
}

// Generate returns the recipe that a style generates for a dose and a total of water, ice and dilution
// included: its pours, their times and the target drawdown. The temperature is the one for the coffee.
// Grind and rinse are not set.
func (s Style) Generate(dose, total units.Grams, temperature units.Celsius) Recipe {
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

func (s Style) writing(dose, water units.Grams, temperature units.Celsius) styleInput {
	return styleInput{style: s, dose: dose, water: water, bloom: s.Bloom, bloomTime: s.BloomTime, pours: len(s.pours), rate: s.Rate,
		temperature: temperature}
}

func (w styleInput) recipe() Recipe {
	r := w.poured()
	styled := w
	styled.pours, styled.rate = len(w.style.pours), w.style.Rate
	// The target drawdown is that of the style's own pours. More pours do not change it, which is why they
	// need a coarser grind.
	r.Aim = lastEnd(styled.poured().Plan().Steps) + roundFive(float64(w.style.drain)*depth(w.dose))
	return r
}

// poured returns the recipe with its pours, without an aim.
func (w styleInput) poured() Recipe {
	r := Recipe{Style: w.style.ID, Dose: w.dose}
	var start units.Seconds
	bloom := w.bloomWater()
	if bloom > 0 {
		r.Pours = append(r.Pours, Pour{Bloom: true, Water: bloom, Rate: min(gentleRate, w.rate), Height: Mid, Pattern: Circles,
			Temperature: w.temperature, Then: w.style.Hand})
		start = w.bloomTime
	}
	rest := w.water - bloom
	shares, gap := w.shares(), w.gap(rest)
	for i, s := range shares {
		p := Pour{Water: rest * units.Grams(s.of), Start: start + units.Seconds(i)*gap, Rate: w.rate, Height: Mid,
			Pattern: cmp.Or(s.pattern, Spiral), Temperature: w.temperature - s.cooler}
		if i > 0 {
			p.Cue = s.wait
		}
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

// shares returns the pours after the bloom, with the water of the opening divided by the balance.
func (w styleInput) shares() []share {
	all := w.style.shares(w.pours)
	if w.balance == 0 || w.style.opening != 2 || len(all) < 2 {
		return all
	}
	all = slices.Clone(all)
	opening := all[0].of + all[1].of
	all[0].of, all[1].of = opening*w.balance, opening*(1-w.balance)
	return all
}

// crustBefore is the time from breaking the crust to opening the valve, s.
const crustBefore = 45

// bloomWater returns the bloom in g, limited so that enough is left to pour.
func (w styleInput) bloomWater() units.Grams { return bloomOf(w.dose, w.water, w.bloom) }

func bloomOf(dose, water units.Grams, bloom float64) units.Grams {
	const most = 0.6 // of the total water
	return min(dose*units.Grams(bloom), water*most)
}

// gap returns the time from the start of one pour to the start of the next. It keeps the style's pause
// between pours for any number of pours, because the water drains in the pause; the pause grows with the
// dose like the style's gap. Pours never overlap.
func (w styleInput) gap(rest units.Grams) units.Seconds {
	if w.pours < 2 {
		return 0
	}
	pause := float64(w.style.gap)*depth(w.dose) - pourTime(rest, len(w.style.pours), w.rate)
	longest := 0.0
	for _, s := range w.shares() {
		longest = max(longest, s.of)
	}
	return max(roundFive(pause+pourTime(rest, w.pours, w.rate)), minGap(rest*units.Grams(longest), 1, w.rate))
}

// depth returns the ratio of the drain times of a bed of this dose and of one of 18 g.
func depth(dose units.Grams) float64 { return math.Sqrt(float64(dose) / 18) }

// pourTime returns the duration of one of n equal pours, s.
func pourTime(water units.Grams, n int, rate float64) float64 {
	return float64(water) / float64(n) / rate
}

// minGap returns the shortest gap in which one of n equal pours is finished and the hand is free again.
func minGap(water units.Grams, n int, rate float64) units.Seconds {
	return ceilFive(pourTime(water, n, rate)+1) + minPause // a second for rounding to whole grams
}

// ceilFive rounds a time up to five seconds.
func ceilFive(s float64) units.Seconds { return units.Seconds(math.Ceil(s/5) * 5) }

// roundFive rounds a time to five seconds, at least five, because a hand is not more accurate.
func roundFive(s float64) units.Seconds {
	return units.Seconds(math.Max(5, math.Round(s/5)*5))
}

// styleInput returns the inputs from which the recipe's style would generate these pours, and whether the
// pours still match.
func (r Recipe) styleInput() (w styleInput, same bool) {
	style, after := r.Style.Style(), r.mainPours()
	if len(style.pours) == 0 || len(after) == 0 {
		return w, false
	}
	w = style.writing(r.Dose, r.Water(), r.Temperature())
	w.balance = getBalance(r)
	w.pours, w.rate = len(after), after[0].Rate
	w.bloom = 0
	if r.bloomCount() > 0 {
		w.bloom, w.bloomTime = float64(r.Pours[0].Water/r.Dose), after[0].Start
	}
	written := w.poured().Pours
	if len(written) != len(r.Pours) {
		return w, false
	}
	for i, p := range written {
		own := r.Pours[i]
		if own.Pinned || !near(float64(p.Water), float64(own.Water)) || !near(float64(p.Start), float64(own.Start)) ||
			!near(p.Rate, own.Rate) {
			return w, false
		}
	}
	return w, true
}

func near(a, b float64) bool { return math.Abs(a-b) < 1e-6 }
