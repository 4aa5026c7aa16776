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
	if err := y.Store.AddGear(context.Background(), brewers, grinders, kettles); err != nil {
		t.Fatal(err)
	}
}
