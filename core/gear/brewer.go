// Package gear describes brewing equipment: brewers, filters, grinders and their dials, kettles. Kinds are
// data; a person's own equipment refers to a kind.
package gear

import (
	"strings"

	"yardbloom/core/units"
)

// BrewerKind is a kind of brewer, named by its shape.
type BrewerKind string

// The kinds of brewer.
const (
	OpenCone     BrewerKind = "open-cone"
	FlatBed      BrewerKind = "flat-bed"
	HeavyCone    BrewerKind = "heavy-paper-cone"
	ValveSteeper BrewerKind = "valve-steeper"
)

// DefaultRetained is the liquid left in the grounds, g per g of dose, before a
// brewer has been weighed.
const DefaultRetained = 2.0

// A BrewerForm holds the properties that all brewers of a kind share.
type BrewerForm struct {
	Kind  BrewerKind
	Name  string
	About string
	// Immersion is true if the water steeps with all of the grounds before it drains, so that the retained
	// liquid is as strong as the cup.
	Immersion bool
	Filter    FilterKind // default filter
	// Dose is the usual range of the dose in g. A smaller bed is thin and drains too fast, a larger one is
	// deep and clogs.
	Dose units.Range
}

// One is the form's name with its article, such as "an open cone"; "a brewer" for an unknown kind.
func (f BrewerForm) One() string {
	if f.Name == "" {
		return "a brewer"
	}
	if strings.ContainsRune("aeiou", rune(f.Name[0])) {
		return "an " + f.Name
	}
	return "a " + f.Name
}

var brewerForms = []BrewerForm{
	{Kind: OpenCone, Name: "open cone", Filter: StandardPaper, Dose: units.Range{Lo: 11, Hi: 36},
		About: "One large outlet and a ribbed wall: the grind and the pour set the flow."},
	{Kind: FlatBed, Name: "flat bed", Filter: CorrugatedPaper, Dose: units.Range{Lo: 14, Hi: 45},
		About: "Flat bottom, small outlets, corrugated paper: an even bed that forgives the pour."},
	{Kind: HeavyCone, Name: "heavy-paper cone", Filter: ThickPaper, Dose: units.Range{Lo: 18, Hi: 60},
		About: "A wide cone with thick paper that clings to the wall: all of the water passes the bed."},
	{Kind: ValveSteeper, Name: "valve steeper", Filter: StandardPaper, Immersion: true, Dose: units.Range{Lo: 10, Hi: 30},
		About: "A cone whose valve holds the water until it is opened: steep, then release."},
}

// CarafeRange is the valid weight of an empty carafe, g.
var CarafeRange = units.Range{Lo: 20, Hi: 2000}

// HoldsRange is the valid capacity of a brewer or a kettle, g of water.
var HoldsRange = units.Range{Lo: 100, Hi: 3000}

// BrewerForms lists the kinds of brewer in the order in which they are offered.
func BrewerForms() []BrewerForm { return brewerForms }

// Form returns the form of a kind, or the zero BrewerForm for an unknown kind.
func (k BrewerKind) Form() BrewerForm {
	for _, f := range brewerForms {
		if f.Kind == k {
			return f
		}
	}
	return BrewerForm{}
}

// A Brewer is one that a person owns.
type Brewer struct {
	ID       string      `db:"id"`
	Name     string      `db:"name"`
	Kind     BrewerKind  `db:"kind"`
	Material Material    `db:"material"`
	Filter   FilterKind  `db:"filter"`
	Ribs     Ribs        `db:"ribs"`     // of its wall; empty: as usual for the kind
	Outlets  Outlets     `db:"outlets"`  // empty: as usual for the kind
	Holds    units.Grams `db:"holds"`    // capacity to the rim, g
	Retained float64     `db:"retained"` // g per g of dose, learned from weighed brews
}

// Retention is one weighed brew: water in, beverage out, dose.
type Retention struct{ Water, Beverage, Dose units.Grams }

// LearnRetained estimates the liquid retained by the grounds, g per g of dose, from weighed brews. It
// starts from DefaultRetained with the weight of three brews, so that a single outlier has little effect.
// Values that no bed can give (a spill, a wrong tare) are ignored.
func LearnRetained(weighed []Retention) float64 {
	const priorWeight = 3
	plausible := units.Range{Lo: 1.2, Hi: 3.2}
	sum, n := DefaultRetained*priorWeight, float64(priorWeight)
	for _, w := range weighed {
		if w.Dose <= 0 {
			continue
		}
		if r := float64((w.Water - w.Beverage) / w.Dose); r >= plausible.Lo && r <= plausible.Hi {
			sum, n = sum+r, n+1
		}
	}
	return sum / n
}

// Ribs are the ribs of a brewer's wall, which hold the paper off it.
type Ribs string

// The kinds of ribs.
const (
	UsualRibs Ribs = ""
	TallRibs  Ribs = "tall ribs"
	Smooth    Ribs = "a smooth wall"
)

// RibKinds lists the kinds of ribs.
func RibKinds() []Ribs { return []Ribs{UsualRibs, TallRibs, Smooth} }

// Outlets are the openings below a brewer's bed.
type Outlets string

// The kinds of outlets.
const (
	UsualOutlets Outlets = ""
	OneLarge     Outlets = "one large outlet"
	SmallOnes    Outlets = "small outlets"
)

// OutletKinds lists the kinds of outlets.
func OutletKinds() []Outlets { return []Outlets{UsualOutlets, OneLarge, SmallOnes} }

// Material is the material of a brewer.
type Material string

// The materials of brewers.
const (
	Plastic Material = "plastic"
	Glass   Material = "glass"
	Ceramic Material = "ceramic"
	Metal   Material = "metal"
	Double  Material = "double-walled glass"
)

// Materials lists the materials in the order in which they are offered. Stored changes hold an index: add at the end.
func Materials() []Material { return []Material{Plastic, Glass, Ceramic, Metal, Double} }

// Heavy reports whether the brewer absorbs so much heat that it must be preheated thoroughly.
func (m Material) Heavy() bool { return m == Glass || m == Ceramic }

// FilterKind is a kind of filter.
type FilterKind string

// The kinds of filter.
const (
	StandardPaper   FilterKind = "standard paper"
	ThickPaper      FilterKind = "thick paper"
	FastPaper       FilterKind = "fast textured paper"
	CorrugatedPaper FilterKind = "corrugated paper"
	Cloth           FilterKind = "fibre cloth"
	Mesh            FilterKind = "metal mesh"
)

// Filters lists the kinds of filter in the order in which they are offered.
func Filters() []FilterKind {
	return []FilterKind{StandardPaper, ThickPaper, FastPaper, CorrugatedPaper, Cloth, Mesh}
}
