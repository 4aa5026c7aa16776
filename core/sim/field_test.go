package sim

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"testing"
	"text/tabwriter"

	"yardbloom/core/units"
)

// A field makes random recipes of the usual range.
type field struct{ rng *rand.Rand }

func newField(seed uint64) field { return field{rand.New(rand.NewPCG(seed, 3))} }

func (f field) between(lo, hi float64) float64 { return lo + f.rng.Float64()*(hi-lo) }

// bloomed is a percolation whose bloom is x g per g of dose and lasts wait seconds.
type bloomedBrew struct {
	dose, size, ratio, gas, rate float64
	celsius                      units.Celsius
	brewer                       Brewer
	x, wait                      float64
}

func (f field) percolation() bloomedBrew {
	brewers := []Brewer{OpenConeSmall, OpenConeLarge, FlatBedSmall, FlatBedLarge, HeavyConeSmall}
	return bloomedBrew{dose: f.between(12, 30), size: f.between(450, 1050), ratio: f.between(14, 18), gas: f.between(0, 0.9), rate: f.between(3.5, 7),
		celsius: units.Celsius(f.between(84, 98)), brewer: brewers[f.rng.IntN(len(brewers))], x: f.between(1.5, 3.5), wait: f.between(25, 75)}
}

func (b bloomedBrew) brew() Brew {
	return with(base(), func(out *Brew) {
		out.Dose, out.Brewer, out.Coffee.Gas = units.Grams(b.dose), b.brewer, b.gas
		out.Pours[0].Water = units.Grams(b.dose * b.x)
		for i := range out.Pours {
			out.Pours[i].Temperature, out.Pours[i].Rate = b.celsius, b.rate
		}
		grind(b.size)(out)
		ratio(b.ratio)(out)
		out.Pours[1].Start = units.Seconds(b.wait)
		out.Pours[2].Start = units.Seconds(b.wait + float64(out.Pours[1].Water)/b.rate + 25)
	})
}

// drains runs a brew and reports whether it drained within ten minutes.
func drains(b Brew) (r Result, ok bool) {
	err := RunInto(&r, b)
	return r, err == nil && r.Drained && r.Drawdown < 600
}

// blooms counts the recipes whose yield falls by more than 0.05 points with a bloom that is 15 s longer or 1 g/g larger.
func blooms(seed uint64, n int) (longer, larger int, worst float64) {
	f := newField(seed)
	for i := 0; i < n; {
		b := f.percolation()
		was, ok := drains(b.brew())
		if !ok {
			continue
		}
		i++
		more, wait := b, b
		more.x++
		wait.wait += 15
		if r, _ := drains(wait.brew()); r.EY < was.EY-0.05 {
			longer++
			worst = min(worst, r.EY-was.EY)
		}
		if r, _ := drains(more.brew()); r.EY < was.EY-0.05 {
			larger++
			worst = min(worst, r.EY-was.EY)
		}
	}
	return longer, larger, worst
}

// unconverged counts the recipes, steeps and cones at any ratio, that differ by more than 0.06 points or 1 s from a run with four
// times the layers and steps.
func unconverged(seed uint64, n int) (misses int, worstYield, worstTime float64) {
	f := newField(seed)
	for i := 0; i < n; {
		b := f.percolation()
		b.ratio = f.between(8, 18)
		brew := b.brew()
		if f.rng.IntN(6) == 0 {
			brew.Brewer, brew.Release = SteeperSmall, units.Seconds(f.between(120, 300))
		}
		r, ok := drains(brew)
		var fine Result
		if !ok || runAt(&fine, brew, 4*defaultLayers, defaultStep/4) != nil {
			continue
		}
		i++
		yield, time := math.Abs(fine.EY-r.EY), math.Abs(float64(fine.Drawdown-r.Drawdown))
		if yield > 0.06 || time > 1 {
			misses++
		}
		worstYield, worstTime = max(worstYield, yield), max(worstTime, time)
	}
	return misses, worstYield, worstTime
}

// Few of the field; BenchmarkField has 3,000. Mutations caught: heat losses that make a longer bloom lose yield, an exchange of
// first order in the step.
func TestFieldOfRecipes(t *testing.T) {
	t.Parallel()
	if longer, larger, worst := blooms(1, 120); longer > 0 || larger > 0 {
		t.Errorf("of 120 recipes %d lose yield by a longer bloom and %d by a larger one, by up to %.2f points", longer, larger, -worst)
	}
	if misses, yield, time := unconverged(2, 60); misses > 0 {
		t.Errorf("%d of 60 recipes have not converged: up to %.3f points and %.2f s", misses, yield, time)
	}
}

// BenchmarkField prints trends and convergence over random recipes.
func BenchmarkField(b *testing.B) {
	const n = 3000
	for b.Loop() {
		table := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', 0)
		longer, larger, worst := blooms(101, n)
		misses, yield, time := unconverged(102, n)
		fmt.Fprintf(table, "of %d recipes\t\n", n)
		fmt.Fprintf(table, "bloom 15 s longer, yield lower by over 0.05\t%d\n", longer)
		fmt.Fprintf(table, "bloom 1 g/g larger, yield lower by over 0.05\t%d\n", larger)
		fmt.Fprintf(table, "worst of both, points\t%.3f\n", worst)
		fmt.Fprintf(table, "not converged to 0.06 points and 1 s\t%d\n", misses)
		fmt.Fprintf(table, "worst, points and s\t%.3f, %.2f\n", yield, time)
		table.Flush()
	}
}

// Practitioners report these gains of a stirred bloom at 18 g, 1 : 16, 650 µm, medium-light. Mutation caught: clumps that open
// by themselves before a hand could.
func TestHandActionsGainWhatIsReported(t *testing.T) {
	t.Parallel()
	brewed := func(m Motion, x, gas float64) float64 {
		return run(t, with(base(), func(b *Brew) {
			b.Coffee.Gas, b.Pours[0].Water, b.Pours[0].Then = gas, b.Dose*units.Grams(x), m
			ratio(16)(b)
		})).EY
	}
	none := brewed(Motion{}, 3, 0.2)
	inRange(t, "swirl", brewed(Swirl, 3, 0.2)-none, 0.3, 0.7)
	inRange(t, "spoon", brewed(Stir, 3, 0.2)-none, 0.8, 1.8)
	inRange(t, "needle", brewed(NeedleStir, 3, 0.2)-none, 1.5, 3.5)
	for _, m := range []Motion{Swirl, Stir, NeedleStir} {
		gain := func(x, gas float64) float64 { return brewed(m, x, gas) - brewed(Motion{}, x, gas) }
		if gain(3, 0.8) <= gain(3, 0.1) || gain(2, 0.2) <= gain(3, 0.2) {
			t.Errorf("%+v: fresh coffee gains %.2f, rested %.2f; a small bloom %.2f, a larger one %.2f", m, gain(3, 0.8), gain(3, 0.1), gain(2, 0.2),
				gain(3, 0.2))
		}
	}
}

// More bypass is a parallel path: the brew drains sooner and weaker. Mutation caught: a bypass that only divides the flow.
func TestBypassShortensTheDrawdown(t *testing.T) {
	t.Parallel()
	for _, size := range []float64{500, 650, 850} {
		b := with(base(), grind(size))
		more := with(b, func(b *Brew) { b.Brewer.Bypass *= 1.6 })
		was, now := run(t, b), run(t, more)
		inRange(t, "drawdown, with more bypass", float64(now.Drawdown-was.Drawdown), -60, -2)
		inRange(t, "EY, with more bypass", now.EY-was.EY, -1.5, -0.1)
	}
}

// A plastic valve steeper with its lid loses heat by free convection and radiation, about 12 W/(m² K) over its wall, and through
// the gap of the lid. Mutation caught: losses three times as large.
func TestLiddedSteeperStaysHot(t *testing.T) {
	t.Parallel()
	b := with(base(), func(b *Brew) {
		b.Brewer, b.Release, b.Warm = SteeperSmall, 1150, 21
		b.Pours = []Pour{{Water: 300, Rate: 10, Temperature: 95, Height: 0.05, Pattern: Circles}}
	})
	at := func(b Brew, seconds float64) float64 {
		var r runner
		var out Result
		r.begin(b, defaultLayers, defaultStep)
		out.begin(&r)
		for r.t < seconds {
			r.step(&out)
		}
		return r.celsius
	}
	inRange(t, "after ten minutes", at(b, 600), 71, 76)
	open := with(b, func(b *Brew) { b.Brewer.Lid = false })
	inRange(t, "the lid, after ten minutes", at(b, 600)-at(open, 600), 3, 10)
	preheated := with(b, func(b *Brew) { b.Warm = 80 })
	inRange(t, "preheating, after a minute", at(preheated, 60)-at(b, 60), 2, 6)
}

// A run of the flow alone gives exactly the times, levels and temperatures of a whole one. Mutation caught: a flow that reads the
// solids.
func TestFlowAloneIsIdentical(t *testing.T) {
	t.Parallel()
	f := newField(4)
	for range 40 {
		b := f.percolation().brew()
		if f.rng.IntN(4) == 0 {
			b.Brewer, b.Release = SteeperSmall, 150
		}
		var whole, flow Result
		if RunInto(&whole, b) != nil || RunFlow(&flow, b) != nil {
			continue
		}
		if whole.Drawdown != flow.Drawdown || whole.Dry != flow.Dry || whole.FirstDrip != flow.FirstDrip || whole.TopLevel != flow.TopLevel ||
			whole.SlurryPeak != flow.SlurryPeak || !slices.Equal(whole.Level, flow.Level) || !slices.Equal(whole.Slurry, flow.Slurry) {
			t.Fatalf("whole: %v, dry %v, %.3f mm; flow alone: %v, dry %v, %.3f mm", whole.Drawdown, whole.Dry, whole.TopLevel, flow.Drawdown,
				flow.Dry, flow.TopLevel)
		}
	}
}

// BenchmarkFlow compares a run of the flow alone with BenchmarkRun.
func BenchmarkFlow(b *testing.B) {
	var out Result
	brew := base()
	for b.Loop() {
		if RunFlow(&out, brew) != nil {
			b.Fatal("it does not run")
		}
	}
}

// A high stream opens clumps and moves fines: some yield, some seconds. Close to the wall it digs a lane and costs yield.
// Mutation caught: a height without effect.
func TestHighStreamStirsAndDigs(t *testing.T) {
	t.Parallel()
	at := func(height float64, p Pattern) Result {
		return run(t, with(base(), func(b *Brew) {
			for i := range b.Pours {
				b.Pours[i].Height, b.Pours[i].Pattern = height, p
			}
		}))
	}
	low, high := at(0.03, Spiral), at(0.20, Spiral)
	inRange(t, "EY, from 3 to 20 cm", high.EY-low.EY, 0.1, 0.7)
	inRange(t, "drawdown, from 3 to 20 cm", float64(high.Drawdown-low.Drawdown), 1, 15)
	inRange(t, "EY, from 3 to 20 cm at the wall", at(0.20, Ring).EY-at(0.03, Ring).EY, -1, -0.05)
}
