package store

import (
	"context"
	"database/sql"
	_ "embed"
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"github.com/jmoiron/sqlx"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

var (
	//go:embed migrations/split/tables.sql
	splitTables string
	//go:embed migrations/split/finish.sql
	splitFinish string
)

// oldBrew is a brew as versions 1 and 2 kept it, from its recipe to its cup.
type oldBrew struct {
	ID      int64          `db:"id"`
	BagID   int64          `db:"bag_id"`
	Parent  sql.NullInt64  `db:"parent_id"`
	Status  string         `db:"status"`
	Recipe  string         `db:"recipe"`
	Plan    string         `db:"plan"`
	Bag     string         `db:"bag"`
	Gear    string         `db:"gear"`
	Asked   string         `db:"asked"`
	Draft   string         `db:"draft"`
	Checked string         `db:"checked"`
	Cup     string         `db:"cup"`
	Used    units.Grams    `db:"dose_used"`
	Created instant        `db:"created_at"`
	Started instant        `db:"started_at"`
	Ended   instant        `db:"ended_at"`
	Zone    string         `db:"zone"`
	Version int64          `db:"version"`
	parsed  document.Brew2 `db:"-"`
}

// splitRecord is migration 3: one record from recipe to cup becomes a recipe in
// the making or a brew, in documents of their own. What the older versions did not
// keep, the forecast and the advice, is worked out once, here, and stands from now on.
func splitRecord(ctx context.Context, raw *sql.Tx) error {
	if _, err := raw.ExecContext(ctx, splitTables); err != nil {
		return fmt.Errorf("new tables: %w", err)
	}
	t := migration{ctx, &sqlx.Tx{Tx: raw, Mapper: sqlx.NewDb(nil, "sqlite").Mapper}}
	var set Settings
	if err := t.GetContext(ctx, &set, `SELECT ounces, fahrenheit, altitude, brewer, grinder, kettle, password FROM settings`); err != nil {
		return err
	}
	var old []oldBrew
	if err := t.SelectContext(ctx, &old, `SELECT id, bag_id, parent_id, status, recipe, plan, bag, gear, asked, draft, checked, cup, dose_used, created_at, started_at, ended_at, zone, version FROM old_brews ORDER BY id`); err != nil {
		return err
	}
	begun := map[int64]bool{}
	for _, o := range old {
		begun[o.ID] = o.Status != "planned"
	}
	for pass := range 2 { // brews first: a recipe may follow on one
		for i := range old {
			o := &old[i]
			if begun[o.ID] == (pass == 1) {
				continue
			}
			if o.Parent.Valid && !begun[o.Parent.Int64] {
				o.Parent.Valid = false // it followed on a recipe that was never poured
			}
			if err := t.convert(o, set); err != nil {
				return fmt.Errorf("brew %d: %w", o.ID, err)
			}
		}
	}
	if _, err := raw.ExecContext(ctx, splitFinish); err != nil {
		return fmt.Errorf("old tables: %w", err)
	}
	return nil
}

// A migration writes what the older tables held into the newer ones.
type migration struct {
	ctx context.Context
	*sqlx.Tx
}

func (t migration) convert(o *oldBrew, set Settings) error {
	for _, part := range []struct {
		text string
		into any
	}{{o.Recipe, &o.parsed.Recipe}, {o.Plan, &o.parsed.Plan}, {o.Bag, &o.parsed.Bag}, {o.Gear, &o.parsed.Gear}, {o.Asked, &o.parsed.Asked}, {o.Draft, &o.parsed.Draft}, {o.Checked, &o.parsed.Checked}, {o.Cup, &o.parsed.Cup}} {
		if err := json.Unmarshal([]byte(part.text), part.into); err != nil {
			return err
		}
	}
	sheet := o.parsed.Sheet()
	sheet.ID, sheet.BagID, sheet.Created = strconv.FormatInt(o.ID, 10), strconv.FormatInt(o.BagID, 10), zoned(o.Created.Time, o.Zone)
	if o.Parent.Valid {
		sheet.Parent = strconv.FormatInt(o.Parent.Int64, 10)
	}
	if o.Status == "planned" {
		return t.draft(o, sheet)
	}
	return t.brew(o, sheet, set)
}

func (t migration) draft(o *oldBrew, sheet brew.Sheet) error {
	d := o.parsed.Draft2(sheet)
	row := draftRowOf(d, o.Created.Time)
	row.Version = o.Version
	_, err := t.NamedExecContext(t.ctx, `
		INSERT INTO recipes (id, bag_id, parent_id, name, brewer_id, grinder_id, kettle_id, recipe, asked, draft, created_at, changed_at, zone, version)
		VALUES (:id, :bag_id, :parent_id, :name, :brewer_id, :grinder_id, :kettle_id, :recipe, :asked, :draft, :created_at, :changed_at, :zone, :version)`, row)
	return err
}

func (t migration) brew(o *oldBrew, sheet brew.Sheet, set Settings) error {
	started := zoned(o.Started.Time, o.Zone)
	if started.IsZero() {
		started = sheet.Created
	}
	b := brew.Brew{Sheet: sheet, Status: brew.Status(o.Status), Plan: o.parsed.Plan.Core(), Cup: o.parsed.Cup.Core(), Started: started, Ended: zoned(o.Ended.Time, o.Zone), Version: o.Version}
	if len(b.Plan.Steps) == 0 {
		b.Plan = b.Recipe.Plan()
	}
	b.Events = []brew.Event{{Key: "start", Kind: brew.Start, Instant: started}}
	var touches []eventRow
	if err := t.SelectContext(t.ctx, &touches, `SELECT key, kind, mark, at FROM old_brew_events WHERE brew_id = ? ORDER BY at, id`, o.ID); err != nil {
		return err
	}
	for _, e := range touches {
		b.Events = append(b.Events, brew.Event{Key: e.Key, Kind: e.Kind, Mark: e.Mark, At: e.At})
	}
	if b.Status == brew.Abandoned && !b.Ended.IsZero() {
		b.Events = append(b.Events, brew.Event{Key: "abandon", Kind: brew.Abandon, At: units.Seconds(b.Ended.Sub(started) / time.Second)})
	}
	if f, err := forecast.Of(b.Question(started)); err == nil {
		figures := f.Figures()
		b.Forecast = &figures
	}
	if b.Status == brew.Done {
		advice := coach.Advise(b.Case(coach.Person{Prefs: set.Prefs()}))
		b.Advice = &advice
	}
	row := brewRowOf(b)
	row.DoseUsed = o.Used
	if _, err := t.NamedExecContext(t.ctx, insertBrewRow, row); err != nil {
		return err
	}
	if _, err := t.ExecContext(t.ctx, `UPDATE brews SET version = ? WHERE id = ?`, b.Version, b.ID); err != nil {
		return err
	}
	for n, e := range b.Events {
		const insert = `INSERT INTO brew_events (brew_id, n, key, kind, at, instant, mark, grams) VALUES (:brew_id, :n, :key, :kind, :at, :instant, :mark, :grams)`
		if _, err := t.NamedExecContext(t.ctx, insert, eventRowOf(e, b.ID, n)); err != nil {
			return err
		}
	}
	return nil
}
