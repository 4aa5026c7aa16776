package brew

import (
	"errors"
	"testing"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
)

// A brew made away from the screen is poured as planned, ended when it is said, and gets advice like any other. Mutations caught: a brew
// that ends in the future, a drawdown that is lost when it is tasted, a pour that is missing.
func TestRecordedBrew(t *testing.T) {
	d := draft()
	now := time.Date(2026, 5, 12, 12, 0, 0, 0, time.UTC)
	at := now.Add(-3 * time.Hour)
	b, err := Record(d, Recorded{Key: "k", By: "ada", Started: at, Drawdown: 195, Now: now})
	if err != nil || b.Status != Poured || b.Cup.Drawdown != 195 || !b.Started.Equal(at) || b.BrewedBy != "ada" || !b.Ended.Equal(at.Add(195*time.Second)) {
		t.Fatalf("%v: %+v", err, b)
	}
	if was, _ := b.AsPoured(); len(was.Pours) != len(d.Recipe.Pours) || was.Water() != d.Recipe.Water() {
		t.Errorf("it was poured otherwise than planned: %+v", was.Pours)
	}
	b, err = b.Taste(cup.Cup{Drawdown: 195, Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: 5, cup.Bitterness: 1}, Overall: 4}}, coach.Person{})
	if err != nil || b.Advice == nil || b.Advice.First == nil {
		t.Errorf("%v: %+v", err, b.Advice)
	}
	for _, wrong := range []Recorded{{Key: "k", Started: now.Add(-time.Minute), Drawdown: 195, Now: now}, {Key: "k", Started: at, Now: now}} {
		if _, err := Record(d, wrong); !errors.Is(err, ErrStatus) {
			t.Errorf("%v after %v: %v", wrong.Drawdown, wrong.Started, err)
		}
	}
}
