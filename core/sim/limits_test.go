package sim

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// steep is a long steep with a closed valve, in a brewer that loses no heat.
func steep(long units.Seconds) Brew {
	return with(base(), func(b *Brew) {
		b.Brewer, b.Release = SteeperSmall, long
		b.Brewer.Contact, b.Brewer.Loss = 0, 0
		b.Pours = []Pour{{Water: 288, Rate: 20, Temperature: 95, Height: 0.05, Pattern: Circles}}
		b.Hands = nil
		for at := units.Seconds(20); at < long; at += 20 {
			b.Hands = append(b.Hands, stirred(at, 1))
		}
	})
}

// A long steep ends in equilibrium: the free solubles are in all of the water, the bound ones in the solids.
func TestLongSteepEndsInEquilibrium(t *testing.T) {
	t.Parallel()
	b := steep(1150)
	b.Coffee.Rate = 4
	b.Grind.Median, b.Grind.Fines = 400, 0.2
	r := run(t, b)
	water := 288. / 18
	strength := b.Coffee.Soluble * (1 - boundShare) / water // kg of solubles per kg of liquid
	want := 100 * strength * (water - insideGrains)
	inRange(t, "extraction at equilibrium", r.Extracted, want-0.3, want+0.3)
}

// still returns a run in which the given classes do not extract.
func still(b Brew, classes ...int) *runner {
	var r runner
	r.begin(b, defaultLayers, defaultStep)
	for _, c := range classes {
		r.pace[c-firstBoulder] = 0
	}
	return &r
}

// Without diffusion only fines and broken cells, and a little of the bound share, extract.
func TestWithoutDiffusionOnlyTheFastClassExtracts(t *testing.T) {
	t.Parallel()
	b := base()
	r := still(b, firstBoulder, firstBoulder+1, firstBoulder+2, firstBoulder+3, firstBoulder+4, firstBoulder+5)
	var out Result
	out.begin(r)
	for !r.step(&out) {
	}
	bound := 0.0
	for k := range r.column {
		for i := range r.column[k].n {
			whole := r.opened * b.Coffee.Soluble * r.dose * r.column[k].share / float64(r.column[k].n) * boundShare
			bound += whole * r.column[k].layers[i].given(boundClass, whole)
		}
	}
	out.finish(r)
	most := 100 * b.Coffee.Soluble * (1 - boundShare) * b.Grind.fastShare()
	inRange(t, "extraction without diffusion", out.Extracted-100*bound/r.dose, 0.85*most, most)
}

// A sphere in clean water follows Crank's series within the error of two modes.
func TestSphereFollowsCranksSeries(t *testing.T) {
	t.Parallel()
	var r runner
	b := base()
	b.Grind.Spread, b.Grind.Fines = 0, 0
	r.begin(b, 1, defaultStep)
	r.wetted, r.celsius, r.between, r.inside = 1, reference, 0.02, insideGrains*r.dose
	r.open(1)
	for k := range r.column {
		r.column[k].water = r.between * r.column[k].share
	}
	radius := float64(b.Grind.Median) / 2 * 1e-6
	l := &r.column[mostOfBed].layers[0]
	boulders := func() (kg float64) {
		for c := firstBoulder; c < boundClass; c++ {
			kg += l.solids[sweet][c]
		}
		return kg
	}
	start, worst := boulders(), 0.0
	for i := range 400 {
		r.rates(r.dt)
		r.dissolve()
		l.dissolved = [families]float64{} // washed away at once
		left := 0.0
		for n := 1.0; n < 200; n++ {
			left += 6 / (math.Pi * math.Pi * n * n) * math.Exp(-n*n*math.Pi*math.Pi*diffusivity*float64(i+1)*r.dt/(radius*radius))
		}
		worst = max(worst, math.Abs(boulders()/start-left))
	}
	inRange(t, "the largest distance from a sphere's series", worst, 0, 0.085)
}

// The merged rates follow the sum of all modes of all sizes at any time.
func TestMergedPacesMatchAllModes(t *testing.T) {
	t.Parallel()
	for _, spread := range []float64{0, 0.5, 1, 1.3} {
		g := Grind{Median: 650, Spread: spread}
		paces, _ := g.paces()
		for _, dt := range []float64{1, 5, 10, 20, 40, 80, 160, 320} {
			var want, got float64
			for i := range sizes {
				radius := g.boulder(i) / 2
				for j := range modes {
					want += modeShare[j] / sizes * math.Exp(-modeRate[j]*diffusivity/(radius*radius)*dt)
				}
			}
			for _, p := range paces {
				got += p.share * math.Exp(-p.rate*diffusivity*dt)
			}
			if math.Abs(got-want) > 0.005 {
				t.Errorf("spread %v after %v s: %.4f are left, want %.4f", spread, dt, got, want)
			}
		}
	}
}

// At a constant head without coffee the flow follows Darcy's law.
func TestConstantHeadRunsAtDarcysRate(t *testing.T) {
	t.Parallel()
	var r runner
	b := base()
	r.begin(b, defaultLayers, defaultStep)
	r.celsius, r.rho, r.bedResistance = 20, density(20), 0
	got := r.drain(0.05)
	mu := 1.002e-3 // Pa·s, water at 20 °C, by the tables
	want := 998.2 * 9.80665 * 0.05 / (mu*b.Filter.Resistance/r.shape.wall(r.bedHeight) + b.Brewer.Outlet)
	if math.Abs(got/want-1) > 0.01 {
		t.Errorf("%g m³/s, want %g", got, want)
	}
}

// An empty brewer cools by Newton's law.
func TestEmptyBrewerCoolsExponentially(t *testing.T) {
	t.Parallel()
	var r runner
	b := base()
	b.Warm = 90
	r.begin(b, defaultLayers, 0.05)
	r.brew.Brewer.Contact = 0
	for range 6000 {
		r.cool(0.05, 0)
	}
	want := 21 + (90-21)*math.Exp(-b.Brewer.Loss/b.Brewer.Heat*300)
	if math.Abs(r.brewerTemp-want) > 0.02 {
		t.Errorf("after 5 min it has %.3f °C, want %.3f", r.brewerTemp, want)
	}
}

func TestWaterFormulas(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ celsius, viscosity, density, pressure float64 }{
		{20, 1.002e-3, 998.2, 2339}, {60, 0.466e-3, 983.2, 19946}, {90, 0.3145e-3, 965.3, 70182},
	} {
		if got := viscosity(c.celsius); math.Abs(got/c.viscosity-1) > 0.02 {
			t.Errorf("viscosity at %v °C: %g, want %g", c.celsius, got, c.viscosity)
		}
		if got := density(c.celsius); math.Abs(got/c.density-1) > 0.005 {
			t.Errorf("density at %v °C: %g, want %g", c.celsius, got, c.density)
		}
		if got := vapourPressure(c.celsius); math.Abs(got/c.pressure-1) > 0.01 {
			t.Errorf("vapour pressure at %v °C: %g, want %g", c.celsius, got, c.pressure)
		}
	}
}

func TestLevelIsTheInverseOfVolume(t *testing.T) {
	t.Parallel()
	for _, b := range []Brewer{OpenConeSmall, FlatBedSmall, SteeperLarge} {
		s := b.shape()
		for z := 0.0; z < 0.12; z += 0.004 {
			if back := s.height(s.volume(z)); math.Abs(back-z) > 1e-12 {
				t.Errorf("%v m holds %v m³, which stands %v m high", z, s.volume(z), back)
			}
		}
		var sum float64 // of thin slices
		const n, top = 20000, 0.05
		for i := range n {
			sum += top / n / s.area((float64(i)+0.5)*top/n)
		}
		if got := s.resistance(top, false); math.Abs(got/sum-1) > 1e-6 {
			t.Errorf("∫dz/A is %v, in slices %v", got, sum)
		}
	}
}

// Any brew inside the ranges ends, and all figures of its result are finite.
func TestAnyValidBrewEnds(t *testing.T) {
	t.Parallel()
	for seed := range uint64(400) {
		anyRecipe(t, seed)
	}
}

func FuzzRun(f *testing.F) {
	f.Add(uint64(7))
	f.Fuzz(func(t *testing.T, seed uint64) { anyRecipe(t, seed) })
}

// anyBrew returns a random brew inside the model's valid ranges.
func anyBrew(seed uint64) Brew {
	rng := rand.New(rand.NewPCG(seed, 11))
	in := func(r units.Range) float64 { return r.Lo + rng.Float64()*(r.Hi-r.Lo) }
	maybe := func() float64 { return float64(rng.IntN(2)) }
	b := base()
	b.Dose = units.Grams(in(doseRange))
	b.Coffee = Coffee{in(solubles), in(rates), in(gases)}
	b.Grind = Grind{units.Micrometres(in(medians)), in(finesRange), in(spreads), in(units.Range{Lo: 0.2, Hi: 5})}
	b.Ambient, b.Warm, b.Bed = units.Celsius(in(ambients)), units.Celsius(in(brewerWarms)), in(shares)
	b.Brewer = []Brewer{OpenConeSmall, OpenConeLarge, FlatBedSmall, FlatBedLarge, HeavyConeSmall, HeavyConeLarge, SteeperSmall,
		SteeperLarge}[rng.IntN(8)].WithMaterial(Materials[gear.Materials()[rng.IntN(4)]])
	b.Filter = Filters[gear.Filters()[rng.IntN(6)]]
	b.Release = units.Seconds(maybe() * in(units.Range{Hi: 300}))
	b.Kettle = Kettle{Water: units.Grams(in(units.Range{Hi: 2000})), Rate: maybe() * in(units.Range{Hi: 0.01})}
	b.Below = Carafes[gear.Materials()[rng.IntN(4)]]
	b.Below.Ice = Ice{units.Grams(maybe() * in(units.Range{Hi: 500})), units.Celsius(in(units.Range{Lo: -40})), in(shares)}
	b.Below.Dilution, b.Below.Added = units.Grams(maybe()*in(units.Range{Hi: 200})), units.Celsius(in(units.Range{Hi: 100}))
	b.Below.Discard, b.Below.CutAt = units.Grams(maybe()*in(units.Range{Hi: 60})), units.Grams(maybe()*in(units.Range{Hi: 500}))
	b.Brewer.Blocked, b.WaterFirst = maybe()*in(shares), b.Release > 0 && rng.IntN(2) == 0
	b.Pours, b.Hands = nil, nil
	motion := func() Motion { return Motion{in(strengths), in(shares), in(shares), in(shares)} }
	for range 1 + rng.IntN(5) {
		b.Pours = append(b.Pours, Pour{Water: units.Grams(10 + in(units.Range{Hi: 300})), Start: units.Seconds(in(units.Range{Hi: 240})),
			WhenDrained: rng.IntN(2) == 0, ToDrips: rng.IntN(2) == 0,
			Rate: in(pourRates), Temperature: units.Celsius(in(pourTemps)), Height: in(heights),
			Pattern: Pattern{in(shares), in(shares), in(shares)},
			Then:    motion()})
		b.Hands = append(b.Hands, HandMotion{units.Seconds(in(units.Range{Hi: 240})), motion()})
	}
	return b
}

func anyRecipe(t *testing.T, seed uint64) {
	t.Helper()
	b, out := anyBrew(seed), Result{}
	if err := RunInto(&out, b); err != nil {
		t.Fatalf("%+v: %v", b, err)
	}
	for name, v := range map[string]float64{"EY": out.EY, "ice": float64(out.IceLeft), "TDS": out.TDS, "beverage": float64(out.Beverage),
		"retained": out.Retained,
		"drawdown": float64(out.Drawdown), "below": out.Below, "above": out.Above, "mean": float64(out.SlurryMean),
		"cup": float64(out.CupTemp)} {
		if math.IsNaN(v) || math.IsInf(v, 0) || v < -40 {
			t.Fatalf("%+v: %s is %v", b, name, v)
		}
	}
	if out.EY+out.Kept > 100*b.Coffee.Soluble+1e-9 || float64(out.Drawdown) > limit+1 || out.Beverage < -1e-9 || out.IceLeft < 0 ||
		out.Below > 1+1e-9 || out.Above > 1 {
		t.Fatalf("%+v: EY %v, drawdown %v, beverage %v, ice %v, %v under and %v over the band", b, out.EY, out.Drawdown, out.Beverage,
			out.IceLeft, out.Below, out.Above)
	}
	if e := math.Abs(out.books.waterOut/out.books.waterIn - 1); e > 1e-9 {
		t.Fatalf("%+v: water is off by %g", b, e)
	}
	if e := math.Abs(out.books.solidsOut/out.books.solidsIn - 1); e > 1e-9 {
		t.Fatalf("%+v: solids are off by %g", b, e)
	}
	if e := math.Abs(out.books.heatOut - out.books.heatIn); e > 1e-6*(math.Abs(out.books.heatIn)+1000) {
		t.Fatalf("%+v: heat is off by %g J", b, e)
	}
}

func TestOutOfRangeIsRefusedByName(t *testing.T) {
	t.Parallel()
	for at, change := range map[string]func(*Brew){
		"dose":                 func(b *Brew) { b.Dose = 3 },
		"grind.median":         func(b *Brew) { b.Grind.Median = units.Micrometres(math.NaN()) },
		"coffee.soluble":       func(b *Brew) { b.Coffee.Soluble = 0.9 },
		"pours":                func(b *Brew) { b.Pours = nil },
		"pours[1].temperature": func(b *Brew) { b.Pours[1].Temperature = 130 },
		"pours[0].rate":        func(b *Brew) { b.Pours[0].Rate = 0 },
		"water":                func(b *Brew) { b.Pours = b.Pours[:1]; b.Pours[0].Water = 4 },
		"pours[2].pattern":     func(b *Brew) { b.Pours[2].Pattern.Wall = 2 },
		"hands[0].agitation":   func(b *Brew) { b.Hands = []HandMotion{stirred(3, 9)} },
		"bed":                  func(b *Brew) { b.Bed = -1 },
		"kettle.rate":          func(b *Brew) { b.Kettle.Rate = 1 },
		"below.ice.celsius":    func(b *Brew) { b.Below.Ice.Celsius = 4 },
		"brewer.angle":         func(b *Brew) { b.Brewer.Angle = 0 },
	} {
		_, err := Run(with(base(), change))
		var wrong *units.ValueError
		if !errors.As(err, &wrong) || wrong.At.String() != at || !errors.Is(err, units.ErrRange) {
			t.Errorf("%s: %v", at, err)
		}
	}
}

// A pour too large for the brewer overflows and a bed of dust stalls: results, not errors.
func TestOverflowAndStallAreResults(t *testing.T) {
	t.Parallel()
	flood := run(t, with(base(), func(b *Brew) { b.Pours = []Pour{{Water: 600, Rate: 20, Temperature: 95}} }))
	if flood.Overflow < 0 || flood.TopLevel <= flood.Rim {
		t.Errorf("600 g at once rise to %.0f of %.0f mm, over at %v", flood.TopLevel, flood.Rim, flood.Overflow)
	}
	dust := run(t, with(base(), func(b *Brew) { b.Grind = Grind{Median: 200, Fines: 0.4, Spread: 1} }))
	if dust.Drained {
		t.Errorf("a bed of dust drained in %v", dust.Drawdown)
	}
}

func TestDefaultStepIsFineEnoughForASteep(t *testing.T) {
	t.Parallel()
	for _, release := range []units.Seconds{90, 165, 300} {
		b := steep(release)
		b.Hands = []HandMotion{stirred(release-40, 0.8)}
		var coarse, fine Result
		if err := RunInto(&coarse, b); err != nil {
			t.Fatal(err)
		}
		if err := runAt(&fine, b, 4*defaultLayers, defaultStep/4); err != nil {
			t.Fatal(err)
		}
		if d := math.Abs(coarse.EY - fine.EY); d > 0.05 {
			t.Errorf("steeped %v: EY %.3f, finer %.3f", release, coarse.EY, fine.EY)
		}
		if d := math.Abs(float64(coarse.Drawdown - fine.Drawdown)); d > 1 {
			t.Errorf("steeped %v: drawdown %.2f, finer %.2f", release, float64(coarse.Drawdown), float64(fine.Drawdown))
		}
	}
}

// The index of a curve is the time in seconds: nothing is poured at 0 s, and a pour of 5 g/s adds 5 g per
// second.
func TestCurveIndexIsTime(t *testing.T) {
	t.Parallel()
	r := run(t, base())
	for at, want := range map[int]float64{0: 0, 1: 5, 10: 50, 11: 54, 40: 54, 41: 59, 90: 176, 100: 226} {
		if got := r.Poured[at]; math.Abs(got-want) > 1e-6 {
			t.Errorf("after %d s %.2f g are poured, want %.0f", at, got, want)
		}
	}
	if n := len(r.Level); n != len(r.Kettle) || n != len(r.Curves.EY) || float64(n) < float64(r.Drawdown) {
		t.Errorf("%d points for %v", n, r.Drawdown)
	}
	if last := r.Curves.EY[len(r.Curves.EY)-1]; math.Abs(last-r.EY) > 0.05 {
		t.Errorf("the curve ends at EY %.2f, the brew at %.2f", last, r.EY)
	}
}

func TestClosedValveHoldsEverything(t *testing.T) {
	t.Parallel()
	b := steep(150)
	r := run(t, b)
	if r.FirstDrip < 150 || r.FirstDrip > 155 {
		t.Errorf("opened at 2:30, it drips at %v", r.FirstDrip)
	}
}
