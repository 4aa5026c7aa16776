package device

import (
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A KettleStandIn simulates a kettle that heats its water to a set point and holds it there, or cools.
type KettleStandIn struct {
	Water       units.Grams
	Celsius     units.Celsius
	Set         units.Celsius // 0: off
	Room        units.Celsius
	Power       float64 // W
	CoolingRate float64 // cooling rate of half a litre, 1/s, as gear.Kettle.Rate
}

// NewKettleStandIn returns a kettle with water at room temperature.
func NewKettleStandIn(water units.Grams) *KettleStandIn {
	const room = 21
	return &KettleStandIn{Water: water, Celsius: room, Room: room, Power: 1200, CoolingRate: gear.Kettle{}.Rate()}
}

// Step advances by a number of seconds.
func (k *KettleStandIn) Step(seconds float64) {
	const perGram = 4.186 // J/K
	k.Celsius += (k.Room - k.Celsius) * units.Celsius(1-math.Exp(-gear.CoolingRate(k.CoolingRate, k.Water)*seconds))
	if k.Celsius < k.Set && k.Water > 0 {
		k.Celsius = min(k.Set, k.Celsius+units.Celsius(k.Power*seconds/(perGram*float64(k.Water))))
	}
}

// Pour takes water out of the kettle.
func (k *KettleStandIn) Pour(water units.Grams) { k.Water = max(0, k.Water-water) }

// Display returns the displayed temperature, rounded to half a degree.
func (k *KettleStandIn) Display() units.Celsius {
	return units.Celsius(math.Round(2*float64(k.Celsius)) / 2)
}
