package store

import (
	"context"
	"time"

	"yardbloom/core/flight"
	"yardbloom/core/trial"
	"yardbloom/store/document"
)

// mostTables is how many flights, and how many trials, a page lists.
const mostTables = 60

type flightRow struct {
	ID      string                  `db:"id"`
	Flight  column[document.Flight] `db:"flight"`
	Created instant                 `db:"created_at"`
	Version int64                   `db:"version"`
}

func (r flightRow) flight() flight.Flight {
	f := r.Flight.V.Core()
	f.ID, f.Version = r.ID, r.Version
	return f
}

// AddFlight keeps cups side by side.
func (s *Store) AddFlight(ctx context.Context, f flight.Flight, now time.Time) error {
	return s.change(ctx, `INSERT INTO flights (id, flight, created_at) VALUES (:id, :flight, :created_at)`,
		flightRow{ID: f.ID, Flight: column[document.Flight]{document.OfFlight(f)}, Created: instant{now}}, nil)
}

// Flight returns one flight, or ErrNotFound.
func (s *Store) Flight(ctx context.Context, id string) (flight.Flight, error) {
	var row flightRow
	err := s.read.get(ctx, &row, `SELECT id, flight, created_at, version FROM flights WHERE id = ?`, id)
	return row.flight(), err
}

// ChangeFlight applies a step to a flight and keeps it.
func (s *Store) ChangeFlight(ctx context.Context, id string, apply func(flight.Flight) (flight.Flight, error)) error {
	return s.transact(ctx, func(t *tx) error {
		var row flightRow
		if err := t.get(ctx, &row, `SELECT id, flight, created_at, version FROM flights WHERE id = ?`, id); err != nil {
			return err
		}
		f, err := apply(row.flight())
		if err != nil {
			return err
		}
		row.Flight.V = document.OfFlight(f)
		res, err := t.put(ctx, `UPDATE flights SET flight = :flight, version = version + 1 WHERE id = :id`, row)
		return oneRow(res, err, ErrNotFound)
	})
}

// A Dated thing is one with the moment at which it was begun.
type Dated[T any] struct {
	It T
	At time.Time
}

const selectFlights = `SELECT id, flight, created_at, version FROM flights WHERE created_at < '~' ORDER BY created_at DESC LIMIT ?`

// Flights returns the last flights, the latest first.
func (s *Store) Flights(ctx context.Context) ([]Dated[flight.Flight], error) {
	var rows []flightRow
	err := s.read.all(ctx, &rows, selectFlights, mostTables)
	out := make([]Dated[flight.Flight], len(rows))
	for i, r := range rows {
		out[i] = Dated[flight.Flight]{r.flight(), r.Created.Time}
	}
	return out, err
}

type trialRow struct {
	ID      string                 `db:"id"`
	BagID   string                 `db:"bag_id"`
	Trial   column[document.Trial] `db:"trial"`
	Created instant                `db:"created_at"`
	Version int64                  `db:"version"`
}

func (r trialRow) trial() trial.Trial {
	t := r.Trial.V.Core()
	t.ID, t.Version = r.ID, r.Version
	return t
}

// AddTrial keeps a planned trial.
func (s *Store) AddTrial(ctx context.Context, t trial.Trial, now time.Time) error {
	return s.change(ctx, `INSERT INTO trials (id, bag_id, trial, created_at) VALUES (:id, :bag_id, :trial, :created_at)`,
		trialRow{ID: t.ID, BagID: t.Sheet.BagID, Trial: column[document.Trial]{document.OfTrial(t)}, Created: instant{now}}, nil)
}

// Trial returns one trial, or ErrNotFound.
func (s *Store) Trial(ctx context.Context, id string) (trial.Trial, error) {
	var row trialRow
	err := s.read.get(ctx, &row, `SELECT id, bag_id, trial, created_at, version FROM trials WHERE id = ?`, id)
	return row.trial(), err
}

// ChangeTrial applies a step to a trial and keeps it.
func (s *Store) ChangeTrial(ctx context.Context, id string, apply func(trial.Trial) (trial.Trial, error)) error {
	return s.transact(ctx, func(t *tx) error {
		var row trialRow
		if err := t.get(ctx, &row, `SELECT id, bag_id, trial, created_at, version FROM trials WHERE id = ?`, id); err != nil {
			return err
		}
		changed, err := apply(row.trial())
		if err != nil {
			return err
		}
		row.Trial.V = document.OfTrial(changed)
		res, err := t.put(ctx, `UPDATE trials SET trial = :trial, version = version + 1 WHERE id = :id`, row)
		return oneRow(res, err, ErrNotFound)
	})
}

const selectTrials = `SELECT id, bag_id, trial, created_at, version FROM trials WHERE created_at < '~' ORDER BY created_at DESC LIMIT ?`

// Trials returns the last trials, the latest first.
func (s *Store) Trials(ctx context.Context) ([]Dated[trial.Trial], error) {
	var rows []trialRow
	err := s.read.all(ctx, &rows, selectTrials, mostTables)
	out := make([]Dated[trial.Trial], len(rows))
	for i, r := range rows {
		out[i] = Dated[trial.Trial]{r.trial(), r.Created.Time}
	}
	return out, err
}
