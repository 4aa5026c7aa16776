package store

import (
	"context"
	"time"

	"yardbloom/core/stage"
	"yardbloom/store/document"
)

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
