package store

import (
	"context"
	"time"

	"yardbloom/core/flight"
	"yardbloom/store/document"
)

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
