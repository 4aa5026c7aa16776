package recipe

import (
	"strings"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Colder ice chills more: 100 g at -18 °C take up 37.8 J/g until they melt and 334 J/g then, as 96.2 g at -25 °C do. Mutations
// caught: the sign of the temperature, wet ice counted as ice.
func TestColderIceNeedsLess(t *testing.T) {
	freezer := Ice{Mass: 100, Temperature: -18}
	if got := freezer.As(Ice{Temperature: -25}); got < 96.1 || got > 96.3 {
		t.Errorf("100 g at -18 °C chill as much as %.2f g at -25 °C", got)
	}
	if got := freezer.As(Ice{Wet: 0.15}); got < 130.8 || got > 131.2 {
		t.Errorf("100 g at -18 °C chill as much as %.2f g from a machine", got)
	}
	r := IceHotAndSlow.Style().Generate(18, 270, 94).With(AddressOf(IceFrom), 1)
	if r = r.With(AddressOf(IceAt), -24); r.Ice.Temperature != -24 || r.Ice.Wet != 0 {
		t.Errorf("ice at -24 °C is %+v", r.Ice)
	}
	if limits := IceAt.Range(); limits.Contains(5) || !limits.Contains(-24) {
		t.Errorf("ice from %v to %v °C", limits.Lo, limits.Hi)
	}
}

// Dark coffee is poured from low, with the reason; other coffee is not. Mutation caught: any roast poured low.
func TestDarkRoastIsPouredFromLow(t *testing.T) {
	for _, roast := range coffee.Roasts() {
		s := Situation{Bag: coffee.Bag{Roast: roast}, Gear: set(100)}
		s.Gear.Brewer.Kind = gear.OpenCone
		r := Suggest(ThreeRounds, s)
		low, says := r.mainPours()[0].Height == Low, false
		for _, why := range Reasons(r, s, units.Prefs{}) {
			says = says || why.At.Knob == PourHeight && strings.Contains(why.Text, "brittle")
		}
		if dark := roast == coffee.Dark; low != dark || says != dark {
			t.Errorf("%s coffee: poured low %v, with a reason %v", roast, low, says)
		}
	}
}

// Each kettle is checked for its own pours. Mutations caught: all water counted for the first kettle, a second kettle whose
// spout is never checked.
func TestEachKettleIsCheckedForItsOwnPours(t *testing.T) {
	g := set(100)
	g.Kettle = gear.Kettle{ID: "hot", Name: "The hot one", Capacity: 300, Spout: 20}
	g.Second = gear.Kettle{ID: "cool", Name: "The cool one", Capacity: 900, Spout: 2}
	r := ThreeRounds.Style().Generate(20, 330, 94)
	all := func() (out string) {
		for _, w := range Check(r, g, units.Prefs{}) {
			out += w.Text + "\n"
		}
		return out
	}
	if got := all(); !strings.Contains(got, "The hot one holds") || !strings.Contains(got, "No pour is from the second kettle") {
		t.Errorf("all from the small kettle: %s", got)
	}
	for i := range r.Pours[1:] {
		r.Pours[i+1].Second = true
	}
	if got := all(); strings.Contains(got, "The hot one holds") || !strings.Contains(got, "The cool one pours up to 2") ||
		strings.Contains(got, "No pour") {
		t.Errorf("most from the slow kettle: %s", got)
	}
}
