package gear

import (
	"strings"

	"yardbloom/core/units"
)

// DeviceKind is a kind of device.
type DeviceKind string

// The kinds of device.
const (
	Scale         DeviceKind = "scale"
	KettleDevice  DeviceKind = "kettle"
	Refractometer DeviceKind = "refractometer"
)

// DeviceKinds lists the kinds of device in the order in which they are offered.
func DeviceKinds() []DeviceKind { return []DeviceKind{Scale, KettleDevice, Refractometer} }

// A Device is a connected device.
type Device struct {
	ID      string     `db:"id"`
	Name    string     `db:"name"`
	Kind    DeviceKind `db:"kind"`
	Address string     `db:"address"` // tcp://HOST:PORT, ws://HOST:PORT/PATH or the address of a stand-in
	// Carafe is the weight of the empty carafe on a scale, g; 0 if unknown.
	Carafe units.Grams `db:"carafe"`
}

// StandInAddress is the prefix of the address of a simulated device inside the app.
const StandInAddress = "standin:"

// Simulated reports whether the device is a stand-in inside the app.
func (d Device) Simulated() bool { return strings.HasPrefix(d.Address, StandInAddress) }
