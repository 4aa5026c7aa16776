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
	Spout      float64     `db:"spout"`    // maximum pour rate, g/s; 0 if unknown
	CoolingReadings
}

// CoolingReadings are two temperatures of a kettle's water, read some time apart with the kettle off the
// heat and its lid open. The zero value means that none were taken.
type CoolingReadings struct {
	Water  units.Grams   `db:"read_water"`
	First  units.Celsius `db:"read_first"`
	Second units.Celsius `db:"read_second"`
	Apart  units.Seconds `db:"read_apart"`
}

// Taken reports whether there are readings.
func (r CoolingReadings) Taken() bool { return r.Apart > 0 }

// Boiling returns the boiling point of water at an altitude in metres: pressure
// from the International Standard Atmosphere (troposphere), temperature from
// the Antoine equation for water (1 to 100 °C, mmHg: A 8.07131, B 1730.63, C 233.426).
func Boiling(altitude float64) units.Celsius {
	hPa := 1013.25 * math.Pow(1-2.25577e-5*altitude, 5.25588)
	mmHg := hPa * 0.750062
	return units.Celsius(1730.63/(8.07131-math.Log10(mmHg)) - 233.426)
}

// MaxTemperature returns the highest temperature to which a kettle can be set where water boils at the given
// temperature: whole degrees, at most 100. It returns 100 if the boiling point is unknown.
func MaxTemperature(boiling units.Celsius) units.Celsius {
	if boiling == 0 {
		return 100
	}
	return min(100, units.Celsius(math.Floor(float64(boiling))))
}

// room is the temperature of the air around a kettle, °C.
const room = 21

// ruleOfThumb is the cooling rate of half a litre in a kettle with an open lid, 1/s. Near the boil it loses
// about 100 W, half by evaporation and half through the wall, which is 3 K a minute. Its error is about a
// third.
const ruleOfThumb = 0.0007

// usualRates is the plausible range of cooling rates of half a litre, 1/s: from an
// insulated kettle with its lid on to a thin one in a draught.
var usualRates = units.Range{Lo: 0.0001, Hi: 0.003}

// Rate returns the cooling rate of half a litre in the kettle, 1/s: from its two readings,
//
//	k = ln((first − room) / (second − room)) / apart
//
// converted from the amount of water that was measured to half a litre, or the rule of thumb if there are
// no readings.
func (k Kettle) Rate() float64 {
	if !k.Taken() {
		return ruleOfThumb
	}
	return k.CoolingReadings.rate()
}

// NearBoil returns the temperature that half a litre in the kettle loses per minute near the boil, K.
func (k Kettle) NearBoil() units.Celsius {
	const near = 95 // °C
	return units.Celsius(k.Rate() * 60 * (near - room))
}

func (r CoolingReadings) rate() float64 {
	return math.Log(float64((r.First-room)/(r.Second-room))) / float64(r.Apart) / CoolingRate(1, r.Water)
}

// The errors of two readings of a kettle.
var (
	ErrNotCooler = errors.New("the second reading is not cooler than the first")
	ErrNearRoom  = errors.New("the second reading is too close to room temperature")
	ErrPace      = errors.New("no kettle cools at that rate")
)

// Check returns one of the errors above if the readings cannot come from one cooling kettle.
func (r CoolingReadings) Check() error {
	switch {
	case r.Second >= r.First:
		return ErrNotCooler
	case r.Second <= room+5:
		return ErrNearRoom
	case !usualRates.Contains(r.rate()):
		return ErrPace
	}
	return nil
}

// CoolingRate converts the cooling rate of half a litre to an amount of water, 1/s. Heat loss grows with
// the surface and heat content with the volume, so the rate is proportional to the cube root of 500 g /
// water. Less than 100 g counts as 100 g.
func CoolingRate(halfLitre float64, water units.Grams) float64 {
	return halfLitre * math.Cbrt(500/float64(max(water, 100)))
}

// Heel is the water that cannot be poured from a kettle at a steady rate, g.
const Heel units.Grams = 100

// Fill returns the water to put into the kettle for the given pours, g: the pours plus the Heel, up to the
// capacity if that is known.
func (k Kettle) Fill(pours units.Grams) units.Grams {
	if k.Capacity == 0 {
		return pours + Heel
	}
	return min(pours+Heel, k.Capacity)
}

// OffBoilWait returns the time in which a kettle with an open lid, off the boil, cools to target, by
// Newton's law of cooling:
//
//	t = ln((boiling − room) / (target − room)) / k
func (k Kettle) OffBoilWait(water units.Grams, boiling, target units.Celsius) units.Seconds {
	if target >= boiling || water <= 0 || target <= room {
		return 0
	}
	return units.Seconds(math.Log(float64(boiling-room)/float64(target-room)) / CoolingRate(k.Rate(), water))
}

// WaitError returns the relative standard error of OffBoilWait: a third for the rule of thumb, a tenth for
// a kettle with readings (two readings of ± 0.5 K, 8 K apart).
func (k Kettle) WaitError() float64 {
	if k.Taken() {
		return 0.1
	}
	return 1. / 3
}
