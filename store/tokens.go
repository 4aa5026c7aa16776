package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"time"
)

// A Token lets a program read the yard.
type Token struct {
	ID    string    `db:"id"`
	Name  string    `db:"name"`
	By    reference `db:"by"` // id of a person; empty: the yard
	Added instant   `db:"added_at"`
}

// MaxTokens is the maximum number of valid tokens.
const MaxTokens = 24

// ErrTooManyTokens is returned for a token beyond MaxTokens.
var ErrTooManyTokens = errors.New("there are as many tokens as there can be")

// AddToken stores a token of a name and returns its text, which is not stored and cannot be shown again.
func (s *Store) AddToken(ctx context.Context, name, by string, now time.Time) (text string, err error) {
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
		_, err := t.do(ctx, `INSERT INTO api_tokens (id, name, hash, added_at, by) VALUES (?, ?, ?, ?, (SELECT id FROM people WHERE id = ?))`,
			NewID(), name, hash[:], instant{now}, by)
		return err
	})
}

// Tokens returns the valid tokens, the oldest first.
func (s *Store) Tokens(ctx context.Context) ([]Token, error) {
	var out []Token
	err := s.read.all(ctx, &out, `SELECT id, name, by, added_at FROM api_tokens WHERE revoked_at IS NULL ORDER BY added_at, id LIMIT ?`, MaxTokens)
	return out, err
}

// RevokeToken makes a token invalid. It returns ErrNotFound for one that is not valid.
func (s *Store) RevokeToken(ctx context.Context, id string, now time.Time) error {
	return s.change(ctx, `UPDATE api_tokens SET revoked_at = :at WHERE id = :id AND revoked_at IS NULL`, deletion{id, instant{now}}, ErrNotFound)
}

// IsToken reports whether a text is a valid token.
func (s *Store) IsToken(ctx context.Context, text string) (is bool, err error) {
	hash := sha256.Sum256([]byte(text))
	err = s.read.get(ctx, &is, `SELECT EXISTS (SELECT 1 FROM api_tokens WHERE hash = ? AND revoked_at IS NULL)`, hash[:])
	return is, err
}
