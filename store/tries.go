package store

import (
	"context"
	"time"

	"yardbloom/core/practice"
	"yardbloom/store/document"
)

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
