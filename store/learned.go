package store

import (
	"context"
	"errors"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/learn"
	"yardbloom/store/document"
)

const selectMeasured = `
	SELECT ` + brewColumns + ` FROM brews WHERE status = 'done' AND ` + visible + ` ORDER BY started_at DESC, id DESC LIMIT ?`

// Measured returns the latest measured brews as samples for learning, with the person's decision about
// each.
func (s *Store) Measured(ctx context.Context, limit int) ([]learn.Sample, error) {
	var rows []brewRow
	if err := s.read.all(ctx, &rows, selectMeasured, limit); err != nil {
		return nil, err
	}
	var said []struct {
		ID      string `db:"brew_id"`
		Verdict string `db:"verdict"`
	}
	if err := s.read.all(ctx, &said, `SELECT brew_id, verdict FROM verdicts`); err != nil {
		return nil, err
	}
	verdicts := map[string]string{}
	for _, v := range said {
		verdicts[v.ID] = v.Verdict
	}
	brews := make([]brew.Brew, len(rows))
	for i, r := range rows {
		brews[i] = r.brew()
	}
	if err := addEvents(ctx, s.read, brews); err != nil {
		return nil, err
	}
	var out []learn.Sample
	for _, b := range brews {
		sample := b.Sample()
		if sample.Drawdown == 0 && sample.Beverage == 0 && sample.TDS == 0 {
			continue
		}
		sample.Out, sample.In = verdicts[b.ID] == "out", verdicts[b.ID] == "in"
		out = append(out, sample)
	}
	return out, nil
}

// SetExcluded excludes a brew from learning, or includes it although it is an outlier.
func (s *Store) SetExcluded(ctx context.Context, brewID string, out bool) error {
	verdict := "in"
	if out {
		verdict = "out"
	}
	return s.transact(ctx, func(t *tx) error {
		if _, err := loadBrew(ctx, t, brewID); err != nil {
			return err
		}
		_, err := t.do(ctx, `INSERT INTO verdicts (brew_id, verdict) VALUES (?,
			?) ON CONFLICT (brew_id) DO UPDATE SET verdict = excluded.verdict`, brewID, verdict)
		return err
	})
}

// SaveLearned replaces the stored knowledge of the yard.
func (s *Store) SaveLearned(ctx context.Context, y *learn.Knowledge, now time.Time) error {
	return s.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `INSERT INTO learned (id, yard, made_at) VALUES (1, ?,
			?) ON CONFLICT (id) DO UPDATE SET yard = excluded.yard, made_at = excluded.made_at`,
			column[document.Learned]{document.OfLearned(y.State())}, instant{now})
		return err
	})
}

// Learned returns the stored knowledge of the yard; nil if there is none, or only from another version of
// the program.
func (s *Store) Learned(ctx context.Context) (*learn.Knowledge, error) {
	var kept column[document.Learned]
	err := s.read.get(ctx, &kept, `SELECT yard FROM learned WHERE id = 1`)
	if errors.Is(err, ErrNotFound) || err == nil && kept.V.V != document.Version {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return learn.Restore(kept.V.Core()), nil
}
