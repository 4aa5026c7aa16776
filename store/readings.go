package store

import (
	"context"

	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// A batch is a row of readings of one brew.
type batch struct {
	BrewID   string                 `db:"brew_id"`
	Readings column[document.Trace] `db:"readings"`
}

const (
	insertBatch = `
	INSERT INTO brew_readings (brew_id, n, readings)
	SELECT :brew_id, COALESCE(MAX(n), -1) + 1, :readings FROM brew_readings WHERE brew_id = :brew_id`
	// shift is the time by which the first water that was stored first, from which readings count, came after the one that
	// counts, s.
	selectReadings = `SELECT readings, COALESCE((SELECT ROUND((julianday(e.instant) - julianday(b.started_at)) * 86400, 3) FROM brew_events e
		JOIN brews b ON b.id = e.brew_id WHERE e.brew_id = brew_readings.brew_id AND e.n = 0), 0) AS shift
		FROM brew_readings WHERE brew_id = ? ORDER BY n`
)

// AppendReadings stores scale readings by brew: all of them or none.
func (s *Store) AppendReadings(ctx context.Context, fresh map[string][]trace.Reading) error {
	return s.transact(ctx, func(t *tx) error {
		for id, readings := range fresh {
			row := batch{id, column[document.Trace]{document.OfTrace(readings)}}
			if _, err := t.put(ctx, insertBatch, row); err != nil {
				return err
			}
		}
		return nil
	})
}

// Readings returns the scale readings of a brew in order, in seconds since its start; none without a scale.
func (s *Store) Readings(ctx context.Context, brewID string) ([]trace.Reading, error) {
	var rows []struct {
		Readings column[document.Trace] `db:"readings"`
		Shift    units.Seconds          `db:"shift"`
	}
	if err := s.read.all(ctx, &rows, selectReadings, brewID); err != nil {
		return nil, err
	}
	var out []trace.Reading
	for _, row := range rows {
		for _, x := range row.Readings.V.Core() {
			x.At += row.Shift
			out = append(out, x)
		}
	}
	return out, nil
}

const selectRunning = `SELECT id FROM brews WHERE status = 'running' ORDER BY started_at DESC LIMIT ?`

// Running returns the ids of the running brews, the latest first.
func (s *Store) Running(ctx context.Context) ([]string, error) {
	const most = 24
	var out []string
	err := s.read.all(ctx, &out, selectRunning, most)
	return out, err
}
