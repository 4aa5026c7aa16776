package gear

import (
	"math"
	"testing"

	"yardbloom/core/units"
)

var dials = map[string]Dial{
	"numbered":        {Kind: Numbered, Zero: 300, Step: 20, Mark: 0.5},
	"clicks":          {Kind: Clicks, Zero: 60, Step: 27},
	"turns":           {Kind: Turns, Zero: 0, Step: 15, PerTurn: 30},
	"higher is finer": {Kind: Numbered, Zero: 1400, Step: -25, Mark: 1},
}

func TestDialRoundTrip(t *testing.T) {
	for name, d := range dials {
		for size := units.Micrometres(400); size <= 1100; size += 7 {
			snapped := d.Snap(size)
			if math.Abs(float64(snapped-size)) > math.Abs(float64(d.Step))/2+1e-9 {
				t.Errorf("%s: %v µm snaps to %v, more than half a step away", name, size, snapped)
			}
			if back := d.FromNumber(d.Number(snapped)); back != snapped {
				t.Errorf("%s: %v µm reads %v and comes back as %v", name, snapped, d.Number(snapped), back)
			}
		}
	}
}

func TestSettingsAreInTheGrindersOwnTerms(t *testing.T) {
	for name, want := range map[string]string{
		"numbered": "9", "clicks": "22 clicks", "turns": "1 turn + 14 clicks", "higher is finer": "30",
	} {
		if got := dials[name].Setting(654); got != want {
			t.Errorf("%s: 654 µm is %q, want %q", name, got, want)
		}
	}
	if got := (Dial{Kind: Words}).Setting(650); got != "like table salt" {
		t.Errorf("in words 650 µm is %q", got)
	}
}

// Finer turns every dial in the right direction, by at least one step.
func TestNudgeIsWholeStepsInTheRightDirection(t *testing.T) {
	for name, d := range dials {
		for _, delta := range []units.Micrometres{-40, -3, 3, 40} {
			from := d.Snap(650)
			m := d.Nudge(from, delta)
			if m.Steps == 0 || (m.Size < from) != (delta < 0) {
				t.Errorf("%s: a nudge of %v µm from %v gives %+v", name, delta, from, m)
			}
		}
	}
	d := dials["higher is finer"]
	m := d.Nudge(650, -50)
	if m.Steps != 2 || d.DescribeMove(m, 650) != "2 finer on the dial" {
		t.Errorf("50 µm finer on a reversed dial: %+v, %q", m, d.DescribeMove(m, 650))
	}
	c := dials["clicks"]
	if m := c.Nudge(c.Snap(650), 30); c.DescribeMove(m, c.Snap(650)) != "1 click coarser" {
		t.Errorf("30 µm coarser in clicks: %q", c.DescribeMove(m, 650))
	}
}

func TestBoilingPointFallsWithAltitude(t *testing.T) {
	// Steam tables: 100.0 °C at 1013.25 hPa, 95.0 °C at 845.3 hPa (1500 m), 90.2 °C at 701 hPa (3000 m).
	for altitude, want := range map[float64]float64{0: 100.0, 1500: 95.0, 3000: 90.0} {
		if got := float64(Boiling(altitude)); math.Abs(got-want) > 0.3 {
			t.Errorf("water boils at %.2f °C at %.0f m, want %.1f", got, altitude, want)
		}
	}
}

func TestOffBoilWait(t *testing.T) {
	k := Kettle{Capacity: 900}
	if got := k.OffBoilWait(500, 100, 100); got != 0 {
		t.Errorf("no wait is needed for boiling water, got %v", got)
	}
	near, far := k.OffBoilWait(500, 100, 95), k.OffBoilWait(500, 100, 88)
	if near < 70 || near > 120 || far <= near {
		t.Errorf("waits to 95 and 88 °C are %v and %v", near, far)
	}
	if full := k.OffBoilWait(900, 100, 88); full <= far {
		t.Errorf("a fuller kettle cools more slowly: %v against %v", full, far)
	}
}

// Two readings of a kettle give the cooling rate that produced them, for any amount of water.
func TestTwoReadingsGiveTheCoolingRate(t *testing.T) {
	const truth = 0.0011
	for _, water := range []units.Grams{300, 800} {
		const apart = 300
		second := room + (97-room)*math.Exp(-CoolingRate(truth, water)*apart)
		k := Kettle{CoolingReadings: CoolingReadings{Water: water, First: 97, Second: units.Celsius(second), Apart: apart}}
		if err := k.CoolingReadings.Check(); err != nil || math.Abs(k.Rate()/truth-1) > 1e-9 {
			t.Errorf("%v g: %v 1/s, %v", water, k.Rate(), err)
		}
		if faster := k.OffBoilWait(500, 100, 92); faster >= (Kettle{}).OffBoilWait(500, 100, 92) {
			t.Errorf("a kettle that cools faster than usual waits %v", faster)
		}
	}
	for name, r := range map[string]CoolingReadings{
		"warmer":     {Water: 500, First: 90, Second: 91, Apart: 60},
		"cold":       {Water: 500, First: 90, Second: 23, Apart: 60},
		"in no time": {Water: 500, First: 97, Second: 80, Apart: 20},
	} {
		if r.Check() == nil {
			t.Errorf("%s: %+v passes", name, r)
		}
	}
}

func TestRetainedWaterIsLearnedFromPlausibleBrewsOnly(t *testing.T) {
	if got := LearnRetained(nil); got != DefaultRetained {
		t.Errorf("nothing weighed gives %v", got)
	}
	var weighed []Retention
	for range 12 {
		weighed = append(weighed, Retention{Water: 300, Beverage: 300 - 2.3*18, Dose: 18})
	}
	weighed = append(weighed, Retention{Water: 300, Beverage: 100, Dose: 18}, Retention{Water: 300, Dose: 0})
	if got := LearnRetained(weighed); math.Abs(got-2.24) > 0.005 {
		t.Errorf("twelve brews at 2.3 g/g give %v, want (3·2.0 + 12·2.3) / 15 = 2.24", got)
	}
}

// Mutations caught: fractions of turns dropped, a size parsed as a setting, textures refused.
func TestParseGrindAcceptsEveryNotation(t *testing.T) {
	t.Parallel()
	numbered := Dial{Kind: Numbered, Zero: 290, Step: 24, Mark: 0.5}
	clicks := Dial{Kind: Clicks, Zero: 60, Step: 27}
	turns := Dial{Kind: Turns, Zero: 50, Step: 20, PerTurn: 30}
	for _, c := range []struct {
		dial  Dial
		typed string
		want  units.Micrometres
	}{
		{numbered, "6.5", 602}, {numbered, "6,5", 602}, {clicks, "24", 708}, {clicks, "24 clicks", 708}, {clicks, "650 µm", 650},
		{clicks, "650um", 650}, {clicks, "0.65 mm", 650},
		{turns, "1 turn 6 clicks", 770}, {turns, "1 turn 6", 770}, {turns, "0.85 turns", 570}, {turns, "1 1/2 turns", 950},
		{turns, "36", 770}, {turns, "Table salt", 625}, {clicks, "like sea salt", 925},
		{Dial{Kind: Words}, "650", 650}, {Dial{Kind: Words}, "medium-fine", 600},
	} {
		if got, err := c.dial.ParseGrind(c.typed); err != nil || math.Abs(float64(got-c.want)) > 0.5 {
			t.Errorf("%q on %s is %v µm, %v; want %v", c.typed, c.dial.Kind, got, err, c.want)
		}
	}
	for typed, dial := range map[string]Dial{"2 turns": clicks, "24 clicks": {Kind: Words}, "94 C": clicks, "": clicks, "6 clicks 1": turns,
		"pebbles": clicks} {
		if got, err := dial.ParseGrind(typed); err == nil {
			t.Errorf("%q on %s is %v µm", typed, dial.Kind, got)
		}
	}
}
