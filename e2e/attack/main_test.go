package main

import (
	"strings"
	"testing"
)

// Runs the short form of every attack. Mutations caught: a queue that drops a tap on a 502, a save without
// a version check, an unfinished first start that is not repeated.
func TestNothingIsLostUnderAttack(t *testing.T) {
	t.Parallel()
	var table strings.Builder
	lost, err := attackAll(&table, true)
	if err != nil || lost > 0 {
		t.Errorf("%d lost, %v", lost, err)
	}
	t.Logf("\n%s", &table)
}
