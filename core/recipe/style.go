package recipe

import (
	"cmp"
	"maps"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// StyleID identifies a style.
type StyleID string

// A Style is a school of pouring as data: its parameters for 18 g, its taste, its demands on grinder and
// hand, and when not to use it.
type Style struct {
	ID      StyleID
	Name    string
	Short   string
	Favours string
	Asks    string
	NotWhen string

	Ratio     float64 // total water, ice and dilution included, to dose
	Grind     units.Micrometres
	Bloom     float64 // g/g; 0: none
	BloomTime units.Seconds
	Hand      HandAction    // after the bloom
	Last      HandAction    // after the last pour
	Steep     units.Seconds // 0: percolation
	Ice       float64       // share of the total water that is ice in the carafe
	Dilute    float64       // share of the total water that is added to the cup

	Rate   float64       // of the pours, g/s
	hotter units.Celsius // relative to the temperature for the coffee
	pours  []share       // shares of the water after the bloom; they add up to 1
	gap    units.Seconds // from the start of one pour to the start of the next, at 18 g
	drain  units.Seconds // from the last action to the last steady stream, at 18 g
	// opening is the number of pours before those whose number sets the strength, openingShare their share
	// of the water.
	opening      int
	openingShare float64
	unsuitable   map[gear.BrewerKind]string // reasons why the style does not suit a kind of brewer
}

// A share is one pour of a style.
type share struct {
	of      float64       // of the water after the bloom
	pattern Pattern       // default: a spiral
	low     bool          // poured low
	wait    Cue           // its start
	cooler  units.Celsius // relative to the first pour
}

// gentleRate is a pour rate, g/s, that wets the bed before it drips.
const gentleRate = 4.5

// Schools lists all styles, the default first.
func Schools() []Style { return styles }

// Styles lists the styles for a kind of brewer, its default first.
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

// formerIDs maps IDs of earlier versions, in files and old addresses, to those of today.
var formerIDs = map[StyleID]StyleID{
	"two-heavy-pours": TwoCentredPours, "long-soak": LongBloom, "loose-slurry": BloomByEye,
}

// FormerIDs maps the IDs that styles had in earlier versions to those of today.
func FormerIDs() map[StyleID]StyleID { return maps.Clone(formerIDs) }

// Current returns the ID that a style has today.
func (id StyleID) Current() StyleID { return cmp.Or(formerIDs[id], id) }

// Style returns the style with an ID of today or a former one, or the zero Style for an unknown ID.
func (id StyleID) Style() Style {
	id = id.Current()
	for _, s := range styles {
		if s.ID == id {
			return s
		}
	}
	return Style{}
}

// In returns the style with the figures in its texts converted to a person's units.
func (s Style) In(p units.Prefs) Style {
	s.Short, s.Favours, s.Asks, s.NotWhen = p.Localize(s.Short), p.Localize(s.Favours), p.Localize(s.Asks), p.Localize(s.NotWhen)
	return s
}

// Fits reports whether a style suits a kind of brewer.
func (s Style) Fits(k gear.BrewerKind) bool { return s.ID != "" && s.unsuitable[k] == "" }

// WhyNotIn returns the reason why a style does not suit a kind of brewer; empty if it does.
func (s Style) WhyNotIn(k gear.BrewerKind) string { return s.unsuitable[k] }

// Steeps reports whether all water stays with the coffee before any of it drains.
func (s Style) Steeps() bool { return s.Steep > 0 }

// WantsDryBed reports whether the style lets the bed drain before a pour.
func (s Style) WantsDryBed() bool {
	return slices.ContainsFunc(s.pours, func(p share) bool { return p.wait.ByEye() })
}

// Serving returns the intended serving of the style.
func (s Style) Serving() Serving {
	switch {
	case s.Ice > 0:
		return OverIce
	case s.Dilute > 0:
		return Diluted
	}
	return Hot
}

// shares returns n pours in the manner of the style: its own, or n minus the opening equal pours modelled
// on the first and the last of the rest.
func (s Style) shares(n int) []share {
	if n == len(s.pours) {
		return s.pours
	}
	if n <= s.opening { // too few even for the opening: n equal pours
		return equal(n, 1, s.pours[0], s.pours[len(s.pours)-1])
	}
	rest := equal(n-s.opening, 1-s.openingShare, s.pours[s.opening], s.pours[len(s.pours)-1])
	return append(slices.Clone(s.pours[:s.opening]), rest...)
}

// equal returns n pours with equal parts of the water, modelled on one pour and the last on another.
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
