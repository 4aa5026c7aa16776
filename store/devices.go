package store

import (
	"cmp"
	"context"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

var devices = table[gear.Device]{"devices", []string{"name", "kind", "address", "carafe"}}

// Devices returns all devices.
func (s *Store) Devices(ctx context.Context) ([]gear.Device, error) { return devices.all(ctx, s.read) }

// Device returns one device.
func (s *Store) Device(ctx context.Context, id string) (gear.Device, error) {
	return devices.one(ctx, s.read, id)
}

// SaveDevice adds a device or changes the one with its id. With a version other than 0 it returns
// ErrConflict if it was saved since.
func (s *Store) SaveDevice(ctx context.Context, d gear.Device, version int64) error {
	d.ID = cmp.Or(d.ID, NewID())
	return devices.save(ctx, s, d.ID, version, d)
}

// SaveCarafe stores the weight of the empty carafe on a scale.
func (s *Store) SaveCarafe(ctx context.Context, scaleID string, carafe units.Grams) error {
	return s.change(ctx, `UPDATE devices SET carafe = :carafe, version = version + 1 WHERE id = :id`,
		gear.Device{ID: scaleID, Carafe: carafe}, nil)
}
