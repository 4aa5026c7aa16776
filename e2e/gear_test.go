package e2e

import (
	"context"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/e2e/yard"
)

// seedGear gives an empty yard the gear that every new yard begins with.
func seedGear(t *testing.T, y *yard.Yard) {
	t.Helper()
	brewers, grinders, kettles := gear.Starter()
	for _, b := range brewers {
		if err := y.Store.SaveBrewer(context.Background(), b); err != nil {
			t.Fatal(err)
		}
	}
	for _, g := range grinders {
		if err := y.Store.SaveGrinder(context.Background(), g); err != nil {
			t.Fatal(err)
		}
	}
	for _, k := range kettles {
		if err := y.Store.SaveKettle(context.Background(), k); err != nil {
			t.Fatal(err)
		}
	}
}
