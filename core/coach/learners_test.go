package coach_test

import (
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"sync"
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

// Simulated learners brew, taste and follow advice until a cup is good. Their taste is written from the
// palate's side and shares nothing with the coach.

// A palate is a preference: the ideal yield and strength, %, and the mark of a cup at a distance: dy in
// points of yield, ds in 0.1 % of strength.
type palate struct {
	yield, strength float64
	worth           func(dy, ds float64) float64
}

var palates = []palate{
	{20.3, 1.38, func(dy, ds float64) float64 { return 9.2 - math.Hypot(dy, ds) }},
	{19, 1.27, func(dy, ds float64) float64 { return 9.2 - 0.83*(dy*dy+ds*ds) }},
	// insensitive nearby, harsh far away
	{21.5, 1.46, func(dy, ds float64) float64 { return 8.8 - 1.4*max(0, math.Hypot(dy, ds)-0.7) }},           // cannot notice small differences
	{20, 1.52, func(dy, ds float64) float64 { return 9.2 - math.Hypot(1.3*max(0, dy)+0.75*min(0, dy), ds) }}, // dislikes bitter more than sour
	{21.8, 1.30, func(dy, ds float64) float64 { return 9.2 - math.Sqrt(max(0, dy*dy+ds*ds+0.8*dy*ds)) }},
	// prefers a strong cup with low extraction
}

// mark returns the noiseless mark of a cup: 8 at about 1.2 points of yield or 0.12 % of strength from the
// ideal, which is about the threshold of perception, and three marks less for a very uneven cup. It can be
// below 1, so that bad cups are still ordered.
func (p palate) mark(yield, strength, uneven float64) float64 {
	return p.worth(yield-p.yield, (strength-p.strength)*10) - 3*uneven
}

// good is the mark from which a cup is good.
const good = 8

// A tongue reports a taste with noise, in steps of a scale.
type tongue struct {
	palate
	noise float64 // of a step, standard deviation
	marks bool    // gives marks
	rng   *rand.Rand
}

// taste returns the reported taste of a cup, and its mark even if the tongue gives none.
func (t tongue) taste(yield, strength, uneven float64) (said cup.Taste, mark int) {
	dy, ds := yield-t.yield, strength-t.strength
	step := func(v float64) int {
		return int(math.Max(1, math.Min(5, math.Round(v+t.noise*t.rng.NormFloat64()))))
	}
	said = cup.Taste{Steps: map[cup.Sense]int{
		cup.Acidity:    step(2.8 - 0.55*dy + 1.4*uneven),
		cup.Bitterness: step(1.9 + 0.6*dy + 0.5*math.Max(0, ds/0.2) + 1.4*uneven),
		cup.Sweetness:  step(4.1 - 0.6*math.Abs(dy) - 1.5*uneven),
		cup.Body:       step(3 + 5.5*ds),
		cup.Dryness:    step(1.5 + 0.5*math.Max(0, dy) + uneven),
		cup.Clarity:    step(3.6 - 1.2*uneven - 0.25*math.Max(0, dy)),
		cup.Aftertaste: step(3.6 - 0.5*math.Abs(dy)),
	}, Faults: map[cup.Fault]bool{}}
	mark = int(math.Max(1, math.Min(10, math.Round(t.mark(yield, strength, uneven)+0.5*t.noise*t.rng.NormFloat64()))))
	if t.marks {
		said.Overall = mark
	}
	return said, mark
}

// A life is a simulated world: the true properties of coffee, grinder and brewer, and the measurements that
// are available.
type life struct {
	name     string
	unlike   sim.Unlike
	rate     float64 // ln, of extraction, relative to the product's default
	fines    float64 // ln
	mill     float64 // µm that the grinder grinds coarser than its dial shows
	badBed   float64 // probability of a bad bed
	noise    float64
	marks    bool
	measures bool // has a refractometer
}

var own = life{name: "the model's own", noise: 0.45, marks: true, measures: true}

// lives lists the model's own world, worlds of another structure, and worlds with less information.
func lives() []life {
	out := []life{own}
	for _, change := range []func(*life){
		func(l *life) { l.name, l.rate = "another extraction rate", 0.3 },
		func(l *life) { l.name, l.fines = "other fines", 0.4 },
		func(l *life) { l.name, l.mill = "a mill 40 µm off", 40 },
		func(l *life) { l.name, l.unlike = "nothing bound", sim.Unlike{NothingBound: true} },
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
	{Roast: coffee.Light, Process: coffee.Washed, RoastedOn: "2026-04-25"},
	{Roast: coffee.Light, Process: coffee.Natural, RoastedOn: "2026-04-25", Altitude: 2000},
	{Roast: coffee.MediumLight, Process: coffee.Honey, RoastedOn: "2026-04-25"},
	{Roast: coffee.Medium, Process: coffee.Washed, RoastedOn: "2026-04-25"},
	{Roast: coffee.MediumDark, Process: coffee.Natural, RoastedOn: "2026-04-25"},
	{Roast: coffee.Dark, Process: coffee.Washed, RoastedOn: "2026-04-25"},
}

var morning = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

// A learner is a palate and a coffee in a world.
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
	if l.unlike.NothingBound {
		out.truth[forecast.Solubles] -= 0.035
	}
	return out
}

// question returns a first recipe of three rounds in a cone, with a grinder with clicks.
func (l *learner) question() forecast.Question {
	q := forecast.Question{Bag: l.bag, Now: morning, Gear: gear.Set{Boiling: 100, Kettle: gear.Kettle{Thermostat: true, Capacity: 900},
		Brewer:  gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 480, Retained: 2},
		Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 25}}}}
	q.Recipe = forecast.FirstRecipe(q, recipe.ThreeRounds)
	return q
}

// A poured is a brew of a learner: its observations, its mark, and its mark without noise.
type poured struct {
	coach.Case
	mark  int
	truth float64
}

// brew simulates a recipe in the learner's world and tastes it.
func (l *learner) brew(q forecast.Question) poured {
	out := poured{Case: coach.Case{Recipe: q.Recipe, Bag: l.bag, Now: morning, Window: q.Recipe.Plan().Window, Gear: q.Gear}}
	q.Recipe.Grind += units.Micrometres(l.mill)
	if l.rng.Float64() < l.badBed {
		q.Bed = 0.9
	}
	b := forecast.WithParameters(q.Brew(), l.truth)
	b.Unlike = l.unlike
	r, err := sim.Run(b)
	if err != nil || !r.Drained {
		out.Cup = cup.Cup{Drawdown: 600, Bed: cup.Mud}
		out.Marks = []cup.Mark{cup.Stall}
		out.Cup.Taste, out.mark = l.taste(l.yield+5, l.strength, 0.5)
		out.truth = l.tongue.palate.mark(l.yield+5, l.strength, 0.5)
		return out
	}
	yield, strength := r.EY*math.Exp(0.02*l.rng.NormFloat64()), r.TDS*math.Exp(0.02*l.rng.NormFloat64())
	uneven := q.Bed * 0.7
	out.Cup = cup.Cup{Drawdown: units.Seconds(float64(r.Drawdown) * math.Exp(0.06*l.rng.NormFloat64())), Bed: cup.FlatBed}
	out.Cup.Taste, out.mark = l.taste(yield, strength, uneven)
	out.truth = l.tongue.palate.mark(yield, strength, uneven)
	if q.Bed > 0 && l.rng.Float64() < 0.6 {
		out.Cup.Bed = cup.Cratered
	}
	if l.measures {
		out.Cup.Beverage, out.Cup.TDS = units.Grams(math.Round(float64(r.Beverage))), units.Round(strength+0.03*l.rng.NormFloat64(), 2)
	}
	return out
}

// An adviser chooses the next recipe after a cup.
type adviser struct {
	name string
	next func(path []coach.Case) (next recipe.Recipe, help float64) // help is the stated probability of a better cup; 0 without a change
}

func byTaste(c coach.Case, ratio bool) recipe.Recipe {
	sour, bitter, body := c.Cup.Steps[cup.Acidity], c.Cup.Steps[cup.Bitterness], c.Cup.Steps[cup.Body]
	const oneStep = 25 // µm
	switch {
	case ratio && body <= 1:
		return c.Recipe.With(recipe.AddressOf(recipe.Ratio), c.Recipe.Ratio()-0.5)
	case ratio && body >= 5:
		return c.Recipe.With(recipe.AddressOf(recipe.Ratio), c.Recipe.Ratio()+0.5)
	case sour >= 4 && sour >= bitter:
		return c.Recipe.With(recipe.AddressOf(recipe.Grind), float64(c.Recipe.Grind-oneStep))
	case bitter >= 3:
		return c.Recipe.With(recipe.AddressOf(recipe.Grind), float64(c.Recipe.Grind+oneStep))
	case ratio && body == 2:
		return c.Recipe.With(recipe.AddressOf(recipe.Ratio), c.Recipe.Ratio()-0.5)
	case ratio && body == 4:
		return c.Recipe.With(recipe.AddressOf(recipe.Ratio), c.Recipe.Ratio()+0.5)
	}
	return c.Recipe
}

var advisers = []adviser{
	{"same recipe", func(p []coach.Case) (recipe.Recipe, float64) { return last(p).Recipe, 0 }},
	{"sour finer, bitter coarser", func(p []coach.Case) (recipe.Recipe, float64) { return byTaste(last(p), false), 0 }},
	{"that, and the ratio", func(p []coach.Case) (recipe.Recipe, float64) { return byTaste(last(p), true), 0 }},
	{"the coach", func(p []coach.Case) (recipe.Recipe, float64) {
		c := last(p)
		c.Path = p[:len(p)-1]
		if p := coach.Advise(c).First; p != nil {
			return c.Recipe.With(p.Address, p.To), p.Help
		}
		return c.Recipe, 0
	}},
}

func last(path []coach.Case) coach.Case { return path[len(path)-1] }

// mostBrews is the maximum number of brews of a learner.
const mostBrews = 10

// A record holds the results of learners.
type record struct {
	learners, brews, within3, never int
	good, disturbed                 int // good cups, and those marked good for which a change was advised
	// The advised changes and their stated probability of help.
	changes []changed
}

type changed struct {
	help          float64
	before, after float64 // marks without noise
}

// run lets a learner brew until a cup is good.
func (r *record) run(l *learner, a adviser) {
	q := l.question()
	var path []coach.Case
	var before float64
	help, n := 0.0, 1
	for ; n <= mostBrews; n++ {
		b := l.brew(q)
		if help > 0 {
			r.changes = append(r.changes, changed{help, before, b.truth})
		}
		path, before = append(path, b.Case), b.truth
		q.Recipe, help = a.next(path)
		if b.mark < good {
			continue
		}
		r.good++
		if help > 0 && l.life.marks {
			r.disturbed++
		}
		if help > 0 { // it was not called good, or the advice ignored it
			r.changes = append(r.changes, changed{help, before, l.brew(q).truth})
		}
		break
	}
	r.learners, r.brews = r.learners+1, r.brews+n
	if n <= 3 {
		r.within3++
	}
	if n > mostBrews {
		r.never++
	}
}

func (r *record) add(o record) {
	r.learners, r.brews, r.within3, r.never = r.learners+o.learners, r.brews+o.brews, r.within3+o.within3, r.never+o.never
	r.good, r.disturbed = r.good+o.good, r.disturbed+o.disturbed
	r.changes = append(r.changes, o.changes...)
}

func (r *record) mean() float64         { return float64(r.brews) / float64(r.learners) }
func (r *record) percent(n int) float64 { return 100 * float64(n) / float64(r.learners) }

// spoilt returns the percentage of changes that made a good cup worse although its taster did not call it
// good.
func (r *record) spoilt() float64 {
	n := 0
	for _, c := range r.changes {
		if c.before >= good && c.after < good && c.after < c.before {
			n++
		}
	}
	return 100 * float64(n) / float64(max(1, len(r.changes)))
}

// outcome returns the results of a world for all palates and coffees.
func outcome(l life, a adviser, seeds int) record {
	var all record
	var mu sync.Mutex
	forecast.Parallel(len(palates)*len(coffees), func(mine forecast.Indices) {
		for n := range mine {
			i, j := n/len(coffees), n%len(coffees)
			var r record
			for seed := range seeds {
				r.run(newLearner(l, palates[i], coffees[j], uint64(1000*i+100*j+seed)), a)
			}
			mu.Lock()
			all.add(r)
			mu.Unlock()
		}
	})
	return all
}

// The coach is far better than the rule that most people know, in its own world and in one with other
// fines, and leaves cups alone that are marked good.
func TestLearnersNeedFewerBrewsThanWithTheRule(t *testing.T) {
	t.Parallel()
	coached, ruled := advisers[len(advisers)-1], advisers[1]
	for _, l := range []life{lives()[0], lives()[2]} {
		c, r := outcome(l, coached, 1), outcome(l, ruled, 1)
		if c.mean() > 0.75*r.mean() || c.within3 <= r.within3 || c.disturbed > 0 || c.spoilt() > 5 {
			t.Errorf("%s: %.2f brews in the mean with the coach, %.2f by the rule; %d good cups disturbed, %.1f %% spoilt", l.name,
				c.mean(), r.mean(), c.disturbed, c.spoilt())
		}
	}
}

// bands are the classes of stated probabilities.
var bands = []float64{0.5, 0.6, 0.7, 0.8, 0.9, 1.01}

// calibration prints the frequency of help by stated probability.
func (r *record) calibration(out io.Writer) {
	for i := 1; i < len(bands); i++ {
		n, said, helped := 0.0, 0.0, 0.0
		for _, c := range r.changes {
			if c.help >= bands[i-1] && c.help < bands[i] {
				n, said = n+1, said+c.help
				if c.after > c.before {
					helped++
				}
			}
		}
		fmt.Fprintf(out, "said %.0f %%\thelped %.0f %%\tof %.0f\t\n", 100*said/max(1, n), 100*helped/max(1, n), n)
	}
}

// BenchmarkLearners prints the number of brews that simulated learners need until a cup that they mark
// good, by adviser. For the coach it also prints the frequency of help by stated probability, and the share
// of good cups that a change spoilt.
func BenchmarkLearners(b *testing.B) {
	for b.Loop() {
		table := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', tabwriter.AlignRight)
		fmt.Fprintln(table, "world\tadviser\tbrews, mean\twithin three, %\tnever in ten, %\t")
		total := make([]record, len(advisers))
		line := func(world string, a adviser, r record) {
			fmt.Fprintf(table, "%s\t%s\t%.2f\t%.0f\t%.1f\t\n", world, a.name, r.mean(), r.percent(r.within3), r.percent(r.never))
		}
		for _, l := range lives() {
			for i, a := range advisers {
				r := outcome(l, a, 4)
				total[i].add(r)
				line(l.name, a, r)
			}
		}
		for i, a := range advisers {
			line("all worlds", a, total[i])
		}
		coached := total[len(total)-1]
		coached.calibration(table)
		fmt.Fprintf(table, "of %d changes, spoilt a good cup\t%.1f %%\t\n", len(coached.changes), coached.spoilt())
		fmt.Fprintf(table, "of %d good cups, marked so and yet to be changed\t%d\t\n", coached.good, coached.disturbed)
		table.Flush()
	}
}
