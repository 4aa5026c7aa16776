package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"yardbloom/core/gear"
)

// A table describes where a kind of gear is kept.
type table[T any] struct {
	name    string
	columns string
	insert  string // named parameters in the order of the columns
	update  string
}

var (
	brewers  = table[gear.Brewer]{"brewers", "name, kind, material, filter, holds", ":name, :kind, :material, :filter, :holds", "name = :name, kind = :kind, material = :material, filter = :filter, holds = :holds"}
	grinders = table[gear.Grinder]{"grinders", "name, burrs, dial_kind, dial_zero, dial_step, dial_mark, dial_per_turn, loss", ":name, :burrs, :dial_kind, :dial_zero, :dial_step, :dial_mark, :dial_per_turn, :loss",
		"name = :name, burrs = :burrs, dial_kind = :dial_kind, dial_zero = :dial_zero, dial_step = :dial_step, dial_mark = :dial_mark, dial_per_turn = :dial_per_turn, loss = :loss"}
	kettles = table[gear.Kettle]{"kettles", "name, thermostat, capacity, spout, read_water, read_first, read_second, read_apart",
		":name, :thermostat, :capacity, :spout, :read_water, :read_first, :read_second, :read_apart",
		"name = :name, thermostat = :thermostat, capacity = :capacity, spout = :spout, read_water = :read_water, read_first = :read_first, read_second = :read_second, read_apart = :read_apart"}
)

func (t table[T]) all(ctx context.Context, q sqlx.QueryerContext) ([]T, error) {
	var out []T
	err := sqlx.SelectContext(ctx, q, &out, fmt.Sprintf(`SELECT id, %s FROM %s WHERE deleted_at IS NULL ORDER BY id`, t.columns, t.name))
	return out, err
}

func (t table[T]) one(ctx context.Context, q sqlx.QueryerContext, id int64) (T, error) {
	var out T
	err := sqlx.GetContext(ctx, q, &out, fmt.Sprintf(`SELECT id, %s FROM %s WHERE id = ?`, t.columns, t.name), id)
	return out, notFound(err)
}

// save adds a thing without an id, or changes the one that has it.
func (t table[T]) save(ctx context.Context, db *sqlx.DB, id int64, v T) error {
	if id == 0 {
		_, err := db.NamedExecContext(ctx, fmt.Sprintf(`INSERT INTO %s (%s) VALUES (%s)`, t.name, t.columns, t.insert), v)
		return err
	}
	res, err := db.NamedExecContext(ctx, fmt.Sprintf(`UPDATE %s SET %s, version = version + 1 WHERE id = :id AND deleted_at IS NULL`, t.name, t.update), v)
	return oneRow(res, err, ErrNotFound)
}

// Brewers returns the brewers that are owned, with the retained water that each has taught.
func (s *Store) Brewers(ctx context.Context) ([]gear.Brewer, error) {
	all, err := brewers.all(ctx, s.read)
	for i := range all {
		if err == nil {
			all[i].Retained, err = retained(ctx, s.read, all[i])
		}
	}
	return all, err
}

// Brewer returns one brewer, with the retained water that it has taught.
func (s *Store) Brewer(ctx context.Context, id int64) (gear.Brewer, error) {
	return brewer(ctx, s.read, id)
}

func brewer(ctx context.Context, q sqlx.QueryerContext, id int64) (gear.Brewer, error) {
	b, err := brewers.one(ctx, q, id)
	if err == nil {
		b.Retained, err = retained(ctx, q, b)
	}
	return b, err
}

// retained learns the liquid that a brewer leaves in the grounds from its weighed brews.
func retained(ctx context.Context, q sqlx.QueryerContext, b gear.Brewer) (float64, error) {
	var weighed []gear.Retention
	err := sqlx.SelectContext(ctx, q, &weighed, `
		SELECT json_extract(recipe, '$.water') AS water, json_extract(recipe, '$.dose') AS dose, json_extract(cup, '$.beverage') AS beverage
		FROM brews WHERE status = 'done' AND json_extract(gear, '$.brewer.id') = ? AND json_extract(cup, '$.beverage') > 0
		ORDER BY started_at DESC LIMIT 40`, b.ID)
	return gear.LearnRetained(weighed), err
}

// Grinders returns the grinders that are owned.
func (s *Store) Grinders(ctx context.Context) ([]gear.Grinder, error) {
	return grinders.all(ctx, s.read)
}

// Grinder returns one grinder.
func (s *Store) Grinder(ctx context.Context, id int64) (gear.Grinder, error) {
	return grinders.one(ctx, s.read, id)
}

// Kettles returns the kettles that are owned.
func (s *Store) Kettles(ctx context.Context) ([]gear.Kettle, error) { return kettles.all(ctx, s.read) }

// Kettle returns one kettle.
func (s *Store) Kettle(ctx context.Context, id int64) (gear.Kettle, error) {
	return kettles.one(ctx, s.read, id)
}

// SaveBrewer adds a brewer without an id or changes one.
func (s *Store) SaveBrewer(ctx context.Context, b gear.Brewer) error {
	return brewers.save(ctx, s.write, b.ID, b)
}

// SaveGrinder adds a grinder without an id or changes one.
func (s *Store) SaveGrinder(ctx context.Context, g gear.Grinder) error {
	return grinders.save(ctx, s.write, g.ID, g)
}

// SaveKettle adds a kettle without an id or changes one.
func (s *Store) SaveKettle(ctx context.Context, k gear.Kettle) error {
	return kettles.save(ctx, s.write, k.ID, k)
}

// AddGear adds a set of gear, as a new yard begins with.
func (s *Store) AddGear(ctx context.Context, brewers []gear.Brewer, grinders []gear.Grinder, kettles []gear.Kettle) error {
	var errs []error
	for _, b := range brewers {
		errs = append(errs, s.SaveBrewer(ctx, b))
	}
	for _, g := range grinders {
		errs = append(errs, s.SaveGrinder(ctx, g))
	}
	for _, k := range kettles {
		errs = append(errs, s.SaveKettle(ctx, k))
	}
	return errors.Join(errs...)
}

// RetireGear takes a piece of gear ("brewers", "grinders" or "kettles") out of
// the lists, or puts it back. Brews made with it keep it.
func (s *Store) RetireGear(ctx context.Context, kind string, id int64, retire bool, now time.Time) error {
	switch kind {
	case brewers.name, grinders.name, kettles.name:
	default:
		return ErrNotFound
	}
	at := instant{}
	if retire {
		at.Time = now
	}
	res, err := s.write.ExecContext(ctx, fmt.Sprintf(`UPDATE %s SET deleted_at = ? WHERE id = ?`, kind), at, id)
	return oneRow(res, err, ErrNotFound)
}
