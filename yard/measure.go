package yard

import (
	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/device"
)

// A Meter is a refractometer.
type Meter struct {
	Name      string
	Simulated bool
	// Read takes a reading of a brew's cup, TDS in %. taken is the number of earlier readings.
	Read func(b brew.Brew, taken int) (float64, error)
}

// Meter returns the first connected refractometer, a simulated one in a demo yard, or nil.
func (y *Yard) Meter() *Meter {
	if links := y.Bench.ByKind(gear.Refractometer); len(links) > 0 {
		l := links[0]
		return &Meter{l.Device.Name, l.Simulated(), func(brew.Brew, int) (float64, error) { return l.ReadTDS(y.Hub.Context()) }}
	}
	if !y.Demo {
		return nil
	}
	return &Meter{"stand-in", true, func(b brew.Brew, taken int) (float64, error) {
		strength := 1.35
		if b.Forecast != nil {
			strength = b.Forecast.Strength.Value
		}
		return device.NewRefractometerStandIn(b.ID, strength, taken).Read(), nil
	}}
}

// WeighedBySimulation reports whether the scale of a brew was simulated.
func (y *Yard) WeighedBySimulation(b brew.Brew) bool {
	scale := b.At(b.Ended).Scale
	link := y.Bench.Link(scale)
	return scale == SimulatedScale || link != nil && link.Simulated()
}
