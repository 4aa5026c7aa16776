package recipe

import (
	"math"
	"slices"

	"yardbloom/core/units"
)

// A Serving is hot, over ice or diluted.
type Serving string

// The servings.
const (
	Hot     Serving = "hot"
	OverIce Serving = "over ice"
	Diluted Serving = "diluted"
)

// Servings lists the servings, the most usual one first.
func Servings() []Serving { return []Serving{Hot, OverIce, Diluted} }

func (s Serving) String() string { return string(s) }

// Serving returns the serving of the recipe.
func (r Recipe) Serving() Serving {
	switch {
	case r.Ice.Mass > 0:
		return OverIce
	case r.Dilution.Water > 0:
		return Diluted
	}
	return Hot
}

// WhyNotServed returns the reason why a style does not support a serving; empty if it does. A style made for
// ice or dilution cannot be served without.
func (s Style) WhyNotServed(v Serving) string {
	switch own := s.Serving(); {
	case own == v || own == Hot:
		return ""
	case own == OverIce:
		return "it is brewed strong for the ice that melts into it and is harsh without it"
	case v == OverIce:
		return "it is diluted with water: over ice, the ice is the dilution"
	}
	return "it is brewed strong for the dilution"
}

// Total returns the total water of the cup, g: poured water, ice and dilution.
func (r Recipe) Total() units.Grams { return r.Water() + r.Ice.Mass + r.Dilution.Water }

// IceShare returns the share of ice in the total water.
func (r Recipe) IceShare() float64 { return shareOf(r.Ice.Mass, r.Total()) }

// DiluteShare returns the share of dilution water in the total water.
func (r Recipe) DiluteShare() float64 { return shareOf(r.Dilution.Water, r.Total()) }

func shareOf(part, all units.Grams) float64 {
	if all <= 0 {
		return 0
	}
	return float64(part / all)
}

// The sources of ice.
const (
	FromFreezer = "a freezer"
	FromMachine = "an ice machine"
)

// iceKinds is the ice of each source: dry and cold from a deep freezer, or at the melting point and partly
// melted from a machine.
var iceKinds = []Ice{{Temperature: -18}, {Temperature: 0, Wet: 0.15}}

var iceNames = []string{FromFreezer, FromMachine}

// The waters for dilution.
const (
	WithHot  = "hot water"
	WithCold = "cold water"
)

var (
	diluteWith  = []units.Celsius{85, 12}
	diluteNames = []string{WithHot, WithCold}
)

// The default shares of ice and dilution for styles without their own, and the reduction of the ratio over
// ice, because cold coffee tastes thinner.
const (
	usualIce    = 0.42
	usualDilute = 0.25
	liftOverIce = 1.5
)

// servedWith returns the recipe with other shares of ice and dilution and the same total water. The pours
// take up the difference.
func (r Recipe) servedWith(ice, dilute float64) Recipe {
	total := r.Total()
	out := r.clone()
	out.Ice.Mass = wholeGrams(total * units.Grams(ice))
	out.Dilution.Water = wholeGrams(total * units.Grams(dilute))
	if ice == 0 {
		out.Ice = Ice{}
	}
	if dilute == 0 {
		out.Dilution = Dilution{}
	}
	return out.ResizePoured(out.Dose, total-out.Ice.Mass-out.Dilution.Water)
}

// DiluteLast returns the recipe with the water of the last pour added to the cup instead of poured, hot; false if it has no
// pour to spare or another serving.
func (r Recipe) DiluteLast() (Recipe, bool) {
	after := r.mainPours()
	if len(after) < 2 || r.Serving() != Hot || r.Steeps() {
		return r, false
	}
	last := after[len(after)-1]
	out := r.clone()
	out.Pours = out.Pours[:len(out.Pours)-1]
	out.Dilution = Dilution{Water: wholeGrams(last.Water), Temperature: diluteWith[0]}
	if out.Aim > 0 {
		out.Aim -= last.Start - after[len(after)-2].Start
	}
	return out, true
}

// serve returns the recipe in another serving. Over ice it lowers the ratio, because cold coffee tastes
// thinner, and grinds finer for the smaller amount of poured water.
func (r Recipe) serve(v Serving) Recipe {
	if v == r.Serving() || r.Style.Style().WhyNotServed(v) != "" {
		return r
	}
	const finer = 0.9 // × the size
	style := r.Style.Style()
	out := r
	if r.Serving() == OverIce {
		out.Grind /= finer
		out = out.ResizeRounded(out.Dose, out.Dose*units.Grams(out.Ratio()+liftOverIce))
	}
	switch v {
	case OverIce:
		share := style.Ice
		if share == 0 {
			share = usualIce
		}
		out.Grind *= finer
		out.Ice = iceKinds[0]
		out = out.ResizeRounded(out.Dose, out.Dose*units.Grams(out.Ratio()-liftOverIce)).servedWith(share, 0)
	case Diluted:
		share := style.Dilute
		if share == 0 {
			share = usualDilute
		}
		out.Dilution.Temperature = diluteWith[0]
		out = out.servedWith(0, share)
	default:
		out = out.servedWith(0, 0)
	}
	return out
}

func getServing(r Recipe) float64 { return float64(slices.Index(Servings(), r.Serving())) }

func getIceKind(r Recipe) float64 { return flag(r.Ice.Temperature > -5) }

func setIceKind(r Recipe, v float64) Recipe {
	mass := r.Ice.Mass
	r.Ice = iceKinds[int(v)]
	r.Ice.Mass = mass
	return r
}

// setIceAt sets the temperature of the ice. Ice below the melting point is dry.
func setIceAt(r Recipe, v float64) Recipe {
	if r.Ice.Temperature = units.Celsius(v); v < 0 {
		r.Ice.Wet = 0
	}
	return r
}

// chill returns the heat that melts a gram of ice, J/g: it is warmed to 0 °C, and the part of it that is not yet water melts.
func (i Ice) chill() float64 {
	const ice, fusion = 2.1, 334.0 // J/(g K), J/g
	return (1 - i.Wet) * (fusion - ice*float64(i.Temperature))
}

// As returns the mass of other ice that chills as much, g.
func (i Ice) As(other Ice) units.Grams { return i.Mass * units.Grams(i.chill()/other.chill()) }

func getDiluteWith(r Recipe) float64 { return flag(r.Dilution.Temperature < 50) }

func setDiluteWith(r Recipe, v float64) Recipe {
	r.Dilution.Temperature = diluteWith[int(v)]
	return r
}

func wholeGrams(g units.Grams) units.Grams { return units.Grams(math.Round(float64(g))) }
