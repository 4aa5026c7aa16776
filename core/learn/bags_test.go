package learn

import (
	"fmt"
	"math"
	"os"
	"testing"
	"text/tabwriter"
	"time"

	"yardbloom/core/forecast"
	"yardbloom/core/sim"
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

func (c coverage) String() string {
	return fmt.Sprintf("%.0f / %.0f %%, rms %.0f s", 100*c.one/c.n, 100*c.two/c.n, math.Sqrt(c.square/c.n))
}

// follow lets yards with differing bags brew by a plan.
func follow(plan bagPlan, unlike sim.Unlike, from, histories uint64) (out bagScore) {
	for seed := from; seed < from+histories; seed++ {
		w := newWorld(seed, unlike)
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
		out.histories++
		for _, d := range y.Drifts() {
			if d.Bag {
				out.confounded++
			} else {
				out.claimed++
			}
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
	one := follow(inTurn(4, 5), sim.Unlike{}, 1000, histories)
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
	step := follow(together(4, 10).changed(15, -0.2), sim.Unlike{}, 2000, histories)
	t.Logf("a step with two bags open: %d claims, %d with the bag", step.claimed, step.confounded)
	if step.claimed < histories/2 {
		t.Errorf("%d of %d steps are found", step.claimed, histories)
	}
}

// BenchmarkBags prints coverage and drifts in worlds where bags differ in flow. Seeds 5000 and later were not used while the
// learning was tuned.
func BenchmarkBags(b *testing.B) {
	for b.Loop() {
		table := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', 0)
		fmt.Fprintln(table, "world\tplan\tfirst brew of a bag inside 1σ / 2σ\tlater\tdrift claimed, %\tor the bag, %")
		for i, k := range kinds {
			histories := uint64(300)
			if i > 0 { // of another structure: each takes a second
				histories = 100
			}
			for _, p := range []struct {
				name string
				plan bagPlan
			}{
				{"one bag after the other", inTurn(4, 6)}, {"two open at a time", together(4, 10)},
				{"two open, grinder − 20 %", together(4, 10).changed(15, -0.2)}, {"two open, grinder + 20 %", together(4, 10).changed(15, 0.2)},
				{"− 20 % with the only bag", inTurn(2, 10).changed(10, -0.2)},
			} {
				s := follow(p.plan, k.unlike, 5000, histories)
				fmt.Fprintf(table, "%s\t%s\t%v\t%v\t%.1f\t%.1f\n", k.name, p.name, s.fresh, s.later, 100*float64(s.claimed)/float64(s.histories),
					100*float64(s.confounded)/float64(s.histories))
			}
		}
		table.Flush()
	}
}
