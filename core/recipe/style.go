package recipe

import (
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// StyleID names a style of pouring.
type StyleID string

// The styles.
const (
	ThreeRounds     StyleID = "three-rounds"
	OneLongPour     StyleID = "one-long-pour"
	SteepAndRelease StyleID = "steep-and-release"
)

// A Style is a school of pouring as data: its parameters for 18 g, what it
// favours, what it asks of the person, and when not to use it.
type Style struct {
	ID      StyleID
	Name    string
	Short   string
	Favours string
	Asks    string
	NotWhen string
	Brewers []gear.BrewerKind

	Ratio     float64
	Grind     units.Micrometres
	Bloom     float64 // g/g; 0: none
	BloomTime units.Seconds
	Hand      Hand          // after the bloom and after the last pour
	Steep     units.Seconds // 0: percolation

	Rate  float64       // of the pours, g/s
	pours []share       // of the water after the bloom, adding to 1
	gap   units.Seconds // from the start of one pour to the start of the next, at 18 g
	drain units.Seconds // from the last thing to do to the last steady stream, at 18 g
}

// A share is one pour of a style.
type share struct {
	of      float64 // of the water left after the bloom
	pattern Pattern
	low     bool // poured low
}

// gentle is a pour in g/s that is enough to wet the bed before it drips.
const gentle = 4.5

var percolators = []gear.BrewerKind{gear.OpenCone, gear.FlatBed, gear.HeavyCone}

var styles = []Style{
	{
		ID: ThreeRounds, Name: "Three rounds", Short: "Bloom, then three equal spiral pours, the last one low.",
		Favours: "An even cup that is easy to repeat.", Asks: "A steady hand and a pause between pours.",
		NotWhen: "The grinder makes so many fines that the bed clogs: pour fewer times.",
		Brewers: percolators, Ratio: 16.5, Grind: 650, Bloom: 3, BloomTime: 45, Hand: Swirl,
		Rate: 5, pours: []share{{of: 1. / 3, pattern: Spiral}, {of: 1. / 3, pattern: Spiral}, {of: 1. / 3, pattern: Spiral, low: true}}, gap: 40, drain: 60,
	},
	{
		ID: OneLongPour, Name: "One long pour", Short: "Bloom, then one slow unbroken pour.",
		Favours: "Simplicity; a clean, lighter cup.", Asks: "A kettle that pours slowly and evenly for over a minute.",
		NotWhen: "The coffee needs much extraction: a light, dense one likes more pours.",
		Brewers: percolators, Ratio: 16.5, Grind: 600, Bloom: 3, BloomTime: 45, Hand: Swirl,
		Rate: 3, pours: []share{{of: 1, pattern: Circles}}, drain: 55,
	},
	{
		ID: SteepAndRelease, Name: "Steep and release", Short: "All the water, wait, break the crust, open the valve.",
		Favours: "Body, ease, the same cup again.", Asks: "A brewer with a valve.",
		NotWhen: "You want the brightest, clearest cup.",
		Brewers: []gear.BrewerKind{gear.ValveSteeper}, Ratio: 16, Grind: 800, Steep: 165,
		Rate: 8, pours: []share{{of: 1, pattern: Circles}}, drain: 70,
	},
}

// Styles lists the styles that a kind of brewer can be poured in, its usual one first.
func Styles(k gear.BrewerKind) []Style {
	var out []Style
	for _, s := range styles {
		if s.Fits(k) {
			out = append(out, s)
		}
	}
	return out
}

// Style returns the style of an ID, or the zero Style for an unknown one.
func (id StyleID) Style() Style {
	for _, s := range styles {
		if s.ID == id {
			return s
		}
	}
	return Style{}
}

// Fits says whether a style can be poured in a kind of brewer.
func (s Style) Fits(k gear.BrewerKind) bool { return slices.Contains(s.Brewers, k) }

// shares are n pours in the manner of the style: its own, or equal ones poured
// like its first, the last as low as its last.
func (s Style) shares(n int) []share {
	if n == len(s.pours) {
		return s.pours
	}
	out := make([]share, n)
	for i := range out {
		out[i] = s.pours[0]
		out[i].of = 1 / float64(n)
	}
	out[n-1].low = s.pours[len(s.pours)-1].low
	return out
}
