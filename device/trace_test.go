package device

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// question returns one of the usual recipes, by number.
func question(n uint64) forecast.Question {
	rng := rand.New(rand.NewPCG(n, 7))
	brewers, grinders, kettles := gear.Starter()
	now := time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)
	q := forecast.Question{Bag: coffee.Bag{Roast: coffee.Roasts()[rng.IntN(len(coffee.Roasts()))], Process: coffee.Washed,
		RoastedOn: "2026-04-25"}, Now: now,
		Gear: gear.Set{Brewer: brewers[rng.IntN(len(brewers))], Grinder: grinders[0], Kettle: kettles[1], Boiling: 100}}
	q.Gear.Brewer.Retained = gear.DefaultRetained
	styles := []recipe.StyleID{"", recipe.ThreeRounds, recipe.OneLongPour}
	for _, s := range recipe.Styles(q.Gear.Brewer.Kind) {
		styles = append(styles, s.ID)
	}
	style := styles[rng.IntN(len(styles))]
	q.Recipe = recipe.Suggest(style, recipe.Situation{Bag: q.Bag, Gear: q.Gear, Now: now})
	return q
}

// A deviations holds the deviations of detected events from the hand's actions.
type deviations struct {
	pours, found int
	extra        int
	starts, ends []float64 // s
	amounts      []float64 // g
	drawdown     float64   // s; NaN: not found
}

// follow simulates a brew without taps and reads the scale.
func follow(seed uint64, noise float64) deviations {
	q := question(seed)
	manners := []Manner{Practised, Usual, Hurried, Heavy}
	hand, scale := NewHand(seed, manners[seed%4], q), NewScaleStandIn(seed, noise)
	plan := q.Recipe.Plan()
	var reader trace.Reader
	var seen []trace.Seen
	for i := 0; i < 30; i++ { // at rest before the first water
		shown := scale.Step(hand.InitialLoad())
		if i == 9 {
			scale.Tare()
		}
		if i > 10 {
			reader.Read(trace.Reading{At: units.Seconds(float64(i-30) * Every), Grams: shown})
		}
	}
	for i := 0; !hand.Finished() && i < 12000; i++ {
		shown := scale.Step(hand.Step(plan))
		seen = append(seen, slices.Clone(reader.Read(trace.Reading{At: units.Seconds(float64(i+1) * Every), Grams: shown}))...)
	}
	return compare(hand, seen)
}

func compare(hand *Hand, seen []trace.Seen) deviations {
	m := deviations{pours: len(hand.Poured), drawdown: math.NaN()}
	used := make([]bool, len(hand.Poured))
	var start units.Seconds
	for _, s := range seen {
		switch s.Kind {
		case trace.Began:
			start = s.At
		case trace.Ended:
			hit := false
			for i, p := range hand.Poured {
				if used[i] || math.Abs(float64(p.Start-start)) > 3 {
					continue
				}
				before := units.Grams(0)
				if i > 0 {
					before = hand.Poured[i-1].Total
				}
				used[i], hit = true, true
				m.found++
				m.starts, m.ends, m.amounts = append(m.starts, float64(start-p.Start)), append(m.ends, float64(s.At-p.End)),
					append(m.amounts, float64(s.Water-(p.Total-before)))
				break
			}
			if !hit {
				m.extra++
			}
		case trace.Weighed:
			if n := len(m.amounts); n > 0 {
				poured := hand.Poured[n-1].Total
				if n > 1 {
					poured -= hand.Poured[n-2].Total
				}
				m.amounts[n-1] = float64(s.Water - poured)
			}
		case trace.Off:
			if end, ok := hand.LiftedAt(); ok {
				m.drawdown = float64(s.At - end)
			}
		}
	}
	return m
}

func within(xs []float64, limit float64) float64 {
	n := 0
	for _, x := range xs {
		if math.Abs(x) <= limit {
			n++
		}
	}
	return float64(n) / float64(len(xs))
}

// totals combines many brews, on all cores.
func totals(n int, noise float64) (all deviations, drawdowns []float64) {
	var mu sync.Mutex
	var wg sync.WaitGroup
	for w := range 4 {
		wg.Go(func() {
			for seed := w; seed < n; seed += 4 {
				m := follow(uint64(seed), noise)
				mu.Lock()
				all.pours, all.found, all.extra = all.pours+m.pours, all.found+m.found, all.extra+m.extra
				all.starts, all.ends, all.amounts = append(all.starts, m.starts...), append(all.ends, m.ends...),
					append(all.amounts, m.amounts...)
				drawdowns = append(drawdowns, m.drawdown)
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	return all, drawdowns
}

func (m deviations) report(drawdowns []float64) string {
	mean := func(xs []float64) (s float64) {
		for _, x := range xs {
			s += x / float64(len(xs))
		}
		return s
	}
	return fmt.Sprintf("pours found %.2f %% of %d, %d that were none; starts within 0.5 s %.2f %% (mean %+.2f), ends within 0.5 s %.1f "+
		"%% (mean %+.2f), amounts within 1 g %.2f %% (mean %+.2f), drawdown within 2 s %.2f %% of %d",
		100*float64(m.found)/float64(m.pours), m.pours, m.extra, 100*within(m.starts, 0.5), mean(m.starts), 100*within(m.ends, 0.5),
		mean(m.ends), 100*within(m.amounts, 1), mean(m.amounts), 100*within(drawdowns, 2), len(drawdowns))
}

func TestTraceEvents(t *testing.T) {
	t.Parallel()
	n := 2000
	if testing.Short() {
		n = 200
	}
	all, drawdowns := totals(n, 1)
	t.Log(all.report(drawdowns))
	if float64(all.found) < 0.99*float64(all.pours) || float64(all.extra) > 0.01*float64(all.pours) {
		t.Errorf("found %d of %d pours, and %d that were none", all.found, all.pours, all.extra)
	}
	for _, c := range []struct {
		what string
		ok   float64
	}{{"starts within 0.5 s", within(all.starts, 0.5)}, {"amounts within 1 g", within(all.amounts, 1)},
		{"drawdowns within 2 s", within(drawdowns, 2)}} {
		if c.ok < 0.99 {
			t.Errorf("%s: %.2f %%", c.what, 100*c.ok)
		}
	}
	twice, drawdowns := totals(n/4, 2)
	t.Log("with twice the noise: " + twice.report(drawdowns))
}

// BenchmarkTraces simulates brews without taps and prints the accuracy of the detected events, with
// ordinary noise and with twice as much.
func BenchmarkTraces(b *testing.B) {
	for _, noise := range []float64{1, 2} {
		b.Run(fmt.Sprintf("noise×%.0f", noise), func(b *testing.B) {
			var all deviations
			var drawdowns []float64
			for b.Loop() {
				all, drawdowns = totals(2000, noise)
			}
			b.ReportMetric(100*float64(all.found)/float64(all.pours), "%pours")
			b.ReportMetric(float64(all.extra), "none")
			b.ReportMetric(100*within(all.starts, 0.5), "%starts")
			b.ReportMetric(100*within(all.amounts, 1), "%amounts")
			b.ReportMetric(100*within(drawdowns, 2), "%drawdowns")
		})
	}
}
