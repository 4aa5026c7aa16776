package trial

import (
	"errors"
	"testing"

	"yardbloom/core/water"
)

// Each run of a trial of waters has its own water and otherwise the same sheet, and the model expects a slower extraction in
// softer water. Mutations caught: all runs with the first water, a bend between waters.
func TestTrialOfWaters(t *testing.T) {
	waters := []water.Water{{ID: "soft", Name: "Soft", TypedHardness: 5, TypedAlkalinity: 5, Known: true},
		{ID: "hard", Name: "Hard", TypedHardness: 250, TypedAlkalinity: 40, Known: true}}
	tr, err := NewOfWaters("t", "waters", sheet(), waters, 3, ByYield, 7)
	if err != nil || len(tr.Runs) != 6 {
		t.Fatalf("%d runs, %v", len(tr.Runs), err)
	}
	for i, run := range tr.Runs {
		s := tr.SheetOf(run)
		if s.Gear.Water != waters[run.Level] || s.Recipe.Dose != tr.Sheet.Recipe.Dose {
			t.Errorf("run %d is brewed with %q", i, s.Gear.Water.Name)
		}
		tr = tr.SetResult(i, 20+float64(run.Level)+0.1*float64(i%2), "")
	}
	a, ok := tr.Answer()
	if !ok || a.Bend != nil {
		t.Fatalf("answer %+v", a)
	}
	a = tr.Expect(a)
	if d := a.Levels[1].Expected - a.Levels[0].Expected; d < 0.1 || d > 1 {
		t.Errorf("the model expects %+.2f points in the harder water", d)
	}
	if says := tr.LevelName(1, tr.Sheet.Prefs); says != "Hard" {
		t.Errorf("level %q", says)
	}
	if _, err := NewOfWaters("t", "waters", sheet(), waters[:1], 3, ByYield, 7); !errors.Is(err, ErrLevels) {
		t.Errorf("one water: %v", err)
	}
}
