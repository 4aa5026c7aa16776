package learn

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"testing"
	"text/tabwriter"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

var noon = time.Date(2026, 5, 12, 12, 0, 0, 0, time.UTC)

// A world is a simulated yard: its true parameters and its structure.
type world struct {
	truth  [forecast.Parameters]float64
	unlike sim.Unlike
	grind  float64            // µm, centre of its recipes
	flow   map[string]float64 // of each bag: ln of its permeability
	rng    *rand.Rand
}

func newWorld(seed uint64, unlike sim.Unlike) *world {
	w := &world{unlike: unlike, rng: rand.New(rand.NewPCG(seed, 5))}
	for p, sd := range forecast.Priors {
		if p := forecast.Parameter(p); len(parts[p]) > 1 || p == forecast.Size || p == forecast.Fines || p == forecast.Paper {
			w.truth[p] = sd * w.rng.NormFloat64()
		}
	}
	if unlike.NothingBound { // a coffee with the same final yield must contain less
		w.truth[forecast.Solubles] -= 0.035
	}
	for w.grind = 650; w.grind < 1100; w.grind += 25 { // too slow for a usual brew
		if o, drains := w.mean(w.question(0)); drains && o.Drawdown < 330 {
			break
		}
	}
	return w
}

// question returns a brew of a bag near one grind and 1 : 16.5.
func (w *world) question(i int) forecast.Question { return w.of("bag", i) }

// of is question for a bag.
func (w *world) of(bagID string, i int) forecast.Question {
	_, grinders, kettles := gear.Starter()
	r := recipe.ThreeRounds.Style().Generate(18, 297, 94)
	r.Grind = units.Micrometres(w.grind + 40*w.rng.NormFloat64())
	if i%3 == 2 {
		r = r.With(recipe.AddressOf(recipe.Ratio), 15.5)
	}
	return forecast.Question{
		Recipe: r, Now: noon, Bag: coffee.Bag{ID: bagID, Roast: coffee.MediumLight, RoastedOn: "2026-04-20", Process: coffee.Washed},
		Gear: gear.Set{Brewer: gear.Brewer{ID: "cone", Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 500},
			Grinder: grinders[0], Kettle: kettles[0], Boiling: 100},
	}
}

// mean returns the expected result of a question in the world; drains reports whether the bed drains.
func (w *world) mean(q forecast.Question) (o forecast.Outcome, drains bool) {
	theta := w.truth
	theta[forecast.Flow] += w.flow[q.Bag.ID]
	b := forecast.WithParameters(q.Brew(), theta)
	b.Unlike = w.unlike
	r, err := sim.Run(b)
	return forecast.Outcome{Drawdown: float64(r.Drawdown), Beverage: float64(r.Beverage), Strength: r.TDS, Yield: r.EY}, err == nil &&
		r.Drained
}

// brew returns a brew of a question with scatter and instrument noise.
func (w *world) brew(i int, q forecast.Question) (Sample, bool) {
	theta := w.truth
	theta[forecast.Flow] += w.flow[q.Bag.ID]
	theta[forecast.Poured] = forecast.Priors[forecast.Poured] * w.rng.NormFloat64()
	theta[forecast.Heat] = forecast.Priors[forecast.Heat] * w.rng.NormFloat64()
	b := forecast.WithParameters(q.Brew(), theta)
	b.Unlike = w.unlike
	r, err := sim.Run(b)
	s := Sample{ID: fmt.Sprint(i), At: noon.Add(time.Duration(i) * time.Hour), Question: q, Bag: q.Bag.ID,
		Grinder: GrinderKey(q.Gear.Grinder), Filter: string(q.Gear.Brewer.Filter), Brewer: q.Gear.Brewer.ID}
	s.Drawdown = float64(r.Drawdown)*math.Exp(0.06*w.rng.NormFloat64()) + 1.5*w.rng.NormFloat64()
	s.TDS = r.TDS*math.Exp(0.02*w.rng.NormFloat64()) + ofRefractometer*w.rng.NormFloat64()
	s.Beverage = float64(r.Beverage) + ofScale*w.rng.NormFloat64()
	return s, err == nil && r.Drained
}

// A score accumulates the quality of predictions: squared errors against the world's mean, and the number
// of next brews within the stated error.
type score struct{ time, yield, inTime, inYield, n float64 }

func (s score) line() (time, yield, inTime, inYield float64) {
	return math.Sqrt(s.time / s.n), math.Sqrt(s.yield / s.n), 100 * s.inTime / s.n, 100 * s.inYield / s.n
}

// learnedAfter lets simulated yards brew and learn.
func learnedAfter(unlike sim.Unlike, worlds int, after []int) map[int]*score {
	out := map[int]*score{}
	for _, n := range after {
		out[n] = &score{}
	}
	for seed := range uint64(worlds) {
		w := newWorld(seed, unlike)
		y := &Knowledge{}
		for i := 0; i <= after[len(after)-1]; i++ {
			q := w.question(i)
			truth, drains := w.mean(q)
			s, drained := w.brew(i, q)
			if !drains || !drained {
				continue
			}
			if sc := out[i]; sc != nil {
				q.Beliefs = y.Beliefs(s)
				if f, err := forecast.Predict(q); err == nil && f.Drained {
					t, e := float64(f.Drawdown)-truth.Drawdown, f.Yield.Value-truth.Yield
					sc.time, sc.yield, sc.n = sc.time+t*t, sc.yield+e*e, sc.n+1
					if math.Abs(float64(f.Drawdown)-s.Drawdown) < float64(f.DrawdownError) {
						sc.inTime++
					}
					if math.Abs(f.Strength.Value-s.TDS) < math.Hypot(f.Strength.Error, ofRefractometer) {
						sc.inYield++
					}
				}
			}
			y.learn(s)
		}
	}
	return out
}

var kinds = []struct {
	name   string
	unlike sim.Unlike
}{{"the model's own", sim.Unlike{}}, {"nothing bound", sim.Unlike{NothingBound: true}}, {"another flow law", sim.Unlike{FlowPower: 0.8}}}

// BenchmarkLearning prints the quality of predictions before and after some brews of a bag, in worlds of
// the model's structure and of others.
func BenchmarkLearning(b *testing.B) {
	after := []int{0, 1, 2, 3, 5, 8}
	for b.Loop() {
		table := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', tabwriter.AlignRight)
		fmt.Fprintln(table, "world\tbrews\tdrawdown off by, s\tEY off by, points\tnext drawdown inside ±, %\tnext TDS inside ±, %\t")
		for _, k := range kinds {
			scores := learnedAfter(k.unlike, 200, after)
			for _, n := range after {
				t, y, it, iy := scores[n].line()
				fmt.Fprintf(table, "%s\t%d\t%.1f\t%.2f\t%.0f\t%.0f\t\n", k.name, n, t, y, it, iy)
			}
		}
		table.Flush()
	}
}
