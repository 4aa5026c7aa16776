package gear

import (
	"math"

	"yardbloom/core/units"
)

// A Kettle is one that a person owns.
type Kettle struct {
	ID         int64       `json:"id" db:"id"`
	Name       string      `json:"name" db:"name"`
	Thermostat bool        `json:"thermostat" db:"thermostat"`
	Capacity   units.Grams `json:"capacity" db:"capacity"` // g of water
}

// Boiling returns the boiling point of water at an altitude in metres: pressure
// from the International Standard Atmosphere (troposphere), temperature from
// the Antoine equation for water (1 to 100 °C, mmHg: A 8.07131, B 1730.63, C 233.426).
func Boiling(altitude float64) units.Celsius {
	hPa := 1013.25 * math.Pow(1-2.25577e-5*altitude, 5.25588)
	mmHg := hPa * 0.750062
	return units.Celsius(1730.63/(8.07131-math.Log10(mmHg)) - 233.426)
}

// room is the temperature of the air around a kettle, °C.
const room = 21

// cooling is how fast a kettle with an open lid cools, 1/s: 0.0007 for half a
// litre, slower for more water in proportion to surface over volume. Half a
// litre near the boil loses about 100 W, a half by evaporation and a half
// through the wall, which is 3 K a minute. A rule of thumb until the kettle's
// own two readings are known: expect to be a third off.
func cooling(water units.Grams) float64 {
	const atHalfLitre = 0.0007
	return atHalfLitre * math.Cbrt(500/float64(max(water, 100)))
}

// OffBoilWait returns how long a kettle with an open lid stands off the boil
// until its water has cooled to target, by Newton's law of cooling:
//
//	t = ln((boiling − room) / (target − room)) / k
func (k Kettle) OffBoilWait(water units.Grams, boiling, target units.Celsius) units.Seconds {
	if target >= boiling || water <= 0 || target <= room {
		return 0
	}
	return units.Seconds(math.Log(float64(boiling-room)/float64(target-room)) / cooling(water))
}

// After returns the temperature of so much water in the kettle a time after it
// had from. A thermostat holds it; without one it follows Newton's law.
func (k Kettle) After(from units.Celsius, water units.Grams, t units.Seconds) units.Celsius {
	if k.Thermostat || t <= 0 {
		return from
	}
	return room + (from-room)*units.Celsius(math.Exp(-cooling(water)*float64(t)))
}
