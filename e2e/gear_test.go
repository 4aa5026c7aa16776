package e2e

import (
	"context"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/e2e/yard"
)

// seedGear adds the starter gear to an empty yard, whose Recipe station shows all settings.
func seedGear(t *testing.T, y *yard.Yard) {
	t.Helper()
	brewers, grinders, kettles := gear.Starter()
	if err := y.Store.AddGear(context.Background(), brewers, grinders, kettles); err != nil {
		t.Fatal(err)
	}
	if err := y.Store.SaveFullRecipe(context.Background(), "", true); err != nil {
		t.Fatal(err)
	}
}
