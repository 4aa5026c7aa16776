package cup

import "yardbloom/core/units"

const (
	heatOfWater = 4.186 // J/(g K)
	heatOfIce   = 2.1   // J/(g K), near −10 °C
	fusion      = 334.0 // J/g
)

// A Drink is a drink in a glass.
type Drink struct {
	Mass units.Grams // liquid only
	Heat units.Celsius
	TDS  float64     // %
	Ice  units.Grams // not yet melted
}

// OnIce returns the drink after it is poured onto ice, in g, and stirred until no more ice melts:
//
//	heat of the drink above 0 °C = ice warmed to 0 °C + melted ice × 334 J/g
//
// It neglects the heat capacity of the glass and gives the drink that of water.
func (d Drink) OnIce(ice units.Grams, celsius units.Celsius) Drink {
	gives := float64(d.Mass) * heatOfWater * float64(d.Heat)
	gives += float64(ice) * heatOfIce * float64(celsius) // the ice is below 0 °C and warms up first
	melts := max(0, min(float64(ice), gives/fusion))
	out := Drink{Mass: d.Mass + units.Grams(melts), Ice: ice - units.Grams(melts)}
	if out.Ice <= 0 {
		out.Heat = units.Celsius((gives - melts*fusion) / (float64(out.Mass) * heatOfWater))
	}
	out.TDS = d.TDS * float64(d.Mass/out.Mass)
	return out
}
