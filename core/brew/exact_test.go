package brew

import (
	"fmt"
	"math"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// The verdict on a change compares the measured yields with the expected effect. Mutations caught: a sign turned round,
// a time without both drawdowns, the error ignored.
func TestOutcomeOfAChangeIsExact(t *testing.T) {
	measured := func(tds float64, drawdown units.Seconds, expected float64) Brew {
		d := draft()
		b := Brew{Sheet: d.Sheet, Status: Done, Cup: cup.Cup{TDS: tds, Beverage: 260, Drawdown: drawdown}}
		if expected != 0 {
			b.Advised = &coach.Proposal{Effect: coach.Effect{Yield: expected}}
		}
		return b
	}
	for _, c := range []struct {
		name          string
		before, after Brew
		time          string
		verdict       Verdict
	}{
		{"much more, as expected", measured(1.2, 180, 0), measured(1.5, 200, 1), "0:20", AsExpected},
		{"much less, though more was expected", measured(1.5, 200, 0), measured(1.2, 180, 1), "-0:20", Opposite},
		{"much less, as expected", measured(1.5, 180, 0), measured(1.2, 180, -1), "0:00", AsExpected},
		{"the same", measured(1.3, 180, 0), measured(1.301, 180, 1), "0:00", NoChange},
		{"a little less, though more was expected", measured(1.3, 180, 0), measured(1.26, 180, 1), "0:00", NoChange},
		{"nothing was expected", measured(1.2, 180, 0), measured(1.5, 180, 0), "0:00", ""},
		{"not measured before", measured(0, 180, 0), measured(1.5, 190, 1), "0:10", ""},
		{"no time before", measured(1.2, 0, 0), measured(1.5, 190, 1), "", AsExpected},
		{"no time after", measured(1.2, 190, 0), measured(1.5, 0, 1), "", AsExpected},
	} {
		o := Compare(c.before, c.after)
		took := ""
		if o.Time != nil {
			took = fmt.Sprint(math.Round(float64(*o.Time)))
			if c.time != "" {
				want := map[string]string{"0:20": "20", "-0:20": "-20", "0:00": "0", "0:10": "10"}[c.time]
				if took != want {
					t.Errorf("%s: %s s longer, want %s", c.name, took, want)
				}
			}
		}
		if o.Verdict != c.verdict || (o.Time == nil) != (c.time == "") {
			t.Errorf("%s: %q in %q, want %q", c.name, o.Verdict, took, c.verdict)
		}
	}
}

// The kettle is filled for rinse, preheating, brew and hot dilution. Mutations caught: a part that is forgotten, counted
// twice or counted without need.
func TestFillOfTheKettleIsExact(t *testing.T) {
	fill := func(change func(*Setup)) units.Grams {
		d := draft()
		j := Setup{Recipe: d.Recipe, Set: d.Gear}
		j.Recipe.Rinse, j.Brewer.Material, j.Kettle = false, gear.Plastic, gear.Kettle{Capacity: 5000}
		change(&j)
		return j.fill()
	}
	plain := fill(func(*Setup) {})
	dilute := func(at units.Celsius) func(*Setup) {
		return func(j *Setup) { j.Boiling, j.Recipe.Dilution = 100, recipe.Dilution{Water: 80, Temperature: at} }
	}
	for _, c := range []struct {
		name   string
		change func(*Setup)
		more   units.Grams
	}{
		{"rinse", func(j *Setup) { j.Recipe.Rinse = true }, 150},
		{"heavy brewer", func(j *Setup) { j.Brewer.Material = gear.Ceramic }, 150},
		{"both", func(j *Setup) { j.Recipe.Rinse, j.Brewer.Material = true, gear.Glass }, 150},
		{"hot dilution", dilute(90), 80},
		{"dilution just above half of boiling", dilute(50.1), 80},
		{"cold dilution", dilute(20), 0},
		{"dilution at half of boiling", dilute(50), 0},
	} {
		want := (gear.Kettle{Capacity: 5000}).Fill(draft().Recipe.Water() + c.more)
		if got := fill(c.change); math.Abs(float64(got-want)) > 1e-9 {
			t.Errorf("%s: %v, want %v (plain %v)", c.name, got, want, plain)
		}
	}
}

// The checklist has the line for each condition and not its opposite. Mutations caught: a condition negated.
func TestChecklistConditionsAreExact(t *testing.T) {
	lines := func(change func(*Setup)) map[string]bool {
		d := draft()
		j := Setup{Recipe: d.Recipe, Set: d.Gear}
		change(&j)
		out := map[string]bool{}
		for _, e := range checklist {
			out[e.id] = e.when == nil || e.when(j)
		}
		return out
	}
	for _, c := range []struct {
		name    string
		change  func(*Setup)
		yes, no string
	}{
		{"thermostat", func(j *Setup) { j.Kettle.Thermostat = true }, "kettle", "boil"},
		{"no thermostat", func(j *Setup) { j.Kettle.Thermostat = false }, "boil", "kettle"},
		{"a kettle of known size", func(j *Setup) { j.Kettle = gear.Kettle{Capacity: 900} }, "fill", "kettle"},
		{"a kettle of unknown size", func(j *Setup) { j.Kettle = gear.Kettle{} }, "boil", "fill"},
		{"paper", func(j *Setup) { j.Brewer.Filter = gear.StandardPaper }, "filter", "mesh"},
		{"cloth", func(j *Setup) { j.Brewer.Filter = gear.Cloth }, "mesh", "filter"},
		{"mesh", func(j *Setup) { j.Brewer.Filter = gear.Mesh }, "mesh", "filter"},
		{"dry corrugated paper", func(j *Setup) { j.Recipe.Rinse, j.Brewer.Filter = false, gear.CorrugatedPaper }, "dry", "unrinsed"},
		{"dry paper", func(j *Setup) { j.Recipe.Rinse, j.Brewer.Filter = false, gear.StandardPaper }, "unrinsed", "dry"},
		{"a cone", func(j *Setup) { j.Brewer.Kind = gear.OpenCone }, "well", "level"},
		{"a level bed", func(j *Setup) { j.Level = true }, "level", "well"},
		{"water first", func(j *Setup) { j.Recipe.WaterFirst = true }, "aside", "level"},
		{"ice", func(j *Setup) { j.Recipe.Ice = recipe.Ice{Mass: 100} }, "cold", "cup"},
	} {
		if got := lines(c.change); !got[c.yes] || got[c.no] {
			t.Errorf("%s: %s %t, %s %t", c.name, c.yes, got[c.yes], c.no, got[c.no])
		}
	}
}

// A comparison has each pour that happened, and the effect is the model's for the pours as they were. Mutations caught:
// a difference turned round, a pour in progress counted.
func TestComparisonWithThePlanIsExact(t *testing.T) {
	plan := begun(t).Plan
	b := watched(t, begun(t), Event{Kind: Watched}, Event{Kind: Began, At: 0.2}, Event{Kind: Ended, At: 12, Grams: plan.Steps[0].Total})
	if got := b.ComparePlan(nil); len(got.Pours) != 1 || got.Effect != nil || got.ByScale {
		t.Errorf("after the bloom: %d pours, effect %v", len(got.Pours), got.Effect)
	}
	for i, s := range plan.Steps[1:] {
		more := units.Grams(10 * (i + 1))
		b = watched(t, b, Event{Kind: Began, At: s.Start}, Event{Kind: Ended, At: s.End(), Grams: s.Total + more})
	}
	b = watched(t, b, Event{Kind: Finish, At: 230})
	got := b.ComparePlan(nil)
	state := b.At(b.Ended)
	really := b.Question(b.Started)
	really.Recipe = really.Recipe.WithSteps(state.Steps())
	var planned, poured forecast.Forecast
	if planned.Run(b.Question(b.Started)) != nil || poured.Run(really) != nil {
		t.Fatal("the model cannot run")
	}
	if len(got.Pours) != 4 || got.Effect == nil || math.Abs(got.Effect.Yield-(poured.Yield.Value-planned.Yield.Value)) > 1e-9 ||
		math.Abs(got.Effect.Strength-(poured.TDS-planned.TDS)) > 1e-9 || got.Effect.Time != poured.Drawdown-planned.Drawdown || got.Effect.Strength >= 0 {
		t.Errorf("%d pours, effect %+v", len(got.Pours), got.Effect)
	}
	for i, p := range got.Pours {
		if want := plan.Steps[i].Water; i > 0 && p.Actual.Water != want+10 || !p.Weighed || p.Planned.Water != want {
			t.Errorf("pour %d: %v of %v", i+1, p.Actual.Water, p.Planned.Water)
		}
	}
}

// The rest of the water is shared in the planned proportions, in whole grams that add up, and each pour has at least the
// smallest amount. Mutations caught: a proportion of the wrong pour, a sum that is off by a gram, a duration that stays.
func TestRestOfTheWaterIsSharedExactly(t *testing.T) {
	b := poured(t, "", begun(t).Plan.Steps[0].Total, begun(t).Plan.Steps[1].Start, begun(t).Plan.Steps[1].End(), begun(t).Plan.Steps[1].Total+15)
	w := reviser{brew: b, state: b.At(noon.Add(70e9)), next: 2}
	w.steps = w.asPlanned()
	left := w.plannedRest()
	if want := b.Plan.Steps[3].Total - w.steps[1].Total; left != want {
		t.Errorf("the rest is %v, want %v", left, want)
	}
	w.distribute(left)
	planned := b.Plan.Steps[2].Water + b.Plan.Steps[3].Water
	for i := 2; i < 4; i++ {
		share := float64(left * b.Plan.Steps[i].Water / planned)
		if s := w.steps[i]; math.Abs(float64(s.Water)-share) > 1 || s.Total != w.steps[i-1].Total+s.Water ||
			s.Lasts != units.Seconds(math.Ceil(float64(s.Water)/s.Rate)) {
			t.Errorf("pour %d: %v, want about %.1f; total %v, %v", i+1, s.Water, share, s.Total, s.Lasts)
		}
	}
	if w.steps[3].Total != b.Plan.Steps[3].Total {
		t.Errorf("the total is %v, want %v", w.steps[3].Total, b.Plan.Steps[3].Total)
	}
	w.distribute(0)
	if w.steps[2].Water != minPour || w.steps[3].Water != minPour {
		t.Errorf("nothing is left, and the pours have %v and %v", w.steps[2].Water, w.steps[3].Water)
	}
}

// A cold kettle counts for the next pour, and for later ones if it cannot heat; a thermometer far off belongs to another
// kettle. Mutations caught: a limit moved, a kettle with a thermostat that stays cold.
func TestKettleOfTheRestIsExact(t *testing.T) {
	plan := begun(t).Plan
	meant := plan.Steps[2].Temperature
	for _, c := range []struct {
		kettle     units.Celsius
		thermostat bool
		next, last units.Celsius
	}{
		{0, true, meant, meant}, {meant - 1.5, true, meant, meant}, {meant - 1.6, true, meant - 1.6, meant},
		{meant - 1.6, false, meant - 1.6, meant - 1.6}, {meant - 24.9, true, meant - 24.9, meant}, {meant - 25, true, meant, meant},
		{meant + 5, true, meant, meant},
	} {
		b := poured(t, "", plan.Steps[0].Total, plan.Steps[1].Start, plan.Steps[1].End(), plan.Steps[1].Total)
		b.Gear.Kettle.Thermostat = c.thermostat
		w := reviser{brew: b, state: b.At(noon.Add(70e9)), next: 2, kettle: c.kettle}
		steps := w.asPlanned()
		if !isNear(steps[2].Temperature, c.next) || !isNear(steps[3].Temperature, c.last) {
			t.Errorf("kettle at %v, thermostat %t: %v and %v, want %v and %v", c.kettle, c.thermostat, steps[2].Temperature, steps[3].Temperature, c.next,
				c.last)
		}
	}
}

func isNear(a, b units.Celsius) bool { return math.Abs(float64(a-b)) < 1e-9 }
