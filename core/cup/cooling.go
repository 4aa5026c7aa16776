package cup

import (
	"math"
	"time"

	"yardbloom/core/units"
)

// Scalds is the temperature above which coffee scalds, about, °C.
const Scalds units.Celsius = 60

// cooledTo is the temperature at which a cup has come to a stage, °C: from there on heat hides
// less of it.
var cooledTo = map[Stage]units.Celsius{Hot: 65, Warm: 52, Cool: 38}

// A Cooling is a cup that stands and cools by Newton's law.
type Cooling struct {
	Volume units.Grams   // in the cup
	From   units.Celsius // when it was poured
	Room   units.Celsius
}

// rate is how fast it cools, 1/s: what leaves through wall and surface, over what the
// coffee holds. An open mug as high as it is wide loses about 30 W/m²K, steam included.
func (c Cooling) rate() float64 {
	const loss, perGram = 30.0, 4.186 // W/m²K, J/gK
	volume := math.Max(50, float64(c.Volume)) * 1e-6
	width := math.Cbrt(4 * volume / math.Pi)
	surface := 1.5 * math.Pi * width * width
	return loss * surface / (float64(c.Volume) * perGram)
}

// At is its temperature after a time.
func (c Cooling) At(after time.Duration) units.Celsius {
	return c.Room + (c.From-c.Room)*units.Celsius(math.Exp(-c.rate()*after.Seconds()))
}

// Reaches is how long it takes to come to a stage; 0 where it is as cool from the start, and
// false where the room is too warm for it to get there.
func (c Cooling) Reaches(s Stage) (time.Duration, bool) {
	to := cooledTo[s]
	switch {
	case c.Volume <= 0 || to <= c.Room:
		return 0, false
	case to >= c.From:
		return 0, true
	}
	return time.Duration(math.Log(float64((c.From-c.Room)/(to-c.Room))) / c.rate() * float64(time.Second)), true
}
