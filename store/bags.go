package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
)

// A Bag is a bag of coffee as it stands on the shelf.
type Bag struct {
	coffee.Bag
	Version int64       `db:"version"`
	Used    units.Grams `db:"used"` // by brews, with the grinder's loss, g
	Brews   int         `db:"brews"`
	Deleted bool        `db:"deleted"`
}

// Left is the coffee that is still in the bag, g.
func (b Bag) Left() units.Grams { return max(0, b.Weight-b.Used) }

const selectBags = `
	SELECT b.id, b.name, b.roaster, b.process, b.roast, b.altitude, b.roasted_on, b.opened_on, b.weight,
	       b.price, b.currency, b.notes, b.window_from, b.window_to, b.version, b.deleted_at IS NOT NULL AS deleted,
	       COALESCE(SUM(br.dose_used), 0.0) AS used, COUNT(br.id) AS brews
	FROM bags b LEFT JOIN brews br ON br.bag_id = b.id AND br.started_at IS NOT NULL`

// Bags returns the bags on the shelf, the latest roast first.
func (s *Store) Bags(ctx context.Context) ([]Bag, error) {
	var out []Bag
	err := s.read.SelectContext(ctx, &out, selectBags+` WHERE b.deleted_at IS NULL GROUP BY b.id ORDER BY b.roasted_on DESC, b.id DESC`)
	return out, err
}

// Bag returns one bag, also a deleted one.
func (s *Store) Bag(ctx context.Context, id int64) (Bag, error) { return bag(ctx, s.read, id) }

func bag(ctx context.Context, q sqlx.QueryerContext, id int64) (Bag, error) {
	var b Bag
	err := sqlx.GetContext(ctx, q, &b, selectBags+` WHERE b.id = ? GROUP BY b.id`, id)
	return b, notFound(err)
}

// AddBag keeps a new bag and returns its id.
func (s *Store) AddBag(ctx context.Context, b coffee.Bag) (int64, error) {
	res, err := s.write.NamedExecContext(ctx, `
		INSERT INTO bags (name, roaster, process, roast, altitude, roasted_on, opened_on, weight, price, currency, notes, window_from, window_to)
		VALUES (:name, :roaster, :process, :roast, :altitude, :roasted_on, :opened_on, :weight, :price, :currency, :notes, :window_from, :window_to)`, b)
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

// SaveBag keeps a changed bag. ErrConflict where it is no longer at that version.
func (s *Store) SaveBag(ctx context.Context, b Bag) error {
	res, err := s.write.NamedExecContext(ctx, `
		UPDATE bags SET name = :name, roaster = :roaster, process = :process, roast = :roast, altitude = :altitude,
			roasted_on = :roasted_on, opened_on = :opened_on, weight = :weight, price = :price, currency = :currency,
			notes = :notes, window_from = :window_from, window_to = :window_to, version = version + 1
		WHERE id = :id AND version = :version AND deleted_at IS NULL`, b)
	return oneRow(res, err, ErrConflict)
}

// DeleteBag takes a bag off the shelf. Its brews stay in the log.
func (s *Store) DeleteBag(ctx context.Context, id int64, now time.Time) error {
	res, err := s.write.ExecContext(ctx, `UPDATE bags SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL`, instant{now}, id)
	return oneRow(res, err, ErrNotFound)
}

// RestoreBag puts a deleted bag back onto the shelf.
func (s *Store) RestoreBag(ctx context.Context, id int64) error {
	res, err := s.write.ExecContext(ctx, `UPDATE bags SET deleted_at = NULL WHERE id = ?`, id)
	return oneRow(res, err, ErrNotFound)
}
