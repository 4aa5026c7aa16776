package yard_test

import (
	"context"
	"errors"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/store"
)

// Close cancels learning and waits for its end, so that nothing uses the store afterwards, and no learning begins later. Mutations
// caught: a Close that does not wait, learning that begins after it.
func TestCloseWaitsForLearning(t *testing.T) {
	t.Parallel()
	y, _ := openDemo(t)
	y.Learn()
	y.Close()
	if y.Learning() {
		t.Error("learning goes on after Close")
	}
	y.Learn()
	if y.Learning() {
		t.Error("learning begins after Close")
	}
}

// A person who gave up does not wait for the advice of others, and changes nothing. Mutation caught: a wait without the context.
func TestTasteGivesUpWithItsRequest(t *testing.T) {
	t.Parallel()
	y, _ := openDemo(t)
	defer y.OccupyAdvice()()
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	err := y.Taste(ctx, brew.Sheet{ID: "slate-terrace-3", BagID: "slate-terrace"}, "", store.Settings{}, func(b brew.Brew) (cup.Cup, error) {
		t.Error("the cup is changed")
		return b.Cup, nil
	})
	if !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
}
