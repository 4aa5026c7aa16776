package store

import (
	"context"
	"database/sql"
	"errors"
	"reflect"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"
)

// A pool prepares every statement once. Statements are constants of this package, so there are few of them.
type pool struct {
	*sqlx.DB
	file     *watcher
	counted  *counters
	prepared sync.Map // query → *sqlx.Stmt
}

// counters count statements and rows.
type counters struct{ statements, rows atomic.Int64 }

// count counts one statement and the rows that it put into dest.
func (c *counters) count(dest any, err error) error {
	c.statements.Add(1)
	if err != nil || dest == nil {
		return err
	}
	rows := int64(1)
	if v := reflect.ValueOf(dest).Elem(); v.Kind() == reflect.Slice {
		rows = int64(v.Len())
	}
	c.rows.Add(rows)
	return nil
}

// Stats counts the work of a store since it was opened.
type Stats struct {
	Statements int64 // executed
	Rows       int64 // read
}

// Stats returns the store's counters.
func (s *Store) Stats() Stats { return Stats{s.counted.statements.Load(), s.counted.rows.Load()} }

func (p *pool) stmt(ctx context.Context, query string) (*sqlx.Stmt, error) {
	if s, ok := p.prepared.Load(query); ok {
		return s.(*sqlx.Stmt), nil
	}
	s, err := p.PreparexContext(ctx, query)
	if err != nil {
		return nil, err
	}
	kept, other := p.prepared.LoadOrStore(query, s)
	if other {
		s.Close()
	}
	return kept.(*sqlx.Stmt), nil
}

// A querier reads from the pool of readers or in a transaction of the writer.
type querier interface {
	get(ctx context.Context, dest any, query string, args ...any) error
	all(ctx context.Context, dest any, query string, args ...any) error
}

func (p *pool) get(ctx context.Context, dest any, query string, args ...any) error {
	return p.run(ctx, query, func(s *sqlx.Stmt) error { return p.counted.count(dest, notFound(s.GetContext(ctx, dest, args...))) })
}

func (p *pool) all(ctx context.Context, dest any, query string, args ...any) error {
	return p.run(ctx, query, func(s *sqlx.Stmt) error { return p.counted.count(dest, s.SelectContext(ctx, dest, args...)) })
}

// run executes a statement, or returns a *Trouble if the opened file is no longer usable.
func (p *pool) run(ctx context.Context, query string, f func(*sqlx.Stmt) error) error {
	if err := p.file.verify(); err != nil {
		return err
	}
	s, err := p.stmt(ctx, query)
	if err == nil {
		err = f(s)
	}
	return explain(p.file.path, err)
}

// A tx is a transaction of the writer. It prepares repeated statements once.
type tx struct {
	*sqlx.Tx
	counted *counters
	plain   map[string]*sqlx.Stmt
	named   map[string]*sqlx.NamedStmt
}

func (t *tx) stmt(ctx context.Context, query string) (*sqlx.Stmt, error) {
	if s, ok := t.plain[query]; ok {
		return s, nil
	}
	s, err := t.PreparexContext(ctx, query)
	if err == nil {
		t.plain[query] = s
	}
	return s, err
}

func (t *tx) get(ctx context.Context, dest any, query string, args ...any) error {
	s, err := t.stmt(ctx, query)
	if err != nil {
		return err
	}
	return t.counted.count(dest, notFound(s.GetContext(ctx, dest, args...)))
}

func (t *tx) all(ctx context.Context, dest any, query string, args ...any) error {
	s, err := t.stmt(ctx, query)
	if err != nil {
		return err
	}
	return t.counted.count(dest, s.SelectContext(ctx, dest, args...))
}

// put executes a statement with named parameters.
func (t *tx) put(ctx context.Context, query string, arg any) (sql.Result, error) {
	s, ok := t.named[query]
	if !ok {
		var err error
		if s, err = t.PrepareNamedContext(ctx, query); err != nil {
			return nil, err
		}
		t.named[query] = s
	}
	t.counted.statements.Add(1)
	return s.ExecContext(ctx, arg)
}

// do executes a statement with positional parameters.
func (t *tx) do(ctx context.Context, query string, args ...any) (sql.Result, error) {
	s, err := t.stmt(ctx, query)
	if err != nil {
		return nil, err
	}
	t.counted.statements.Add(1)
	return s.ExecContext(ctx, args...)
}

// writeTimeout is the time for which a write waits for the single writer: slightly longer than SQLite waits for
// another process.
const writeTimeout = 4 * time.Second

// transact calls f in one transaction of the writer. An error or a panic of f rolls everything back.
func (s *Store) transact(ctx context.Context, f func(*tx) error) error {
	return explain(s.path, s.tryTransact(ctx, f))
}

func (s *Store) tryTransact(ctx context.Context, f func(*tx) error) error {
	waiting, stop := context.WithTimeoutCause(ctx, writeTimeout, errWriteTimeout)
	defer stop()
	conn, err := s.write.Connx(waiting)
	if err != nil {
		return errors.Join(err, context.Cause(waiting))
	}
	defer conn.Close()
	began, err := conn.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	returned := false
	defer func() {
		if !returned { // f panics: without this, closing the connection waits for the transaction for ever
			_ = began.Rollback()
		}
	}()
	err = f(&tx{began, &s.counted, map[string]*sqlx.Stmt{}, map[string]*sqlx.NamedStmt{}})
	returned = true
	if err != nil {
		return errors.Join(err, began.Rollback())
	}
	if err := began.Commit(); err != nil {
		return err
	}
	return s.write.file.verify() // writes to a removed file are lost
}

// change executes one statement with named parameters in its own transaction. It returns none if no row
// changed.
func (s *Store) change(ctx context.Context, query string, arg any, none error) error {
	return s.transact(ctx, func(t *tx) error {
		res, err := t.put(ctx, query, arg)
		return oneRow(res, err, none)
	})
}

// notFound converts sql.ErrNoRows to ErrNotFound.
func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// oneRow returns none if a statement changed no row.
func oneRow(res sql.Result, err, none error) error {
	if err != nil || none == nil {
		return err
	}
	n, err := res.RowsAffected()
	if err == nil && n == 0 {
		return none
	}
	return err
}
