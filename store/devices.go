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

// A Claim assigns a scale to a draft or a brew. Drafts and brews share their ids.
type Claim struct {
	ScaleID string `db:"scale_id"`
	BrewID  string `db:"brew_id"`
}

// Claims returns the claims of all scales.
func (s *Store) Claims(ctx context.Context) (out []Claim, err error) {
	err = s.read.all(ctx, &out, `SELECT scale_id, brew_id FROM claims`)
	return out, err
}

// ClaimScale replaces the claims of a scale and of a brew by a new one. An unknown scale is an ErrNotFound.
func (s *Store) ClaimScale(ctx context.Context, c Claim) error {
	return s.transact(ctx, func(t *tx) error {
		if _, err := t.put(ctx, `DELETE FROM claims WHERE scale_id = :scale_id OR brew_id = :brew_id`, c); err != nil {
			return err
		}
		res, err := t.put(ctx, `INSERT INTO claims (scale_id, brew_id) SELECT id, :brew_id FROM devices WHERE id = :scale_id AND deleted_at IS NULL`, c)
		return oneRow(res, err, ErrNotFound)
	})
}

// ReleaseScale removes the claim of a brew, if any.
func (s *Store) ReleaseScale(ctx context.Context, brewID string) error {
	return s.change(ctx, `DELETE FROM claims WHERE brew_id = :brew_id`, Claim{BrewID: brewID}, nil)
}

// An Armed is a scale that waits for the first water of a draft.
type Armed struct {
	Scale   string `json:"scale"` // its name
	Address string `json:"address"`
	BrewID  string `json:"brew"`
	Coffee  string `json:"coffee"`
}

// Title returns the name of the scale, marked if it is simulated.
func (a Armed) Title() string {
	if (gear.Device{Address: a.Address}).Simulated() {
		return a.Scale + " (simulated)"
	}
	return a.Scale
}

// selectArmed is the part of selectSettings that returns the armed scales. CROSS JOIN keeps SQLite from beginning with a scan of
// the recipes.
const selectArmed = `SELECT json_group_array(json_object('scale', d.name, 'address', d.address, 'brew', c.brew_id, 'coffee', b.name)) FROM claims c
	CROSS JOIN recipes w ON w.id = c.brew_id AND w.deleted_at IS NULL
	CROSS JOIN devices d ON d.id = c.scale_id CROSS JOIN bags b ON b.id = w.bag_id`
