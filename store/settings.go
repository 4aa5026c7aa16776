package store

import (
	"context"

	"github.com/alexedwards/scs/sqlite3store"
	"github.com/alexedwards/scs/v2"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Settings are what holds for the whole yard.
type Settings struct {
	Ounces     bool `db:"ounces"`
	Fahrenheit bool `db:"fahrenheit"`
	Altitude   int  `db:"altitude"` // m
	// Brewer, Grinder and Kettle were used last, and are offered first.
	Brewer   int64  `db:"brewer"`
	Grinder  int64  `db:"grinder"`
	Kettle   int64  `db:"kettle"`
	Password string `db:"password"` // argon2id, encoded; empty where none is set
}

// Prefs returns how quantities are read and typed.
func (s Settings) Prefs() units.Prefs {
	return units.Prefs{Ounces: s.Ounces, Fahrenheit: s.Fahrenheit}
}

// Boiling returns the boiling point at the yard's altitude.
func (s Settings) Boiling() units.Celsius { return gear.Boiling(float64(s.Altitude)) }

// Settings returns the settings.
func (s *Store) Settings(ctx context.Context) (Settings, error) {
	var out Settings
	err := s.read.GetContext(ctx, &out, `SELECT ounces, fahrenheit, altitude, brewer, grinder, kettle, password FROM settings`)
	return out, err
}

// SaveUnits keeps the units and the altitude.
func (s *Store) SaveUnits(ctx context.Context, p units.Prefs, altitude int) error {
	_, err := s.write.ExecContext(ctx, `UPDATE settings SET ounces = ?, fahrenheit = ?, altitude = ?`, p.Ounces, p.Fahrenheit, altitude)
	return err
}

// SavePassword keeps the encoded password that a sign-in asks for.
func (s *Store) SavePassword(ctx context.Context, encoded string) error {
	_, err := s.write.ExecContext(ctx, `UPDATE settings SET password = ?`, encoded)
	return err
}

// Sessions keeps who has signed in.
func (s *Store) Sessions() scs.Store {
	return sqlite3store.NewWithCleanupInterval(s.write.DB, 0) // expired ones are swept at start
}
