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
	From   units.Celsius // temperature when poured
	Room   units.Celsius
}

// rate returns the cooling rate, 1/s: the heat loss through wall and surface divided by the heat capacity
// of the coffee. An open mug of equal height and width loses about 30 W/m²K, evaporation included.
func (c Cooling) rate() float64 {
	const loss, perGram = 30.0, 4.186 // W/m²K, J/gK
	volume := math.Max(50, float64(c.Volume)) * 1e-6
	width := math.Cbrt(4 * volume / math.Pi)
	surface := 1.5 * math.Pi * width * width
	return loss * surface / (float64(c.Volume) * perGram)
}

// At returns the temperature after a time.
func (c Cooling) At(after time.Duration) units.Celsius {
	return c.Room + (c.From-c.Room)*units.Celsius(math.Exp(-c.rate()*after.Seconds()))
}

// TimeTo returns the time until a stage begins. It is 0 if the cup is that cool from the start, and false
// if the room is too warm to reach the stage.
func (c Cooling) TimeTo(s Stage) (time.Duration, bool) {
	to := cooledTo[s]
	switch {
	case c.Volume <= 0 || to <= c.Room:
		return 0, false
	case to >= c.From:
		return 0, true
	}
	return time.Duration(math.Log(float64((c.From-c.Room)/(to-c.Room))) / c.rate() * float64(time.Second)), true
}
