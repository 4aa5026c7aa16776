package sim

import (
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Kettle is the source of the water. The zero Kettle has a thermostat, which gives every pour its own
// temperature. With a Rate, the water cools from the first pour's temperature on, and the temperatures of
// later pours are ignored.
type Kettle struct {
	Water units.Grams // in it at the first pour
	Rate  float64     // cooling rate of half a litre, 1/s; 0 for a thermostat
}

func (k Kettle) check() error {
	return inRanges([]bound{{"kettle.water", float64(k.Water), units.Range{Lo: 0, Hi: 5000}},
		{"kettle.rate", k.Rate, units.Range{Lo: 0, Hi: 0.02}}})
}

// boil sets the kettle to the temperature of the next pour; without a thermostat only for the first pour.
func (r *runner) boil() {
	if r.next < len(r.brew.Pours) && (r.brew.Kettle.Rate == 0 || r.next == 0) {
		r.kettle = float64(r.brew.Pours[r.next].Temperature)
	}
}

// stand cools the kettle for a step by Newton's law, with its present content.
func (r *runner) stand(dt float64) {
	k := &r.brew.Kettle
	if k.Rate == 0 || r.poured == 0 { // off the heat from the first pour on
		return
	}
	left := k.Water - units.Grams(1000*r.poured)
	r.kettle += (float64(r.brew.Ambient) - r.kettle) * passed(gear.CoolingRate(k.Rate, left)*dt)
}
