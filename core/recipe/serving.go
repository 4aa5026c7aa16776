package recipe

import (
	"math"
	"slices"

	"yardbloom/core/units"
)

// A Serving is what the brew meets when it has left the brewer.
type Serving string

// The servings.
const (
	Hot     Serving = "hot"
	OverIce Serving = "over ice"
	Diluted Serving = "diluted"
)

// Servings lists the servings, the usual one first.
func Servings() []Serving { return []Serving{Hot, OverIce, Diluted} }

func (s Serving) String() string { return string(s) }

// Serving is how the recipe is served.
func (r Recipe) Serving() Serving {
	switch {
	case r.Ice.Mass > 0:
		return OverIce
	case r.Dilution.Water > 0:
		return Diluted
	}
	return Hot
}

// NotServed says why a style cannot be served in a way; empty where it can. What a
// style is made for cannot be left away.
func (s Style) NotServed(v Serving) string {
	switch own := s.Serving(); {
	case own == v || own == Hot:
		return ""
	case own == OverIce:
		return "it is poured strong for the ice that melts into it: without the ice it is harsh"
	case v == OverIce:
		return "it is diluted with water: over ice, the ice is the dilution"
	}
	return "it is poured strong for the water that it gets afterwards"
}

// Total is all the water that the cup is made of, g: what is poured, the ice, and
// what the cup gets afterwards.
func (r Recipe) Total() units.Grams { return r.Water() + r.Ice.Mass + r.Dilution.Water }

// IceShare is the share of all water that is ice.
func (r Recipe) IceShare() float64 { return shareOf(r.Ice.Mass, r.Total()) }

// DiluteShare is the share of all water that the cup gets afterwards.
func (r Recipe) DiluteShare() float64 { return shareOf(r.Dilution.Water, r.Total()) }

func shareOf(part, all units.Grams) float64 {
	if all <= 0 {
		return 0
	}
	return float64(part / all)
}

// Where ice comes from.
const (
	FromFreezer = "a freezer"
	FromMachine = "an ice machine"
)

// iceKinds are ice as it comes: out of a deep freezer dry and cold, out of a machine
// at the melting point with a sixth of it melted already.
var iceKinds = []Ice{{Temperature: -18}, {Temperature: 0, Wet: 0.15}}

var iceNames = []string{FromFreezer, FromMachine}

// What the cup is diluted with.
const (
	WithHot  = "hot water"
	WithCold = "cold water"
)

var (
	diluteWith  = []units.Celsius{85, 12}
	diluteNames = []string{WithHot, WithCold}
)

// How much of the water is ice, or is kept back, where a style does not say; and how
// much less water over ice per gram of dose, since cold coffee tastes thinner.
const (
	usualIce    = 0.42
	usualDilute = 0.25
	liftOverIce = 1.5
)

// servedWith returns the recipe with other shares of ice and dilution and as much
// water in all. The pours shrink or grow by what that takes or gives.
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
	return out.Pour(out.Dose, total-out.Ice.Mass-out.Dilution.Water)
}

// serve returns the recipe served another way: over ice with a lower ratio, since
// cold coffee tastes thinner, and a finer grind for the little water.
func (r Recipe) serve(v Serving) Recipe {
	if v == r.Serving() || r.Style.Style().NotServed(v) != "" {
		return r
	}
	const finer = 0.9 // × the size
	style := r.Style.Style()
	out := r
	if r.Serving() == OverIce {
		out.Grind /= finer
		out = out.Weigh(out.Dose, out.Dose*units.Grams(out.Ratio()+liftOverIce))
	}
	switch v {
	case OverIce:
		share := style.Ice
		if share == 0 {
			share = usualIce
		}
		out.Grind *= finer
		out.Ice = iceKinds[0]
		out = out.Weigh(out.Dose, out.Dose*units.Grams(out.Ratio()-liftOverIce)).servedWith(share, 0)
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

func getDiluteWith(r Recipe) float64 { return flag(r.Dilution.Temperature < 50) }

func setDiluteWith(r Recipe, v float64) Recipe {
	r.Dilution.Temperature = diluteWith[int(v)]
	return r
}

func wholeGrams(g units.Grams) units.Grams { return units.Grams(math.Round(float64(g))) }
