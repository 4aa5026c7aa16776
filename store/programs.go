package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/units"
)

// A Token lets a program read the yard.
type Token struct {
	ID      string    `db:"id"`
	Name    string    `db:"name"`
	By      reference `db:"by"` // id of a person; empty: the yard
	Added   instant   `db:"added_at"`
	Imports bool      `db:"imports"` // the program may also import
}

// MaxTokens is the maximum number of valid tokens.
const MaxTokens = 24

// ErrTooManyTokens is returned for a token beyond MaxTokens.
var ErrTooManyTokens = errors.New("there are as many tokens as there can be")

// AddToken stores a token of a name and returns its text, which is not stored and cannot be shown again. imports permits the program to
// import, too.
func (s *Store) AddToken(ctx context.Context, name, by string, imports bool, now time.Time) (text string, err error) {
	text = "yard_" + rand.Text()
	hash := sha256.Sum256([]byte(text))
	return text, s.transact(ctx, func(t *tx) error {
		var n int
		if err := t.get(ctx, &n, `SELECT COUNT(*) FROM api_tokens WHERE revoked_at IS NULL`); err != nil {
			return err
		}
		if n >= MaxTokens {
			return ErrTooManyTokens
		}
		_, err := t.do(ctx, `INSERT INTO api_tokens (id, name, hash, added_at, by, imports)
			VALUES (?, ?, ?, ?, (SELECT id FROM people WHERE id = ?), ?)`, NewID(), name, hash[:], instant{now}, by, imports)
		return err
	})
}

// Tokens returns the valid tokens, the oldest first.
func (s *Store) Tokens(ctx context.Context) ([]Token, error) {
	var out []Token
	err := s.read.all(ctx, &out, `SELECT id, name, by, added_at, imports FROM api_tokens WHERE revoked_at IS NULL ORDER BY added_at, id LIMIT ?`, MaxTokens)
	return out, err
}

// RevokeToken makes a token invalid. It returns ErrNotFound for one that is not valid.
func (s *Store) RevokeToken(ctx context.Context, id string, now time.Time) error {
	return s.change(ctx, `UPDATE api_tokens SET revoked_at = :at WHERE id = :id AND revoked_at IS NULL`, deletion{id, instant{now}}, ErrNotFound)
}

// TokenOf returns the valid token with a text, or ErrNotFound.
func (s *Store) TokenOf(ctx context.Context, text string) (token Token, err error) {
	hash := sha256.Sum256([]byte(text))
	err = s.read.get(ctx, &token, `SELECT id, name, by, added_at, imports FROM api_tokens WHERE hash = ? AND revoked_at IS NULL`, hash[:])
	return token, err
}

// keptHappenings is the number of happenings that can be read again.
const keptHappenings = 10_000

// A Happening is a step of a brew in the order of all of them.
type Happening struct {
	N    int64              `db:"n"`
	Kind brew.HappeningKind `db:"kind"`
	ID   string             `db:"brew_id"`
	Name string             `db:"bag_name"` // empty for a deleted brew
	At   instant            `db:"at"`
	Pour int                `db:"pour"`
	Of   int                `db:"of"`
	Sum  units.Grams        `db:"sum"`
}

// addHappenings stores the steps of a brew and drops the oldest ones of all.
func addHappenings(ctx context.Context, t *tx, brewID string, all ...brew.Happening) error {
	for _, h := range all {
		res, err := t.do(ctx, `INSERT INTO happenings (kind, brew_id, at, pour, of, sum) VALUES (?, ?, ?, ?, ?, ?)`, string(h.Kind), brewID,
			instant{time.Now()}, h.Pour, h.Of, h.Sum)
		if err != nil {
			return err
		}
		n, err := res.LastInsertId()
		if err != nil {
			return err
		}
		if _, err := t.do(ctx, `DELETE FROM happenings WHERE n <= ?`, n-keptHappenings); err != nil {
			return err
		}
	}
	return nil
}

// Happenings returns up to limit steps after a number, in order.
func (s *Store) Happenings(ctx context.Context, after int64, limit int) ([]Happening, error) {
	var out []Happening
	err := s.read.all(ctx, &out, `SELECT h.n, h.kind, h.brew_id, COALESCE(b.bag_name, '') AS bag_name, h.at, h.pour, h.of, h.sum
		FROM happenings h LEFT JOIN brews b ON b.id = h.brew_id WHERE h.n > ? ORDER BY h.n LIMIT ?`, after, limit)
	return out, err
}

// LastHappening returns the number of the latest step; 0 before the first.
func (s *Store) LastHappening(ctx context.Context) (n int64, err error) {
	err = s.read.get(ctx, &n, `SELECT COALESCE(MAX(n), 0) FROM happenings`)
	return n, err
}
