package store

import (
	"context"
	"time"

	"github.com/alexedwards/scs/sqlite3store"
	"github.com/alexedwards/scs/v2"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// Settings holds the settings of the yard.
type Settings struct {
	Ounces     bool `db:"ounces"`
	Fahrenheit bool `db:"fahrenheit"`
	Altitude   int  `db:"altitude"` // m
	// Version counts the changes of units and altitude.
	Version int64 `db:"version"`
	// Brewer, Grinder and Kettle were used last and are the defaults.
	Brewer   string `db:"brewer"`
	Grinder  string `db:"grinder"`
	Kettle   string `db:"kettle"`
	Water    string `db:"water"`
	Password string `db:"password"` // argon2id, encoded; empty for none
	// Running and RunningName are the id and the coffee of a running brew, which every page links to; empty
	// for none.
	Running     string `db:"running"`
	RunningName string `db:"running_name"`
	// Begins stores the person's defaults for a new coffee; see Habits.
	HabitsColumn column[document.Habits] `db:"habits"`
}

// Habits returns the person's defaults for a new coffee.
func (s Settings) Habits() recipe.Habits { return s.HabitsColumn.V.Core() }

// Prefs returns how quantities are read and typed.
func (s Settings) Prefs() units.Prefs {
	return units.Prefs{Ounces: s.Ounces, Fahrenheit: s.Fahrenheit}
}

// Boiling returns the boiling point at the yard's altitude.
func (s Settings) Boiling() units.Celsius { return gear.Boiling(float64(s.Altitude)) }

const selectSettings = `
	SELECT ounces, fahrenheit, altitude, settings.version, brewer, grinder, kettle, settings.water, password, habits, COALESCE(r.id,
		'') AS running, COALESCE(r.bag_name, '') AS running_name
	FROM settings LEFT JOIN brews r ON r.id = (SELECT id FROM brews WHERE status = 'running' ORDER BY started_at DESC LIMIT 1)`

// Settings returns the settings.
func (s *Store) Settings(ctx context.Context) (Settings, error) {
	var out Settings
	err := s.read.get(ctx, &out, selectSettings)
	return out, err
}

// SaveUnits stores the units and the altitude. It returns ErrConflict if the version is outdated; 0 skips
// the check.
func (s *Store) SaveUnits(ctx context.Context, p units.Prefs, altitude int, version int64) error {
	return s.change(ctx, `
		UPDATE settings SET ounces = :ounces, fahrenheit = :fahrenheit, altitude = :altitude, version = version + 1
		WHERE :version IN (0, version)`,
		Settings{Ounces: p.Ounces, Fahrenheit: p.Fahrenheit, Altitude: altitude, Version: version}, ErrConflict)
}

// SaveHabits stores the person's defaults for a new coffee. It returns ErrConflict if the version is
// outdated; 0 skips the check.
func (s *Store) SaveHabits(ctx context.Context, h recipe.Habits, version int64) error {
	return s.change(ctx, `UPDATE settings SET habits = :habits, version = version + 1 WHERE :version IN (0, version)`,
		Settings{HabitsColumn: column[document.Habits]{document.OfHabits(h)}, Version: version}, ErrConflict)
}

// SavePassword stores the encoded password of the yard and ends all sessions.
func (s *Store) SavePassword(ctx context.Context, encoded string) error {
	return s.transact(ctx, func(t *tx) error {
		if _, err := t.do(ctx, `UPDATE settings SET password = ?`, encoded); err != nil {
			return err
		}
		_, err := t.do(ctx, `DELETE FROM sessions`)
		return err
	})
}

// RenewPassword stores the same password with a new encoding, unless it was changed since. Sessions stay
// valid.
func (s *Store) RenewPassword(ctx context.Context, was, encoded string) error {
	return s.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `UPDATE settings SET password = ? WHERE password = ?`, encoded, was)
		return err
	})
}

// sessions finds sessions through the readers, so that no page waits for the writer.
type sessions struct {
	*sqlite3store.SQLite3Store // writes
	path                       string
	readers                    *sqlite3store.SQLite3Store
}

func (s sessions) Find(token string) ([]byte, bool, error) {
	data, found, err := s.readers.Find(token)
	return data, found, explain(s.path, err)
}

func (s sessions) Commit(token string, data []byte, expiry time.Time) error {
	return explain(s.path, s.SQLite3Store.Commit(token, data, expiry))
}

func (s sessions) Delete(token string) error {
	return explain(s.path, s.SQLite3Store.Delete(token))
}

// Sessions returns the store of sign-in sessions. Expired sessions are deleted at start.
func (s *Store) Sessions() scs.Store {
	return sessions{sqlite3store.NewWithCleanupInterval(s.write.DB.DB, 0), s.path, sqlite3store.NewWithCleanupInterval(s.read.DB.DB, 0)}
}
