package recipe

import (
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// StyleID names a style of pouring.
type StyleID string

// A Style is a school of pouring as data: its parameters for 18 g, what it
// favours, what it asks of grinder and hand, and when not to use it.
type Style struct {
	ID      StyleID
	Name    string
	Short   string
	Favours string
	Asks    string
	NotWhen string

	Ratio     float64 // of all water, ice and dilution too, to the dose
	Grind     units.Micrometres
	Bloom     float64 // g/g; 0: none
	BloomTime units.Seconds
	Hand      Hand          // after the bloom
	Last      Hand          // after the last pour
	Steep     units.Seconds // 0: percolation
	Ice       float64       // share of all water that is ice in the carafe
	Dilute    float64       // share of all water that the cup gets afterwards

	Rate   float64       // of the pours, g/s
	hotter units.Celsius // than what suits the coffee
	pours  []share       // of the water after the bloom, adding to 1
	gap    units.Seconds // from the start of one pour to the start of the next, at 18 g
	drain  units.Seconds // from the last thing to do to the last steady stream, at 18 g
	// opening is how many pours come before those whose number sets the strength, and
	// openingShare their share of the water.
	opening      int
	openingShare float64
	not          map[gear.BrewerKind]string // why it cannot be poured in a kind of brewer
}

// A share is one pour of a style.
type share struct {
	of      float64       // of the water left after the bloom
	pattern Pattern       // a spiral where left out
	low     bool          // poured low
	wait    bool          // begins when the water has reached the bed
	cooler  units.Celsius // than the first pour
}

// gentle is a pour in g/s that is enough to wet the bed before it drips.
const gentle = 4.5

// Schools lists all styles, the default first.
func Schools() []Style { return styles }

// Styles lists the styles that a kind of brewer can be poured in, its usual one first.
func Styles(k gear.BrewerKind) []Style {
	var out []Style
	for _, s := range styles {
		if s.Fits(k) {
			out = append(out, s)
		}
	}
	usual := func(s Style) bool { return s.Steeps() == k.Form().Immersion }
	if i := slices.IndexFunc(out, usual); i > 0 {
		out = slices.Concat(out[i:i+1], out[:i], out[i+1:])
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

// In returns the style with the figures in its texts converted to a user's units.
func (s Style) In(p units.Prefs) Style {
	s.Short, s.Favours, s.Asks, s.NotWhen = p.Say(s.Short), p.Say(s.Favours), p.Say(s.Asks), p.Say(s.NotWhen)
	return s
}

// Fits says whether a style can be poured in a kind of brewer.
func (s Style) Fits(k gear.BrewerKind) bool { return s.ID != "" && s.not[k] == "" }

// NotIn says why a style cannot be poured in a kind of brewer; empty where it can.
func (s Style) NotIn(k gear.BrewerKind) string { return s.not[k] }

// Steeps says that all of the water stands with the coffee before any of it leaves.
func (s Style) Steeps() bool { return s.Steep > 0 }

// Serving is how the style is meant to be served.
func (s Style) Serving() Serving {
	switch {
	case s.Ice > 0:
		return OverIce
	case s.Dilute > 0:
		return Diluted
	}
	return Hot
}

// shares are n pours in the manner of the style: its own, or as many in place of
// those after its opening, equal and poured like its first, the last as low as its last.
func (s Style) shares(n int) []share {
	if n == len(s.pours) {
		return s.pours
	}
	if n <= s.opening { // not even its opening is left: as many equal pours
		return equal(n, 1, s.pours[0], s.pours[len(s.pours)-1])
	}
	rest := equal(n-s.opening, 1-s.openingShare, s.pours[s.opening], s.pours[len(s.pours)-1])
	return append(slices.Clone(s.pours[:s.opening]), rest...)
}

// equal are n pours of a part of the water, like one pour and the last like another.
func equal(n int, part float64, like, last share) []share {
	out := make([]share, n)
	for i := range out {
		out[i] = like
		out[i].of = part / float64(n)
		if n > 1 {
			out[i].cooler = like.cooler + (last.cooler-like.cooler)*units.Celsius(i)/units.Celsius(n-1)
		}
	}
	out[n-1].low = last.low
	return out
}
