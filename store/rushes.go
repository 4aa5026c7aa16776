package store

import (
	"context"
	"time"

	"yardbloom/core/rush"
	"yardbloom/store/document"
)

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
