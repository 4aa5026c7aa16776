package gear

import (
	"errors"
	"math"

	"yardbloom/core/units"
)

// A Kettle is one that a person owns.
type Kettle struct {
	ID         string      `db:"id"`
	Name       string      `db:"name"`
	Thermostat bool        `db:"thermostat"`
	Capacity   units.Grams `db:"capacity"` // g of water
	Spout      float64     `db:"spout"`    // the fastest it pours, g/s; 0 where unknown
	Readings
}

// Readings are two temperatures of a kettle's water, read a while apart with the
// kettle off the heat and its lid open. The zero Readings are none.
type Readings struct {
	Water  units.Grams   `db:"read_water"`
	First  units.Celsius `db:"read_first"`
	Second units.Celsius `db:"read_second"`
	Apart  units.Seconds `db:"read_apart"`
}

// Taken says that there are readings.
func (r Readings) Taken() bool { return r.Apart > 0 }

// Boiling returns the boiling point of water at an altitude in metres: pressure
// from the International Standard Atmosphere (troposphere), temperature from
// the Antoine equation for water (1 to 100 °C, mmHg: A 8.07131, B 1730.63, C 233.426).
func Boiling(altitude float64) units.Celsius {
	hPa := 1013.25 * math.Pow(1-2.25577e-5*altitude, 5.25588)
	mmHg := hPa * 0.750062
	return units.Celsius(1730.63/(8.07131-math.Log10(mmHg)) - 233.426)
}

// Hottest is the most that a kettle can be set to where water boils at so many
// degrees: whole degrees, 100 at the most, and where nothing is known.
func Hottest(boiling units.Celsius) units.Celsius {
	if boiling == 0 {
		return 100
	}
	return min(100, units.Celsius(math.Floor(float64(boiling))))
}

// room is the temperature of the air around a kettle, °C.
const room = 21

// ruleOfThumb is how fast half a litre in a kettle with an open lid cools, 1/s.
// Near the boil it loses about 100 W, a half by evaporation and a half through
// the wall, which is 3 K a minute. Expect to be a third off.
const ruleOfThumb = 0.0007

// usualRates is the plausible range of cooling rates of half a litre, 1/s: from an
// insulated kettle with its lid on to a thin one in a draught.
var usualRates = units.Range{Lo: 0.0001, Hi: 0.003}

// Rate is how fast half a litre in the kettle cools, 1/s: by its own two readings,
//
//	k = ln((first − room) / (second − room)) / apart
//
// brought from the water they were taken with to half a litre, or by the rule of
// thumb where there are none.
func (k Kettle) Rate() float64 {
	if !k.Taken() {
		return ruleOfThumb
	}
	return k.Readings.rate()
}

// NearBoil is what half a litre in the kettle loses in a minute near the boil, K.
func (k Kettle) NearBoil() units.Celsius {
	const near = 95 // °C
	return units.Celsius(k.Rate() * 60 * (near - room))
}

func (r Readings) rate() float64 {
	return math.Log(float64((r.First-room)/(r.Second-room))) / float64(r.Apart) / CoolingRate(1, r.Water)
}

// What can be wrong with two readings of a kettle.
var (
	ErrNotCooler = errors.New("the second reading is not cooler than the first")
	ErrNearRoom  = errors.New("the second reading is too near the temperature of the room")
	ErrPace      = errors.New("no kettle cools at that pace")
)

// Check returns one of the errors above where two readings cannot be of one
// kettle that stands and cools.
func (r Readings) Check() error {
	switch {
	case r.Second >= r.First:
		return ErrNotCooler
	case r.Second <= room+5:
		return ErrNearRoom
	case !usualRates.Holds(r.rate()):
		return ErrPace
	}
	return nil
}

// CoolingRate brings the rate of half a litre to so much water, 1/s. What a
// kettle loses goes with its surface and what it holds with its volume, so it
// cools with the cube root of 500 g over the water. Under 100 g it counts as 100.
func CoolingRate(halfLitre float64, water units.Grams) float64 {
	return halfLitre * math.Cbrt(500/float64(max(water, 100)))
}

// Heel is the water that does not come out of a kettle at a steady rate, g.
const Heel units.Grams = 100

// Fill is the water to put in for so much to be poured, g: the Heel more, as far
// as the kettle holds it. Without a known capacity it holds all of it.
func (k Kettle) Fill(pours units.Grams) units.Grams {
	if k.Capacity == 0 {
		return pours + Heel
	}
	return min(pours+Heel, k.Capacity)
}

// OffBoilWait returns how long a kettle with an open lid stands off the boil
// until its water has cooled to target, by Newton's law of cooling:
//
//	t = ln((boiling − room) / (target − room)) / k
func (k Kettle) OffBoilWait(water units.Grams, boiling, target units.Celsius) units.Seconds {
	if target >= boiling || water <= 0 || target <= room {
		return 0
	}
	return units.Seconds(math.Log(float64(boiling-room)/float64(target-room)) / CoolingRate(k.Rate(), water))
}

// WaitError is the standard error of a wait off the boil as a share of it: a
// third by the rule of thumb, a tenth where the kettle was read (two readings
// of ± 0.5 K that lie 8 K apart).
func (k Kettle) WaitError() float64 {
	if k.Taken() {
		return 0.1
	}
	return 1. / 3
}
