package store

import (
	"context"
	"fmt"
	"time"

	"yardbloom/core/practice"
	"yardbloom/core/rush"
	"yardbloom/core/stage"
	"yardbloom/store/document"
)

// A drawer keeps whole documents of one kind: T in the core, D on disk.
type drawer[T, D any] struct {
	table, column string
	of            func(T) D
	core          func(D) T
	named         func(t *T, id string, version int64)
}

func (d drawer[T, D]) read(p paper[D]) T {
	t := d.core(p.Doc.V)
	d.named(&t, p.ID, p.Version)
	return t
}

func (d drawer[T, D]) find() string {
	return fmt.Sprintf(`SELECT id, %s AS doc, created_at, version FROM %s WHERE id = ?`, d.column, d.table)
}

func (d drawer[T, D]) add(ctx context.Context, s *Store, id string, t T, now time.Time) error {
	return s.change(ctx, fmt.Sprintf(`INSERT INTO %s (id, %s, created_at) VALUES (:id, :doc, :created_at)`, d.table, d.column), paper[D]{ID: id, Doc: column[D]{d.of(t)}, Created: instant{now}}, nil)
}

func (d drawer[T, D]) one(ctx context.Context, s *Store, id string) (T, error) {
	var row paper[D]
	err := s.read.get(ctx, &row, d.find(), id)
	return d.read(row), err
}

func (d drawer[T, D]) change(ctx context.Context, s *Store, id string, apply func(T) (T, error)) error {
	return revise(ctx, s, d.find(), fmt.Sprintf(`UPDATE %s SET %s = :doc, version = version + 1 WHERE id = :id`, d.table, d.column), id, func(r paper[D]) (D, error) {
		t, err := apply(d.read(r))
		return d.of(t), err
	})
}

func (d drawer[T, D]) latest(ctx context.Context, s *Store) ([]Dated[T], error) {
	return dated(ctx, s, d.list(), d.read)
}

func (d drawer[T, D]) list() string {
	return fmt.Sprintf(`SELECT id, %s AS doc, created_at, version FROM %s WHERE created_at < '~' AND deleted_at IS NULL ORDER BY created_at DESC LIMIT ?`, d.column, d.table)
}

// PutAside takes a rush, a script or a try off its list, or brings it back.
func (s *Store) PutAside(ctx context.Context, kind Aside, id string, aside bool, now time.Time) error {
	return s.setAside(ctx, string(kind), id, aside, now)
}

// An Aside is a kind of thing that can be put aside: the name of its table.
type Aside string

// The kinds that can be put aside.
const (
	RushAside   Aside = "rushes"
	ScriptAside Aside = "scripts"
	TryAside    Aside = "exercises"
)

var (
	rushes  = drawer[rush.Rush, document.Rush]{"rushes", "rush", document.OfRush, document.Rush.Core, func(r *rush.Rush, id string, v int64) { r.ID, r.Version = id, v }}
	scripts = drawer[stage.Script, document.Script]{"scripts", "script", document.OfScript, document.Script.Core, func(s *stage.Script, id string, v int64) { s.ID, s.Version = id, v }}
	tries   = drawer[practice.Try, document.Exercise]{"exercises", "exercise", document.OfTry, document.Exercise.Core, func(*practice.Try, string, int64) {}}
)

// AddRush keeps a rush.
func (s *Store) AddRush(ctx context.Context, r rush.Rush, now time.Time) error {
	return rushes.add(ctx, s, r.ID, r, now)
}

// Rush returns one rush, or ErrNotFound.
func (s *Store) Rush(ctx context.Context, id string) (rush.Rush, error) {
	return rushes.one(ctx, s, id)
}

// ChangeRush applies a step to a rush and keeps it.
func (s *Store) ChangeRush(ctx context.Context, id string, apply func(rush.Rush) (rush.Rush, error)) error {
	return rushes.change(ctx, s, id, apply)
}

// Rushes returns the last rushes, the latest first.
func (s *Store) Rushes(ctx context.Context) ([]Dated[rush.Rush], error) { return rushes.latest(ctx, s) }

// AddScript keeps a stage script.
func (s *Store) AddScript(ctx context.Context, x stage.Script, now time.Time) error {
	return scripts.add(ctx, s, x.ID, x, now)
}

// Script returns one stage script, or ErrNotFound.
func (s *Store) Script(ctx context.Context, id string) (stage.Script, error) {
	return scripts.one(ctx, s, id)
}

// ChangeScript applies a step to a stage script and keeps it.
func (s *Store) ChangeScript(ctx context.Context, id string, apply func(stage.Script) (stage.Script, error)) error {
	return scripts.change(ctx, s, id, apply)
}

// Scripts returns the last stage scripts, the latest first.
func (s *Store) Scripts(ctx context.Context) ([]Dated[stage.Script], error) {
	return scripts.latest(ctx, s)
}

// AddTry keeps a pour for practice.
func (s *Store) AddTry(ctx context.Context, t practice.Try, now time.Time) error {
	return tries.add(ctx, s, NewID(), t, now)
}

// Tries returns the last pours for practice, the latest first.
func (s *Store) Tries(ctx context.Context) ([]Dated[practice.Try], error) {
	return tries.latest(ctx, s)
}
