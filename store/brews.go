package store

import (
	"context"
	"database/sql"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// brewRow is a brew as its table holds it.
type brewRow struct {
	ID       int64                   `db:"id"`
	BagID    int64                   `db:"bag_id"`
	Parent   sql.NullInt64           `db:"parent_id"`
	Status   brew.Status             `db:"status"`
	Recipe   document[recipe.Recipe] `db:"recipe"`
	Plan     document[recipe.Plan]   `db:"plan"`
	Bag      document[coffee.Bag]    `db:"bag"`
	Gear     document[brew.Gear]     `db:"gear"`
	Asked    document[*brew.Asked]   `db:"asked"`
	Draft    document[brew.Draft]    `db:"draft"`
	Checked  document[[]string]      `db:"checked"`
	Cup      document[cup.Cup]       `db:"cup"`
	DoseUsed units.Grams             `db:"dose_used"`
	Created  instant                 `db:"created_at"`
	Started  instant                 `db:"started_at"`
	Ended    instant                 `db:"ended_at"`
	Zone     string                  `db:"zone"`
	Version  int64                   `db:"version"`
}

func rowOf(b brew.Brew) brewRow {
	return brewRow{
		ID: b.ID, BagID: b.BagID, Parent: sql.NullInt64{Int64: b.Parent, Valid: b.Parent != 0}, Status: b.Status,
		Recipe: document[recipe.Recipe]{b.Recipe}, Plan: document[recipe.Plan]{b.Plan}, Bag: document[coffee.Bag]{b.Bag},
		Gear: document[brew.Gear]{b.Gear}, Asked: document[*brew.Asked]{b.Asked}, Draft: document[brew.Draft]{b.Draft},
		Checked: document[[]string]{b.Checked}, Cup: document[cup.Cup]{b.Cup}, DoseUsed: b.Uses(),
		Created: instant{b.Created}, Started: instant{b.Started}, Ended: instant{b.Ended},
		Zone: b.Created.Format("-07:00"), Version: b.Version,
	}
}

func (r brewRow) brew() brew.Brew {
	return brew.Brew{
		ID: r.ID, BagID: r.BagID, Parent: r.Parent.Int64, Status: r.Status, Recipe: r.Recipe.V, Plan: r.Plan.V,
		Bag: r.Bag.V, Gear: r.Gear.V, Asked: r.Asked.V, Draft: r.Draft.V, Checked: r.Checked.V, Cup: r.Cup.V,
		Created: zoned(r.Created.Time, r.Zone), Started: zoned(r.Started.Time, r.Zone), Ended: zoned(r.Ended.Time, r.Zone),
		Version: r.Version,
	}
}

const brewColumns = `id, bag_id, parent_id, status, recipe, plan, bag, gear, asked, draft, checked, cup, dose_used, created_at, started_at, ended_at, zone, version`

const insertBrew = `
	INSERT INTO brews (bag_id, parent_id, status, recipe, plan, bag, gear, asked, draft, checked, cup, dose_used, created_at, started_at, ended_at, zone)
	VALUES (:bag_id, :parent_id, :status, :recipe, :plan, :bag, :gear, :asked, :draft, :checked, :cup, :dose_used, :created_at, :started_at, :ended_at, :zone)`

const updateBrew = `
	UPDATE brews SET status = :status, recipe = :recipe, plan = :plan, bag = :bag, gear = :gear, asked = :asked, draft = :draft, checked = :checked,
		cup = :cup, dose_used = :dose_used, started_at = :started_at, ended_at = :ended_at, parent_id = :parent_id, version = version + 1
	WHERE id = :id AND version = :version`

// PlanBrew keeps a new recipe in the making for a bag and returns its id. A bag
// has one at a time: an older one that was never poured is replaced.
func (s *Store) PlanBrew(ctx context.Context, b brew.Brew) (id int64, err error) {
	err = s.transact(ctx, func(tx *sqlx.Tx) error {
		on, err := bag(ctx, tx, b.BagID)
		if err != nil {
			return err
		}
		if on.Deleted {
			return ErrNotFound
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM brews WHERE bag_id = ? AND status = 'planned'`, b.BagID); err != nil {
			return err
		}
		id, err = insert(ctx, tx, b)
		return err
	})
	return id, err
}

func insert(ctx context.Context, tx *sqlx.Tx, b brew.Brew) (int64, error) {
	res, err := tx.NamedExecContext(ctx, insertBrew, rowOf(b))
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

// KeepBrew keeps a whole brew with its events as it is, for imports and demo data.
func (s *Store) KeepBrew(ctx context.Context, b brew.Brew) (id int64, err error) {
	err = s.transact(ctx, func(tx *sqlx.Tx) error {
		if id, err = insert(ctx, tx, b); err != nil {
			return err
		}
		for _, e := range b.Events {
			if err := insertEvent(ctx, tx, id, e); err != nil {
				return err
			}
		}
		return nil
	})
	return id, err
}

// Brew returns one brew with its events. While it is planned, its bag and gear
// are as they are now; once poured, as they were.
func (s *Store) Brew(ctx context.Context, id int64) (brew.Brew, error) {
	return loadBrew(ctx, s.read, id)
}

func loadBrew(ctx context.Context, q sqlx.QueryerContext, id int64) (brew.Brew, error) {
	var row brewRow
	if err := sqlx.GetContext(ctx, q, &row, `SELECT `+brewColumns+` FROM brews WHERE id = ?`, id); err != nil {
		return brew.Brew{}, notFound(err)
	}
	b := row.brew()
	if err := sqlx.SelectContext(ctx, q, &b.Events, `SELECT key, kind, mark, at FROM brew_events WHERE brew_id = ? ORDER BY at, id`, id); err != nil {
		return brew.Brew{}, err
	}
	if b.Status != brew.Planned {
		return b, nil
	}
	return refresh(ctx, q, b)
}

// refresh brings the bag and the gear of a planned brew up to date.
func refresh(ctx context.Context, q sqlx.QueryerContext, b brew.Brew) (brew.Brew, error) {
	on, err := bag(ctx, q, b.BagID)
	if err != nil {
		return b, err
	}
	b.Bag = on.Bag
	if b.Gear.Brewer, err = brewer(ctx, q, b.Gear.Brewer.ID); err != nil {
		return b, fmt.Errorf("brewer: %w", err)
	}
	if b.Gear.Grinder, err = grinders.one(ctx, q, b.Gear.Grinder.ID); err != nil {
		return b, fmt.Errorf("grinder: %w", err)
	}
	if b.Gear.Kettle, err = kettles.one(ctx, q, b.Gear.Kettle.ID); err != nil {
		return b, fmt.Errorf("kettle: %w", err)
	}
	return b, nil
}

// ChangeBrew changes one brew in a transaction: it reads the brew, lets change
// alter it, and keeps it where change returns no error. The new brew is returned.
func (s *Store) ChangeBrew(ctx context.Context, id int64, change func(*brew.Brew) error) (brew.Brew, error) {
	var out brew.Brew
	err := s.transact(ctx, func(tx *sqlx.Tx) error {
		b, err := loadBrew(ctx, tx, id)
		if err != nil {
			return err
		}
		if err := change(&b); err != nil {
			return err
		}
		if err := saveBrew(ctx, tx, b); err != nil {
			return err
		}
		out, err = loadBrew(ctx, tx, id)
		return err
	})
	return out, err
}

func saveBrew(ctx context.Context, tx *sqlx.Tx, b brew.Brew) error {
	res, err := tx.NamedExecContext(ctx, updateBrew, rowOf(b))
	return oneRow(res, err, ErrConflict)
}

// StartBrew begins the pouring: from here on bag, gear, recipe and plan stay as
// they are. The bag counts as opened. ErrStatus where it has begun already.
func (s *Store) StartBrew(ctx context.Context, id int64, boiling units.Celsius, now time.Time) error {
	return s.transact(ctx, func(tx *sqlx.Tx) error {
		b, err := loadBrew(ctx, tx, id)
		if err != nil {
			return err
		}
		on, err := bag(ctx, tx, b.BagID)
		if err != nil {
			return err
		}
		if b.Status != brew.Planned {
			return ErrStatus
		}
		if on.Deleted {
			return ErrNotFound
		}
		b.Gear.Boiling = boiling
		plan := forecast.Schedule(b, now)
		b.Status, b.Started = brew.Running, now
		b.Plan, b.Draft = plan, brew.Draft{Held: b.Draft.Held, Ratio: b.Draft.Ratio}
		if err := saveBrew(ctx, tx, b); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE bags SET opened_on = ? WHERE id = ? AND opened_on = ''`, now.Format(coffee.Day), b.BagID); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE settings SET brewer = ?, grinder = ?, kettle = ?`, b.Gear.Brewer.ID, b.Gear.Grinder.ID, b.Gear.Kettle.ID)
		return err
	})
}

// Touch keeps one touch of a running brew and returns the brew after it. The
// same key twice is kept once. A touch that ends the drawdown ends the pouring.
// ErrStatus where the brew is not running.
func (s *Store) Touch(ctx context.Context, id int64, e brew.Event, now time.Time) (brew.Brew, error) {
	var out brew.Brew
	err := s.transact(ctx, func(tx *sqlx.Tx) error {
		b, err := loadBrew(ctx, tx, id)
		if err != nil {
			return err
		}
		for _, kept := range b.Events {
			if kept.Key == e.Key {
				out = b
				return nil
			}
		}
		if b.Status != brew.Running {
			return ErrStatus
		}
		e.At = brew.When(e.At, b.Elapsed(now), b.Events)
		if err := insertEvent(ctx, tx, id, e); err != nil {
			return err
		}
		b.Events = append(b.Events, e)
		if state := b.At(now); state.Finished {
			b.Status = brew.Poured
			b.Cup.Drawdown = state.Drawdown
			b.Ended = b.Started.Add(time.Duration(float64(state.Drawdown) * float64(time.Second)))
		}
		if err := saveBrew(ctx, tx, b); err != nil {
			return err
		}
		b.Version++
		out = b
		return nil
	})
	return out, err
}

func insertEvent(ctx context.Context, tx *sqlx.Tx, id int64, e brew.Event) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO brew_events (brew_id, key, kind, mark, at) VALUES (?, ?, ?, ?, ?)`, id, e.Key, e.Kind, e.Mark, float64(e.At))
	return err
}
