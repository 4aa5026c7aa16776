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

// A Reason says in a sentence why a value is what it is.
type Reason struct {
	At   Address
	Text string
}

// Situation is what a first recipe is suggested for.
type Situation struct {
	Bag  coffee.Bag
	Gear gear.Set
	Now  time.Time
	// Coarser is how much coarser than its dial says the grinder seems to grind, as the
	// yard's own brews drain: ln of the size; 0 where nothing is known.
	Coarser float64
	// LeastDose is the least that makes a sensible bed in this brewer, g; 0 where nothing is known.
	LeastDose units.Grams
	Habits    Habits
}

// startDose is where a first recipe starts, per kind of brewer, g.
var startDose = map[gear.BrewerKind]units.Grams{gear.OpenCone: 18, gear.FlatBed: 20, gear.HeavyCone: 24, gear.ValveSteeper: 16}

// byRoast is where temperature and grind start: darker coffee gives itself up
// more easily, so it gets cooler water and coarser grounds.
var byRoast = map[coffee.Roast]struct {
	temperature units.Celsius
	finer       units.Micrometres
	why         string
}{
	coffee.Light:       {96, 30, "light coffee is dense and gives itself up slowly, so it starts hot"},
	coffee.MediumLight: {94, 15, "medium-light coffee still wants hot water"},
	coffee.Medium:      {93, 0, "medium coffee starts in the middle"},
	coffee.MediumDark:  {90, -20, "medium-dark coffee turns bitter in very hot water"},
	coffee.Dark:        {87, -40, "dark coffee gives itself up easily, so cooler water keeps it from harshness"},
}

// Suggest returns a first recipe in a style for a coffee that has no brew yet. An
// unknown style, or one that the brewer cannot do, becomes the brewer's usual one.
func Suggest(id StyleID, s Situation) Recipe {
	temperature, _ := startTemperature(s)
	return s.first(s.style(id), s.dose(), temperature)
}

// dose is what the brewer is usually begun with, and never less than makes a bed in it.
func (s Situation) dose() units.Grams {
	return max(startDose[s.Gear.Brewer.Kind], units.Grams(math.Ceil(float64(s.LeastDose))))
}

// style is the style of an ID, or the person's own usual one, or the brewer's.
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

// first is the recipe in a style with which a dose of this coffee is begun.
func (s Situation) first(style Style, dose units.Grams, temperature units.Celsius) Recipe {
	r := style.Write(dose, units.Grams(math.Round(float64(dose)*style.Ratio)), temperature)
	for i := range r.Pours {
		r.Pours[i].Temperature = min(r.Pours[i].Temperature, gear.Hottest(s.Gear.Boiling))
	}
	r = s.Habits.apply(r, s.Gear.Brewer.Filter)
	if r.blooms() > 0 && s.Bag.Freshness(s.Now) == coffee.TooFresh {
		r = r.With(Of(BloomTime), r.Value(Of(BloomTime))+freshBloom)
	}
	if r.blooms() > 0 {
		r = r.With(Of(BloomTime), max(r.Value(Of(BloomTime)), float64(r.LeastBloom())))
	}
	if !r.Steeps() {
		r.Aim += drains[s.Gear.Brewer.Kind]
	}
	r.Grind, _ = startGrind(r, s)
	return r
}

// drains is how much later than in an open cone a brewer's last stream ends at the grind
// at which its coffee tastes right: a flat bed lets water through over all of its
// base, thick paper holds it up.
var drains = map[gear.BrewerKind]units.Seconds{gear.FlatBed: -20, gear.HeavyCone: 20}

// freshBloom is how much longer a very fresh coffee blooms, s.
const freshBloom = 15

// Reasons explains the recipe's values for a situation: for each the place where
// the product would start, and why. It says so where the recipe differs.
func Reasons(r Recipe, s Situation, p units.Prefs) []Reason {
	style := r.Style.Style()
	temperature, whyHot := startTemperature(s)
	grind, whyGrind := startGrind(r, s)
	tUnit := p.Unit(units.Temperature)
	out := []Reason{
		{Of(Ratio), fmt.Sprintf("%s starts at 1 : %s. Lower is stronger and heavier, higher is clearer.", style.Name, units.Trim(style.Ratio, 1))},
		{Of(Temperature), StartsAt(tUnit.Format(float64(temperature)), math.Abs(float64(temperature-r.Temperature())) < 0.5, whyHot)},
		{Of(Grind), StartsAt(s.Gear.Grinder.Setting(grind), s.Gear.Grinder.Steps(grind) == s.Gear.Grinder.Steps(r.Grind), whyGrind)},
	}
	form, dose := s.Gear.Brewer.Kind.Form(), p.Unit(units.Dose)
	why := fmt.Sprintf("usual for %s, which takes %s to %s", form.One(), dose.Number(form.Dose.Lo), dose.Format(form.Dose.Hi))
	if s.dose() > startDose[s.Gear.Brewer.Kind] {
		why = fmt.Sprintf("less makes a thin bed in %s", s.Gear.Brewer.Name)
	}
	out = append(out, Reason{Of(Dose), StartsAt(dose.Format(float64(s.dose())), r.Dose == s.dose(), why)})
	switch {
	case r.Steeps():
		out = append(out, Reason{Of(Release), StartsAt(style.Steep.String(), r.Release == style.Steep, "by then a steep has given most of what it will; longer adds little")})
	case r.Has(Of(Pours)):
		n := len(style.pours)
		out = append(out, Reason{Of(Pours), StartsAt(fmt.Sprint(n), len(r.after()) == n, lowerFirst(strings.TrimSuffix(style.Short, ".")))})
	}
	if style.Bloom > 0 {
		why := fmt.Sprintf("%s times the dose wets all of the bed; %s lets the gas out.", units.Trim(style.Bloom, 1), style.BloomTime)
		if s.Bag.Freshness(s.Now) == coffee.TooFresh {
			why += fmt.Sprintf(" This bag is very fresh and full of gas: %d s longer.", freshBloom)
		}
		out = append(out, Reason{Of(Bloom), why})
	}
	return out
}

// StartsAt says where the product starts, and why; same where the value stands there.
func StartsAt(value string, same bool, why string) string {
	if same {
		return fmt.Sprintf("Starts here: %s.", why)
	}
	return fmt.Sprintf("We would start at %s: %s.", value, why)
}

// StartTemperature is where the water of a first recipe for a coffee starts.
func StartTemperature(s Situation) units.Celsius {
	t, _ := startTemperature(s)
	return t
}

// StartGrind is where the grind of a recipe starts for a coffee, before the model is
// asked, and why.
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
	if s.Habits.Hotter != 0 {
		t, why = t+s.Habits.Hotter, why+fmt.Sprintf("; %s K, as you set it once for all", units.Signed(float64(s.Habits.Hotter), 0))
	}
	if most := gear.Hottest(s.Gear.Boiling); t > most {
		t, why = most, why+"; here water boils at that, so no hotter"
	}
	return t, why
}

// slowBrewers drain more slowly than their style expects, and start coarser for it.
var slowBrewers = map[gear.BrewerKind]struct {
	coarser units.Micrometres
	why     string
}{
	gear.HeavyCone: {80, "its thick paper is slow and lets nothing past the bed"},
}

func startGrind(r Recipe, s Situation) (units.Micrometres, string) {
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
	const perGram = 7 // µm coarser per g of dose above 18, so that a deeper bed drains in time
	size += units.Micrometres((float64(r.Dose) - 18) * perGram)
	if math.Abs(float64(r.Dose)-18) >= 2 {
		why += fmt.Sprintf("; set for %s g of dose", units.Trim(float64(r.Dose), 1))
	}
	const worthSaying = 0.02 // ln of the size: less is within a step of most dials
	if math.Abs(s.Coarser) >= worthSaying {
		size *= units.Micrometres(math.Exp(-s.Coarser))
		way, drain := "finer", "faster"
		if s.Coarser < 0 {
			way, drain = "coarser", "slower"
		}
		why += fmt.Sprintf("; %.0f %% %s, because this grinder’s brews here drain %s than its dial says", 100*math.Abs(math.Expm1(-s.Coarser)), way, drain)
	}
	return s.Gear.Grinder.Snap(size), why
}

func lowerFirst(s string) string {
	if s == "" {
		return s
	}
	return string(s[0]|0x20) + s[1:]
}

// Restyle returns the recipe in another style or for another kind of brewer. The
// temperature stays, and the dose where it suits the brewer; the rest follows the style.
func Restyle(r Recipe, id StyleID, s Situation) Recipe {
	kind, dose := s.Gear.Brewer.Kind, r.Dose
	if !kind.Form().Dose.Holds(float64(dose)) {
		dose = s.dose()
	}
	temperature := r.Temperature() - r.Style.Style().hotter
	return s.first(s.style(id), dose, temperature)
}
