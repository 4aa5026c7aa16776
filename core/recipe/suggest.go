package recipe

import (
	"fmt"
	"math"
	"strings"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Reason explains the value of one knob in a sentence.
type Reason struct {
	At   Address
	Text string
}

// Situation is the input for the suggestion of a first recipe.
type Situation struct {
	Bag  coffee.Bag
	Gear gear.Set
	Now  time.Time
	// Coarser is the difference between the actual and the nominal grind size, learned from the drawdowns
	// in the yard: ln of the size; 0 if unknown.
	Coarser float64
	// LeastDose is the smallest dose that makes a sensible bed in this brewer, g; 0 if unknown.
	LeastDose units.Grams
	Habits    Habits
	Dose      units.Grams // wanted; 0: the brewer's usual one
}

// startDose is the dose of a first recipe, per kind of brewer, g.
var startDose = map[gear.BrewerKind]units.Grams{gear.OpenCone: 18, gear.FlatBed: 20, gear.HeavyCone: 24, gear.ValveSteeper: 16}

// byRoast gives the temperature and grind of a first recipe. Darker coffee extracts more easily, so it gets
// cooler water and coarser grounds.
var byRoast = map[coffee.Roast]struct {
	temperature units.Celsius
	finer       units.Micrometres
	why         string
}{
	coffee.Light:       {96, 30, "light coffee is dense and extracts slowly, so it starts hot"},
	coffee.MediumLight: {94, 15, "medium-light coffee still needs hot water"},
	coffee.Medium:      {93, 0, "medium coffee starts in the middle"},
	coffee.MediumDark:  {90, -20, "medium-dark coffee turns bitter in very hot water"},
	coffee.Dark:        {87, -40, "dark coffee extracts easily, so cooler water avoids harshness"},
}

// Suggest returns a first recipe in a style for a coffee without brews. An unknown style, or one that does
// not suit the brewer, is replaced by the brewer's default.
func Suggest(id StyleID, s Situation) Recipe {
	temperature, _ := startTemperature(s)
	return s.first(s.style(id), s.dose(), temperature)
}

// dose returns the wanted dose or the usual first dose of the brewer, at least LeastDose.
func (s Situation) dose() units.Grams {
	if s.Dose > 0 {
		return s.Dose
	}
	return max(startDose[s.Gear.Brewer.Kind], units.Grams(math.Ceil(float64(s.LeastDose))))
}

// style returns the style with an ID, or else the person's usual one, or the brewer's.
func (s Situation) style(id StyleID) Style {
	kind := s.Gear.Brewer.Kind
	if style := id.Style(); style.Fits(kind) {
		return style
	}
	if style := s.Habits.Style.Style(); style.Fits(kind) && style.Steeps() == kind.Form().Immersion {
		return style
	}
	return Styles(kind)[0]
}

// first returns the first recipe of this coffee in a style with a dose.
func (s Situation) first(style Style, dose units.Grams, temperature units.Celsius) Recipe {
	r := style.Generate(dose, units.Grams(math.Round(float64(dose)*style.Ratio)), temperature)
	for i := range r.Pours {
		r.Pours[i].Temperature = min(r.Pours[i].Temperature, gear.MaxTemperature(s.Gear.Boiling))
	}
	if s.Bag.Roast == coffee.Dark {
		for i := range r.mainPours() {
			r.mainPours()[i].Height = Low
		}
	}
	r = s.Habits.apply(r, s.Gear.Brewer.Filter)
	if r.bloomCount() > 0 && s.Bag.Freshness(s.Now) == coffee.TooFresh {
		r = r.With(AddressOf(BloomTime), r.Value(AddressOf(BloomTime))+freshBloomExtra)
	}
	if r.bloomCount() > 0 {
		r = r.With(AddressOf(BloomTime), max(r.Value(AddressOf(BloomTime)), float64(r.MinBloom())))
	}
	if !r.Steeps() {
		r.Aim += drainOffset[s.Gear.Brewer.Kind]
	}
	r.Grind, _ = startGrind(r, s)
	return r
}

// drainOffset is how much later than in an open cone the last stream of a brewer ends at the right grind. A flat
// bed drains over all of its base; thick paper drains slowly.
var drainOffset = map[gear.BrewerKind]units.Seconds{gear.FlatBed: -20, gear.HeavyCone: 20}

// freshBloomExtra is the extra bloom time for a very fresh coffee, s.
const freshBloomExtra = 15

// Reasons explains the recipe's values for a situation: for each the suggested value, its reason, and the
// difference if the recipe deviates.
func Reasons(r Recipe, s Situation, p units.Prefs) []Reason {
	style := r.Style.Style()
	temperature, whyHot := startTemperature(s)
	grind, whyGrind := startGrind(r, s)
	tUnit := p.Unit(units.Temperature)
	out := []Reason{
		{AddressOf(Ratio), fmt.Sprintf("%s starts at 1 : %s. Lower is stronger and heavier, higher is clearer.", style.Name,
			units.Trim(style.Ratio, 1))},
		{AddressOf(Temperature), SuggestedValue(tUnit.Format(float64(temperature)), math.Abs(float64(temperature-r.Temperature())) < 0.5, whyHot)},
		{AddressOf(Grind), SuggestedValue(GrindSaid(s.Gear.Grinder, grind), s.Gear.Grinder.Steps(grind) == s.Gear.Grinder.Steps(r.Grind), whyGrind)},
	}
	form, dose := s.Gear.Brewer.Kind.Form(), p.Unit(units.Dose)
	why := fmt.Sprintf("usual for %s, whose range is %s to %s", form.One(), dose.Number(form.Dose.Lo), dose.Format(form.Dose.Hi))
	if s.dose() > startDose[s.Gear.Brewer.Kind] {
		why = fmt.Sprintf("less makes a thin bed in %s", s.Gear.Brewer.Name)
	}
	switch s.Bag.Roast {
	case coffee.Light:
		why += "; some take a gram less of so light a roast, whose taste is clearer"
	case coffee.Dark:
		why += "; some take a gram more of a dark roast, and extract less of it"
	}
	out = append(out, Reason{AddressOf(Dose), SuggestedValue(dose.Format(float64(s.dose())), r.Dose == s.dose(), why)})
	if s.Bag.Roast == coffee.Dark && !r.Steeps() {
		out = append(out, Reason{AddressOf(PourHeight), SuggestedValue(Low.String(), r.Value(AddressOf(PourHeight)) == float64(Low),
			"dark coffee is brittle, and a low stream stirs up fewer fines")})
	}
	if usual := iceKinds[0]; r.Serving() == OverIce && r.Ice.Temperature != usual.Temperature {
		out = append(out, Reason{AddressOf(IceAt), fmt.Sprintf("%s of it chill as much as %s at %s.", p.Unit(units.Water).Format(float64(r.Ice.Mass)),
			p.Unit(units.Water).Format(float64(r.Ice.As(usual))), tUnit.Format(float64(usual.Temperature)))})
	}
	switch {
	case r.Steeps():
		out = append(out, Reason{AddressOf(Release), SuggestedValue(style.Steep.String(), r.Release == style.Steep,
			"most of a steep's extraction is done by then")})
	case r.Has(AddressOf(Pours)):
		n := len(style.pours)
		out = append(out, Reason{AddressOf(Pours), SuggestedValue(fmt.Sprint(n), len(r.mainPours()) == n, lowerFirst(strings.TrimSuffix(style.Short, ".")))})
	}
	if style.Bloom > 0 {
		why := fmt.Sprintf("%s times the dose wets all of the bed, and %s release the gas.", units.Trim(style.Bloom, 1), style.BloomTime)
		if s.Bag.Freshness(s.Now) == coffee.TooFresh {
			why += fmt.Sprintf(" This bag is very fresh and full of gas: %d s longer.", freshBloomExtra)
		}
		out = append(out, Reason{AddressOf(Bloom), why})
	}
	return out
}

// SuggestedValue states the suggested value and its reason. With same, the current value is the suggested one.
func SuggestedValue(value string, same bool, why string) string {
	if same {
		return fmt.Sprintf("Starts here: %s.", why)
	}
	return fmt.Sprintf("We would start at %s: %s.", value, why)
}

// GrindSaid returns a grind as a setting, or for a grinder without one as a size with its texture.
func GrindSaid(g gear.Grinder, size units.Micrometres) string {
	if g.Kind == gear.Words || g.Step == 0 {
		return fmt.Sprintf("%.0f µm, %s", float64(size), gear.Texture(size))
	}
	return g.Setting(size)
}

// StartTemperature returns the water temperature of a first recipe.
func StartTemperature(s Situation) units.Celsius {
	t, _ := startTemperature(s)
	return t
}

// StartGrind returns the grind of a first recipe, before the model refines it, and the reason.
func StartGrind(r Recipe, s Situation) (units.Micrometres, string) { return startGrind(r, s) }

func startTemperature(s Situation) (units.Celsius, string) {
	const (
		highGrown = 1700 // m
		dense     = 400  // g/l of roasted beans
		airy      = 320
	)
	start, ok := byRoast[s.Bag.Roast]
	if !ok {
		start = byRoast[coffee.Medium]
	}
	t, why := start.temperature, start.why
	switch {
	case s.Bag.Density >= dense:
		t, why = t+1, why+"; its beans are dense, so a degree more"
	case s.Bag.Density > 0 && s.Bag.Density <= airy:
		t, why = t-1, why+"; its beans are light for their size, so a degree less"
	case s.Bag.Density == 0 && s.Bag.Altitude >= highGrown:
		t, why = t+1, why+"; grown high, so a degree more"
	}
	if s.Bag.Process == coffee.Decaf {
		t, why = t-2, why+"; decaf is brittle, so two degrees less"
	}
	if s.Habits.TemperatureOffset != 0 {
		t, why = t+s.Habits.TemperatureOffset, why+fmt.Sprintf("; %s K, from your defaults", units.Signed(float64(s.Habits.TemperatureOffset), 0))
	}
	if most := gear.MaxTemperature(s.Gear.Boiling); t > most {
		t, why = most, why+"; limited by the boiling point here"
	}
	return t, why
}

// slowBrewers drain more slowly than their style expects and start coarser.
var slowBrewers = map[gear.BrewerKind]struct {
	coarser units.Micrometres
	why     string
}{
	gear.HeavyCone: {80, "its thick paper is slow and has no bypass"},
}

func startGrind(r Recipe, s Situation) (units.Micrometres, string) {
	if !s.Gear.Grinder.Adjustable() {
		return gear.BoughtSize, "coffee sold ground for filters is about this size; the time and the temperature adapt to it"
	}
	style := r.Style.Style()
	size := style.Grind - byRoast[s.Bag.Roast].finer
	why := fmt.Sprintf("the middle of the usual range for %s in %s", lowerFirst(style.Name), s.Gear.Brewer.Kind.Form().One())
	if finer := byRoast[s.Bag.Roast].finer; finer > 0 {
		why += fmt.Sprintf(", finer because it is %s", s.Bag.Roast)
	} else if finer < 0 {
		why += fmt.Sprintf(", coarser because it is %s", s.Bag.Roast)
	}
	if slow := slowBrewers[s.Gear.Brewer.Kind]; slow.coarser != 0 {
		size += slow.coarser
		why += ", coarser because " + slow.why
	}
	const perGram = 7 // µm coarser per g of dose above 18, to keep the drawdown of a deeper bed
	size += units.Micrometres((float64(r.Dose) - 18) * perGram)
	if math.Abs(float64(r.Dose)-18) >= 2 {
		why += fmt.Sprintf("; set for %s g of dose", units.Trim(float64(r.Dose), 1))
	}
	const worthSaying = 0.02 // ln of the size; less is within a step of most dials
	if math.Abs(s.Coarser) >= worthSaying {
		size *= units.Micrometres(math.Exp(-s.Coarser))
		way, drain := "finer", "faster"
		if s.Coarser < 0 {
			way, drain = "coarser", "slower"
		}
		why += fmt.Sprintf("; %.0f %% %s, because this grinder’s brews drain %s than its dial suggests",
			100*math.Abs(math.Expm1(-s.Coarser)), way, drain)
	}
	return s.Gear.Grinder.Snap(size), why
}

func lowerFirst(s string) string {
	if s == "" {
		return s
	}
	return string(s[0]|0x20) + s[1:]
}

// Restyle returns the recipe in another style or for another kind of brewer. It keeps the temperature, and
// the dose if it suits the brewer; everything else follows the style.
func Restyle(r Recipe, id StyleID, s Situation) Recipe {
	kind, dose := s.Gear.Brewer.Kind, r.Dose
	if !kind.Form().Dose.Contains(float64(dose)) {
		dose = s.dose()
	}
	temperature := r.Temperature() - r.Style.Style().hotter
	return s.first(s.style(id), dose, temperature)
}
