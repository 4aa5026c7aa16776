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

// Wait says how long to wait, rounded up.
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

// DaysAgo says how long ago a day was.
func DaysAgo(days int) string {
	switch {
	case days <= 0:
		return "today"
	case days == 1:
		return "yesterday"
	}
	return fmt.Sprintf("%d days ago", days)
}

// Age says how many days old a bag is.
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

// missed are the senses whose lowest step is worth mentioning.
var missed = map[cup.Sense]bool{cup.Sweetness: true, cup.Body: true, cup.Clarity: true, cup.Aftertaste: true}

// FromBrews says what a prediction stands on.
func FromBrews(b *forecast.Beliefs) string {
	switch {
	case b == nil || b.Brews == 0:
		return "from no brew of yours yet"
	case b.Brews == 1 && b.Of == 1:
		return "from one brew of this bag"
	case b.Brews == 1:
		return "from one brew of this yard"
	case b.Of == 0:
		return fmt.Sprintf("from %d brews of this yard", b.Brews)
	}
	return fmt.Sprintf("from %d brews of this yard, %d of this bag", b.Brews, b.Of)
}

// Taste is a tasting in one line: what stands out.
func Taste(t cup.Taste) string {
	var out []string
	for _, sc := range cup.Scales() {
		if step := t.Steps[sc.Sense]; step >= 4 || step == 1 && missed[sc.Sense] {
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

// Result is what is known of a brew's outcome, in one line. A figure of 0 is not known.
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

// ResultOf is the result of a brew.
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

// Recipe is a recipe in one line.
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
		return fmt.Sprintf("%s oz of coffee to the quart", prefs.Unit(units.Water).Number(units.GramsPerQuart/ratio))
	}
	return fmt.Sprintf("%.0f g of coffee to the litre", 1000/ratio)
}

// Serving says how a recipe is served, with what it is served with.
func Serving(r recipe.Recipe, prefs units.Prefs) string {
	water := prefs.Unit(units.Water)
	switch r.Serving() {
	case recipe.OverIce:
		return fmt.Sprintf("over %s of ice from %s", water.Format(float64(r.Ice.Mass)), recipe.IceFrom.Choices()[int(r.Value(recipe.Of(recipe.IceFrom)))])
	case recipe.Diluted:
		return fmt.Sprintf("with %s of %s in the cup", water.Format(float64(r.Dilution.Water)), recipe.DiluteBy.Choices()[int(r.Value(recipe.Of(recipe.DiluteBy)))])
	}
	return string(recipe.Hot)
}

// Beside says what the cup is made of besides what is poured; empty for nothing.
func Beside(r recipe.Recipe, prefs units.Prefs) string {
	water := prefs.Unit(units.Water)
	switch r.Serving() {
	case recipe.OverIce:
		return "+ " + water.Format(float64(r.Ice.Mass)) + " of ice below"
	case recipe.Diluted:
		return "+ " + water.Format(float64(r.Dilution.Water)) + " into the cup"
	}
	return ""
}

// Pouring says how a recipe is poured after its bloom.
func Pouring(r recipe.Recipe, prefs units.Prefs) string {
	n := int(r.Value(recipe.Of(recipe.Pours)))
	words := "1 pour"
	if n > 1 {
		words = fmt.Sprintf("%d pours, one every %s", n, units.Prefs{}.Unit(units.Span).Format(r.Value(recipe.Of(recipe.Gap))))
		if r.Value(recipe.Of(recipe.Wait)) > 0 {
			words = fmt.Sprintf("%d pours, each when the water has reached the bed", n)
		}
	}
	choice := func(k recipe.Knob) string { return k.Choices()[int(r.Value(recipe.Of(k)))] }
	words += fmt.Sprintf(", at %s, %s, %s", prefs.Unit(units.Rate).Format(r.Value(recipe.Of(recipe.Rate))), choice(recipe.PourPattern), choice(recipe.PourHeight))
	if hand := r.Value(recipe.Of(recipe.HandAfter)); hand > 0 {
		words += ", then " + choice(recipe.HandAfter)
	}
	return words
}

// Yield says the extraction yield of a brew and how it was worked out.
func Yield(b brew.Brew) (yield, how string) {
	y, ok := b.Yield()
	if !ok {
		return "", "With beverage weight and TDS this gives the extraction yield."
	}
	grams := b.Prefs.Unit(units.Water)
	dose, beverage := b.Prefs.Unit(units.Dose).Format(float64(b.Poured().Dose)), grams.Format(float64(b.Cup.Beverage))
	if b.Case(coach.Person{}).Method() != cup.Immersion {
		return y.String(), fmt.Sprintf("Percolation: %.2f %% × %s / %s", b.Cup.TDS, beverage, dose)
	}
	undiluted := ""
	if added := b.Recipe.Ice.Mass + b.Recipe.Dilution.Water; added > 0 {
		undiluted = ", undiluted by " + grams.Format(float64(added))
	}
	return y.String(), fmt.Sprintf("Immersion: %.2f %% × (%s + %s × %s kept by the grounds%s) / %s", b.Cup.TDS, beverage, units.Trim(b.Gear.Brewer.Retained, 2), dose, undiluted, dose)
}

// Effect says what the model expects of a change, rounded to what it means, with its
// error where that is known.
func Effect(e coach.Effect) string {
	within := func(err float64, decimals int) string {
		if err == 0 {
			return ""
		}
		return fmt.Sprintf(" ± %.*f", decimals, max(err, math.Pow10(-decimals))) // never nothing
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

// Chance is a probability as people take it in: to five in a hundred, and never certain.
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

// Moved says by how much a sign moved a cause, and how likely it was then.
func Moved(m coach.Moved) string {
	if m.By == m.To { // where it begins
		return fmt.Sprintf("%s %.0f %%", m.Cause, 100*m.To)
	}
	return fmt.Sprintf("%s %s, to %.0f %%", m.Cause, units.Signed(100*m.By, 0), 100*m.To)
}

// Outcome says what a change did.
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

// Days says a number of days.
func Days(n int) string {
	if n == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", n)
}
