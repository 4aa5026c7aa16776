package store

import (
	"context"
	"fmt"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// A Bag is a bag of coffee with its stock.
type Bag struct {
	coffee.Bag
	Version int64       `db:"version"`
	Used    units.Grams `db:"used"` // since it was full or weighed: doses and grinder loss, g
	Brews   int         `db:"brews"`
	Deleted bool        `db:"deleted"`
	Counted units.Grams `db:"counted"` // contents when it was weighed, g
	// CountedAt is the time of weighing; zero if it was never weighed.
	CountedAt instant `db:"counted_at"`
}

// StockKnown reports whether the coffee left is known: the bag has a weight, or was weighed.
func (b Bag) StockKnown() bool { return b.Weight > 0 || !b.CountedAt.IsZero() }

// Left returns the coffee left in the bag, g: its contents when weighed, or full, minus the use since then.
func (b Bag) Left() units.Grams {
	if !b.CountedAt.IsZero() {
		return max(0, b.Counted-b.Used)
	}
	return max(0, b.Weight-b.Used)
}

const bagColumns = `b.id, b.name, b.roaster, b.process, b.roast, b.altitude, b.roasted_on, b.opened_on, b.weight,
	b.price, b.currency, b.notes, b.window_from, b.window_to, b.variety, b.density, b.when_fast, b.when_slow, b.frozen_on,
		b.frozen_days, b.origin,
	b.counted, b.counted_at, b.version, b.deleted_at IS NOT NULL AS deleted,
	(SELECT COALESCE(SUM(dose_used), 0.0) FROM brews WHERE bag_id = b.id AND started_at > COALESCE(b.counted_at, '') AND ` + visible + `) AS used,
	(SELECT COUNT(*) FROM brews WHERE bag_id = b.id AND ` + visible + `) AS brews`

// A Shelved bag is a bag with the additional data that the shelf shows.
type Shelved struct {
	Bag
	Draft string // id of the latest draft; empty for none
	Last  *LastBrew
}

// PerBrew returns the dose and the grinder retention of the last brew of the bag, or usual ones without a brew.
func (b Shelved) PerBrew() (dose, loss units.Grams) {
	const usual units.Grams = 18
	if b.Last == nil {
		return usual, 0
	}
	return b.Last.Dose, b.Last.Loss
}

// BrewsLeft returns the number of whole brews left in the bag.
func (b Shelved) BrewsLeft() int {
	dose, loss := b.PerBrew()
	return coffee.BrewsLeft(b.Left(), dose, loss)
}

// LastBrew is the last brew of a bag.
type LastBrew struct {
	Style    recipe.StyleID
	Dose     units.Grams
	Loss     units.Grams // of the grinder, g
	Steps    []recipe.Step
	Drawdown units.Seconds
	Started  time.Time
}

type shelvedRow struct {
	Bag
	Draft    reference             `db:"draft"`
	Style    reference             `db:"last_style"`
	Dose     units.Grams           `db:"last_dose"`
	DoseUsed units.Grams           `db:"last_used"`
	Plan     column[document.Plan] `db:"last_plan"`
	Drawdown units.Seconds         `db:"last_drawdown"`
	Started  instant               `db:"last_started"`
	Zone     string                `db:"last_zone"`
}

func (r shelvedRow) shelved() Shelved {
	out := Shelved{Bag: r.Bag, Draft: string(r.Draft)}
	if !r.Started.IsZero() {
		out.Last = &LastBrew{recipe.StyleID(r.Style), r.Dose, r.DoseUsed - r.Dose, r.Plan.V.Core().Steps, r.Drawdown,
			inZone(r.Started.Time, r.Zone)}
	}
	return out
}

const selectShelved = `
	SELECT ` + bagColumns + `,
	       (SELECT id FROM recipes WHERE bag_id = b.id AND name = '' AND deleted_at IS NULL ORDER BY changed_at DESC,
		id DESC LIMIT 1) AS draft,
	       l.style AS last_style, COALESCE(l.dose, 0.0) AS last_dose, COALESCE(l.dose_used, 0.0) AS last_used, COALESCE(l.plan,
		'{}') AS last_plan,
	       COALESCE(l.drawdown, 0.0) AS last_drawdown, l.started_at AS last_started, COALESCE(l.zone, '') AS last_zone
	FROM bags b LEFT JOIN brews l ON l.id = (SELECT id FROM brews WHERE bag_id = b.id AND ` + visible + ` ORDER BY started_at DESC, id DESC LIMIT 1)`

const selectShelf = selectShelved + `
	WHERE b.deleted_at IS NULL AND (b.roasted_on, b.id) < (?, ?)
	ORDER BY b.roasted_on DESC, b.id DESC LIMIT ?`

// Shelf returns up to limit bags of the shelf, the latest roast first, after the bag with the given roast
// date and id. Empty strings start at the first bag.
func (s *Store) Shelf(ctx context.Context, roastedOn, id string, limit int) ([]Shelved, error) {
	if id == "" {
		roastedOn, id = "~", "~" // sorts after every date
	}
	var rows []shelvedRow
	if err := s.read.all(ctx, &rows, selectShelf, roastedOn, id, limit); err != nil {
		return nil, err
	}
	out := make([]Shelved, len(rows))
	for i, r := range rows {
		out[i] = r.shelved()
	}
	return out, nil
}

// ShelvedBag returns one bag with the data of the shelf, even if it was deleted.
func (s *Store) ShelvedBag(ctx context.Context, id string) (Shelved, error) {
	var row shelvedRow
	err := s.read.get(ctx, &row, selectShelved+` WHERE b.id = ?`, id)
	return row.shelved(), err
}

// Bag returns one bag, even if it was deleted.
func (s *Store) Bag(ctx context.Context, id string) (Bag, error) { return bag(ctx, s.read, id) }

func bag(ctx context.Context, q querier, id string) (Bag, error) {
	var b Bag
	err := q.get(ctx, &b, `SELECT `+bagColumns+` FROM bags b WHERE b.id = ?`, id)
	return b, err
}

// AddBag stores a new bag under its id, or under a new one, and returns the id.
func (s *Store) AddBag(ctx context.Context, b coffee.Bag) (string, error) {
	if b.ID == "" {
		b.ID = NewID()
	}
	return b.ID, s.transact(ctx, func(t *tx) error { return addBag(ctx, t, b) })
}

func addBag(ctx context.Context, t *tx, b coffee.Bag) error {
	_, err := t.put(ctx, `
		INSERT INTO bags (id, name, roaster, process, roast, altitude, roasted_on, opened_on, weight, price, currency, notes,
			window_from, window_to, variety, density, when_fast, when_slow, frozen_on, frozen_days, origin)
		VALUES (:id, :name, :roaster, :process, :roast, :altitude, :roasted_on, :opened_on, :weight, :price, :currency, :notes,
			:window_from, :window_to, :variety, :density, :when_fast, :when_slow, :frozen_on, :frozen_days, :origin)`, b)
	return err
}

// SaveBag stores a changed bag. It returns ErrConflict if the version is outdated.
func (s *Store) SaveBag(ctx context.Context, b Bag) error {
	return s.change(ctx, `
		UPDATE bags SET name = :name, roaster = :roaster, process = :process, roast = :roast, altitude = :altitude,
			roasted_on = :roasted_on, opened_on = :opened_on, weight = :weight, price = :price, currency = :currency,
			notes = :notes, window_from = :window_from, window_to = :window_to, variety = :variety, density = :density,
			when_fast = :when_fast, when_slow = :when_slow, version = version + 1
		WHERE id = :id AND version = :version AND deleted_at IS NULL`, b, ErrConflict)
}

// CountBag stores the weighed contents of a bag.
func (s *Store) CountBag(ctx context.Context, id string, left units.Grams, now time.Time) error {
	return s.change(ctx, `UPDATE bags SET counted = :counted, counted_at = :counted_at, version = version + 1 WHERE id = :id AND
		deleted_at IS NULL`,
		Bag{Bag: coffee.Bag{ID: id}, Counted: left, CountedAt: instant{now}}, ErrNotFound)
}

// FreezePortion takes portion g out of a bag and stores them as a frozen bag of the same coffee, whose id
// it returns. The contents of both bags count as weighed.
func (s *Store) FreezePortion(ctx context.Context, id string, portion units.Grams, now time.Time) (frozen string, err error) {
	frozen = NewID()
	return frozen, s.transact(ctx, func(t *tx) error {
		b, err := bag(ctx, t, id)
		if err != nil {
			return err
		}
		if b.Deleted {
			return ErrNotFound
		}
		p := b.Bag.Freeze(now)
		p.ID, p.Origin, p.Weight, p.Price, p.OpenedOn = frozen, b.CoffeeID(), portion, b.Cost(portion), ""
		if err := addBag(ctx, t, p); err != nil {
			return err
		}
		_, err = t.put(ctx, `UPDATE bags SET counted = :counted, counted_at = :counted_at, version = version + 1 WHERE id = :id`,
			Bag{Bag: b.Bag, Counted: max(0, b.Left()-portion), CountedAt: instant{now}})
		return err
	})
}

// ThawBag takes a frozen bag out of the freezer.
func (s *Store) ThawBag(ctx context.Context, id string, now time.Time) error {
	return s.transact(ctx, func(t *tx) error {
		b, err := bag(ctx, t, id)
		if err != nil {
			return err
		}
		_, err = t.put(ctx, `UPDATE bags SET frozen_on = :frozen_on, frozen_days = :frozen_days, version = version + 1 WHERE id = :id`,
			Bag{Bag: b.Bag.Thaw(now)})
		return err
	})
}

type deletion struct {
	ID string  `db:"id"`
	At instant `db:"at"`
}

// archiveRow archives a row of a table, or restores it. It returns ErrNotFound if there is none.
func (s *Store) archiveRow(ctx context.Context, table, id string, aside bool, now time.Time) error {
	at := instant{}
	if aside {
		at.Time = now
	}
	return s.change(ctx, fmt.Sprintf(`UPDATE %s SET deleted_at = :at WHERE id = :id`, table), deletion{id, at}, ErrNotFound)
}

// DeleteBag removes a bag from the shelf. Its brews stay in the log.
func (s *Store) DeleteBag(ctx context.Context, id string, now time.Time) error {
	return s.change(ctx, `UPDATE bags SET deleted_at = :at WHERE id = :id AND deleted_at IS NULL`, deletion{id, instant{now}}, ErrNotFound)
}

// RestoreBag restores a deleted bag.
func (s *Store) RestoreBag(ctx context.Context, id string) error {
	return s.change(ctx, `UPDATE bags SET deleted_at = NULL WHERE id = :id`, deletion{ID: id}, ErrNotFound)
}

// A BagUse is the coffee that brews took from a bag.
type BagUse struct {
	Used   units.Grams `db:"used"`
	Wasted units.Grams `db:"wasted"` // grinder retention, purges, and the doses of stopped brews
	Brews  int         `db:"brews"`  // that were not stopped
}

// BagUse returns the coffee that brews took from a bag.
func (s *Store) BagUse(ctx context.Context, bagID string) (out BagUse, err error) {
	err = s.read.get(ctx, &out, `SELECT COALESCE(SUM(dose_used), 0.0) AS used, COUNT(*) FILTER (WHERE status <> 'abandoned') AS brews,
		COALESCE(SUM(CASE status WHEN 'abandoned' THEN dose_used ELSE dose_used - dose END), 0.0) AS wasted FROM brews WHERE bag_id = ? AND `+visible, bagID)
	return out, err
}
