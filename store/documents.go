package store

import (
	"context"
	"time"
)

// A Kind is a kind of document.
type Kind string

// The kinds of documents.
const (
	Flights Kind = "flight"
	Trials  Kind = "trial"
	Rushes  Kind = "rush"
	Scripts Kind = "script"
	Tries   Kind = "try"
)

// maxListed is the number of documents in a list.
const maxListed = 60

// A Dated document has its ID and the time at which it was added.
type Dated[T any] struct {
	ID    string
	Value T
	At    time.Time
}

// documents stores whole documents of one kind: T in the core, D on disk.
type documents[T, D any] struct {
	kind Kind
	doc  func(T) D
	core func(D) T
	// identify sets the ID and the version of a loaded document.
	identify func(t *T, id string, version int64)
	by       func(t *T) *string // the person who made it
}

// A documentRow is a row of the table documents.
type documentRow[D any] struct {
	ID      string    `db:"id"`
	Kind    Kind      `db:"kind"`
	Doc     column[D] `db:"doc"`
	Created instant   `db:"created_at"`
	By      reference `db:"by"`
	Version int64     `db:"version"`
}

const (
	selectDocument  = `SELECT id, kind, doc, created_at, by, version FROM documents WHERE id = ? AND kind = ?`
	selectDocuments = `SELECT id, kind, doc, created_at, by, version FROM documents WHERE kind = ? AND deleted_at IS NULL
		ORDER BY created_at DESC LIMIT ?`
)

func (d documents[T, D]) load(r documentRow[D]) T {
	t := d.core(r.Doc.V)
	d.identify(&t, r.ID, r.Version)
	*d.by(&t) = string(r.By)
	return t
}

func (d documents[T, D]) add(ctx context.Context, s *Store, id string, t T, now time.Time) error {
	row := documentRow[D]{ID: id, Kind: d.kind, Doc: column[D]{d.doc(t)}, Created: instant{now}, By: reference(*d.by(&t))}
	return s.change(ctx, `INSERT INTO documents (id, kind, doc, created_at, by)
		VALUES (:id, :kind, :doc, :created_at, (SELECT id FROM people WHERE id = :by))`, row, nil)
}

// one returns a document, or ErrNotFound.
func (d documents[T, D]) one(ctx context.Context, s *Store, id string) (T, error) {
	var row documentRow[D]
	err := s.read.get(ctx, &row, selectDocument, id, d.kind)
	return d.load(row), err
}

// change applies a change to a document in one transaction. Errors are those of apply and
// ErrNotFound.
func (d documents[T, D]) change(ctx context.Context, s *Store, id string, apply func(T) (T, error)) error {
	return s.transact(ctx, func(t *tx) error {
		var row documentRow[D]
		if err := t.get(ctx, &row, selectDocument, id, d.kind); err != nil {
			return err
		}
		changed, err := apply(d.load(row))
		if err != nil {
			return err
		}
		row.Doc.V = d.doc(changed)
		res, err := t.put(ctx, `UPDATE documents SET doc = :doc, version = version + 1 WHERE id = :id`, row)
		return oneRow(res, err, ErrNotFound)
	})
}

// latest returns the documents that are not archived, the newest first.
func (d documents[T, D]) latest(ctx context.Context, s *Store) ([]Dated[T], error) {
	var rows []documentRow[D]
	err := s.read.all(ctx, &rows, selectDocuments, d.kind, maxListed)
	out := make([]Dated[T], len(rows))
	for i, r := range rows {
		out[i] = Dated[T]{r.ID, d.load(r), r.Created.Time}
	}
	return out, err
}

// Archive archives a document or restores it. It returns ErrNotFound if there is none.
func (s *Store) Archive(ctx context.Context, kind Kind, id string, archived bool, now time.Time) error {
	row := struct {
		deletion
		Kind Kind `db:"kind"`
	}{deletion{id, instant{}}, kind}
	if archived {
		row.At.Time = now
	}
	return s.change(ctx, `UPDATE documents SET deleted_at = :at WHERE id = :id AND kind = :kind`, row, ErrNotFound)
}
