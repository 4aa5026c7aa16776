package gear

import "yardbloom/core/units"

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
	Address string     `db:"address"` // tcp://HOST:PORT or ws://HOST:PORT/PATH
	// Carafe is what the empty carafe weighs that stands on a scale, g; 0 where nobody said.
	Carafe units.Grams `db:"carafe"`
}
