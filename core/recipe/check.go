package recipe

import (
	"fmt"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Warning is something that would go wrong with this recipe and this gear:
// its cause and the smallest thing to do about it.
type Warning struct {
	Field Field
	Text  string
	Fix   Fix
}

// A Fix sets one field of the recipe to a value in its canonical unit. The zero Fix is none.
type Fix struct {
	Field Field
	Value float64
}

// Apply returns the recipe as a fix leaves it. Another dose and another amount of
// water keep the ratio.
func (f Fix) Apply(r Recipe) Recipe {
	v := units.Grams(f.Value)
	switch f.Field {
	case "":
		return r
	case Dose:
		return r.Weigh(v, v*units.Grams(r.Ratio()))
	case Water:
		return r.Weigh(v/units.Grams(r.Ratio()), v)
	}
	return r.With(knobOf[f.Field], f.Value)
}

// knobOf is the knob behind a field.
var knobOf = map[Field]Knob{Ratio: KnobRatio, Grind: KnobGrind, Temperature: KnobTemperature, Bloom: KnobBloom, BloomTime: KnobBloomTime,
	Steep: KnobSteep, Pours: KnobPours, Rate: KnobRate, Gap: KnobGap}

// Knob is the knob behind a field, or "" for an amount that is none.
func (f Field) Knob() Knob { return knobOf[f] }

// kettleHeel is the water that does not come out of a kettle at a usable rate, g.
const kettleHeel = 80

// Check returns what would go wrong by the recipe's own figures and the gear's,
// before anyone wets a filter. What takes a model to foresee is forecast.Check's.
func Check(r Recipe, b gear.Brewer, k gear.Kettle, boiling units.Celsius, prefs units.Prefs) []Warning {
	form := b.Kind.Form()
	dose, water := prefs.Unit(units.Dose), prefs.Unit(units.Water)
	need := r.Water + kettleHeel
	rounding := 0.5 / float64(max(1, r.Dose)) // whole grams of water come no nearer to a ratio
	checks := []struct {
		wrong bool
		Warning
	}{
		{float64(r.Dose) > form.Dose.Hi, Warning{Dose, fmt.Sprintf("A deep bed drains slowly and may clog: %s takes up to %s.", article(form.Name), dose.Format(form.Dose.Hi)), Fix{Dose, form.Dose.Hi}}},
		{k.Capacity > 0 && need > k.Capacity, Warning{Water, fmt.Sprintf("%s holds %s, of which %s do not come out at a steady rate: brew less, or fill it a second time.", k.Name, water.Format(float64(k.Capacity)), water.Format(kettleHeel)), Fix{Water, float64(k.Capacity - kettleHeel)}}},
		{k.Spout > 0 && r.PourRate() > k.Spout, Warning{Rate, fmt.Sprintf("%s pours up to %s g/s: this is faster than it can give.", k.Name, units.Trim(k.Spout, 1)), Fix{Rate, k.Spout}}},
		{r.Temperature > boiling+0.5, Warning{Temperature, fmt.Sprintf("Water boils at %s here: it gets no hotter.", prefs.Unit(units.Temperature).Format(float64(boiling))), Fix{Temperature, float64(gear.Hottest(boiling))}}},
		{r.Ratio() < UsualRatio.Lo-rounding || r.Ratio() > UsualRatio.Hi+rounding, Warning{Ratio, fmt.Sprintf("Most cups are between 1 : %s and 1 : %s.", units.Trim(UsualRatio.Lo, 0), units.Trim(UsualRatio.Hi, 0)), Fix{Ratio, max(UsualRatio.Lo, min(UsualRatio.Hi, r.Ratio()))}}},
		{r.Bloom > 0 && r.Bloom < 1.5, Warning{Bloom, "So little water leaves dry spots: twice the dose is the least that wets a bed.", Fix{Bloom, 2}}},
	}
	var out []Warning
	for _, c := range checks {
		if c.wrong {
			out = append(out, c.Warning)
		}
	}
	return append(out, overlaps(r)...)
}

// Overlap is the first step that is due before the one before it is done, or 0.
// One that waits for the bed never is.
func Overlap(steps []Step) int {
	for i := 1; i < len(steps); i++ {
		if !steps[i].WhenDrained && steps[i].Start < steps[i-1].End() {
			return i
		}
	}
	return 0
}

// overlaps warns of pours that run into each other.
func overlaps(r Recipe) []Warning {
	steps := r.Plan().Steps
	i := Overlap(steps)
	if i == 0 {
		return nil
	}
	s, before := steps[i], steps[i-1]
	if before.Bloom {
		return []Warning{{BloomTime, fmt.Sprintf("The bloom is being poured until %s; the next pour is due at %s.", before.End(), s.Start), Fix{BloomTime, float64(r.LeastBloom())}}}
	}
	return []Warning{{Gap, fmt.Sprintf("Pour %d is due at %s, but the one before it runs until %s.", i+1, s.Start, before.End()), Fix{Gap, float64(r.LeastGap())}}}
}
