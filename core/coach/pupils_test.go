package coach_test

import (
	"fmt"
	"math"
	"os"
	"slices"
	"strconv"
	"sync"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
)

// An adviser answers a path of brews with the next recipe. help is the stated probability of a better cup, 0 without a change.
type adviser func(path []coach.Case) (next recipe.Recipe, help float64)

func lastOf(path []coach.Case) coach.Case { return path[len(path)-1] }

func sameAgain(path []coach.Case) (recipe.Recipe, float64) { return lastOf(path).Recipe, 0 }

// simpleRule is what most people know: sour, finer; bitter, coarser; thin or heavy, the ratio.
func simpleRule(path []coach.Case) (recipe.Recipe, float64) {
	c := lastOf(path)
	sour, bitter, body := c.Cup.Steps[cup.Acidity], c.Cup.Steps[cup.Bitterness], c.Cup.Steps[cup.Body]
	const oneStep, half = 25, 0.5
	grind, ratio := 0.0, 0.0
	switch {
	case body == 1 || body == 5:
		ratio = float64(body-3) / 4
	case sour >= 4 && sour >= bitter:
		grind = -oneStep
	case bitter >= 3:
		grind = oneStep
	case body == 2 || body == 4:
		ratio = half * float64(body-3)
	}
	r := c.Recipe
	if grind != 0 {
		r = r.With(recipe.AddressOf(recipe.Grind), float64(r.Grind)+grind)
	}
	if ratio != 0 {
		r = r.With(recipe.AddressOf(recipe.Ratio), r.Ratio()+ratio)
	}
	return r, 0
}

// coached follows the coach.
func coached(path []coach.Case) (recipe.Recipe, float64) {
	c := lastOf(path)
	c.Path = path[:len(path)-1]
	if p := coach.Advise(c).First; p != nil {
		return c.Recipe.With(p.Address, p.To), p.Help
	}
	return c.Recipe, 0
}

// A said is a stated probability that a change is better than a repeat, with the difference of the true marks of the changed
// brew and of a repeated one.
type said struct{ chance, by float64 }

// follow lets a pupil follow an adviser. It returns the brews to the first good cup, the changes with their stated chances, and
// whether a change was advised after a good cup.
func (p *pupil) follow(a adviser) (brews int, claims []said, disturbed bool) {
	q := p.question()
	var path []coach.Case
	help := 0.0
	for n, before := 1, q; n <= mostBrews; n++ {
		c, given, truth := p.brew(q)
		if help > 0 {
			_, _, again := p.brew(before)
			claims = append(claims, said{help, truth - again})
		}
		path, before = append(path, c), q
		q.Recipe, help = a(path)
		if given >= good {
			return n, claims, help > 0
		}
	}
	return mostBrews + 1, claims, false
}

// followBags lets a pupil dial in several bags with the coach. It returns for each bag after the first whether its first cup is good.
func (p *pupil) followBags(bags int) (first []bool) {
	for bag := range bags {
		q := p.question()
		var path []coach.Case
		for n := 1; n <= mostBrews; n++ {
			c, given, _ := p.brew(q)
			if n == 1 && bag > 0 {
				first = append(first, given >= good)
			}
			c.Path = path
			a := coach.Advise(c)
			c.Path = nil
			path = append(path, c)
			if given >= good || n == mostBrews {
				p.anotherBag(a)
				break
			}
			if a.First != nil {
				q.Recipe = q.Recipe.With(a.First.Address, a.First.To)
			}
		}
	}
	return first
}

// A pupilScore is the result of many pupils.
type pupilScore struct {
	n, never, disturbed int
	brews               float64
	claims              []said
}

func (s *pupilScore) add(o pupilScore) {
	s.n, s.never, s.disturbed, s.brews = s.n+o.n, s.never+o.never, s.disturbed+o.disturbed, s.brews+o.brews
	s.claims = append(s.claims, o.claims...)
}

func (s pupilScore) mean() float64 { return s.brews / float64(s.n) }

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

// The coach needs far fewer brews than the rule that most people know, and leaves good cups alone. A small sample; BenchmarkPupils has
// the figures. Mutations caught: an aim that does not learn, a mark that counts twice, a change after a good cup.
func TestPupilsNeedFewerBrewsThanWithTheRule(t *testing.T) {
	t.Parallel()
	const pupils = 14
	for _, w := range []pupilWorld{pupilWorlds[0], pupilWorlds[1]} {
		c, r := teach(w, coached, 0, pupils), teach(w, simpleRule, 0, pupils)
		if c.mean() > 0.8*r.mean() || c.never > 1 || c.disturbed > 0 {
			t.Errorf("%s: %.2f brews with the coach, %.2f by the rule; %d never, %d good cups disturbed", w.name, c.mean(), r.mean(), c.never,
				c.disturbed)
		}
	}
}

// The first recipe of a later bag aims at a liked cup. Mutations caught: an aim that is not carried over, a first recipe that
// ignores it.
func TestLaterBagsStartNearer(t *testing.T) {
	t.Parallel()
	goods, all := firstCups(pupilWorlds[0], 0, 10, 3)
	if goods < 0.4*all {
		t.Errorf("%.0f of %.0f first cups of later bags are good", goods, all)
	}
}

// firstCups counts the good first cups of later bags.
func firstCups(w pupilWorld, from uint64, pupils, bags int) (goods, all float64) {
	var mu sync.Mutex
	forecast.Parallel(pupils, func(mine forecast.Indices) {
		for i := range mine {
			first := newPupil(w, from+uint64(i)).followBags(bags)
			mu.Lock()
			for _, good := range first {
				all++
				if good {
					goods++
				}
			}
			mu.Unlock()
		}
	})
	return goods, all
}

// heldOutPupils is the first seed that was not used while the coach was tuned.
const heldOutPupils = 200_000

// BenchmarkPupils prints the brews to a good cup by world and adviser, the first cups of later bags, and for the coach how often
// changes were better than stated. YARDBLOOM_PUPILS is the number of pupils in each world, for tuning.
func BenchmarkPupils(b *testing.B) {
	pupils, from := pupilCount()
	for b.Loop() {
		fmt.Println("| world | same again | simple rule | knows the aim | knows the family | coach | never in ten, % | good cups disturbed |")
		var all pupilScore
		for _, w := range append(slices.Clone(pupilWorlds), otherPupils...) {
			c := teach(w, coached, from, pupils)
			row := "| | | | "
			if from >= heldOutPupils {
				row = fmt.Sprintf("| %.1f | %.1f | %.1f | %.1f ", teach(w, sameAgain, from, pupils).mean(), teach(w, simpleRule, from, pupils).mean(),
					meanOf(w, from, pupils, (*pupil).followInformed), meanOf(w, from, pupils, (*pupil).followOracle))
			}
			fmt.Printf("| %s %s| %.2f | %.1f | %d |\n", w.name, row, c.mean(), 100*float64(c.never)/float64(c.n), c.disturbed)
			all.add(c)
		}
		for _, w := range []pupilWorld{pupilWorlds[0], pupilWorlds[1], pupilWorlds[2]} {
			goods, of := firstCups(w, from, pupils/4, 4)
			fmt.Printf("| first cup of a later bag, %s: good in %.0f %% of %.0f |\n", w.name, 100*goods/of, of)
		}
		fmt.Println("| said, % | true, % | of |")
		for _, line := range calibration(all.claims) {
			fmt.Println(line)
		}
	}
}

// calibration returns the frequency of better cups by stated probability.
func calibration(claims []said) (lines []string) {
	bands := []float64{0.5, 0.6, 0.7, 0.8, 0.9, 1.01}
	for i := 1; i < len(bands); i++ {
		n, stated, better := 0.0, 0.0, 0.0
		for _, c := range claims {
			if c.chance >= bands[i-1] && c.chance < bands[i] {
				n, stated = n+1, stated+c.chance
				if c.by > 0 {
					better++
				}
			}
		}
		lines = append(lines, fmt.Sprintf("| %.0f | %.0f | %.0f |", 100*stated/max(1, n), 100*better/max(1, n), n))
	}
	return lines
}

// meanOf returns the mean number of brews of pupils by a way of following.
func meanOf(w pupilWorld, from uint64, pupils int, follow func(*pupil) int) float64 {
	var mu sync.Mutex
	sum := 0.0
	forecast.Parallel(pupils, func(mine forecast.Indices) {
		for i := range mine {
			p := newPupil(w, from+uint64(i))
			n := follow(p)
			mu.Lock()
			sum += float64(n)
			mu.Unlock()
		}
	})
	return sum / float64(pupils)
}

// followInformed returns the brews of a pupil whose aim is known: each recipe aims at it through the model, corrected by the true figures
// of the cups before.
func (p *pupil) followInformed() int {
	q := p.question()
	start := q.Recipe
	var offYield, offStrength, n float64
	for brews := 1; brews <= mostBrews; brews++ {
		q.Recipe = start
		q.Recipe, _ = forecast.Aimed(q, forecast.Liking{Yield: p.yield - offYield/max(1, n), Strength: p.strength - offStrength/max(1, n)})
		var f forecast.Forecast
		if f.Run(q) != nil {
			return mostBrews + 1
		}
		uneven := p.unevenBed(q.Recipe)
		r, drained := p.brewed(q)
		if drained && math.Round(p.mark(r.EY, r.TDS, uneven)+p.shift+0.3*p.rng.NormFloat64()) >= good {
			return brews
		}
		offYield, offStrength, n = offYield+r.EY-f.Yield.Value, offStrength+r.TDS-f.TDS, n+1
	}
	return mostBrews + 1
}

// pupilCount returns the number of pupils in each world, and their first seed.
func pupilCount() (n int, from uint64) {
	if typed, err := strconv.Atoi(os.Getenv("YARDBLOOM_PUPILS")); err == nil && typed > 0 {
		return typed, 0
	}
	return 300, heldOutPupils
}
