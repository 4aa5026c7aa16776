package coach_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"testing"
	"text/tabwriter"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// Made-up learners brew, taste and follow advice until a cup is good. What they taste is
// written from the palate's side and shares nothing with the coach.

// A palate is where somebody likes a coffee, in the world's own yield and strength, %.
type palate struct{ yield, strength float64 }

var palates = []palate{{20.3, 1.38}, {19, 1.27}, {21.5, 1.46}, {20, 1.52}, {21.8, 1.30}}

// mark is what somebody with the palate gives a cup, without a slip of the tongue: 9.2
// where they like it most, 8 at 1.2 points of yield or 0.12 % of strength from there,
// which is about what people can tell apart, and three marks less for a cup that is quite uneven.
func (p palate) mark(yield, strength, uneven float64) float64 {
	return max(1, 9.2-math.Hypot(yield-p.yield, (strength-p.strength)*10)-3*uneven)
}

// good is the mark from which a cup is good.
const good = 8

// A tongue says what it finds, with so much noise, in steps of a scale.
type tongue struct {
	palate
	noise float64 // of a step, one standard deviation
	marks bool    // gives marks
	rng   *rand.Rand
}

// taste is what somebody says of a cup of so much yield and strength.
func (t tongue) taste(yield, strength, uneven float64) cup.Taste {
	dy, ds := yield-t.yield, strength-t.strength
	step := func(v float64) int {
		return int(math.Max(1, math.Min(5, math.Round(v+t.noise*t.rng.NormFloat64()))))
	}
	out := cup.Taste{Steps: map[cup.Sense]int{
		cup.Acidity:    step(2.8 - 0.55*dy + 1.4*uneven),
		cup.Bitterness: step(1.9 + 0.6*dy + 0.5*math.Max(0, ds/0.2) + 1.4*uneven),
		cup.Sweetness:  step(4.1 - 0.6*math.Abs(dy) - 1.5*uneven),
		cup.Body:       step(3 + 5.5*ds),
		cup.Dryness:    step(1.5 + 0.5*math.Max(0, dy) + uneven),
		cup.Clarity:    step(3.6 - 1.2*uneven - 0.25*math.Max(0, dy)),
		cup.Aftertaste: step(3.6 - 0.5*math.Abs(dy)),
	}, Faults: map[cup.Fault]bool{}}
	if t.marks {
		out.Overall = int(math.Max(1, math.Min(10, math.Round(t.mark(yield, strength, uneven)+0.5*t.noise*t.rng.NormFloat64()))))
	}
	return out
}

// A learner's world: what is true of coffee, mill and brewer, and what is measured.
type life struct {
	name     string
	unlike   sim.Unlike
	rate     float64 // ln, of extraction, besides what the product takes for granted
	fines    float64 // ln
	mill     float64 // µm that the mill grinds coarser than its dial says
	badBed   float64 // how often a bed is bad
	noise    float64
	marks    bool
	measures bool // has a refractometer
}

var own = life{name: "the model's own", noise: 0.45, marks: true, measures: true}

// lives are the model's own world and others of another structure, or with less to go by.
func lives() []life {
	out := []life{own}
	for _, change := range []func(*life){
		func(l *life) { l.name, l.rate = "another extraction rate", 0.3 },
		func(l *life) { l.name, l.fines = "other fines", 0.4 },
		func(l *life) { l.name, l.mill = "a mill 40 µm off", 40 },
		func(l *life) { l.name, l.unlike = "no partition", sim.Unlike{NoPartition: true} },
		func(l *life) { l.name, l.badBed = "a bad bed one time in eight", 1./8 },
		func(l *life) { l.name, l.noise = "a noisy tongue", 0.9 },
		func(l *life) { l.name, l.marks = "no marks", false },
		func(l *life) { l.name, l.measures = "no refractometer", false },
	} {
		l := own
		change(&l)
		out = append(out, l)
	}
	return out
}

var coffees = []coffee.Bag{
	{Roast: coffee.Light, Process: coffee.Washed, RoastedOn: "2026-04-25"}, {Roast: coffee.Light, Process: coffee.Natural, RoastedOn: "2026-04-25", Altitude: 2000},
	{Roast: coffee.MediumLight, Process: coffee.Honey, RoastedOn: "2026-04-25"}, {Roast: coffee.Medium, Process: coffee.Washed, RoastedOn: "2026-04-25"},
	{Roast: coffee.MediumDark, Process: coffee.Natural, RoastedOn: "2026-04-25"}, {Roast: coffee.Dark, Process: coffee.Washed, RoastedOn: "2026-04-25"},
}

var morning = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

// A learner is somebody with a palate and a coffee in a world.
type learner struct {
	life
	tongue
	bag   coffee.Bag
	truth [forecast.Parameters]float64
	rng   *rand.Rand
}

func newLearner(l life, p palate, bag coffee.Bag, seed uint64) *learner {
	rng := rand.New(rand.NewPCG(seed, 11))
	out := &learner{life: l, tongue: tongue{p, l.noise, l.marks, rng}, bag: bag, rng: rng}
	for _, k := range []forecast.Parameter{forecast.Size, forecast.Fines, forecast.Flow, forecast.Solubles, forecast.Rate} {
		out.truth[k] = forecast.Priors[k] * rng.NormFloat64()
	}
	out.truth[forecast.Rate] += l.rate
	out.truth[forecast.Fines] += l.fines
	if l.unlike.NoPartition {
		out.truth[forecast.Solubles] -= 0.035
	}
	return out
}

// question is a first recipe of three rounds in a cone, ground by clicks.
func (l *learner) question() forecast.Question {
	q := forecast.Question{Bag: l.bag, Now: morning, Gear: gear.Set{Boiling: 100, Kettle: gear.Kettle{Thermostat: true, Capacity: 900},
		Brewer:  gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 480, Retained: 2},
		Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 25}}}}
	q.Recipe = forecast.First(q, recipe.ThreeRounds)
	return q
}

// brew pours a recipe in the learner's world and tastes it: what they say of it, and
// the mark that it would get from a tongue that never slips.
func (l *learner) brew(q forecast.Question) (coach.Case, float64) {
	q.Recipe.Grind += units.Micrometres(l.mill)
	if l.rng.Float64() < l.badBed {
		q.Bed = 0.9
	}
	theta := l.truth
	theta[forecast.Poured], theta[forecast.Heat] = 2*l.rng.NormFloat64(), l.rng.NormFloat64()
	b := forecast.Turned(q.Brew(), theta)
	b.Unlike = l.unlike
	r, err := sim.Run(b)
	q.Recipe.Grind -= units.Micrometres(l.mill)
	c := coach.Case{Recipe: q.Recipe, Bag: l.bag, Now: morning, Window: q.Recipe.Plan().Window, Gear: q.Gear}
	if err != nil || !r.Drained {
		c.Cup = cup.Cup{Drawdown: 600, Bed: cup.Mud, Taste: l.taste(l.yield+5, l.strength, 0.5)}
		c.Marks = []cup.Mark{cup.Stall}
		return c, 1
	}
	yield, strength := r.EY*math.Exp(0.02*l.rng.NormFloat64()), r.TDS*math.Exp(0.02*l.rng.NormFloat64())
	uneven := q.Bed * 0.7
	c.Cup = cup.Cup{Drawdown: units.Seconds(float64(r.Drawdown) * math.Exp(0.06*l.rng.NormFloat64())), Bed: cup.FlatBed, Taste: l.taste(yield, strength, uneven)}
	if q.Bed > 0 && l.rng.Float64() < 0.6 {
		c.Cup.Bed = cup.Cratered
	}
	if l.measures {
		c.Cup.Beverage, c.Cup.TDS = units.Grams(math.Round(float64(r.Beverage))), units.Round(strength+0.03*l.rng.NormFloat64(), 2)
	}
	return c, l.mark(yield, strength, uneven)
}

// An adviser says what to brew next after a cup.
type adviser struct {
	name string
	next func(path []coach.Case) recipe.Recipe
}

func byTaste(c coach.Case, ratio bool) recipe.Recipe {
	sour, bitter, body := c.Cup.Steps[cup.Acidity], c.Cup.Steps[cup.Bitterness], c.Cup.Steps[cup.Body]
	const oneStep = 25 // µm
	switch {
	case ratio && body <= 1:
		return c.Recipe.With(recipe.Of(recipe.Ratio), c.Recipe.Ratio()-0.5)
	case ratio && body >= 5:
		return c.Recipe.With(recipe.Of(recipe.Ratio), c.Recipe.Ratio()+0.5)
	case sour >= 4 && sour >= bitter:
		return c.Recipe.With(recipe.Of(recipe.Grind), float64(c.Recipe.Grind-oneStep))
	case bitter >= 3:
		return c.Recipe.With(recipe.Of(recipe.Grind), float64(c.Recipe.Grind+oneStep))
	case ratio && body == 2:
		return c.Recipe.With(recipe.Of(recipe.Ratio), c.Recipe.Ratio()-0.5)
	case ratio && body == 4:
		return c.Recipe.With(recipe.Of(recipe.Ratio), c.Recipe.Ratio()+0.5)
	}
	return c.Recipe
}

var advisers = []adviser{
	{"the same again", func(p []coach.Case) recipe.Recipe { return last(p).Recipe }},
	{"sour finer, bitter coarser", func(p []coach.Case) recipe.Recipe { return byTaste(last(p), false) }},
	{"that, and the ratio", func(p []coach.Case) recipe.Recipe { return byTaste(last(p), true) }},
	{"the coach", func(p []coach.Case) recipe.Recipe {
		c := last(p)
		c.Path = p[:len(p)-1]
		if p := coach.Advise(c).First; p != nil {
			return c.Recipe.With(p.Address, p.To)
		}
		return c.Recipe
	}},
}

func last(path []coach.Case) coach.Case { return path[len(path)-1] }

// mostBrews is how long a learner goes on.
const mostBrews = 10

// brewsToGood is how many cups a learner needs until one is good; mostBrews + 1 where none was.
func (l *learner) brewsToGood(a adviser) int {
	q := l.question()
	var path []coach.Case
	for n := 1; n <= mostBrews; n++ {
		c, mark := l.brew(q)
		if mark >= good {
			return n
		}
		path = append(path, c)
		q.Recipe = a.next(path)
	}
	return mostBrews + 1
}

// outcome is how learners did: the mean of their brews, how many were there within three, and how many never.
func outcome(l life, a adviser, seeds int) (mean, within3, never float64) {
	n := 0.0
	for i, p := range palates {
		for j, bag := range coffees {
			for seed := range seeds {
				brews := newLearner(l, p, bag, uint64(1000*i+100*j+seed)).brewsToGood(a)
				mean += float64(brews)
				if brews <= 3 {
					within3++
				}
				if brews > mostBrews {
					never++
				}
				n++
			}
		}
	}
	return mean / n, 100 * within3 / n, 100 * never / n
}

// BenchmarkLearners prints how many brews made-up learners need until a good cup, by who advises them.
func BenchmarkLearners(b *testing.B) {
	for b.Loop() {
		table := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', tabwriter.AlignRight)
		fmt.Fprintln(table, "world\tadviser\tbrews, mean\twithin three, %\tnever in ten, %\t")
		for _, l := range lives() {
			for _, a := range advisers {
				mean, within3, never := outcome(l, a, 4)
				fmt.Fprintf(table, "%s\t%s\t%.1f\t%.0f\t%.0f\t\n", l.name, a.name, mean, within3, never)
			}
		}
		table.Flush()
	}
}
