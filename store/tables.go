package store

import (
	"context"
	"time"

	"yardbloom/core/flight"
	"yardbloom/core/trial"
	"yardbloom/store/document"
)

// mostPapers is how many flights, and how many trials, a page lists.
const mostPapers = 60

// A paper is a whole document with its id, as the tables of flights and of trials hold it.
type paper[D any] struct {
	ID      string    `db:"id"`
	BagID   string    `db:"bag_id"`
	Doc     column[D] `db:"doc"`
	Created instant   `db:"created_at"`
	Version int64     `db:"version"`
}

// A Dated thing is one with the moment at which it was begun.
type Dated[T any] struct {
	ID string
	It T
	At time.Time
}

// revise applies a step to a paper and keeps it, in one transaction.
func revise[D any](ctx context.Context, s *Store, find, keep, id string, apply func(paper[D]) (D, error)) error {
	return s.transact(ctx, func(t *tx) error {
		var row paper[D]
		if err := t.get(ctx, &row, find, id); err != nil {
			return err
		}
		var err error
		if row.Doc.V, err = apply(row); err != nil {
			return err
		}
		res, err := t.put(ctx, keep, row)
		return oneRow(res, err, ErrNotFound)
	})
}

// dated lists papers as what they are of, the latest first.
func dated[D, T any](ctx context.Context, s *Store, query string, core func(paper[D]) T) ([]Dated[T], error) {
	var rows []paper[D]
	err := s.read.all(ctx, &rows, query, mostPapers)
	out := make([]Dated[T], len(rows))
	for i, r := range rows {
		out[i] = Dated[T]{r.ID, core(r), r.Created.Time}
	}
	return out, err
}

const (
	selectFlight  = `SELECT id, flight AS doc, created_at, version FROM flights WHERE id = ?`
	selectFlights = `SELECT id, flight AS doc, created_at, version FROM flights WHERE created_at < '~' ORDER BY created_at DESC LIMIT ?`
	selectTrial   = `SELECT id, bag_id, trial AS doc, created_at, version FROM trials WHERE id = ?`
	selectTrials  = `SELECT id, bag_id, trial AS doc, created_at, version FROM trials WHERE created_at < '~' ORDER BY created_at DESC LIMIT ?`
)

func flightOf(r paper[document.Flight]) flight.Flight {
	f := r.Doc.V.Core()
	f.ID, f.Version = r.ID, r.Version
	return f
}

// AddFlight keeps cups side by side.
func (s *Store) AddFlight(ctx context.Context, f flight.Flight, now time.Time) error {
	return s.change(ctx, `INSERT INTO flights (id, flight, created_at) VALUES (:id, :doc, :created_at)`,
		paper[document.Flight]{ID: f.ID, Doc: column[document.Flight]{document.OfFlight(f)}, Created: instant{now}}, nil)
}

// Flight returns one flight, or ErrNotFound.
func (s *Store) Flight(ctx context.Context, id string) (flight.Flight, error) {
	var row paper[document.Flight]
	err := s.read.get(ctx, &row, selectFlight, id)
	return flightOf(row), err
}

// ChangeFlight applies a step to a flight and keeps it.
func (s *Store) ChangeFlight(ctx context.Context, id string, apply func(flight.Flight) (flight.Flight, error)) error {
	return revise(ctx, s, selectFlight, `UPDATE flights SET flight = :doc, version = version + 1 WHERE id = :id`, id, func(r paper[document.Flight]) (document.Flight, error) {
		f, err := apply(flightOf(r))
		return document.OfFlight(f), err
	})
}

// Flights returns the last flights, the latest first.
func (s *Store) Flights(ctx context.Context) ([]Dated[flight.Flight], error) {
	return dated(ctx, s, selectFlights, flightOf)
}

func trialOf(r paper[document.Trial]) trial.Trial {
	t := r.Doc.V.Core()
	t.ID, t.Version = r.ID, r.Version
	return t
}

// AddTrial keeps a planned trial.
func (s *Store) AddTrial(ctx context.Context, t trial.Trial, now time.Time) error {
	return s.change(ctx, `INSERT INTO trials (id, bag_id, trial, created_at) VALUES (:id, :bag_id, :doc, :created_at)`,
		paper[document.Trial]{ID: t.ID, BagID: t.Sheet.BagID, Doc: column[document.Trial]{document.OfTrial(t)}, Created: instant{now}}, nil)
}

// Trial returns one trial, or ErrNotFound.
func (s *Store) Trial(ctx context.Context, id string) (trial.Trial, error) {
	var row paper[document.Trial]
	err := s.read.get(ctx, &row, selectTrial, id)
	return trialOf(row), err
}

// ChangeTrial applies a step to a trial and keeps it.
func (s *Store) ChangeTrial(ctx context.Context, id string, apply func(trial.Trial) (trial.Trial, error)) error {
	return revise(ctx, s, selectTrial, `UPDATE trials SET trial = :doc, version = version + 1 WHERE id = :id`, id, func(r paper[document.Trial]) (document.Trial, error) {
		t, err := apply(trialOf(r))
		return document.OfTrial(t), err
	})
}

// Trials returns the last trials, the latest first.
func (s *Store) Trials(ctx context.Context) ([]Dated[trial.Trial], error) {
	return dated(ctx, s, selectTrials, trialOf)
}
