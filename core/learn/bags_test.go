package learn

import (
	"fmt"
	"math"
	"sync"
	"testing"
	"time"

	"yardbloom/core/forecast"
)

// bagSpread is the true standard deviation of ln of the permeability between bags. The prior has 0.18.
const bagSpread = 0.20

// A plan of a history: the bag of each brew, and the brew from which the grinder is finer or coarser.
type bagPlan struct {
	bags []string
	step int     // index of the first brew after the change; 0: none
	by   float64 // ln of the permeability
}

// inTurn opens one bag after the other.
func inTurn(bags, each int) (p bagPlan) {
	for b := range bags {
		for range each {
			p.bags = append(p.bags, fmt.Sprint("bag ", b))
		}
	}
	return p
}

// together keeps two bags open at a time, and changes one of them at a time.
func together(bags, each int) (p bagPlan) {
	for b := range bags - 1 {
		for i := range each {
			p.bags = append(p.bags, fmt.Sprint("bag ", b+i%2))
		}
	}
	return p
}

// changed returns the plan with a step of the grinder in the middle of it, away from a change of bags by half a turn.
func (p bagPlan) changed(at int, by float64) bagPlan {
	p.step, p.by = at, by
	return p
}

// bagScore counts how well a plan was predicted.
type bagScore struct {
	fresh, later        coverage // first brews of further bags, and all others from the third bag brew on
	histories           int
	claimed, confounded int // drifts
}

type coverage struct{ n, one, two, square float64 }

func (c *coverage) add(off, sd float64) {
	c.n++
	c.square += off * off
	if math.Abs(off) < sd {
		c.one++
	}
	if math.Abs(off) < 2*sd {
		c.two++
	}
}

func (c *coverage) join(d coverage) {
	c.n, c.one, c.two, c.square = c.n+d.n, c.one+d.one, c.two+d.two, c.square+d.square
}

func (c coverage) percent() string { return fmt.Sprintf("%.0f / %.0f", 100*c.one/c.n, 100*c.two/c.n) }

func (c coverage) String() string {
	return fmt.Sprintf("%s, rms %.0f s", c.percent(), math.Sqrt(c.square/c.n))
}

// follow lets yards with differing bags brew by a plan.
func follow(plan bagPlan, k kind, from, histories uint64) (out bagScore) {
	var mu sync.Mutex
	forecast.Parallel(int(histories), func(mine forecast.Indices) {
		for i := range mine {
			one := plan.follow(k, from+uint64(i))
			mu.Lock()
			out.fresh.join(one.fresh)
			out.later.join(one.later)
			out.histories++
			out.claimed, out.confounded = out.claimed+one.claimed, out.confounded+one.confounded
			mu.Unlock()
		}
	})
	return out
}

// follow lets one yard brew by the plan. claimed and confounded are 1 if it claims a drift.
func (plan bagPlan) follow(k kind, seed uint64) (out bagScore) {
	w := newWorld(seed, k)
	w.flow = map[string]float64{}
	y := &Knowledge{}
	var samples []Sample
	known := map[string]int{}
	for i, bag := range plan.bags {
		if _, open := w.flow[bag]; !open {
			w.flow[bag] = bagSpread * w.rng.NormFloat64()
		}
		if plan.step > 0 && i == plan.step {
			w.truth[forecast.Flow] += plan.by
		}
		q := w.of(bag, i)
		s, drained := w.brew(i, q)
		s.At = noon.Add(time.Duration(i) * 20 * time.Hour)
		if !drained {
			continue
		}
		if len(known) > 1 || known[bag] == 0 && len(known) > 0 {
			q.Beliefs = y.Beliefs(s)
			if f, err := forecast.Predict(q); err == nil && f.Drained {
				c := &out.later
				if known[bag] == 0 {
					c = &out.fresh
				}
				c.add(float64(f.Drawdown)-s.Drawdown, float64(f.DrawdownError))
			}
		}
		known[bag]++
		y.learn(s)
		samples = append(samples, s)
	}
	for i := range y.Seen {
		y.Seen[i].Slow = y.slow(samples[i])
	}
	for _, d := range y.Drifts() {
		if d.Bag {
			out.confounded = 1
		} else {
			out.claimed = 1
		}
	}
	return out
}

// Bags that flow differently are learned apart from the grinder, and a drift is claimed only if bags share it. Few histories;
// BenchmarkBags has many. Mutations caught: no effect of the bag, a drift that ignores bags.
func TestBagsFlowDifferently(t *testing.T) {
	if testing.Short() {
		t.Skip("takes some seconds")
	}
	t.Parallel()
	const histories = 8
	one := follow(inTurn(4, 5), kind{}, 1000, histories)
	t.Logf("in turn: first brews %v, later %v, %d claims, %d with the bag", one.fresh, one.later, one.claimed, one.confounded)
	if one.claimed > 1 {
		t.Errorf("%d of %d histories without a drift claim one", one.claimed, histories)
	}
	if c := one.fresh; c.two < 0.75*c.n {
		t.Errorf("%.0f of %.0f first brews are within twice the error", c.two, c.n)
	}
	if c := one.later; c.one < 0.5*c.n || c.two < 0.8*c.n {
		t.Errorf("%.0f and %.0f of %.0f later brews are within the error and twice the error", c.one, c.two, c.n)
	}
	step := follow(together(4, 10).changed(15, math.Log(0.8)), kind{}, 2000, histories)
	t.Logf("a step with two bags open: %d claims, %d with the bag", step.claimed, step.confounded)
	if step.claimed < histories/2 {
		t.Errorf("%d of %d steps are found", step.claimed, histories)
	}
}

// BenchmarkBags prints coverage and drifts in worlds where bags differ in flow.
func BenchmarkBags(b *testing.B) {
	type row struct {
		name      string
		plan      bagPlan
		kind      kind
		histories uint64
	}
	rows := []row{{"one bag after the other", inTurn(4, 6), kinds[0], 300}, {"two open at a time", together(4, 10), kinds[0], 300}}
	for _, by := range []float64{-0.05, -0.1, -0.2, 0.2} {
		rows = append(rows, row{fmt.Sprintf("two open, permeability %+.0f %%", 100*by), together(4, 10).changed(15, math.Log1p(by)), kinds[0], 300})
	}
	rows = append(rows, row{"−20 % with the only bag", inTurn(2, 10).changed(10, math.Log(0.8)), kinds[0], 300})
	for _, k := range kinds[1:] { // of another structure
		rows = append(rows, row{"two open at a time", together(4, 10), k, 100},
			row{"two open, permeability −20 %", together(4, 10).changed(15, math.Log(0.8)), k, 100})
	}
	for b.Loop() {
		fmt.Println("| world | plan | first brew of a bag in 1σ / 2σ, % | later | drift claimed, % | or the bag, % |")
		for _, r := range rows {
			s := follow(r.plan, r.kind, heldOut, r.histories)
			fmt.Printf("| %s | %s | %v | %v | %.1f | %.1f |\n", r.kind.name, r.name, s.fresh, s.later, 100*float64(s.claimed)/float64(s.histories),
				100*float64(s.confounded)/float64(s.histories))
		}
	}
}
