package yard

import (
	"context"
	"errors"

	"yardbloom/core/brew"
	"yardbloom/core/trial"
	"yardbloom/store"
)

// Collect fills in the results of a trial's brews that have been tasted meanwhile.
func (y *Yard) Collect(ctx context.Context, t trial.Trial) (trial.Trial, error) {
	for i, run := range t.Runs {
		if run.Brew == "" || run.Done || run.Skipped {
			continue
		}
		b, err := y.Store.Brew(ctx, run.Brew)
		if errors.Is(err, store.ErrNotFound) { // not begun
			continue
		}
		if err != nil {
			return t, err
		}
		b = b.Preferring(t.By)
		if v, ok := resultOf(b, t.Measure); ok && b.Status == brew.Done {
			t = t.SetResult(i, v, b.Taster)
		}
	}
	return t, nil
}

// resultOf returns the result of a brew by a measure; false if it was not measured.
func resultOf(b brew.Brew, m trial.Measure) (float64, bool) {
	switch m {
	case trial.ByMark:
		return float64(b.Cup.Overall), b.Cup.Overall > 0
	case trial.ByStrength:
		return b.Cup.TDS, b.Cup.TDS > 0
	case trial.ByTime:
		return float64(b.Cup.Drawdown), b.Cup.Drawdown > 0
	}
	e, ok := b.Yield()
	return e.Value, ok
}

// OpenRun opens the draft of a trial’s run by a person, or the yard, and returns its ID.
func (y *Yard) OpenRun(ctx context.Context, t trial.Trial, run int, by string) (draftID string, err error) {
	d := brew.Draft{Sheet: t.SheetOf(t.Runs[run]), Held: brew.DefaultHeld}
	d.ID, d.Parent, d.By, d.Advised, d.Created = store.NewID(), "", by, nil, y.Now()
	if draftID, err = y.Store.OpenDraft(ctx, d, y.Now()); err != nil {
		return "", err
	}
	err = y.Store.ChangeTrial(ctx, t.ID, func(t trial.Trial) (trial.Trial, error) { return t.SetBrew(run, draftID), nil })
	return draftID, err
}

// EndTrial leaves out the runs of a trial that were not brewed.
func (y *Yard) EndTrial(ctx context.Context, id string) error {
	return y.Store.ChangeTrial(ctx, id, func(t trial.Trial) (trial.Trial, error) {
		t, err := y.Collect(ctx, t)
		for i, run := range t.Runs {
			if !run.Done {
				t = t.Skip(i)
			}
		}
		return t, err
	})
}
