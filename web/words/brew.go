package words

import (
	"fmt"
	"math"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Moment formats a time in its own zone, with the year if that differs from the year of now.
func Moment(t, now time.Time) string { return Day(t, now) + t.Format(" 15:04") }

// Day formats a day, with the year if that differs from the year of now.
func Day(t, now time.Time) string {
	if t.Year() != now.Year() {
		return t.Format("2 Jan 2006")
	}
	return t.Format("2 Jan")
}

// Wait formats a time to wait, rounded up.
func Wait(d time.Duration) string {
	switch s := int(math.Ceil(d.Seconds())); {
	case s <= 1:
		return "a second"
	case s < 90:
		return fmt.Sprintf("%d seconds", s)
	default:
		return fmt.Sprintf("%d minutes", (s+59)/60)
	}
}

// DaysAgo formats the distance of a past day.
func DaysAgo(days int) string {
	switch {
	case days <= 0:
		return "today"
	case days == 1:
		return "yesterday"
	}
	return fmt.Sprintf("%d days ago", days)
}

// Age formats the age of a bag in days.
func Age(days int) string {
	switch {
	case days < 0:
		return "not roasted yet"
	case days == 0:
		return "roasted today"
	case days == 1:
		return "1 day old"
	default:
		return fmt.Sprintf("%d days old", days)
	}
}

// notableLows lists the senses whose lowest step is worth mentioning.
var notableLows = map[cup.Sense]bool{cup.Sweetness: true, cup.Body: true, cup.Clarity: true, cup.Aftertaste: true}

// Basis describes the brews behind a prediction.
func Basis(b *forecast.Beliefs) string {
	switch {
	case b == nil || b.Brews == 0:
		return "from no brew of yours yet"
	case b.Brews == 1 && b.BagBrews == 1:
		return "from one brew of this bag"
	case b.Brews == 1:
		return "from one brew of this yard"
	case b.BagBrews == 0:
		return fmt.Sprintf("from %d brews of this yard", b.Brews)
	}
	return fmt.Sprintf("from %d brews of this yard, %d of this bag", b.Brews, b.BagBrews)
}

// Taste summarizes a tasting in one line.
func Taste(t cup.Taste) string {
	var out []string
	for _, sc := range cup.Scales() {
		if step := t.Steps[sc.Sense]; step >= 4 || step == 1 && notableLows[sc.Sense] {
			out = append(out, fmt.Sprintf("%s %s", strings.ToLower(sc.Name), cup.Word(sc.Sense, step)))
		}
	}
	for _, f := range cup.Faults() {
		if t.Faults[f] {
			out = append(out, string(f))
		}
	}
	return strings.Join(out, ", ")
}

// Result summarizes the result of a brew in one line. A figure of 0 is unknown.
func Result(drawdown units.Seconds, tds float64, yield cup.Figure, overall int) string {
	var out []string
	if drawdown > 0 {
		out = append(out, drawdown.String())
	}
	if tds > 0 {
		out = append(out, fmt.Sprintf("TDS %.2f %%", tds))
	}
	if yield.Value > 0 {
		out = append(out, "EY "+yield.String())
	}
	if overall > 0 {
		out = append(out, fmt.Sprintf("%d of 10", overall))
	}
	return strings.Join(out, " · ")
}

// ResultOf summarizes the result of a brew.
func ResultOf(b brew.Brew) string {
	yield, _ := b.Yield()
	result := Result(b.Cup.Drawdown, b.Cup.TDS, yield, b.Cup.Overall)
	return result + Simulated(b.Cup.Simulated)
}

// Simulated returns the mark for a result measured by a simulated device, or "".
func Simulated(made bool) string {
	if made {
		return " · simulated"
	}
	return ""
}

// Recipe summarizes a recipe in one line.
func Recipe(brewer, setting string, dose, water units.Grams, temperature units.Celsius, prefs units.Prefs) string {
	return fmt.Sprintf("%s · %s · %s · grind %s · %s", brewer, prefs.Unit(units.Dose).Format(float64(dose)),
		prefs.Unit(units.Ratio).Format(float64(water/max(dose, 0.1))), setting, prefs.Unit(units.Temperature).Format(float64(temperature)))
}

// Concentration formats a ratio as coffee per litre, or per quart.
func Concentration(ratio float64, prefs units.Prefs) string {
	if ratio <= 0 {
		return ""
	}
	if prefs.Ounces {
		return fmt.Sprintf("%s oz of coffee per quart", prefs.Unit(units.Water).Number(units.GramsPerQuart/ratio))
	}
	return fmt.Sprintf("%.0f g of coffee per litre", 1000/ratio)
}

// Serving describes the serving of a recipe, with its ice or dilution.
func Serving(r recipe.Recipe, prefs units.Prefs) string {
	water := prefs.Unit(units.Water)
	switch r.Serving() {
	case recipe.OverIce:
		return fmt.Sprintf("over %s of ice from %s", water.Format(float64(r.Ice.Mass)),
			recipe.IceFrom.Choices()[int(r.Value(recipe.AddressOf(recipe.IceFrom)))])
	case recipe.Diluted:
		return fmt.Sprintf("with %s of %s in the cup", water.Format(float64(r.Dilution.Water)),
			recipe.DiluteBy.Choices()[int(r.Value(recipe.AddressOf(recipe.DiluteBy)))])
	}
	return string(recipe.Hot)
}

// Additions lists what the cup contains in addition to the poured water, and what it leaves out; empty for nothing.
func Additions(r recipe.Recipe, prefs units.Prefs) string {
	water := prefs.Unit(units.Water)
	var out []string
	switch r.Serving() {
	case recipe.OverIce:
		out = append(out, "+ "+water.Format(float64(r.Ice.Mass))+" of ice below")
	case recipe.Diluted:
		out = append(out, "+ "+water.Format(float64(r.Dilution.Water))+" into the cup")
	}
	if r.Discard > 0 {
		out = append(out, "first "+water.Format(float64(r.Discard))+" discarded")
	}
	if r.CutAt > 0 {
		out = append(out, "lifted off at "+water.Format(float64(r.CutAt)))
	}
	return strings.Join(out, ", ")
}

// Pouring describes the pours after the bloom.
func Pouring(r recipe.Recipe, prefs units.Prefs) string {
	n := int(r.Value(recipe.AddressOf(recipe.Pours)))
	words := "1 pour"
	if n > 1 {
		words = fmt.Sprintf("%d pours, one every %s", n, units.Prefs{}.Unit(units.Span).Format(r.Value(recipe.AddressOf(recipe.Gap))))
		if when := recipe.Cue(r.Value(recipe.AddressOf(recipe.Wait))); when.ByEye() {
			words = fmt.Sprintf("%d pours, each %s", n, when)
		}
	}
	choice := func(k recipe.Knob) string { return k.Choices()[int(r.Value(recipe.AddressOf(k)))] }
	words += fmt.Sprintf(", at %s, %s, %s", prefs.Unit(units.Rate).Format(r.Value(recipe.AddressOf(recipe.Rate))), choice(recipe.PourPattern),
		choice(recipe.PourHeight))
	if hand := r.Value(recipe.AddressOf(recipe.HandAfter)); hand > 0 {
		words += ", then " + choice(recipe.HandAfter)
	}
	return words
}

// Yield formats the extraction yield of a brew and describes how it was calculated.
func Yield(b brew.Brew) (yield, how string) {
	y, ok := b.Yield()
	if !ok {
		return "", "With beverage weight and TDS this gives the extraction yield."
	}
	grams := b.Prefs.Unit(units.Water)
	dose, beverage := b.Prefs.Unit(units.Dose).Format(float64(b.AsBrewed().Dose)), grams.Format(float64(b.Cup.Beverage))
	if b.Case(coach.Person{}).Method() != cup.Immersion {
		return y.String(), fmt.Sprintf("Percolation: %.2f %% × %s / %s", b.Cup.TDS, beverage, dose)
	}
	undiluted := ""
	if added := b.Recipe.Ice.Mass + b.Recipe.Dilution.Water; added > 0 {
		undiluted = ", undiluted by " + grams.Format(float64(added))
	}
	return y.String(), fmt.Sprintf("Immersion: %.2f %% × (%s + %s × %s kept by the grounds%s) / %s", b.Cup.TDS, beverage,
		units.Trim(b.Gear.Brewer.Retained, 2), dose, undiluted, dose)
}

// Effect describes the predicted effect of a change, rounded to its precision, with its error if known.
func Effect(e coach.Effect) string {
	within := func(err float64, decimals int) string {
		if err == 0 {
			return ""
		}
		return fmt.Sprintf(" ± %.*f", decimals, max(err, math.Pow10(-decimals))) // never zero
	}
	if e == (coach.Effect{}) {
		return ""
	}
	out := []string{fmt.Sprintf("EY about %s%s points", units.Points(e.Yield, 1), within(e.YieldError, 1))}
	if math.Abs(e.Strength) >= 0.005 {
		out = append(out, fmt.Sprintf("TDS about %s", units.Points(e.Strength, 2)))
	}
	if fives := math.Round(float64(e.Time)/5) * 5; fives != 0 {
		by := fmt.Sprintf("%s%s s", units.Signed(fives, 0), within(float64(e.TimeError), 0))
		if math.Abs(fives) >= 90 { // in minutes
			by = signedTime(units.Seconds(fives))
			if e.TimeError > 0 {
				by += " ± " + e.TimeError.String()
			}
		}
		out = append(out, "drawdown about "+by)
	}
	if math.Abs(e.Mark) >= 0.05 {
		out = append(out, fmt.Sprintf("mark about %s", units.Points(e.Mark, 1)))
	}
	return strings.Join(out, ", ")
}

// Chance formats a probability to the nearest five in a hundred, and never as certain.
func Chance(p float64) string {
	switch fives := math.Round(20*p) * 5; {
	case fives >= 100:
		return "more than 95 %"
	case fives <= 0:
		return "less than 5 %"
	default:
		return fmt.Sprintf("about %.0f %%", fives)
	}
}

// Moved describes the effect of a sign on the probability of a cause.
func Moved(m coach.Moved) string {
	if m.By == m.To { // the initial probability
		return fmt.Sprintf("%s %.0f %%", m.Cause, 100*m.To)
	}
	return fmt.Sprintf("%s %s, to %.0f %%", m.Cause, units.Signed(100*m.By, 0), 100*m.To)
}

// Outcome describes the effect of a change.
func Outcome(o brew.Outcome) string {
	switch {
	case o.Yield != nil && o.Verdict != "":
		return fmt.Sprintf("EY %s ± %.1f: %s", units.Points(o.Yield.Value, 1), o.Yield.Error, o.Verdict)
	case o.Yield != nil:
		return fmt.Sprintf("EY %s ± %.1f", units.Points(o.Yield.Value, 1), o.Yield.Error)
	case o.Time != nil:
		return signedTime(*o.Time)
	default:
		return ""
	}
}

// signedTime formats a change of a time, such as "+12 s" or "−2:05".
func signedTime(by units.Seconds) string {
	if by > 0 {
		return "+" + by.Span()
	}
	return by.Span()
}

// Days formats a number of days.
func Days(n int) string {
	if n == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", n)
}
