package gear

import (
	"testing"

	"yardbloom/core/units"
)

// Two mugs need one brew of a large brewer and two of a small one, and a single small cup is a thin bed in a large one. Mutations
// caught: retained water forgotten, the capacity ignored, a steeper with the room of a cone, brews rounded down.
func TestBrewerFitsTheCups(t *testing.T) {
	cone := Brewer{Kind: OpenCone, Holds: 480, Retained: 2}
	for _, c := range []struct {
		b     Brewer
		inCup float64
		want  Fit
		size  string
	}{
		{cone, 250, Fit{1, 17, false}, "for one or two cups"},
		{cone, 500, Fit{2, 17, false}, "for one or two cups"}, // 34.5 g; it takes 34
		{cone, 1500, Fit{4, 26, false}, "for one or two cups"},
		{cone, 120, Fit{1, 8.5, true}, "for one or two cups"},
		{Brewer{Kind: HeavyCone, Holds: 900}, 500, Fit{1, 34.5, false}, "for four cups and more"},
		{Brewer{Kind: ValveSteeper, Holds: 400}, 500, Fit{2, 17, false}, "for one or two cups"},
		{Brewer{Kind: ValveSteeper, Holds: 340}, 290, Fit{2, 10, false}, "for one cup"},
		{Brewer{Kind: OpenCone, Holds: 340}, 290, Fit{1, 20, false}, "for one cup"},
		{Brewer{Kind: OpenCone}, 500, Fit{1, 34.5, false}, ""},
	} {
		if got := c.b.Fit(units.Grams(c.inCup), 16.5); got != c.want {
			t.Errorf("%v g in %+v: %+v, want %+v", c.inCup, c.b, got, c.want)
		}
		if got := c.b.FilterSize(); got != c.size {
			t.Errorf("filter of %v g: %q, want %q", c.b.Holds, got, c.size)
		}
	}
}

// A collar without clicks is set and moved in turns, with fractions. Mutations caught: turns counted as steps, a fraction cut off.
func TestCollarHasFractionsOfTurns(t *testing.T) {
	d := Dial{Kind: Collar, Zero: 100, Step: 40, PerTurn: 8}
	for typed, want := range map[string]units.Micrometres{"1.5": 580, "1.5 turns": 580, "1 1/2 turns": 580, "turns 2": 0, "0.85 turns": 380, "650 µm": 650} {
		got, err := d.ParseGrind(typed)
		if (err != nil) != (want == 0) || err == nil && got != want {
			t.Errorf("%q: %v µm, %v; want %v", typed, got, err, want)
		}
	}
	if got := d.Setting(580); got != "1.5 turns" {
		t.Errorf("580 µm is %q", got)
	}
	if got := d.DescribeMove(d.Nudge(580, -42), 580); got != "0.125 turns finer" {
		t.Errorf("42 µm finer is %q", got)
	}
	if got := d.Number(580); got != 1.5 || d.FromNumber(1.5) != 580 {
		t.Errorf("580 µm is %v turns", got)
	}
}
