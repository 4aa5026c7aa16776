package coach_test

import (
	"math"
	"math/rand/v2"
	"slices"
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

// Pupils are simulated learners whose taste, words, beds and coffees are described apart from the coach, in worlds of several
// structures. A pupil brews the first recipe, tastes, asks, follows the advice, and stops at the first cup to which it gives an
// 8, after at most ten brews. The coach never sees the truth.

var morning = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

// good is the mark from which a cup is good, and mostBrews the maximum number of brews.
const good, mostBrews = 8, 10

// A liking is a person's aim with the weights of yield and strength.
type liking struct{ yield, strength, ofYield, ofStrength float64 }

var plainLikings = []liking{{20.5, 1.38, 1, 1}, {19.2, 1.28, 1, 1}, {22.2, 1.42, 1.3, 0.7}, {20.5, 1.60, 0.7, 1.3}, {21.0, 1.20, 1, 1}}

var farLikings = []liking{{18, 1.64, 1, 1}, {18, 1.64, 1.4, 1.4}, {18, 1.64, 0.7, 0.7}, {23, 1.44, 1, 1}, {23, 1.44, 1.4, 1.4}, {23, 1.44, 0.7, 0.7}}

// A pupilWorld is a kind of pupils.
type pupilWorld struct {
	name    string
	likings []liking
	style   recipe.StyleID
	loose   bool // says bitter for strong and sour for weak
	few     bool // only a mark, acidity and bitterness
	uneven  float64
	streaks bool    // uneven beds come in streaks
	flow    float64 // standard deviation of ln of the coffee's permeability
	marks   float64 // standard deviation of a personal shift of the scale of marks
	humps   bool    // likes a second cup, a point and a half away, nearly as much
	ridge   bool    // a stronger cup makes up for a lower yield
	meter   bool    // has a refractometer
	noise   float64 // of each word apart from the others, in points of yield
	unlike  sim.Unlike
	stir    float64 // × the effect of hands
}

// usualWorld has one bed in eight uneven, and ordinary people.
func usualWorld(name string, change func(*pupilWorld)) pupilWorld {
	w := pupilWorld{name: name, likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, stir: 1}
	if change != nil {
		change(&w)
	}
	return w
}

var pupilWorlds = []pupilWorld{
	usualWorld("plain", nil),
	usualWorld("loose words", func(w *pupilWorld) { w.loose = true }),
	usualWorld("far aims", func(w *pupilWorld) { w.likings = farLikings }),
	usualWorld("one bed in three uneven", func(w *pupilWorld) { w.uneven = 1. / 3 }),
	usualWorld("split style", func(w *pupilWorld) { w.style = recipe.Split }),
	usualWorld("over ice", func(w *pupilWorld) { w.style = recipe.IceHotAndSlow }),
	usualWorld("a mark and two words", func(w *pupilWorld) { w.few = true }),
}

// otherPupils are worlds of another structure, in which nothing was tuned.
var otherPupils = []pupilWorld{
	usualWorld("plain, measured", func(w *pupilWorld) { w.meter = true }),
	usualWorld("loose words, measured", func(w *pupilWorld) { w.loose, w.meter = true, true }),
	usualWorld("beds uneven in streaks", func(w *pupilWorld) { w.streaks = true }),
	usualWorld("coffees that flow differently", func(w *pupilWorld) { w.flow = 0.25 }),
	usualWorld("personal marks", func(w *pupilWorld) { w.marks = 0.7 }),
	usualWorld("two humps", func(w *pupilWorld) { w.humps = true }),
	usualWorld("a ridge", func(w *pupilWorld) { w.ridge = true }),
	usualWorld("each word wrong by itself", func(w *pupilWorld) { w.noise = 1 }),
	usualWorld("hands that do half", func(w *pupilWorld) { w.stir = 0.5 }),
	usualWorld("nothing bound in the grains", func(w *pupilWorld) { w.unlike = sim.Unlike{NothingBound: true} }),
}

// A pupil is one simulated learner.
type pupil struct {
	pupilWorld
	liking
	rng          *rand.Rand
	rate, fines  float64 // factors of the coffee
	mill         float64 // µm
	flow         float64
	sour, bitter float64 // bias of the words, in points of yield
	shift        float64 // of its marks
	wasUneven    bool
	bag          coffee.Bag
	coach.Person // the coach's knowledge of it
}

// pupilCoffees holds factors of the extraction rate and of the fines.
var pupilCoffees = [][2]float64{{1, 1}, {0.75, 1}, {1.3, 1}, {1, 1.3}}

func newPupil(w pupilWorld, n uint64) *pupil {
	rng := rand.New(rand.NewPCG(n, 23))
	c := pupilCoffees[n/uint64(len(w.likings))%uint64(len(pupilCoffees))]
	p := &pupil{pupilWorld: w, liking: w.likings[n%uint64(len(w.likings))], rng: rng, rate: c[0], fines: c[1], mill: 25 * rng.NormFloat64(),
		flow: w.flow * rng.NormFloat64(), sour: 0.4 * rng.NormFloat64(), bitter: 0.4 * rng.NormFloat64(), shift: w.marks * rng.NormFloat64(),
		bag: coffee.Bag{Roast: coffee.MediumLight, Process: coffee.Washed, RoastedOn: "2026-04-25"}}
	p.Measures = w.meter
	return p
}

// anotherBag gives the pupil another coffee, with the coach's knowledge of its taste.
func (p *pupil) anotherBag(a coach.Advice) {
	c := pupilCoffees[p.rng.IntN(len(pupilCoffees))]
	p.rate, p.fines, p.flow = c[0], c[1], p.pupilWorld.flow*p.rng.NormFloat64()
	p.Tongue = a.Tongue
	if a.Map != nil {
		p.Known = a.Map.Aim.Widened()
	}
}

func (p *pupil) question() forecast.Question {
	q := forecast.Question{Bag: p.bag, Now: morning, Gear: gear.Set{Boiling: 100, Kettle: gear.Kettle{Thermostat: true, Capacity: 900},
		Brewer:  gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 480, Retained: 2},
		Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 25}}}}
	q.Recipe = forecast.FirstRecipe(q, p.style)
	if p.Known != nil {
		q.Recipe, _ = forecast.Aimed(q, forecast.Liking{Yield: p.Known.Yield, Strength: p.Known.Strength})
	}
	return q
}

// mark is the true mark of a cup.
func (p *pupil) mark(yield, strength float64, uneven bool) float64 {
	at := func(y, t float64) float64 {
		dy, ds := yield-y, (strength-t)/0.10
		square := p.ofYield*dy*dy + p.ofStrength*ds*ds
		if p.ridge {
			square += 0.8 * dy * ds
		}
		return 10 - 2*math.Sqrt(square)
	}
	m := at(p.yield, p.strength)
	if p.humps {
		m = max(m, at(p.yield-1.5, p.strength+0.12)-0.5)
	}
	if uneven {
		m -= 1.5
	}
	return m
}

// unevenBed draws whether a brew has an uneven bed.
func (p *pupil) unevenBed(r recipe.Recipe) bool {
	chance := p.uneven
	if r.Value(recipe.AddressOf(recipe.HandAfter)) == 0 {
		chance *= 2
	}
	if r.Value(recipe.AddressOf(recipe.Bloom)) >= 3.5 {
		chance *= 0.5
	}
	if r.Value(recipe.AddressOf(recipe.PourHeight)) == 0 {
		chance *= 0.6
	}
	if r.Steeps() {
		chance = 0.05
	}
	if p.streaks && p.rng.Float64() < 0.7 {
		return p.wasUneven
	}
	p.wasUneven = p.rng.Float64() < chance
	return p.wasUneven
}

// steps returns the step, 1 to 5, of a value between limits.
func steps(v float64, limits ...float64) int {
	n, _ := slices.BinarySearch(limits, v)
	return n + 1
}

// brewed returns the true cup of a recipe, with its drawdown and amount.
func (p *pupil) brewed(q forecast.Question) (r sim.Result, drained bool) {
	b := p.brewOf(q, p.mill+8*p.rng.NormFloat64())
	for i := range b.Pours {
		b.Pours[i].Temperature = min(100, b.Pours[i].Temperature+units.Celsius(0.5*p.rng.NormFloat64()))
	}
	r, err := sim.Run(b)
	return r, err == nil && r.Drained
}

// brewOf returns a brew in the pupil's world with a mill that grinds coarser by some µm, without the scatter from brew to brew.
func (p *pupil) brewOf(q forecast.Question, coarser float64) sim.Brew {
	q.Recipe.Grind += units.Micrometres(coarser)
	b := q.Brew()
	b.Coffee.Rate *= p.rate
	b.Grind.Fines *= p.fines
	b.Grind.Flow *= math.Exp(p.flow)
	if b.Unlike = p.unlike; b.Unlike.NothingBound { // a coffee with the same final yield must contain less
		b.Coffee.Soluble -= 0.035
	}
	for i := range b.Pours {
		b.Pours[i].Then.Opens *= p.stir
	}
	return b
}

// brew brews a recipe in the pupil's world and tastes it.
func (p *pupil) brew(q forecast.Question) (c coach.Case, given int, truth float64) {
	c = coach.Case{Recipe: q.Recipe, Bag: p.bag, Now: morning, Window: q.Recipe.Plan().Window, Gear: q.Gear, Person: p.Person}
	uneven := p.unevenBed(q.Recipe)
	r, drained := p.brewed(q)
	yield, strength := r.EY, r.TDS
	if !drained {
		yield, strength = p.yield+5, p.strength
		c.Marks = []cup.Mark{cup.Stall}
	}
	truth = p.mark(yield, strength, uneven)
	given = int(max(1, min(10, math.Round(truth+p.shift+0.3*p.rng.NormFloat64()))))
	c.Cup = cup.Cup{Drawdown: units.Seconds(float64(r.Drawdown) * math.Exp(0.02*p.rng.NormFloat64())), Bed: cup.FlatBed}
	said := p.words(yield-p.yield+0.35*p.rng.NormFloat64(), strength-p.strength+0.04*p.rng.NormFloat64())
	if uneven {
		said[cup.Acidity], said[cup.Bitterness] = max(4, said[cup.Acidity]), max(4, said[cup.Bitterness])
		if p.rng.Float64() < 0.6 {
			c.Cup.Bed = cup.Cratered
		}
	}
	c.Cup.Taste = cup.Taste{Steps: said, Overall: given, Faults: map[cup.Fault]bool{}}
	switch {
	case p.few:
	case given >= good:
		c.Cup.Serve = "yes"
	case given <= 5:
		c.Cup.Serve = "no"
	}
	c.Cup.Beverage = units.Grams(math.Round(float64(r.Beverage) + p.rng.NormFloat64()))
	if p.meter {
		c.Cup.TDS = units.Round(strength+0.025*p.rng.NormFloat64(), 2)
	}
	return c, given, truth
}

// words returns the words for a cup e points and t % away from the aim.
func (p *pupil) words(e, t float64) map[cup.Sense]int {
	own := func(v float64) float64 { return v + p.noise*p.rng.NormFloat64() }
	sour, bitter := -e+p.sour, e+p.bitter
	if p.loose {
		sour, bitter = -0.3*e-10*t+p.sour, 0.3*e+10*t+p.bitter
	}
	said := map[cup.Sense]int{cup.Acidity: steps(own(sour), -3, -1.5, 0.8, 2), cup.Bitterness: steps(own(bitter), -1.5, 0.3, 1, 2.2)}
	if p.few {
		return said
	}
	said[cup.Dryness] = steps(own(e), -0.5, 1, 1.8, 3)
	said[cup.Sweetness] = steps(own(-math.Abs(e)), -2.5, -1.4, -0.7, 1)
	said[cup.Aftertaste], said[cup.Clarity] = steps(own(e), -3, -1.2, 0.9, 3), 3
	if !p.loose {
		said[cup.Body] = steps(t+p.noise/10*p.rng.NormFloat64(), -0.18, -0.08, 0.08, 0.18)
	}
	return said
}
