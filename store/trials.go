package store

import (
	"context"
	"time"

	"yardbloom/core/trial"
	"yardbloom/store/document"
)

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
