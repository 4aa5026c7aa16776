package sim

import (
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Kettle is where the water comes from. The zero Kettle has a thermostat, which
// brings every pour to its own temperature. With a Rate, the water cools from
// the first pour's temperature on, and the temperatures of later pours are ignored.
type Kettle struct {
	Water units.Grams // in it at the first pour
	Rate  float64     // at which half a litre in it cools, 1/s; 0 for a thermostat
}

func (k Kettle) check() error {
	return inRanges([]bound{{"kettle.water", float64(k.Water), units.Range{Lo: 0, Hi: 5000}}, {"kettle.rate", k.Rate, units.Range{Lo: 0, Hi: 0.02}}})
}

// boil sets the kettle to the temperature of the next pour; without a thermostat
// it does so for the first pour only.
func (r *runner) boil() {
	if r.next < len(r.brew.Pours) && (r.brew.Kettle.Rate == 0 || r.next == 0) {
		r.kettle = float64(r.brew.Pours[r.next].Temperature)
	}
}

// stand lets the kettle cool for a step by Newton's law, with the water that is left in it.
func (r *runner) stand(dt float64) {
	k := &r.brew.Kettle
	if k.Rate == 0 || r.poured == 0 { // it is off the heat from the first pour on
		return
	}
	left := k.Water - units.Grams(1000*r.poured)
	r.kettle += (float64(r.brew.Ambient) - r.kettle) * passed(gear.CoolingRate(k.Rate, left)*dt)
}
