package main

import (
	"strings"
	"testing"
)

// The short form of every attack. A queue that drops a tap on a 502, a save that does
// not compare versions, a first start that is not made whole: each shows here as lost.
func TestNothingIsLostUnderAttack(t *testing.T) {
	t.Parallel()
	var table strings.Builder
	lost, err := attackAll(&table, true)
	if err != nil || lost > 0 {
		t.Errorf("%d lost, %v", lost, err)
	}
	t.Logf("\n%s", &table)
}
