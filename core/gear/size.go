package gear

import (
	"math"

	"yardbloom/core/units"
)

// Room for the bed and the water that stands over it, ml per g of dose, by a rule of thumb: a wet bed takes about 3, and half of
// the water of a brew is over it at most. A steeper holds all of the water.
const (
	roomToPour  = 14.0
	roomToSteep = 17.5
)

// MaxDose returns the largest dose of a brewer, g: that of its kind or, in a small brewer, what leaves room for the water.
func (b Brewer) MaxDose() units.Grams {
	form := b.Kind.Form()
	most, room := form.Dose.Hi, roomToPour
	if form.Immersion {
		room = roomToSteep
	}
	if b.Holds > 0 {
		most = min(most, float64(b.Holds)/room)
	}
	return units.Grams(math.Floor(most))
}

// A Fit is the way in which a brewer makes an amount of coffee.
type Fit struct {
	Brews int         // one after another
	Dose  units.Grams // of each, in half grams
	Thin  bool        // the bed of each is thinner than usual in this brewer
}

// Fit returns how a brewer makes an amount in the cup, g, at a ratio of water to dose: in as few equal brews as it takes.
func (b Brewer) Fit(inCup units.Grams, ratio float64) Fit {
	retained := b.Retained
	if retained == 0 {
		retained = DefaultRetained
	}
	dose := float64(inCup) / (ratio - retained)
	brews := max(1, math.Ceil(dose/float64(max(1, b.MaxDose()))-1e-9))
	each := math.Round(2*dose/brews) / 2
	return Fit{int(brews), units.Grams(each), each < b.Kind.Form().Dose.Lo}
}

// FilterSize returns the usual name of the filter's size for a brewer that holds so much water, such as "for one or two cups".
func (b Brewer) FilterSize() string {
	for _, size := range []struct {
		upTo units.Grams
		name string
	}{{0, ""}, {350, "for one cup"}, {550, "for one or two cups"}, {800, "for two to four cups"}} {
		if b.Holds <= size.upTo {
			return size.name
		}
	}
	return "for four cups and more"
}
