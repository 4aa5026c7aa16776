package recipe

import (
	"fmt"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Warning is a problem of a recipe with the given gear: its cause and the smallest fix.
type Warning struct {
	At   Address // the field beside which it is shown
	Text string
	Fix  *Fix // nil if no fix is known
}

// A Fix sets one address to a value in its canonical unit.
type Fix struct {
	Address
	Value float64
}

// Apply returns the recipe with the fix applied.
func (f Fix) Apply(r Recipe) Recipe { return r.With(f.Address, f.Value) }

// Check returns the problems that follow from the figures of the recipe and the gear alone. forecast.Check
// finds those that need the brew model.
func Check(r Recipe, g gear.Set, prefs units.Prefs) []Warning {
	form := g.Brewer.Kind.Form()
	dose := prefs.Unit(units.Dose)
	hottest := units.Celsius(0)
	for _, p := range r.Pours {
		hottest = max(hottest, p.Temperature)
	}
	bloom := r.Value(AddressOf(Bloom))
	usual := Ratio.Usual()
	rounding := 0.5 / float64(max(1, r.Dose)) // whole grams of water limit the accuracy of a ratio
	checks := []struct {
		wrong bool
		knob  Knob
		text  string
		to    float64
	}{
		{float64(r.Dose) > form.Dose.Hi, Dose, fmt.Sprintf("A deep bed drains slowly and may clog: %s takes up to %s.", form.One(),
			dose.Format(form.Dose.Hi)), form.Dose.Hi},
		{hottest > g.Boiling+0.5, Temperature, fmt.Sprintf("Water boils at %s here and cannot get hotter.",
			prefs.Unit(units.Temperature).Format(float64(g.Boiling))), float64(gear.MaxTemperature(g.Boiling) - hottest + r.Temperature())},
		{r.Ratio() < usual.Lo-rounding || r.Ratio() > usual.Hi+rounding, Ratio,
			fmt.Sprintf("Most cups are between 1 : %s and 1 : %s.", units.Trim(usual.Lo, 0), units.Trim(usual.Hi, 0)),
			usual.Clamp(r.Ratio())},
		{bloom > 0 && bloom < 1.5, Bloom, "So little water leaves dry spots. Use at least twice the dose.", 2},
	}
	var out []Warning
	for _, c := range checks {
		if c.wrong {
			out = append(out, Warning{AddressOf(c.knob), c.text, &Fix{AddressOf(c.knob), c.to}})
		}
	}
	out = append(out, checkKettle(r, g, false, prefs)...)
	if g.Second.ID != "" {
		out = append(out, checkKettle(r, g, true, prefs)...)
		if _, poured := r.Sources(g); poured == 0 {
			out = append(out, Warning{AddressOf(Temperature), "No pour is from the second kettle yet: choose it in the menu at the end of a pour.", nil})
		}
	}
	return append(out, overlaps(r)...)
}

// checkKettle returns the problems of the pours from one of the kettles.
func checkKettle(r Recipe, g gear.Set, second bool, prefs units.Prefs) []Warning {
	k, poured, fastest := g.Of(second), units.Grams(0), 0.0
	for _, p := range r.Pours {
		if (p.Second && g.Second.ID != "") == second {
			poured, fastest = poured+p.Water, max(fastest, p.Rate)
		}
	}
	water := prefs.Unit(units.Water)
	var out []Warning
	if most := k.Capacity - gear.Heel; k.Capacity > 0 && poured > most {
		out = append(out, Warning{AddressOf(Water), fmt.Sprintf("%s holds %s, of which %s cannot be poured steadily: brew less, or fill it a second time.",
			k.Name, water.Format(float64(k.Capacity)), water.Format(float64(gear.Heel))),
			&Fix{AddressOf(Water), math.Floor(float64(r.Water() * most / poured))}})
	}
	if k.Spout > 0 && fastest > k.Spout {
		out = append(out, Warning{AddressOf(Rate), fmt.Sprintf("%s pours up to %s: this is faster than it can pour.", k.Name,
			prefs.Unit(units.Rate).Format(k.Spout)), &Fix{AddressOf(Rate), k.Spout}})
	}
	return out
}

// overlaps warns of the first pour that starts before the previous one ends. Pours that start by eye
// cannot overlap.
func overlaps(r Recipe) []Warning {
	steps := r.Plan().Steps
	for i := 1; i < len(r.Pours); i++ {
		s, before := steps[i], steps[i-1]
		if s.Cue.ByEye() || s.Start >= before.End() {
			continue
		}
		if before.Bloom {
			return []Warning{{AddressOf(BloomTime), fmt.Sprintf("The bloom is being poured until %s; the next pour is due at %s.", before.End(),
				s.Start), &Fix{AddressOf(BloomTime), float64(r.MinBloom())}}}
		}
		return []Warning{{AddressOf(Gap), fmt.Sprintf("Pour %d is due at %s, but the one before it runs until %s.", i+1, s.Start, before.End()),
			&Fix{AddressOf(Gap), float64(r.MinGap())}}}
	}
	return nil
}
