package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// A table describes how a kind of gear is stored: its table and its columns in addition to id.
type table[T comparable] struct {
	name    string
	columns []string
}

var (
	brewers  = table[gear.Brewer]{"brewers", []string{"name", "kind", "material", "filter", "ribs", "outlets", "holds"}}
	grinders = table[gear.Grinder]{"grinders", []string{"name", "burrs", "dial_kind", "dial_zero", "dial_step", "dial_mark",
		"dial_per_turn", "loss", "zeroed"}}
	waters = table[water.Water]{"waters", []string{"name", "source", "hardness", "alkalinity", "calcium", "magnesium", "bicarbonate",
		"known"}}
	kettles = table[gear.Kettle]{"kettles", []string{"name", "thermostat", "capacity", "spout", "read_water", "read_first", "read_second",
		"read_apart"}}
)

func (t table[T]) selects() string {
	return fmt.Sprintf(`SELECT id, %s FROM %s`, strings.Join(t.columns, ", "), t.name)
}

func (t table[T]) all(ctx context.Context, q querier) ([]T, error) {
	var out []T
	err := q.all(ctx, &out, t.selects()+` WHERE deleted_at IS NULL ORDER BY added, id`)
	return out, err
}

func (t table[T]) one(ctx context.Context, q querier, id string) (T, error) {
	var out T
	err := q.get(ctx, &out, t.selects()+` WHERE id = ?`, id)
	return out, err
}

// put inserts a thing, or updates the one with its id.
func (t table[T]) put(ctx context.Context, x *tx, v T) error {
	var sets []string
	for _, c := range t.columns {
		sets = append(sets, c+" = excluded."+c)
	}
	_, err := x.put(ctx, fmt.Sprintf(`INSERT INTO %[1]s (id, %[2]s, added) VALUES (:id, :%[3]s, (SELECT COALESCE(MAX(added), 0) + 1 FROM %[1]s))
		ON CONFLICT (id) DO UPDATE SET %[4]s, version = version + 1`, t.name, strings.Join(t.columns, ", "), strings.Join(t.columns, ", :"),
		strings.Join(sets, ", ")), v)
	return err
}

// save calls put in a transaction. With a version it returns ErrConflict if the stored thing has another
// version.
func (t table[T]) save(ctx context.Context, s *Store, id string, version int64, v T) error {
	return s.transact(ctx, func(x *tx) error {
		if version != 0 {
			res, err := x.do(ctx, fmt.Sprintf(`UPDATE %s SET id = id WHERE id = ? AND version = ?`, t.name), id, version)
			if err := oneRow(res, err, ErrConflict); err != nil {
				return err
			}
		}
		return t.put(ctx, x, v)
	})
}

// A Thing is a piece of gear with its name.
type Thing struct {
	Kind string `db:"kind"` // brewers, grinders, kettles or waters
	ID   string `db:"id"`
	Name string `db:"name"`
}

// Things returns all listed gear.
func (s *Store) Things(ctx context.Context) ([]Thing, error) {
	var out []Thing
	err := s.read.all(ctx, &out, `
		SELECT kind, id, name FROM (
			SELECT 'brewers' AS kind, id, name, added FROM brewers WHERE deleted_at IS NULL UNION ALL
			SELECT 'grinders', id, name, added FROM grinders WHERE deleted_at IS NULL UNION ALL
			SELECT 'kettles', id, name, added FROM kettles WHERE deleted_at IS NULL UNION ALL
			SELECT 'waters', id, name, added FROM waters WHERE deleted_at IS NULL)
		ORDER BY kind, added, id`)
	return out, err
}

// Brewers returns the listed brewers, each with its learned retention.
func (s *Store) Brewers(ctx context.Context) ([]gear.Brewer, error) {
	all, err := brewers.all(ctx, s.read)
	for i := range all {
		if err == nil {
			all[i].Retained, err = retained(ctx, s.read, all[i].ID)
		}
	}
	return all, err
}

// Brewer returns one brewer with its learned retention.
func (s *Store) Brewer(ctx context.Context, id string) (gear.Brewer, error) {
	return brewer(ctx, s.read, id)
}

func brewer(ctx context.Context, q querier, id string) (gear.Brewer, error) {
	b, err := brewers.one(ctx, q, id)
	if err == nil {
		b.Retained, err = retained(ctx, q, id)
	}
	return b, err
}

const selectWeighed = `
	SELECT water, dose, beverage FROM brews WHERE brewer_id = ? AND status = 'done' AND beverage > 0 AND ` + visible + `
	ORDER BY started_at DESC LIMIT 40`

// retained estimates the retention of a brewer from its last weighed brews.
func retained(ctx context.Context, q querier, brewerID string) (float64, error) {
	var weighed []gear.Retention
	err := q.all(ctx, &weighed, selectWeighed, brewerID)
	return gear.LearnRetained(weighed), err
}

// Grinders returns the listed grinders.
func (s *Store) Grinders(ctx context.Context) ([]gear.Grinder, error) {
	return grinders.all(ctx, s.read)
}

// Grinder returns one grinder.
func (s *Store) Grinder(ctx context.Context, id string) (gear.Grinder, error) {
	return grinders.one(ctx, s.read, id)
}

// Kettles returns the listed kettles.
func (s *Store) Kettles(ctx context.Context) ([]gear.Kettle, error) { return kettles.all(ctx, s.read) }

// Kettle returns one kettle.
func (s *Store) Kettle(ctx context.Context, id string) (gear.Kettle, error) {
	return kettles.one(ctx, s.read, id)
}

// GearVersion returns the version of a piece of gear ("brewers", "grinders", "kettles", "waters" or "devices").
func (s *Store) GearVersion(ctx context.Context, kind, id string) (int64, error) {
	if !isGear(kind) {
		return 0, ErrNotFound
	}
	var version int64
	err := s.read.get(ctx, &version, fmt.Sprintf(`SELECT version FROM %s WHERE id = ?`, kind), id)
	return version, err
}

func isGear(kind string) bool {
	return kind == brewers.name || kind == grinders.name || kind == kettles.name || kind == waters.name || kind == devices.name
}

// Gear returns a set of gear by its ids, including retired things, with the boiling point of the yard.
// Without the id of a water or of a second kettle it has none.
func (s *Store) Gear(ctx context.Context, ids gear.IDs) (gear.Set, error) {
	return gearSet(ctx, s.read, ids)
}

func gearSet(ctx context.Context, q querier, ids gear.IDs) (g gear.Set, err error) {
	if g.Brewer, err = brewer(ctx, q, ids.Brewer); err != nil {
		return g, fmt.Errorf("brewer: %w", err)
	}
	if g.Grinder, err = grinders.one(ctx, q, ids.Grinder); err != nil {
		return g, fmt.Errorf("grinder: %w", err)
	}
	if g.Kettle, err = kettles.one(ctx, q, ids.Kettle); err != nil {
		return g, fmt.Errorf("kettle: %w", err)
	}
	if ids.Second != "" {
		if g.Second, err = kettles.one(ctx, q, ids.Second); err != nil {
			return g, fmt.Errorf("second kettle: %w", err)
		}
	}
	if ids.Water != "" {
		if g.Water, err = waters.one(ctx, q, ids.Water); err != nil {
			return g, fmt.Errorf("water: %w", err)
		}
	}
	g.Boiling, err = boiling(ctx, q)
	return g, err
}

// boiling returns the boiling point at the yard's altitude.
func boiling(ctx context.Context, q querier) (units.Celsius, error) {
	var altitude float64
	err := q.get(ctx, &altitude, `SELECT CAST(altitude AS REAL) FROM settings`)
	return gear.Boiling(altitude), err
}

// SaveBrewer adds a brewer or changes the one with its id. With a version other than 0 it returns
// ErrConflict if it was saved since.
func (s *Store) SaveBrewer(ctx context.Context, b gear.Brewer, version int64) error {
	b.ID = cmp.Or(b.ID, NewID())
	return brewers.save(ctx, s, b.ID, version, b)
}

// SaveGrinder adds a grinder or changes the one with its id. With a version other than 0 it returns
// ErrConflict if it was saved since.
func (s *Store) SaveGrinder(ctx context.Context, g gear.Grinder, version int64) error {
	g.ID = cmp.Or(g.ID, NewID())
	return grinders.save(ctx, s, g.ID, version, g)
}

// SaveKettle adds a kettle or changes the one with its id. With a version other than 0 it returns
// ErrConflict if it was saved since.
func (s *Store) SaveKettle(ctx context.Context, k gear.Kettle, version int64) error {
	k.ID = cmp.Or(k.ID, NewID())
	return kettles.save(ctx, s, k.ID, version, k)
}

// Waters returns the listed waters.
func (s *Store) Waters(ctx context.Context) ([]water.Water, error) { return waters.all(ctx, s.read) }

// Water returns one water.
func (s *Store) Water(ctx context.Context, id string) (water.Water, error) {
	return waters.one(ctx, s.read, id)
}

// SaveWater adds a water or changes the one with its id. With a version other than 0 it returns ErrConflict
// if it was saved since.
func (s *Store) SaveWater(ctx context.Context, w water.Water, version int64) error {
	w.ID = cmp.Or(w.ID, NewID())
	return waters.save(ctx, s, w.ID, version, w)
}

// ZeroGrinder records that a grinder was calibrated again: knowledge about its settings applies only to
// earlier brews.
func (s *Store) ZeroGrinder(ctx context.Context, id string) error {
	return s.change(ctx, `UPDATE grinders SET zeroed = zeroed + 1, version = version + 1 WHERE id = :id`, deletion{ID: id}, ErrNotFound)
}

// AddGear adds the gear of a new yard: all of it or none.
func (s *Store) AddGear(ctx context.Context, bs []gear.Brewer, gs []gear.Grinder, ks []gear.Kettle) error {
	return s.transact(ctx, func(x *tx) error {
		var errs []error
		for _, b := range bs {
			b.ID = cmp.Or(b.ID, NewID())
			errs = append(errs, brewers.put(ctx, x, b))
		}
		for _, g := range gs {
			g.ID = cmp.Or(g.ID, NewID())
			errs = append(errs, grinders.put(ctx, x, g))
		}
		for _, k := range ks {
			k.ID = cmp.Or(k.ID, NewID())
			errs = append(errs, kettles.put(ctx, x, k))
		}
		return errors.Join(errs...)
	})
}

// First is what a person said about their gear and their coffee in the first run of a yard.
type First struct {
	Brewer   gear.Brewer
	Grinder  gear.Grinder
	Kettle   gear.Kettle
	Bag      coffee.Bag
	Prefs    units.Prefs
	Altitude int  // m; 0: not asked, the yard keeps its own
	Spoons   bool // there is no scale
}

// AddFirst stores the answers of a first run in one transaction, and returns the ids of the gear and of the bag. Gear and a bag that the yard
// already has, since another screen answered or a yard was restored meanwhile, are used instead of added again.
func (s *Store) AddFirst(ctx context.Context, personID string, f First) (ids gear.IDs, bagID string, err error) {
	err = s.transact(ctx, func(t *tx) error {
		if ids.Brewer, err = brewers.reuse(ctx, t, f.Brewer, func(b gear.Brewer) (string, gear.Brewer) {
			return b.ID, gear.Brewer{Kind: b.Kind}
		}, func(id string) gear.Brewer { f.Brewer.ID = id; return f.Brewer }); err != nil {
			return err
		}
		if ids.Grinder, err = grinders.reuse(ctx, t, f.Grinder, func(g gear.Grinder) (string, gear.Grinder) {
			return g.ID, gear.Grinder{Burrs: g.Burrs, Dial: g.Dial}
		}, func(id string) gear.Grinder { f.Grinder.ID = id; return f.Grinder }); err != nil {
			return err
		}
		if ids.Kettle, err = kettles.reuse(ctx, t, f.Kettle, func(k gear.Kettle) (string, gear.Kettle) {
			return k.ID, gear.Kettle{Thermostat: k.Thermostat}
		}, func(id string) gear.Kettle { f.Kettle.ID = id; return f.Kettle }); err != nil {
			return err
		}
		err := t.get(ctx, &bagID, `SELECT id FROM bags WHERE deleted_at IS NULL AND name = ? AND roast = ? ORDER BY rowid DESC LIMIT 1`,
			f.Bag.Name, f.Bag.Roast)
		if errors.Is(err, ErrNotFound) {
			bagID = NewID()
			f.Bag.ID = bagID
			err = addBag(ctx, t, f.Bag)
		}
		if err != nil {
			return err
		}
		table, altitude := "settings", f.Altitude
		if personID != "" {
			table = "people"
		}
		if altitude == 0 {
			if err := t.get(ctx, &altitude, `SELECT altitude FROM settings`); err != nil {
				return err
			}
		}
		return errors.Join(saveUnits(ctx, t, table, personID, f.Prefs, altitude), saveSpoons(ctx, t, f.Spoons))
	})
	return ids, bagID, err
}

// reuse returns the id of listed gear that is alike, or else adds the thing under a new one. alike returns the id of a thing, and what has to
// be equal.
func (t table[T]) reuse(ctx context.Context, x *tx, v T, alike func(T) (string, T), with func(id string) T) (string, error) {
	all, err := t.all(ctx, x)
	if err != nil {
		return "", err
	}
	_, wanted := alike(v)
	for _, own := range all {
		if id, is := alike(own); is == wanted {
			return id, nil
		}
	}
	id := NewID()
	return id, t.put(ctx, x, with(id))
}

// RetireGear removes a piece of gear ("brewers", "grinders", "kettles", "waters" or "devices") from the
// lists, or restores it. Its brews keep it.
func (s *Store) RetireGear(ctx context.Context, kind, id string, retire bool, now time.Time) error {
	if !isGear(kind) {
		return ErrNotFound
	}
	return s.archiveRow(ctx, kind, id, retire, now)
}

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
