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

func (k Kettle) check(name string) error {
	return inRanges([]bound{{name + ".water", float64(k.Water), units.Range{Lo: 0, Hi: 5000}},
		{name + ".rate", k.Rate, units.Range{Lo: 0, Hi: 0.02}}})
}

// vessel is the state of a kettle: off the heat from its first pour on.
type vessel struct {
	celsius float64
	poured  float64 // kg, from it
	off     bool
}

// kettleOf returns the kettle of a pour and its state.
func (r *runner) kettleOf(p *Pour) (*Kettle, *vessel) {
	if p.Second {
		return &r.brew.Second, &r.vessels[1]
	}
	return &r.brew.Kettle, &r.vessels[0]
}

// boil sets the kettle of the next pour to its temperature; without a thermostat only for the first pour from it.
func (r *runner) boil() {
	if r.next >= len(r.brew.Pours) {
		return
	}
	p := &r.brew.Pours[r.next]
	if k, v := r.kettleOf(p); k.Rate == 0 || !v.off {
		v.celsius = float64(p.Temperature)
	}
}

// draw takes water, kg, for a pour out of its kettle and returns its temperature.
func (r *runner) draw(p *Pour, water float64) float64 {
	_, v := r.kettleOf(p)
	v.poured, v.off = v.poured+water, true
	r.kettle = v.celsius
	return v.celsius
}

// stand cools the kettles for a step by Newton's law, with their present content.
func (r *runner) stand(dt float64) {
	for i, k := range [...]*Kettle{&r.brew.Kettle, &r.brew.Second} {
		v := &r.vessels[i]
		if k.Rate == 0 || !v.off {
			continue
		}
		left := k.Water - units.Grams(1000*v.poured)
		v.celsius += (float64(r.brew.Ambient) - v.celsius) * passed(gear.CoolingRate(k.Rate, left)*dt)
	}
}
