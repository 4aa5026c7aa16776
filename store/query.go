package store

import (
	"context"
	"database/sql"
	"errors"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"
)

// A pool runs statements that it has prepared once. Statements are the constants
// of this package, so there are few of them.
type pool struct {
	*sqlx.DB
	file     *watcher
	prepared sync.Map // query → *sqlx.Stmt
}

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

// A querier reads: the pool of readers, or a transaction of the writer.
type querier interface {
	get(ctx context.Context, dest any, query string, args ...any) error
	all(ctx context.Context, dest any, query string, args ...any) error
}

func (p *pool) get(ctx context.Context, dest any, query string, args ...any) error {
	return p.run(ctx, query, func(s *sqlx.Stmt) error { return notFound(s.GetContext(ctx, dest, args...)) })
}

func (p *pool) all(ctx context.Context, dest any, query string, args ...any) error {
	return p.run(ctx, query, func(s *sqlx.Stmt) error { return s.SelectContext(ctx, dest, args...) })
}

// run runs a statement on the file that was opened, or says what is wrong with it.
func (p *pool) run(ctx context.Context, query string, f func(*sqlx.Stmt) error) error {
	if err := p.file.there(); err != nil {
		return err
	}
	s, err := p.stmt(ctx, query)
	if err == nil {
		err = f(s)
	}
	return explain(p.file.path, err)
}

// A tx is a transaction of the writer. What it runs more than once it prepares once.
type tx struct {
	*sqlx.Tx
	plain map[string]*sqlx.Stmt
	named map[string]*sqlx.NamedStmt
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
	return notFound(s.GetContext(ctx, dest, args...))
}

func (t *tx) all(ctx context.Context, dest any, query string, args ...any) error {
	s, err := t.stmt(ctx, query)
	if err != nil {
		return err
	}
	return s.SelectContext(ctx, dest, args...)
}

// put runs a statement with named parameters.
func (t *tx) put(ctx context.Context, query string, arg any) (sql.Result, error) {
	s, ok := t.named[query]
	if !ok {
		var err error
		if s, err = t.PrepareNamedContext(ctx, query); err != nil {
			return nil, err
		}
		t.named[query] = s
	}
	return s.ExecContext(ctx, arg)
}

// do runs a statement with parameters by place.
func (t *tx) do(ctx context.Context, query string, args ...any) (sql.Result, error) {
	s, err := t.stmt(ctx, query)
	if err != nil {
		return nil, err
	}
	return s.ExecContext(ctx, args...)
}

// patience is how long a write waits for the one writer: a little longer than
// SQLite waits for another program.
const patience = 4 * time.Second

// transact runs f in one transaction of the writer: all of it is kept, or nothing.
func (s *Store) transact(ctx context.Context, f func(*tx) error) error {
	return explain(s.path, s.tryTransact(ctx, f))
}

func (s *Store) tryTransact(ctx context.Context, f func(*tx) error) error {
	waiting, stop := context.WithTimeoutCause(ctx, patience, errWaited)
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
	if err := f(&tx{began, map[string]*sqlx.Stmt{}, map[string]*sqlx.NamedStmt{}}); err != nil {
		return errors.Join(err, began.Rollback())
	}
	if err := began.Commit(); err != nil {
		return err
	}
	return s.write.file.there() // what went into a removed file is not kept
}

// change runs one statement with named parameters, in a transaction of its own.
// Where it changes no row it returns none.
func (s *Store) change(ctx context.Context, query string, arg any, none error) error {
	return s.transact(ctx, func(t *tx) error {
		res, err := t.put(ctx, query, arg)
		return oneRow(res, err, none)
	})
}

// notFound gives a missing row its name.
func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// oneRow returns none where a statement that was to change a row changed none.
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
