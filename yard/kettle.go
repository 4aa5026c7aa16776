package yard

import (
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/device"
)

// KettleState returns the state of the first kettle that reports its temperature, and the kettle;
// nil for none.
func (y *Yard) KettleState() (device.State, *device.Link) {
	for _, l := range y.Bench.ByKind(gear.KettleDevice) {
		if st := l.State(); st.Connected && !st.Silent {
			return st, l
		}
	}
	return device.State{}, nil
}

// HeatTo sets all kettles to a temperature.
func (y *Yard) HeatTo(t units.Celsius) {
	for _, l := range y.Bench.ByKind(gear.KettleDevice) {
		l.Heat(t)
	}
}

// followWithKettle sets a kettle from the temperature of one pour to that of the next. It leaves a kettle
// alone that was set to another temperature by hand.
func (y *Yard) followWithKettle(was, next units.Celsius) {
	const tolerance = 1 // °C
	for _, l := range y.Bench.ByKind(gear.KettleDevice) {
		if set := l.State().Set; set > 0 && set > was-tolerance && set < was+tolerance {
			l.Heat(next)
		}
	}
}
