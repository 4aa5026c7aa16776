package coach_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"sync"
	"testing"

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
	meter   bool    // has a refractometer
	stir    float64 // × the effect of hands in the model
}

var pupilWorlds = []pupilWorld{
	{name: "plain", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, stir: 1},
	{name: "loose words", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, loose: true, stir: 1},
	{name: "far aims", likings: farLikings, style: recipe.ThreeRounds, uneven: 0.12, stir: 1},
	{name: "one bed in three uneven", likings: plainLikings, style: recipe.ThreeRounds, uneven: 1. / 3, stir: 1},
	{name: "split style", likings: plainLikings, style: recipe.Split, uneven: 0.12, stir: 1},
	{name: "over ice", likings: plainLikings, style: recipe.IceHotAndSlow, uneven: 0.12, stir: 1},
	{name: "a mark and two words", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, few: true, stir: 1},
}

// otherPupils are worlds of another structure, in which nothing was tuned.
var otherPupils = []pupilWorld{
	{name: "loose words, measured", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, loose: true, meter: true, stir: 1},
	{name: "beds uneven in streaks", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, streaks: true, stir: 1},
	{name: "coffees that flow differently", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, flow: 0.25, stir: 1},
	{name: "personal marks", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, marks: 0.7, stir: 1},
	{name: "two humps", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, humps: true, stir: 1},
	{name: "hands that do half", likings: plainLikings, style: recipe.ThreeRounds, uneven: 0.12, stir: 0.5},
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
}

func newPupil(w pupilWorld, n uint64) *pupil {
	rng := rand.New(rand.NewPCG(n, 23))
	coffees := [][2]float64{{1, 1}, {0.75, 1}, {1.3, 1}, {1, 1.3}}
	c := coffees[n/uint64(len(w.likings))%uint64(len(coffees))]
	p := &pupil{pupilWorld: w, liking: w.likings[n%uint64(len(w.likings))], rng: rng, rate: c[0], fines: c[1], mill: 25 * rng.NormFloat64(),
		flow: w.flow * rng.NormFloat64(), sour: 0.4 * rng.NormFloat64(), bitter: 0.4 * rng.NormFloat64(), shift: w.marks * rng.NormFloat64(),
		bag: coffee.Bag{Roast: coffee.MediumLight, Process: coffee.Washed, RoastedOn: "2026-04-25"}}
	return p
}

func (p *pupil) question() forecast.Question {
	q := forecast.Question{Bag: p.bag, Now: morning, Gear: gear.Set{Boiling: 100, Kettle: gear.Kettle{Thermostat: true, Capacity: 900},
		Brewer:  gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 480, Retained: 2},
		Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 25}}}}
	q.Recipe = forecast.FirstRecipe(q, p.style)
	return q
}

// mark is the true mark of a cup.
func (p *pupil) mark(yield, strength float64, uneven bool) float64 {
	at := func(y, t float64) float64 {
		return 10 - 2*math.Sqrt(p.ofYield*square(yield-y)+p.ofStrength*square((strength-t)/0.10))
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

func square(v float64) float64 { return v * v }

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
	if p.streaks {
		if p.rng.Float64() < 0.7 {
			return p.wasUneven
		}
	}
	p.wasUneven = p.rng.Float64() < chance
	return p.wasUneven
}

// steps returns the step, 1 to 5, of a value between limits.
func steps(v float64, limits ...float64) int {
	n, _ := slices.BinarySearch(limits, v)
	return n + 1
}

// brew brews a recipe in the pupil's world and tastes it.
func (p *pupil) brew(q forecast.Question) (c coach.Case, given int, truth float64) {
	c = coach.Case{Recipe: q.Recipe, Bag: p.bag, Now: morning, Window: q.Recipe.Plan().Window, Gear: q.Gear}
	c.Measures = p.meter
	uneven := p.unevenBed(q.Recipe)
	q.Recipe.Grind += units.Micrometres(p.mill + 8*p.rng.NormFloat64())
	b := q.Brew()
	b.Coffee.Rate *= p.rate
	b.Grind.Fines *= p.fines
	b.Grind.Flow *= math.Exp(p.flow)
	for i := range b.Pours {
		b.Pours[i].Temperature += units.Celsius(0.5 * p.rng.NormFloat64())
		b.Pours[i].Then.Opens *= p.stir
	}
	r, err := sim.Run(b)
	yield, strength := r.EY, r.TDS
	if err != nil || !r.Drained {
		yield, strength = p.yield+5, p.strength
		c.Marks = []cup.Mark{cup.Stall}
	}
	truth = p.mark(yield, strength, uneven)
	given = int(max(1, min(10, math.Round(truth+p.shift+0.3*p.rng.NormFloat64()))))
	e, t := yield-p.yield+0.35*p.rng.NormFloat64(), strength-p.strength+0.04*p.rng.NormFloat64()
	sour, bitter := -e+p.sour, e+p.bitter
	if p.loose {
		sour, bitter = -0.3*e-10*t+p.sour, 0.3*e+10*t+p.bitter
	}
	said := map[cup.Sense]int{cup.Acidity: steps(sour, -3, -1.5, 0.8, 2), cup.Bitterness: steps(bitter, -1.5, 0.3, 1, 2.2)}
	if !p.few {
		said[cup.Dryness] = steps(e, -0.5, 1, 1.8, 3)
		said[cup.Sweetness] = steps(-math.Abs(e), -2.5, -1.4, -0.7, 1)
		said[cup.Aftertaste], said[cup.Clarity] = steps(e, -3, -1.2, 0.9, 3), 3
		if !p.loose {
			said[cup.Body] = steps(t, -0.18, -0.08, 0.08, 0.18)
		}
	}
	c.Cup = cup.Cup{Drawdown: units.Seconds(float64(r.Drawdown) * math.Exp(0.02*p.rng.NormFloat64())), Bed: cup.FlatBed}
	if uneven {
		said[cup.Acidity], said[cup.Bitterness] = max(4, said[cup.Acidity]), max(4, said[cup.Bitterness])
		if p.rng.Float64() < 0.6 {
			c.Cup.Bed = cup.Cratered
		}
	}
	c.Cup.Taste = cup.Taste{Steps: said, Overall: given, Faults: map[cup.Fault]bool{}}
	switch {
	case given >= good:
		c.Cup.Serve = "yes"
	case given <= 5:
		c.Cup.Serve = "no"
	}
	if p.few {
		c.Cup.Serve = ""
	}
	c.Cup.Beverage = units.Grams(math.Round(float64(r.Beverage) + p.rng.NormFloat64()))
	if p.meter {
		c.Cup.TDS = units.Round(strength+0.025*p.rng.NormFloat64(), 2)
	}
	return c, given, truth
}

// A said is a stated probability that a change is better than the same again, with the difference of the true marks.
type said struct{ chance, by float64 }

// follow lets a pupil follow an adviser. It returns the brews to the first good cup, the changes with their stated chances, and
// whether a change was advised after a good cup.
func (p *pupil) follow(a adviser) (brews int, claims []said, disturbed bool) {
	q := p.question()
	var path []coach.Case
	was, help := 0.0, 0.0
	for n := 1; n <= mostBrews; n++ {
		c, given, truth := p.brew(q)
		if help > 0 {
			claims = append(claims, said{help, truth - was})
		}
		path, was = append(path, c), truth
		q.Recipe, help = a.next(path)
		if given >= good {
			return n, claims, help > 0
		}
	}
	return mostBrews + 1, claims, false
}

// pupilScore is the result of many pupils.
type pupilScore struct {
	n, never, disturbed int
	brews               float64
	claims              []said
}

func (s *pupilScore) add(o pupilScore) {
	s.n, s.never, s.disturbed, s.brews = s.n+o.n, s.never+o.never, s.disturbed+o.disturbed, s.brews+o.brews
	s.claims = append(s.claims, o.claims...)
}

// teach lets pupils of a world follow an adviser.
func teach(w pupilWorld, a adviser, from uint64, pupils int) (out pupilScore) {
	var mu sync.Mutex
	forecast.Parallel(pupils, func(mine forecast.Indices) {
		for i := range mine {
			n, claims, disturbed := newPupil(w, from+uint64(i)).follow(a)
			one := pupilScore{n: 1, brews: float64(n), claims: claims}
			if n > mostBrews {
				one.never = 1
			}
			if disturbed {
				one.disturbed = 1
			}
			mu.Lock()
			out.add(one)
			mu.Unlock()
		}
	})
	return out
}

// heldOutPupils is the first seed that was not used while the coach was tuned.
const heldOutPupils = 100_000

// BenchmarkPupils prints the brews to a good cup by world and adviser, and for the coach how often changes were better than
// stated. YARDBLOOM_PUPILS is the number of pupils in each world.
func BenchmarkPupils(b *testing.B) {
	pupils, from := pupilCount()
	coached := advisers[len(advisers)-1]
	for b.Loop() {
		fmt.Println("| world | same again | simple rule | coach | never in ten, % | disturbed |")
		var all pupilScore
		for _, w := range append(slices.Clone(pupilWorlds), otherPupils...) {
			c := teach(w, coached, from, pupils)
			same, rule := "", ""
			if from >= heldOutPupils {
				s, r := teach(w, advisers[0], from, pupils), teach(w, advisers[2], from, pupils)
				same, rule = fmt.Sprintf("%.1f", s.brews/float64(s.n)), fmt.Sprintf("%.1f", r.brews/float64(r.n))
			}
			fmt.Printf("| %s | %s | %s | %.2f | %.1f | %d |\n", w.name, same, rule, c.brews/float64(c.n), 100*float64(c.never)/float64(c.n), c.disturbed)
			all.add(c)
		}
		fmt.Println("| said, % | true, % | of |")
		for i := 1; i < len(bands); i++ {
			n, stated, better := 0.0, 0.0, 0.0
			for _, c := range all.claims {
				if c.chance >= bands[i-1] && c.chance < bands[i] {
					n, stated = n+1, stated+c.chance
					if c.by > 0 {
						better++
					}
				}
			}
			fmt.Printf("| %.0f | %.0f | %.0f |\n", 100*stated/max(1, n), 100*better/max(1, n), n)
		}
	}
}

// pupilCount returns the number of pupils in each world, and their first seed.
func pupilCount() (n int, from uint64) {
	if typed, err := strconv.Atoi(os.Getenv("YARDBLOOM_PUPILS")); err == nil && typed > 0 {
		return typed, 0
	}
	return 1000, heldOutPupils
}
