package cup

import (
	"math"
	"time"

	"yardbloom/core/units"
)

// ScaldTemperature is the approximate temperature above which coffee scalds, °C.
const ScaldTemperature units.Celsius = 60

// Caution warns of a hot cup; see units.Prefs.Say.
const Caution = "Above about {60 °C} coffee scalds: let it cool."

// cooledTo is the temperature at which each tasting stage begins, °C.
var cooledTo = map[Stage]units.Celsius{Hot: 65, Warm: 52, Cool: 38}

// A Cooling is a cup that cools by Newton's law.
type Cooling struct {
	Volume units.Grams   // volume in the cup
	From   units.Celsius // temperature of coffee and cup together, after pouring
	Room   units.Celsius
}

const (
	perGram = 4.186 // J/gK: of coffee
	// A ceramic cup weighs about 1.25 times the coffee in it, at 0.85 J/gK.
	perGramOfCup = 1.06 // J/K per g of coffee
)

// Pour returns a carafe's coffee in a warmed cup, after the cup has taken its heat.
func Pour(volume units.Grams, carafe, room units.Celsius) Cooling {
	const warmed = 45 // °C: rinsed with hot water while the coffee drains
	from := (perGram*carafe + perGramOfCup*warmed) / (perGram + perGramOfCup)
	if carafe < warmed { // a cold drink has a cold cup
		from = (perGram*carafe + perGramOfCup*room) / (perGram + perGramOfCup)
	}
	return Cooling{Volume: volume, From: from, Room: room}
}

// rate returns the cooling rate, 1/s: the heat loss through wall and surface divided by the heat capacity
// of coffee and cup. An open mug of equal height and width loses about 30 W/m²K, evaporation included.
func (c Cooling) rate() float64 {
	const loss = 30.0 // W/m²K
	volume := math.Max(50, float64(c.Volume)) * 1e-6
	width := math.Cbrt(4 * volume / math.Pi)
	surface := 1.5 * math.Pi * width * width
	return loss * surface / (float64(c.Volume) * (perGram + perGramOfCup))
}

// At returns the temperature after a time.
func (c Cooling) At(after time.Duration) units.Celsius {
	return c.Room + (c.From-c.Room)*units.Celsius(math.Exp(-c.rate()*after.Seconds()))
}

// TimeTo returns the time until a stage begins, by Drops.
func (c Cooling) TimeTo(s Stage) (time.Duration, bool) { return c.Drops(cooledTo[s]) }

// Drops returns the time until the cup has cooled to a temperature. It is 0 if the cup is that cool from the start, and false
// if the room is too warm for that.
func (c Cooling) Drops(to units.Celsius) (time.Duration, bool) {
	switch {
	case c.Volume <= 0 || to <= c.Room:
		return 0, false
	case to >= c.From:
		return 0, true
	}
	return time.Duration(math.Log(float64((c.From-c.Room)/(to-c.Room))) / c.rate() * float64(time.Second)), true
}
