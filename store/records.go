package store

import (
	"context"
	"time"

	"yardbloom/core/flight"
	"yardbloom/core/practice"
	"yardbloom/core/rush"
	"yardbloom/core/stage"
	"yardbloom/core/trial"
	"yardbloom/store/document"
)

// Flights, trials, scripts and tries: documents that are read and written whole.

var flights = documents[flight.Flight, document.Flight]{Flights, document.OfFlight, document.Flight.Core,
	func(f *flight.Flight, id string, v int64) { f.ID, f.Version = id, v },
	func(f *flight.Flight) *string { return &f.By }}

// AddFlight stores a flight.
func (s *Store) AddFlight(ctx context.Context, f flight.Flight, now time.Time) error {
	return flights.add(ctx, s, f.ID, f, now)
}

// Flight returns a flight, or ErrNotFound.
func (s *Store) Flight(ctx context.Context, id string) (flight.Flight, error) {
	return flights.one(ctx, s, id)
}

// ChangeFlight applies a change to a flight and stores it. Errors are those of apply and ErrNotFound.
func (s *Store) ChangeFlight(ctx context.Context, id string, apply func(flight.Flight) (flight.Flight, error)) error {
	return flights.change(ctx, s, id, apply)
}

// Flights returns the latest flights, the newest first.
func (s *Store) Flights(ctx context.Context) ([]Dated[flight.Flight], error) {
	return flights.latest(ctx, s)
}

var trials = documents[trial.Trial, document.Trial]{Trials, document.OfTrial, document.Trial.Core,
	func(t *trial.Trial, id string, v int64) { t.ID, t.Version = id, v },
	func(t *trial.Trial) *string { return &t.By }}

// AddTrial stores a trial.
func (s *Store) AddTrial(ctx context.Context, t trial.Trial, now time.Time) error {
	return trials.add(ctx, s, t.ID, t, now)
}

// Trial returns a trial, or ErrNotFound.
func (s *Store) Trial(ctx context.Context, id string) (trial.Trial, error) {
	return trials.one(ctx, s, id)
}

// ChangeTrial applies a change to a trial and stores it. Errors are those of apply and ErrNotFound.
func (s *Store) ChangeTrial(ctx context.Context, id string, apply func(trial.Trial) (trial.Trial, error)) error {
	return trials.change(ctx, s, id, apply)
}

// Trials returns the latest trials, the newest first.
func (s *Store) Trials(ctx context.Context) ([]Dated[trial.Trial], error) {
	return trials.latest(ctx, s)
}

var scripts = documents[stage.Script, document.Script]{Scripts, document.OfScript, document.Script.Core,
	func(x *stage.Script, id string, v int64) { x.ID, x.Version = id, v },
	func(x *stage.Script) *string { return &x.By }}

// AddScript stores a stage script.
func (s *Store) AddScript(ctx context.Context, x stage.Script, now time.Time) error {
	return scripts.add(ctx, s, x.ID, x, now)
}

// Script returns a stage script, or ErrNotFound.
func (s *Store) Script(ctx context.Context, id string) (stage.Script, error) {
	return scripts.one(ctx, s, id)
}

// ChangeScript applies a change to a stage script and stores it. Errors are those of apply and ErrNotFound.
func (s *Store) ChangeScript(ctx context.Context, id string, apply func(stage.Script) (stage.Script, error)) error {
	return scripts.change(ctx, s, id, apply)
}

// Scripts returns the latest scripts, the newest first.
func (s *Store) Scripts(ctx context.Context) ([]Dated[stage.Script], error) {
	return scripts.latest(ctx, s)
}

var tries = documents[practice.Try, document.Exercise]{Tries, document.OfTry, document.Exercise.Core, func(*practice.Try, string, int64) {},
	func(t *practice.Try) *string { return &t.By }}

// AddTry stores a practice pour.
func (s *Store) AddTry(ctx context.Context, t practice.Try, now time.Time) error {
	return tries.add(ctx, s, NewID(), t, now)
}

// Tries returns the latest practice pours, the newest first.
func (s *Store) Tries(ctx context.Context) ([]Dated[practice.Try], error) {
	return tries.latest(ctx, s)
}

var rushes = documents[rush.Rush, document.Rush]{Rushes, document.OfRush, document.Rush.Core,
	func(r *rush.Rush, id string, v int64) { r.ID, r.Version = id, v },
	func(r *rush.Rush) *string { return &r.By }}

// AddRush stores a rush.
func (s *Store) AddRush(ctx context.Context, r rush.Rush, now time.Time) error {
	return rushes.add(ctx, s, r.ID, r, now)
}

// Rush returns a rush, or ErrNotFound.
func (s *Store) Rush(ctx context.Context, id string) (rush.Rush, error) {
	return rushes.one(ctx, s, id)
}

// ChangeRush applies a change to a rush and stores it. Errors are those of apply and ErrNotFound.
func (s *Store) ChangeRush(ctx context.Context, id string, apply func(rush.Rush) (rush.Rush, error)) error {
	return rushes.change(ctx, s, id, apply)
}

// Rushes returns the latest rushes, the newest first.
func (s *Store) Rushes(ctx context.Context) ([]Dated[rush.Rush], error) { return rushes.latest(ctx, s) }
