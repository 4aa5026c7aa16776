package recipe

import (
	"errors"
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Any two held amounts give the same brew.
func TestAnyTwoAmountsDetermineTheOthers(t *testing.T) {
	fields := FourAmounts()
	for _, dose := range []units.Grams{12, 18, 30.5} {
		for _, ratio := range []float64{12, 16.5, 18} {
			for _, k := range []float64{1.6, 2.0, 2.4} {
				whole := amounts(dose, dose*units.Grams(ratio), k)
				for i, a := range fields {
					for _, b := range fields[i+1:] {
						for _, held := range [][2]Knob{{a, b}, {b, a}} {
							given := Amounts{}
							for _, f := range held {
								given = given.Set(f, whole.Get(f))
							}
							got, err := Solve(given, held, k)
							if err != nil {
								t.Fatalf("%v with %+v: %v", held, given, err)
							}
							if !near(float64(got.Dose), float64(whole.Dose)) || !near(float64(got.Water), float64(whole.Water)) ||
								!near(got.Ratio, whole.Ratio) || !near(float64(got.Cup), float64(whole.Cup)) {
								t.Fatalf("%v with k %v gives %+v, want %+v", held, k, got, whole)
							}
						}
					}
				}
			}
		}
	}
}

func TestWorkedExampleOfAmounts(t *testing.T) {
	// 18 g at 1 : 16.5 is 297 g of water; the grounds retain 36 g; the cup has 261 g.
	got, err := Solve(Amounts{Dose: 18, Ratio: 16.5}, [2]Knob{Dose, Ratio}, 2)
	if err != nil || got.Water != 297 || got.Cup != 261 {
		t.Errorf("got %+v, %v", got, err)
	}
}

func TestImpossibleAmountsAreReported(t *testing.T) {
	cases := []struct {
		a    Amounts
		held [2]Knob
		want Knob
	}{
		{Amounts{Dose: 18, Ratio: 0}, [2]Knob{Dose, Ratio}, Ratio},
		{Amounts{Dose: -3, Ratio: 16}, [2]Knob{Dose, Ratio}, Dose},
		{Amounts{Dose: 10000, Ratio: 16}, [2]Knob{Ratio, Dose}, Dose},
		{Amounts{Dose: 18, Water: 1900}, [2]Knob{Dose, Water}, Ratio},
		{Amounts{Water: 300, Cup: 300}, [2]Knob{Water, Cup}, Dose},
		{Amounts{Dose: 110, Cup: 1800}, [2]Knob{Dose, Cup}, Water},
		{Amounts{Dose: units.Grams(math.NaN()), Ratio: 16}, [2]Knob{Dose, Ratio}, Dose},
	}
	for _, c := range cases {
		_, err := Solve(c.a, c.held, 2)
		var wrong *units.ValueError
		if !errors.As(err, &wrong) || wrong.At != AddressOf(c.want) || !errors.Is(err, units.ErrRange) {
			t.Errorf("%+v held %v: %v, want an error on %s", c.a, c.held, err, c.want)
		}
	}
}

func TestHoldDropsTheOlderAmount(t *testing.T) {
	held := [2]Knob{Ratio, Dose}
	if got := Hold(held, Dose); got != [2]Knob{Dose, Ratio} {
		t.Errorf("touching the dose of %v holds %v", held, got)
	}
	if got := Hold(held, Ratio); got != held {
		t.Errorf("touching the ratio of %v holds %v", held, got)
	}
	if got := Hold(held, Cup); got != [2]Knob{Cup, Ratio} {
		t.Errorf("typing the cup keeps %v; the ratio was touched last and should stay", got)
	}
}

// recipes yields recipes over the whole usual range of every style.
func recipes(yield func(Recipe)) {
	for _, style := range styles {
		for dose := units.Grams(5); dose <= 120; dose += 2.3 {
			for ratio := 6.0; ratio <= 25; ratio += 1.3 {
				for _, bloom := range []float64{0, 2, 3, 5} {
					r := style.Generate(dose, units.Grams(math.Round(float64(dose)*ratio)), 93)
					if r.Has(AddressOf(Bloom)) {
						r = r.With(AddressOf(Bloom), bloom)
						r = r.With(AddressOf(BloomTime), float64(max(style.BloomTime, r.MinBloom())))
					}
					for pours := 1; pours < 6; pours++ {
						yield(r.Divide(pours))
					}
				}
			}
		}
	}
}

func TestEveryScheduleAddsUpToTheGramAndNeverOverlaps(t *testing.T) {
	recipes(func(r Recipe) {
		p := r.Plan()
		var end units.Seconds
		var total units.Grams
		for i, s := range p.Steps {
			total += s.Water
			if s.Total != total || s.Water < 0 || s.Water != units.Grams(math.Round(float64(s.Water))) {
				t.Fatalf("%+v: step %d pours %v g to a total of %v, running %v", r, i, s.Water, s.Total, total)
			}
			if i > 0 && s.Start < end+minPause-1e-9 {
				t.Fatalf("%+v: step %d starts at %v, before there is time after %v", r, i, s.Start, end)
			}
			end = s.End()
		}
		if total != units.Grams(math.Round(float64(r.Water()))) {
			t.Fatalf("%+v: the pours add up to %v g of %v", r, total, r.Water())
		}
		if p.Finish < end+MinDrain || p.Window.From >= p.Finish || p.Window.To <= p.Finish {
			t.Fatalf("%+v: ends at %v, aims at %v in %+v", r, end, p.Finish, p.Window)
		}
	})
}

// base returns the recipe that most tests start from.
func base() Recipe {
	r := ThreeRounds.Style().Generate(18, 297, 94)
	r.Grind, r.Rinse = 650, true
	return r
}

func TestDefaultSchedule(t *testing.T) {
	want := []struct {
		start units.Seconds
		total units.Grams
		h     Height
	}{{0, 54, Mid}, {45, 135, Mid}, {85, 216, Mid}, {125, 297, Low}}
	p := base().Plan()
	if len(p.Steps) != len(want) {
		t.Fatalf("%d steps, want %d", len(p.Steps), len(want))
	}
	for i, w := range want {
		if s := p.Steps[i]; s.Start != w.start || s.Total != w.total || s.Height != w.h {
			t.Errorf("step %d starts at %v to %v g, %v; want %v to %v g, %v", i, s.Start, s.Total, s.Height, w.start, w.total, w.h)
		}
	}
	if p.Finish.String() != "3:22" {
		t.Errorf("aims at %v", p.Finish)
	}
}

// A later edit of the style table does not change existing recipes.
func TestEditedStyleChangesNoRecipe(t *testing.T) {
	r := base()
	before := r.Plan()
	table := styles[0]
	defer func() { styles[0] = table }()
	styles[0].Rate, styles[0].gap, styles[0].drain, styles[0].Bloom = 9, 70, 120, 2
	if after := r.Plan(); !reflect.DeepEqual(before, after) {
		t.Errorf("the plan was %+v and is %+v", before, after)
	}
	larger := r.Resize(36, 594) // scaled, not generated again
	if got := larger.Value(AddressOf(Bloom)); !near(got, 3) || larger.Value(AddressOf(Rate)) != 5 {
		t.Errorf("a larger brew blooms with %v g per g, poured at %v g/s", got, larger.Value(AddressOf(Rate)))
	}
}

// Changing the dose and changing it back leaves every pour unchanged.
func TestResizeRoundTrip(t *testing.T) {
	byHand := base().With(Address{Start, 3}, 97).With(Address{Water, 2}, 60)
	for name, r := range map[string]Recipe{"as written": base(), "four pours": base().Divide(4), "by hand": byHand,
		"steeped": SteepAndRelease.Style().Generate(16, 256, 93)} {
		there := r
		for dose := r.Dose; dose <= 40; dose += 0.5 {
			there = there.ResizeRounded(dose, units.Grams(float64(dose)*r.Ratio()))
		}
		back := there.ResizeRounded(r.Dose, r.Water())
		if got := Changes(r, back); len(got) > 0 {
			t.Errorf("%s: came back with %+v", name, got)
		}
		if d := back.Aim - r.Aim; d < -1 || d > 1 {
			t.Errorf("%s: the aim moved from %v to %v", name, r.Aim, back.Aim)
		}
	}
}

// Values set for a single pour survive a change of amounts or of the number of pours.
func TestEditedPoursStay(t *testing.T) {
	r := base().With(Address{Temperature, 4}, 88).With(Address{HandAfter, 2}, float64(slices.Index(Hands(), Tap)))
	for name, next := range map[string]Recipe{"larger": r.ResizeRounded(24, 396), "weaker": r.With(AddressOf(Ratio), 17.5)} {
		if next.Pours[3].Temperature != 88 || next.Pours[1].Then != Tap || next.Pours[2].Then != NoHand {
			t.Errorf("%s: %+v", name, next.Pours)
		}
	}
	if next := r.Divide(5); next.Pours[5].Temperature != 88 || next.Pours[5].Height != Low || next.Pours[0].Temperature != 94 {
		t.Errorf("in five pours: %+v", next.Pours)
	}
	// Another amount in one pour is compensated by the others; the total stays the same.
	if next := r.With(Address{Water, 3}, 101); !near(float64(next.Water()), 297) || !near(float64(next.Pours[1].Water), 71) ||
		!near(float64(next.Pours[0].Water), 54) {
		t.Errorf("20 g more in the third pour: %+v", next.Pours)
	}
}

func TestRemovingAndAddingABloom(t *testing.T) {
	r := base()
	none := r.With(AddressOf(Bloom), 0)
	if p := none.Plan(); len(p.Steps) != 3 || p.Steps[0].Start != 0 || p.Steps[2].Total != 297 || p.Finish != 160 {
		t.Errorf("without a bloom: %+v", p)
	}
	if got := Changes(r, none.With(AddressOf(Bloom), 3)); len(got) > 0 {
		t.Errorf("put back it differs by %+v", got)
	}
}

func TestSteepAndReleaseOpensTheValve(t *testing.T) {
	r := SteepAndRelease.Style().Generate(16, 256, 93).With(AddressOf(Release), 180)
	p := r.Plan()
	last := p.Steps[len(p.Steps)-1]
	if last.Act != OpenValve || last.Start != 180 || p.Steps[1].Act != BreakCrust || p.Steps[1].Start != 135 {
		t.Errorf("a steep of 3:00 gives %+v", p.Steps)
	}
}

// Every address survives formatting and parsing, and ParseAddress rejects everything else.
func TestAddressRoundTrip(t *testing.T) {
	n := 0
	for k, row := range table {
		for pour := range 3 {
			a := Address{k, pour}
			back, ok := ParseAddress(a.String())
			if there := pour == 0 && (row.get != nil || k == Cup) || pour > 0 && row.getPour != nil; ok != there || ok && back != a {
				t.Errorf("%s reads back as %v, %v", a, back, ok)
			} else if ok {
				n++
			}
		}
	}
	for _, s := range []string{"", "mood", "pours.0.water", "pours.41.water", "pours.2", "pours.2.", "pours.2.dose", "pours.02.water",
		"pours.-1.rate", "pours.x.rate"} {
		if a, ok := ParseAddress(s); ok {
			t.Errorf("%q reads as %v", s, a)
		}
	}
	if t.Logf("%d addresses", n); n < 30 {
		t.Errorf("only %d addresses", n)
	}
	if got := (Address{Rate, 2}).Path(); got != "pours[1].rate_g_s" {
		t.Errorf("in a file: %s", got)
	}
}

func TestSuggestionsFollowRoastDensityProcessAndPlace(t *testing.T) {
	now := time.Date(2026, 5, 12, 8, 0, 0, 0, time.UTC)
	base := Situation{Bag: coffee.Bag{Roast: coffee.Medium, Process: coffee.Washed, RoastedOn: "2026-04-25"}, Now: now,
		Gear: gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Filter: gear.StandardPaper}, Boiling: 100,
			Grinder: gear.Grinder{Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}}}}
	temperature := func(change func(*Situation)) units.Celsius {
		s := base
		change(&s)
		return Suggest("", s).Temperature()
	}
	medium := temperature(func(*Situation) {})
	if light := temperature(func(s *Situation) { s.Bag.Roast = coffee.Light }); light <= medium {
		t.Errorf("light starts at %v, medium at %v", light, medium)
	}
	if dark := temperature(func(s *Situation) { s.Bag.Roast = coffee.Dark }); dark >= medium {
		t.Errorf("dark starts at %v, medium at %v", dark, medium)
	}
	if decaf := temperature(func(s *Situation) { s.Bag.Process = coffee.Decaf }); decaf >= medium {
		t.Errorf("decaf starts at %v, medium at %v", decaf, medium)
	}
	if high := temperature(func(s *Situation) { s.Bag.Altitude = 2000 }); high <= medium {
		t.Errorf("grown high starts at %v, else %v", high, medium)
	}
	if hill := temperature(func(s *Situation) { s.Bag.Roast = coffee.Light; s.Gear.Boiling = 92.4 }); hill != 92 {
		t.Errorf("where water boils at 92.4 °C light coffee starts at %v", hill)
	}
	fresh := base
	fresh.Bag.RoastedOn = "2026-05-10"
	if a, b := Suggest("", fresh).Value(AddressOf(BloomTime)), Suggest("", base).Value(AddressOf(BloomTime)); a <= b {
		t.Errorf("a two-day-old coffee blooms for %v, a rested one for %v", a, b)
	}
	steeper := base
	steeper.Gear.Brewer.Kind = gear.ValveSteeper
	if r := Suggest("", steeper); r.Style != SteepAndRelease {
		t.Errorf("a valve steeper was given %q", r.Style)
	}
	if r := Suggest(SteepAndRelease, base); r.Style != ThreeRounds {
		t.Errorf("a cone without a valve was given %q", r.Style)
	}
	r := Suggest("", base)
	if r.Grind != base.Gear.Grinder.Snap(r.Grind) {
		t.Errorf("%v µm cannot be set on the dial", r.Grind)
	}
	for _, why := range Reasons(r, base, units.Prefs{}) {
		if why.At.Knob == Temperature && !strings.HasPrefix(why.Text, "Starts here") {
			t.Errorf("an untouched suggestion says %q", why.Text)
		}
	}
}

func TestChangesListsOnlyDifferences(t *testing.T) {
	r := base()
	for _, c := range []Change{{AddressOf(Pours), 3, 4}, {AddressOf(PourPattern), 2, 3}, {AddressOf(Rate), 5, 7}, {AddressOf(Gap), 40, 35},
		{AddressOf(Wait), 0, 1},
		{AddressOf(Ratio), 16.5, 15.5}, {AddressOf(Grind), 650, 610}, {AddressOf(Dose), 18, 20},
		{AddressOf(Temperature), 94, 96}, {AddressOf(HandAfter), 2, 0}, {AddressOf(PourHeight), 1, 2}, {AddressOf(Bloom), 3, 3.5},
		{AddressOf(BloomTime), 45, 60},
		{Address{Temperature, 4}, 94, 88}, {Address{Start, 4}, 125, 131}} {
		got := Changes(r, r.With(c.Address, c.To))
		if len(got) != 1 || got[0].Address != c.Address || !near(got[0].From, c.From) || !near(got[0].To, c.To) {
			t.Errorf("turning %+v tells %+v", c, got)
		}
	}
	if got := Changes(r, r); got != nil {
		t.Errorf("nothing turned tells %+v", got)
	}
	both := r.With(AddressOf(Grind), 600).With(AddressOf(Bloom), 2)
	if got := Changes(r, both); len(got) != 2 {
		t.Errorf("two turned tell %+v", got)
	}
}

// set returns a cone and a kettle of 600 g that pours up to 6 g/s, with a boiling point.
func set(boiling units.Celsius) gear.Set {
	return gear.Set{Brewer: gear.Brewer{Name: "The cone", Kind: gear.OpenCone, Holds: 400},
		Kettle: gear.Kettle{Name: "The kettle", Capacity: 600, Spout: 6}, Boiling: boiling}
}

func TestChecksNameTheCause(t *testing.T) {
	if got := Check(base(), set(100), units.Prefs{}); got != nil {
		t.Errorf("the default recipe warns of %v", got)
	}
	hill := ThreeRounds.Style().Generate(20, 560, 96).With(AddressOf(Bloom), 1)
	if got := Check(hill, set(93), units.Prefs{}); len(got) != 4 {
		t.Errorf("small kettle, too hot, odd ratio and small bloom warn of %v", got)
	}
}

// Applying the fix of a warning removes the warning.
func TestEveryFixRemovesItsWarning(t *testing.T) {
	for name, c := range map[string]struct {
		change func(Recipe) Recipe
		at     Knob
	}{
		"too much for the kettle": {func(r Recipe) Recipe { return r.ResizeRounded(34, 561) }, Water},
		"too fast for the spout":  {func(r Recipe) Recipe { return r.With(AddressOf(Rate), 9) }, Rate},
		"too hot for the hills":   {func(r Recipe) Recipe { return r.With(AddressOf(Temperature), 98) }, Temperature},
		"one pour too hot":        {func(r Recipe) Recipe { return r.With(Address{Temperature, 2}, 99) }, Temperature},
		"a thick bed":             {func(r Recipe) Recipe { return r.ResizeRounded(37, 490) }, Dose},
		"a bloom cut short":       {func(r Recipe) Recipe { return r.With(AddressOf(BloomTime), 10) }, BloomTime},
		"pours that overlap":      {func(r Recipe) Recipe { return r.With(AddressOf(Gap), 10) }, Gap},
		"hardly a bloom":          {func(r Recipe) Recipe { return r.With(AddressOf(Bloom), 1) }, Bloom},
	} {
		warned := func(r Recipe) (Warning, bool) {
			for _, w := range Check(r, set(95), units.Prefs{}) {
				if w.At == AddressOf(c.at) {
					return w, true
				}
			}
			return Warning{}, false
		}
		r := c.change(base())
		w, ok := warned(r)
		if !ok || w.Fix == nil {
			t.Errorf("%s: %+v", name, w)
			continue
		}
		if again, still := warned(w.Fix.Apply(r)); still {
			t.Errorf("%s: fixed as offered (%+v), it still warns: %s", name, w.Fix, again.Text)
		}
	}
}

func BenchmarkPlan(b *testing.B) {
	r := base()
	for b.Loop() {
		_ = r.Plan()
	}
}

func BenchmarkResize(b *testing.B) {
	r := base()
	for b.Loop() {
		_ = r.ResizeRounded(20, 330)
	}
}

func BenchmarkSolve(b *testing.B) {
	held := [2]Knob{Ratio, Cup}
	for b.Loop() {
		_, _ = Solve(Amounts{Ratio: 16.5, Cup: 260}, held, 2)
	}
}

// A level tablespoon weighs 6 g at a medium roast and grind, and less if darker or coarser.
// Mutations caught: a fixed spoon weight, an error under 15 %.
func TestSpoonWeightDependsOnRoastAndGrind(t *testing.T) {
	t.Parallel()
	if got := 4 * Spoonful(coffee.Medium, 650); math.Abs(float64(got-24)) > 0.1 {
		t.Errorf("four tablespoons weigh %.1f g, want 24", float64(got))
	}
	for _, c := range []struct{ heavier, lighter units.Grams }{
		{Spoonful(coffee.Light, 650), Spoonful(coffee.Dark, 650)}, {Spoonful(coffee.Medium, 500), Spoonful(coffee.Medium, 900)},
	} {
		if c.heavier <= c.lighter {
			t.Errorf("%.2f g is not more than %.2f g", float64(c.heavier), float64(c.lighter))
		}
	}
	r := ThreeRounds.Style().Generate(18, 297, 93)
	r.Grind = 650
	if s := r.Spoons(coffee.Medium); s.Level != 3 || s.Error < 0.15 || s.Error > 0.2 {
		t.Errorf("18 g are %v spoons, off by %.2f", s.Level, s.Error)
	}
}

// A bed of four times the dose drains twice as long. Mutations caught: pauses proportional to the dose, or
// constant.
func TestPausesGrowWithTheRootOfTheDose(t *testing.T) {
	byHand := base().With(Address{Start, 3}, 97) // edited pours are scaled, not generated again
	first := byHand.Pours[1].Start
	larger := byHand.ResizeRounded(4*byHand.Dose, 4*byHand.Water())
	for i, p := range byHand.Pours[1:] {
		if got, want := larger.Pours[i+1].Start-larger.Pours[1].Start, 2*(p.Start-first); math.Abs(float64(got-want)) > 1 {
			t.Errorf("pour %d starts %v s after the first, want %v s", i+2, got, want)
		}
	}
}

// Three rounds: 40 s between pours and 60 s to drain at 18 g, times √(dose/18), to 5 s. Mutations caught:
// both proportional to the dose, or constant.
func TestStylesTimesGrowWithTheRootOfTheDose(t *testing.T) {
	for dose, want := range map[units.Grams][2]units.Seconds{12: {35, 50}, 18: {40, 60}, 30: {50, 75}, 40: {60, 90}} {
		r := ThreeRounds.Style().Generate(dose, dose*16.5, 94)
		if got := [2]units.Seconds{r.Pours[2].Start - r.Pours[1].Start, r.Aim - lastEnd(r.Plan().Steps)}; got != want {
			t.Errorf("%v g: gap and drawdown %v, want %v", float64(dose), got, want)
		}
	}
}
