package store

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// brewRow is a row of the table of brews: columns for lists and filters, documents for the rest.
type brewRow struct {
	ID          string        `db:"id"`
	BagID       string        `db:"bag_id"`
	Parent      reference     `db:"parent_id"`
	Status      brew.Status   `db:"status"`
	BagName     string        `db:"bag_name"`
	Style       string        `db:"style"`
	BrewerID    string        `db:"brewer_id"`
	BrewerName  string        `db:"brewer_name"`
	Setting     string        `db:"setting"`
	Dose        units.Grams   `db:"dose"`
	Water       units.Grams   `db:"water"`
	Temperature units.Celsius `db:"temperature"`
	DoseUsed    units.Grams   `db:"dose_used"`
	mutableBrew

	Recipe   column[document.Recipe]    `db:"recipe"`
	Coffee   column[document.Bag]       `db:"coffee"`
	Gear     column[document.Gear]      `db:"gear"`
	Plan     column[document.Plan]      `db:"plan"`
	Forecast column[*document.Forecast] `db:"forecast"`
	Asked    column[*document.Proposal] `db:"asked"`
	Created  instant                    `db:"created_at"`
	Started  instant                    `db:"started_at"`
	Zone     string                     `db:"zone"`
	BrewedBy reference                  `db:"brewed_by"`
	Tastings column[[]tasting]          `db:"tastings"`
}

// mutableBrew holds the parts of a brew that change after its start.
type mutableBrew struct {
	Drawdown   units.Seconds        `db:"drawdown"`
	Beverage   units.Grams          `db:"beverage"`
	TDS        float64              `db:"tds"`
	Yield      float64              `db:"yield"`
	YieldError float64              `db:"yield_error"`
	Cup        column[document.Cup] `db:"cup"`
	Ended      instant              `db:"ended_at"`
	MeasuredBy reference            `db:"measured_by"`
	Version    int64                `db:"version"`
}

func brewRowOf(b brew.Brew) brewRow {
	row := brewRow{
		ID: b.ID, BagID: b.BagID, Parent: reference(b.Parent), Status: b.Status,
		BagName: b.Bag.Name, Style: string(b.Recipe.Style), BrewerID: b.Gear.Brewer.ID, BrewerName: b.Gear.Brewer.Name,
		Setting: b.Gear.Grinder.Setting(b.Recipe.Grind),
		Dose:    b.Recipe.Dose, Water: b.Recipe.Total(), Temperature: b.Recipe.Temperature(), DoseUsed: b.Uses(),
		Recipe: column[document.Recipe]{document.OfRecipe(b.Recipe)}, Coffee: column[document.Bag]{document.OfBag(b.Bag)},
		Gear: column[document.Gear]{document.OfGear(b.Gear)},
		Plan: column[document.Plan]{document.OfPlan(b.Plan)}, Forecast: column[*document.Forecast]{document.OfForecast(b.Forecast)},
		Asked:   column[*document.Proposal]{document.OfProposal(b.Advised)},
		Created: instant{b.Created}, Started: instant{b.Started}, Zone: zoneOf(b.Started),
		mutableBrew: mutableBrew{Drawdown: b.Cup.Drawdown, Beverage: b.Cup.Beverage, TDS: b.Cup.TDS,
			Cup:   column[document.Cup]{document.OfCup(b.Cup.Shared())},
			Ended: instant{b.Ended}, MeasuredBy: reference(b.MeasuredBy), Version: b.Version},
		BrewedBy: reference(b.BrewedBy),
	}
	if y, ok := b.Yield(); ok {
		row.Yield, row.YieldError = y.Value, y.Error
	}
	return row
}

func (r brewRow) brew() brew.Brew {
	b := brew.Brew{Status: r.Status, Plan: r.Plan.V.Core(), Forecast: r.Forecast.V.Core(), Cup: r.Cup.V.Core(), BrewedBy: string(r.BrewedBy),
		MeasuredBy: string(r.MeasuredBy), Started: inZone(r.Started.Time, r.Zone), Ended: inZone(r.Ended.Time, r.Zone), Version: r.Version}
	b.ID, b.BagID, b.Parent, b.Created = r.ID, r.BagID, string(r.Parent), inZone(r.Created.Time, r.Zone)
	b.Recipe, b.Bag, b.Gear, b.Advised = r.Recipe.V.Core(), r.Coffee.V.Core(), r.Gear.V.Core(), r.Asked.V.Core()
	return withTastings(b, r.Tastings.V)
}

const brewColumns = `id, bag_id, parent_id, status, bag_name, style, brewer_id, brewer_name, setting, dose, water, temperature, dose_used,
	drawdown, beverage, tds, yield, yield_error, cup, ended_at, measured_by, version,
	recipe, coffee, gear, plan, forecast, asked, created_at, started_at, zone, brewed_by, ` + tastingsColumn

const insertBrewRow = `
	INSERT INTO brews (id, bag_id, parent_id, status, bag_name, style, brewer_id, brewer_name, setting, dose, water, temperature, dose_used,
		drawdown, beverage, tds, yield, yield_error, cup, ended_at, measured_by,
		recipe, coffee, gear, plan, forecast, asked, created_at, started_at, zone, brewed_by)
	VALUES (:id, :bag_id, :parent_id, :status, :bag_name, :style, :brewer_id, :brewer_name, :setting, :dose, :water, :temperature,
		:dose_used,
		:drawdown, :beverage, :tds, :yield, :yield_error, :cup, :ended_at,
		(SELECT id FROM people WHERE id = :measured_by),
		:recipe, :coffee, :gear, :plan, :forecast, :asked, :created_at, :started_at, :zone,
		(SELECT id FROM people WHERE id = :brewed_by))`

func insertBrew(ctx context.Context, t *tx, b brew.Brew) error {
	if _, err := t.put(ctx, insertBrewRow, brewRowOf(b)); err != nil {
		return err
	}
	if err := putTastings(ctx, t, b.ID, b.Tastings); err != nil {
		return err
	}
	return insertEvents(ctx, t, b, 0)
}

// markUsed marks the bag of a new brew as opened, and its gear as last used.
func markUsed(ctx context.Context, t *tx, b brew.Brew) error {
	if _, err := t.do(ctx, `UPDATE bags SET opened_on = ? WHERE id = ? AND opened_on = ''`, b.Started.Format(coffee.Day),
		b.BagID); err != nil {
		return err
	}
	_, err := t.do(ctx, `UPDATE settings SET brewer = ?, grinder = ?, kettle = ?, water = ?`, b.Gear.Brewer.ID, b.Gear.Grinder.ID,
		b.Gear.Kettle.ID, b.Gear.Water.ID)
	return err
}

// AddBrews stores whole brews with their events unchanged, for imports and generated histories: all of them or
// none.
func (s *Store) AddBrews(ctx context.Context, brews ...brew.Brew) error {
	return s.transact(ctx, func(t *tx) error {
		for _, b := range brews {
			if err := insertBrew(ctx, t, b); err != nil {
				return err
			}
		}
		return nil
	})
}

// Brew returns one brew with its events.
func (s *Store) Brew(ctx context.Context, id string) (brew.Brew, error) {
	return loadBrew(ctx, s.read, id)
}

func loadBrew(ctx context.Context, q querier, id string) (brew.Brew, error) {
	var row brewRow
	if err := q.get(ctx, &row, `SELECT `+brewColumns+` FROM brews WHERE id = ?`, id); err != nil {
		return brew.Brew{}, err
	}
	one := []brew.Brew{row.brew()}
	err := addEvents(ctx, q, one)
	return one[0], err
}

// Change applies a step to a brew: it loads the brew, calls apply and stores the result, in one
// transaction. The brew's recipe, gear and coffee never change.
func (s *Store) Change(ctx context.Context, id string, apply func(brew.Brew) (brew.Brew, error)) (out brew.Brew, err error) {
	err = s.transact(ctx, func(t *tx) error {
		was, err := loadBrew(ctx, t, id)
		if err != nil {
			return err
		}
		if out, err = apply(was); err != nil {
			return err
		}
		return updateBrew(ctx, t, was, &out)
	})
	return out, err
}

// Split applies a step that makes two brews of one, and stores both in one transaction.
func (s *Store) Split(ctx context.Context, id string, apply func(brew.Brew) (rest, other brew.Brew, err error)) (rest, other brew.Brew, err error) {
	err = s.transact(ctx, func(t *tx) error {
		was, err := loadBrew(ctx, t, id)
		if err != nil {
			return err
		}
		if rest, other, err = apply(was); err != nil {
			return err
		}
		if err := updateBrew(ctx, t, was, &rest); err != nil {
			return err
		}
		return insertBrew(ctx, t, other)
	})
	return rest, other, err
}

// updateBrew stores a changed brew with its new events, and increases its version. An unchanged one stays as it is.
func updateBrew(ctx context.Context, t *tx, was brew.Brew, now *brew.Brew) error {
	if len(now.Events) == len(was.Events) && now.Status == was.Status && !brew.TastingsChanged(was, *now) {
		return nil // a known event
	}
	if err := insertEvents(ctx, t, *now, len(was.Events)); err != nil {
		return err
	}
	res, err := t.put(ctx, `
		UPDATE brews SET status = :status, drawdown = :drawdown, beverage = :beverage, tds = :tds, yield = :yield,
			yield_error = :yield_error, cup = :cup, started_at = :started_at, ended_at = :ended_at,
			brewed_by = (SELECT id FROM people WHERE id = :brewed_by),
			measured_by = (SELECT id FROM people WHERE id = :measured_by), version = version + 1
		WHERE id = :id AND version = :version`, brewRowOf(*now))
	now.Version++
	if err := oneRow(res, err, ErrConflict); err != nil {
		return err
	}
	if err := putTastings(ctx, t, now.ID, now.Tastings); err != nil {
		return err
	}
	if err := addHappenings(ctx, t, now.ID, brew.Happenings(was, *now)...); err != nil {
		return err
	}
	for _, c := range brew.Corrections(was, *now, time.Now()) {
		if _, err := t.do(ctx, `INSERT INTO corrections (brew_id, what, was, taster, by, at) VALUES (?, ?, ?, (SELECT id FROM people WHERE id = ?),
			(SELECT id FROM people WHERE id = ?), ?)`, now.ID, c.What, c.Was, c.Taster, c.By, instant{c.At}); err != nil {
			return err
		}
	}
	return nil
}

// Corrections returns the replaced values of a brew, the latest first.
func (s *Store) Corrections(ctx context.Context, brewID string) ([]brew.Correction, error) {
	var rows []struct {
		What   string    `db:"what"`
		Was    string    `db:"was"`
		Taster reference `db:"taster"`
		By     reference `db:"by"`
		At     instant   `db:"at"`
	}
	const most = 100
	err := s.read.all(ctx, &rows, `SELECT what, was, taster, by, at FROM corrections WHERE brew_id = ? ORDER BY n DESC LIMIT ?`, brewID, most)
	out := make([]brew.Correction, len(rows))
	for i, r := range rows {
		out[i] = brew.Correction{What: r.What, Was: r.Was, Taster: string(r.Taster), By: string(r.By), At: r.At.Time}
	}
	return out, err
}

// eventRow is a row of the table of events.
type eventRow struct {
	Key     string         `db:"key"`
	Kind    brew.EventKind `db:"kind"`
	At      units.Seconds  `db:"at"`
	Mark    cup.Mark       `db:"mark"`
	Grams   units.Grams    `db:"grams"`
	BrewID  string         `db:"brew_id"`
	N       int            `db:"n"`
	Instant instant        `db:"instant"`

	Start   string                 `db:"start"`
	Stage   int                    `db:"stage"`
	Undoes  string                 `db:"undoes"`
	Celsius units.Celsius          `db:"celsius"`
	Basis   string                 `db:"basis"`
	Plan    column[*document.Plan] `db:"plan"`
	Note    string                 `db:"note"`
	By      reference              `db:"by"`
}

const insertEvent = `INSERT INTO brew_events (brew_id, n, key, kind, at, instant, mark, grams, start, stage, undoes, celsius, basis, plan,
	note, by) VALUES (:brew_id, :n, :key, :kind, :at, :instant, :mark, :grams, :start, :stage, :undoes, :celsius, :basis, :plan, :note,
	(SELECT id FROM people WHERE id = :by))`

func eventRowOf(e brew.Event, brewID string, n int) eventRow {
	row := eventRow{Key: e.Key, Kind: e.Kind, At: e.At, Mark: e.Mark, Grams: e.Grams, BrewID: brewID, N: n, Instant: instant{e.Instant},
		Start: e.Start, Stage: e.Stage, Undoes: e.Undoes, Celsius: e.Celsius, Basis: e.Basis, Note: e.Note, By: reference(e.By)}
	if e.Plan != nil {
		d := document.OfPlan(*e.Plan)
		row.Plan.V = &d
	}
	return row
}

func (r eventRow) event(zone string) brew.Event {
	e := brew.Event{Key: r.Key, Kind: r.Kind, At: r.At, Mark: r.Mark, Grams: r.Grams, Instant: inZone(r.Instant.Time, zone), Start: r.Start,
		Stage: r.Stage, Undoes: r.Undoes, Celsius: r.Celsius, Basis: r.Basis, Note: r.Note, By: string(r.By)}
	if r.Plan.V != nil {
		p := r.Plan.V.Core()
		e.Plan = &p
	}
	return e
}

// insertEvents stores the events of a brew from an index on.
func insertEvents(ctx context.Context, t *tx, b brew.Brew, from int) error {
	for i, e := range b.Events[from:] {
		if _, err := t.put(ctx, insertEvent, eventRowOf(e, b.ID, from+i)); err != nil {
			return err
		}
	}
	return nil
}

const selectEvents = `
	SELECT brew_id, key, kind, at, instant, mark, grams, start, stage, undoes, celsius, basis, plan, note, by FROM brew_events
	WHERE brew_id IN (SELECT value FROM json_each(?)) ORDER BY brew_id, n`

// addEvents loads the events of brews.
func addEvents(ctx context.Context, q querier, brews []brew.Brew) error {
	of, ids := make(map[string]*brew.Brew, len(brews)), make([]string, len(brews))
	for i := range brews {
		of[brews[i].ID], ids[i] = &brews[i], brews[i].ID
	}
	asked, err := json.Marshal(ids)
	if err != nil {
		return err
	}
	var rows []eventRow
	if err := q.all(ctx, &rows, selectEvents, string(asked)); err != nil {
		return err
	}
	for _, r := range rows {
		b := of[r.BrewID]
		b.Events = append(b.Events, r.event(zoneOf(b.Started)))
	}
	return nil
}

const selectPath = `SELECT ` + brewColumns + ` FROM brews INDEXED BY brews_of_bag WHERE bag_id = ? AND ` + visible + `
	ORDER BY started_at DESC, id DESC LIMIT ?`

// Path returns the last brews of a bag without their events, the oldest first.
func (s *Store) Path(ctx context.Context, bagID string, limit int) ([]brew.Brew, error) {
	var rows []brewRow
	if err := s.read.all(ctx, &rows, selectPath, bagID, limit); err != nil {
		return nil, err
	}
	out := make([]brew.Brew, len(rows))
	for i, r := range rows {
		out[len(rows)-1-i] = r.brew()
	}
	return out, nil
}

const selectLast = `SELECT ` + brewColumns + ` FROM brews INDEXED BY brews_of_bag WHERE bag_id = ? AND status IN ('poured',
	'done') AND ` + visible + ` ORDER BY started_at DESC, id DESC LIMIT 1`

// LastBrew returns the last completely poured brew of a bag, without its events, or ErrNotFound.
func (s *Store) LastBrew(ctx context.Context, bagID string) (brew.Brew, error) {
	var row brewRow
	err := s.read.get(ctx, &row, selectLast, bagID)
	return row.brew(), err
}

const selectUntasted = `SELECT id, bag_name FROM brews WHERE status = 'poured' AND started_at > ? AND ` + visible + ` ORDER BY started_at DESC LIMIT 1`

// Untasted returns the id and the coffee of the latest untasted brew since a moment, or ErrNotFound.
func (s *Store) Untasted(ctx context.Context, since time.Time) (id, name string, err error) {
	var row struct {
		ID   string `db:"id"`
		Name string `db:"bag_name"`
	}
	err = s.read.get(ctx, &row, selectUntasted, instant{since})
	return row.ID, row.Name, err
}

// tasting is the form in which a query of brews returns a tasting.
type tasting struct {
	N      int              `json:"n"` // grows with each tasting that is added
	Taster string           `json:"taster"`
	Cup    document.Cup     `json:"cup"`
	Advice *document.Advice `json:"advice"`
}

// Columns of the table of brews with their tastings as JSON, with and without advice.
const (
	tastingsColumn = `(SELECT json_group_array(json_object('n', t.rowid, 'taster', COALESCE(t.taster, ''), 'cup', json(t.cup),
	'advice', json(t.advice))) FROM tastings t WHERE t.brew_id = brews.id) AS tastings`
	tastesColumn = `(SELECT json_group_array(json_object('n', t.rowid, 'taster', COALESCE(t.taster, ''), 'cup', json(t.cup)))
	FROM tastings t WHERE t.brew_id = brews.id) AS tastings`
)

// withTastings returns a brew with tastings, as its first taster sees it.
func withTastings(b brew.Brew, all []tasting) brew.Brew {
	slices.SortFunc(all, func(a, b tasting) int { return cmp.Compare(a.N, b.N) })
	for _, t := range all {
		b.Tastings = append(b.Tastings, brew.Tasting{Taster: t.Taster, Cup: t.Cup.Core(), Advice: t.Advice.Core()})
	}
	return b.ForFirst()
}

// tastingRow is a row of the table of tastings.
type tastingRow struct {
	BrewID  string                   `db:"brew_id"`
	Taster  reference                `db:"taster"`
	Overall int                      `db:"overall"`
	Cup     column[document.Cup]     `db:"cup"`
	Advice  column[*document.Advice] `db:"advice"`
}

// putTasting stores a tasting unless its taster was removed meanwhile.
const putTasting = `
	INSERT INTO tastings (brew_id, taster, overall, cup, advice)
	SELECT :brew_id, :taster, :overall, :cup, :advice WHERE :taster IS NULL OR EXISTS (SELECT 1 FROM people WHERE id = :taster)
	ON CONFLICT (brew_id, COALESCE(taster, '')) DO UPDATE SET overall = excluded.overall, cup = excluded.cup, advice = excluded.advice`

func putTastings(ctx context.Context, t *tx, brewID string, all []brew.Tasting) error {
	for _, one := range all {
		row := tastingRow{brewID, reference(one.Taster), one.Cup.Overall, column[document.Cup]{document.OfCup(one.Cup.Personal())},
			column[*document.Advice]{document.OfAdvice(one.Advice)}}
		if _, err := t.put(ctx, putTasting, row); err != nil {
			return err
		}
	}
	return nil
}

// A batch is a row of readings of one brew.
type batch struct {
	BrewID   string                 `db:"brew_id"`
	Readings column[document.Trace] `db:"readings"`
}

const (
	insertBatch = `
	INSERT INTO brew_readings (brew_id, n, readings)
	SELECT :brew_id, COALESCE(MAX(n), -1) + 1, :readings FROM brew_readings WHERE brew_id = :brew_id`
	// shift is the time by which the first water that was stored first, from which readings count, came after the one that
	// counts, s.
	selectReadings = `SELECT readings, COALESCE((SELECT ROUND((julianday(e.instant) - julianday(b.started_at)) * 86400, 3) FROM brew_events e
		JOIN brews b ON b.id = e.brew_id WHERE e.brew_id = brew_readings.brew_id AND e.n = 0), 0) AS shift
		FROM brew_readings WHERE brew_id = ? ORDER BY n`
)

// AppendReadings stores scale readings by brew: all of them or none.
func (s *Store) AppendReadings(ctx context.Context, fresh map[string][]trace.Reading) error {
	return s.transact(ctx, func(t *tx) error {
		for id, readings := range fresh {
			row := batch{id, column[document.Trace]{document.OfTrace(readings)}}
			if _, err := t.put(ctx, insertBatch, row); err != nil {
				return err
			}
		}
		return nil
	})
}

// Readings returns the scale readings of a brew in order, in seconds since its start; none without a scale.
func (s *Store) Readings(ctx context.Context, brewID string) ([]trace.Reading, error) {
	var rows []struct {
		Readings column[document.Trace] `db:"readings"`
		Shift    units.Seconds          `db:"shift"`
	}
	if err := s.read.all(ctx, &rows, selectReadings, brewID); err != nil {
		return nil, err
	}
	var out []trace.Reading
	for _, row := range rows {
		for _, x := range row.Readings.V.Core() {
			x.At += row.Shift
			out = append(out, x)
		}
	}
	return out, nil
}

const selectRunning = `SELECT id FROM brews WHERE status = 'running' ORDER BY started_at DESC LIMIT ?`

// Running returns the ids of the running brews, the latest first.
func (s *Store) Running(ctx context.Context) ([]string, error) {
	const most = 24
	var out []string
	err := s.read.all(ctx, &out, selectRunning, most)
	return out, err
}
