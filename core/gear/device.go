package gear

import (
	"strings"

	"yardbloom/core/units"
)

// DeviceKind is what a device on the bench is.
type DeviceKind string

// The kinds of device.
const (
	Scale         DeviceKind = "scale"
	KettleDevice  DeviceKind = "kettle"
	Refractometer DeviceKind = "refractometer"
)

// DeviceKinds lists the kinds of device in the order in which they are offered.
func DeviceKinds() []DeviceKind { return []DeviceKind{Scale, KettleDevice, Refractometer} }

// A Device is something on the bench that the yard listens to.
type Device struct {
	ID      string     `db:"id"`
	Name    string     `db:"name"`
	Kind    DeviceKind `db:"kind"`
	Address string     `db:"address"` // tcp://HOST:PORT, ws://HOST:PORT/PATH or a stand-in's
	// Carafe is what the empty carafe weighs that stands on a scale, g; 0 where nobody said.
	Carafe units.Grams `db:"carafe"`
}

// StandInAddress is the prefix of the address of a simulated device inside the app.
const StandInAddress = "standin:"

// Simulated reports whether the device is a stand-in inside the app.
func (d Device) Simulated() bool { return strings.HasPrefix(d.Address, StandInAddress) }
