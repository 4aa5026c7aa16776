package recipe

import (
	"errors"
	"math"
	"strings"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

func near(a, b float64) bool { return math.Abs(a-b) < 1e-9*math.Max(1, math.Abs(a)) }

// Whichever two amounts are held, the same brew comes out.
func TestAnyTwoAmountsGiveTheRestAndBack(t *testing.T) {
	fields := []Field{Dose, Water, Ratio, Cup}
	for _, dose := range []units.Grams{12, 18, 30.5} {
		for _, ratio := range []float64{12, 16.5, 18} {
			for _, k := range []float64{1.6, 2.0, 2.4} {
				whole := amounts(dose, dose*units.Grams(ratio), k)
				for i, a := range fields {
					for _, b := range fields[i+1:] {
						for _, held := range [][2]Field{{a, b}, {b, a}} {
							given := Amounts{}
							for _, f := range held {
								switch f {
								case Dose:
									given.Dose = whole.Dose
								case Water:
									given.Water = whole.Water
								case Ratio:
									given.Ratio = whole.Ratio
								case Cup:
									given.Cup = whole.Cup
								}
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

func TestAWorkedExampleOfAmounts(t *testing.T) {
	// 18 g at 1 : 16.5 is 297 g of water; the grounds keep 36 g; 261 g reach the cup.
	got, err := Solve(Amounts{Dose: 18, Ratio: 16.5}, [2]Field{Dose, Ratio}, 2)
	if err != nil || got.Water != 297 || got.Cup != 261 {
		t.Errorf("got %+v, %v", got, err)
	}
}

func TestAmountsThatCannotBeBrewedAreNamed(t *testing.T) {
	cases := []struct {
		a    Amounts
		held [2]Field
		want Field
	}{
		{Amounts{Dose: 18, Ratio: 0}, [2]Field{Dose, Ratio}, Ratio},
		{Amounts{Dose: -3, Ratio: 16}, [2]Field{Dose, Ratio}, Dose},
		{Amounts{Dose: 10000, Ratio: 16}, [2]Field{Ratio, Dose}, Dose},
		{Amounts{Dose: 18, Water: 1900}, [2]Field{Dose, Water}, Ratio},
		{Amounts{Water: 300, Cup: 300}, [2]Field{Water, Cup}, Dose},
		{Amounts{Dose: 110, Cup: 1800}, [2]Field{Dose, Cup}, Water},
		{Amounts{Dose: units.Grams(math.NaN()), Ratio: 16}, [2]Field{Dose, Ratio}, Dose},
	}
	for _, c := range cases {
		_, err := Solve(c.a, c.held, 2)
		var fe *FieldError
		if !errors.As(err, &fe) || fe.Field != c.want || !strings.HasSuffix(fe.Sentence, ".") {
			t.Errorf("%+v held %v: %v, want an error on %s", c.a, c.held, err, c.want)
		}
	}
}

func TestHoldLetsTheOlderGo(t *testing.T) {
	held := [2]Field{Ratio, Dose}
	if got := Hold(held, Dose); got != [2]Field{Dose, Ratio} {
		t.Errorf("touching the dose of %v holds %v", held, got)
	}
	if got := Hold(held, Ratio); got != held {
		t.Errorf("touching the ratio of %v holds %v", held, got)
	}
	if got := Hold(held, Cup); got != [2]Field{Cup, Ratio} {
		t.Errorf("typing the cup keeps %v; the ratio was touched last and should stay", got)
	}
}

// recipes walks the whole usual field of one style.
func recipes(yield func(Recipe)) {
	for _, s := range styles {
		for dose := units.Grams(5); dose <= 120; dose += 2.3 {
			for ratio := 6.0; ratio <= 25; ratio += 1.3 {
				for _, bloom := range []float64{0, 2, 3, 5} {
					if s.Bloom == 0 {
						bloom = 0
					}
					r := Recipe{Style: s.ID, Dose: dose, Water: dose * units.Grams(ratio), Temperature: 93, Bloom: bloom,
						BloomTime: s.BloomTime, Hand: Swirl, Height: Mid, Steep: s.Steep}
					r.BloomTime = max(r.BloomTime, r.LeastBloom())
					for pours := range 6 { // nought leaves them to the style
						r.Pours = pours
						yield(r)
					}
				}
			}
		}
	}
}

func TestEveryScheduleAddsUpToTheGramAndNeverOverlaps(t *testing.T) {
	recipes(func(r Recipe) {
		p := r.Plan()
		var sum, end units.Seconds
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
			sum += s.Lasts
		}
		if total != units.Grams(math.Round(float64(r.Water))) {
			t.Fatalf("%+v: the pours add up to %v g of %v", r, total, r.Water)
		}
		if p.Finish < end || p.Window.From >= p.Finish || p.Window.To <= p.Finish {
			t.Fatalf("%+v: ends at %v, aims at %v in %+v", r, end, p.Finish, p.Window)
		}
	})
}

func TestTheDefaultScheduleIsTheOneOnTheWall(t *testing.T) {
	r := Recipe{Style: ThreeRounds, Dose: 18, Water: 297, Temperature: 94, Bloom: 3, BloomTime: 45, Hand: Swirl, Height: Mid}
	want := []struct {
		start units.Seconds
		total units.Grams
		h     Height
	}{{0, 54, Mid}, {45, 135, Mid}, {85, 216, Mid}, {125, 297, Low}}
	p := r.Plan()
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

func TestSteepAndReleaseOpensTheValveWhenAsked(t *testing.T) {
	r := Recipe{Style: SteepAndRelease, Dose: 16, Water: 256, Temperature: 93, Steep: 180}
	p := r.Plan()
	last := p.Steps[len(p.Steps)-1]
	if last.Act != Release || last.Start != 180 || p.Steps[1].Act != Stir || p.Steps[1].Start != 135 {
		t.Errorf("a steep of 3:00 gives %+v", p.Steps)
	}
}

func TestSuggestionsFollowRoastDensityProcessAndPlace(t *testing.T) {
	now := time.Date(2026, 5, 12, 8, 0, 0, 0, time.UTC)
	base := Situation{Bag: coffee.Bag{Roast: coffee.Medium, Process: coffee.Washed, RoastedOn: "2026-04-25"},
		Brewer: gear.Brewer{Kind: gear.OpenCone, Filter: gear.StandardPaper}, Boiling: 100, Now: now,
		Grinder: gear.Grinder{Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}}}
	temperature := func(change func(*Situation)) units.Celsius {
		s := base
		change(&s)
		return Suggest("", s).Temperature
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
	if hill := temperature(func(s *Situation) { s.Bag.Roast = coffee.Light; s.Boiling = 92.4 }); hill != 92 {
		t.Errorf("where water boils at 92.4 °C light coffee starts at %v", hill)
	}
	fresh := base
	fresh.Bag.RoastedOn = "2026-05-10"
	if a, b := Suggest("", fresh).BloomTime, Suggest("", base).BloomTime; a <= b {
		t.Errorf("a two-day-old coffee blooms for %v, a rested one for %v", a, b)
	}
	steeper := base
	steeper.Brewer.Kind = gear.ValveSteeper
	if r := Suggest(OneLongPour, steeper); r.Style != SteepAndRelease {
		t.Errorf("a valve steeper was given %q", r.Style)
	}
	r := Suggest("", base)
	if r.Grind != base.Grinder.Snap(r.Grind) {
		t.Errorf("%v µm cannot be set on the dial", r.Grind)
	}
	for _, why := range Reasons(r, base, units.Prefs{}) {
		if why.Field == Temperature && !strings.HasPrefix(why.Text, "Starts here") {
			t.Errorf("an untouched suggestion says %q", why.Text)
		}
	}
}

func TestChangesTellsWhatWasTurnedAndNothingElse(t *testing.T) {
	r := Recipe{Style: ThreeRounds, Dose: 18, Water: 297, Grind: 650, Temperature: 94, Bloom: 3, BloomTime: 45, Hand: Swirl}
	for _, c := range []Change{{KnobPours, 3, 4}, {KnobPattern, 2, 3}, {KnobRate, 5, 7}, {KnobGap, 40, 35}, {KnobDrained, 0, 1}, {KnobRatio, 16.5, 15.5}, {KnobGrind, 650, 610}, {KnobTemperature, 94, 96}, {KnobSwirl, 1, 0}, {KnobHeight, 0, 2}} {
		got := Changes(r, r.With(c.Knob, c.To))
		if len(got) != 1 || got[0] != c {
			t.Errorf("turning %+v tells %+v", c, got)
		}
	}
	if got := Changes(r, r); got != nil {
		t.Errorf("nothing turned tells %+v", got)
	}
}

func TestChecksNameTheCause(t *testing.T) {
	cone := gear.Brewer{Name: "The cone", Kind: gear.OpenCone, Holds: 400}
	kettle := gear.Kettle{Name: "The kettle", Capacity: 600}
	fields := func(ws []Warning) (out []Field) {
		for _, w := range ws {
			out = append(out, w.Field)
		}
		return out
	}
	if got := Check(Recipe{Style: ThreeRounds, Dose: 18, Water: 297, Temperature: 94, Bloom: 3, BloomTime: 45}, cone, kettle, 100, units.Prefs{}); got != nil {
		t.Errorf("the default recipe warns of %v", got)
	}
	hill := Check(Recipe{Style: ThreeRounds, Dose: 20, Water: 560, Temperature: 96, Bloom: 1, BloomTime: 45}, cone, kettle, 93, units.Prefs{})
	if got := fields(hill); len(got) != 4 {
		t.Errorf("small kettle, too hot, odd ratio and small bloom warn of %v", got)
	}
}

// Doing what a warning offers must silence it.
func TestEveryOfferMendsWhatItWarnsOf(t *testing.T) {
	kettle := gear.Kettle{Name: "The kettle", Capacity: 600, Spout: 6}
	base := Recipe{Style: ThreeRounds, Dose: 18, Water: 297, Temperature: 93, Bloom: 3, BloomTime: 45}
	for name, c := range map[string]struct {
		brewer gear.BrewerKind
		change func(*Recipe)
		field  Field
	}{
		"too much for the kettle": {gear.OpenCone, func(r *Recipe) { r.Dose, r.Water = 34, 561 }, Water},
		"too fast for the spout":  {gear.OpenCone, func(r *Recipe) { r.Rate = 9 }, Rate},
		"too hot for the hills":   {gear.OpenCone, func(r *Recipe) { r.Temperature = 98 }, Temperature},
		"a thick bed":             {gear.OpenCone, func(r *Recipe) { r.Dose, r.Water = 37, 500 }, Dose},
		"a bloom cut short":       {gear.OpenCone, func(r *Recipe) { r.BloomTime = 10 }, BloomTime},
		"pours that overlap":      {gear.OpenCone, func(r *Recipe) { r.Gap = 10 }, Gap},
		"hardly a bloom":          {gear.OpenCone, func(r *Recipe) { r.Bloom = 1 }, Bloom},
	} {
		r := base
		c.change(&r)
		warned := func(r Recipe) (Warning, bool) {
			for _, w := range Check(r, gear.Brewer{Name: "The brewer", Kind: c.brewer, Holds: 360}, kettle, 95, units.Prefs{}) {
				if w.Field == c.field {
					return w, true
				}
			}
			return Warning{}, false
		}
		w, ok := warned(r)
		if !ok || w.Fix.Field == "" {
			t.Errorf("%s: %+v", name, w)
			continue
		}
		if again, still := warned(w.Fix.Apply(r)); still {
			t.Errorf("%s: mended as offered (%+v) it still warns: %s", name, w.Fix, again.Text)
		}
	}
}
