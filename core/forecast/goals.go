package forecast

import (
	"cmp"
	"errors"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"yardbloom/core/recipe"
	"yardbloom/core/root"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Target is a goal with its value in the goal's unit.
type Target struct {
	Goal
	Value float64
}

// LeanOf is a goal for pairs alone: the bitter share of the cup over the bright one (sim.Balance.Lean).
const LeanOf Goal = "balance"

// A Trade is a recipe for several targets at once. If they cannot all be met, it is the nearest one, with the misses weighed
// by the tolerances of Near.
type Trade struct {
	Recipe    recipe.Recipe
	Predicted Forecast
	Met       []bool // by target
	Changes   []Turned
}

// Turned is one change of a trade, with its own effect if it were made alone.
type Turned struct {
	recipe.Change
	Effect Difference
}

// near holds the tolerance of each goal in a trade: differences that a person does not notice.
var nearEnough = map[Goal]float64{DrainIn: 6, YieldOf: 0.25, StrengthOf: 0.02, LeanOf: 0.005}

// ErrTargets is returned for an unsuitable combination of targets.
var ErrTargets = errors.New("these goals cannot be solved together")

// turnsBy holds the step of each knob that counts as one unit of change: about as much as a person turns at a time.
var turnsBy = map[recipe.Knob]float64{recipe.Grind: 40, recipe.Temperature: 3, recipe.Ratio: 0.75}

// Together sets two or three knobs of a recipe so that the model predicts two targets at once, with the smallest change that
// does it (Gauss-Newton with Levenberg's damping, Marquardt 1963), and then rounds each knob to a value that can be set. The
// recipe may keep knobs unchanged.
func Together(q Question, targets []Target, knobs ...recipe.Knob) (Trade, error) {
	if !q.Gear.Grinder.Adjustable() {
		knobs = slices.DeleteFunc(slices.Clone(knobs), func(k recipe.Knob) bool { return k == recipe.Grind })
	}
	read := make([]func(*Forecast) float64, len(targets))
	for i, t := range targets {
		switch a, known := aims[t.Goal]; {
		case known:
			read[i] = func(f *Forecast) float64 { return a.read(*f) }
		case t.Goal == LeanOf:
			read[i] = func(f *Forecast) float64 { return f.Balance.Lean() }
		}
	}
	if len(targets) < 2 || len(knobs) < len(targets) || slices.ContainsFunc(read, func(f func(*Forecast) float64) bool { return f == nil }) ||
		slices.ContainsFunc(knobs, func(k recipe.Knob) bool { return turnsBy[k] == 0 }) {
		return Trade{}, ErrTargets
	}
	s := &together{q: q, targets: targets, read: read, knobs: knobs}
	return s.solve()
}

// together is the state of Together. A point holds the knobs in units of turnsBy from the recipe's own.
type together struct {
	q       Question
	targets []Target
	read    []func(*Forecast) float64
	knobs   []recipe.Knob
	f       Forecast
}

// recipeAt returns the recipe at a point; with snap, each knob at a value that can be set.
func (s *together) recipeAt(x []float64, snap bool) recipe.Recipe {
	q := s.q
	for i, k := range s.knobs {
		t := turns[k]
		v := within(s.q, k).Clamp(t.now(s.q) + x[i]*turnsBy[k])
		if snap {
			v = t.snap(s.q, v)
		}
		if math.Abs(v-t.now(q)) > 1e-9 {
			q.Recipe = t.set(q, s.targets[0].Goal, v)
		}
	}
	return q.Recipe
}

// misses returns the distance from each target at a point, in tolerances, and their squared sum. It is infinite for a recipe
// outside the model's range.
func (s *together) misses(x []float64, snap bool) ([]float64, float64) {
	q := s.q
	q.Recipe = s.recipeAt(x, snap)
	out, sum := make([]float64, len(s.targets)), 0.0
	if s.f.Run(q) != nil {
		return out, math.Inf(1)
	}
	for i, t := range s.targets {
		out[i] = (s.read[i](&s.f) - t.Value) / nearEnough[t.Goal]
		sum += out[i] * out[i]
	}
	return out, sum
}

func (s *together) solve() (Trade, error) {
	const most, enough = 12, 0.02 // iterations; squared misses
	x := make([]float64, len(s.knobs))
	r, sum := s.misses(x, false)
	if math.IsInf(sum, 1) {
		return Trade{}, s.f.Run(s.q)
	}
	damping := 1e-2
	for range most {
		if sum < enough {
			break
		}
		step := s.step(x, r, damping)
		next := make([]float64, len(x))
		for i, k := range s.knobs {
			limits, now := within(s.q, k), turns[k].now(s.q)
			next[i] = (limits.Clamp(now+(x[i]+step[i])*turnsBy[k]) - now) / turnsBy[k]
		}
		nr, nsum := s.misses(next, false)
		if nsum < sum {
			x, r, sum, damping = next, nr, nsum, damping/4
		} else if damping *= 6; damping > 1e4 {
			break
		}
	}
	return s.settle(x)
}

// step returns the damped step of least change from x towards the targets: Jᵀ (J Jᵀ + λ)⁻¹ (−r), with slopes by differences of
// a third of a turn.
func (s *together) step(x, r []float64, damping float64) []float64 {
	const h = 1. / 3
	m, n := len(r), len(x)
	j := mat.NewDense(m, n, nil)
	for k := range x {
		moved := slices.Clone(x)
		moved[k] += h
		up, sum := s.misses(moved, false)
		by := h
		if limits, at := within(s.q, s.knobs[k]), turns[s.knobs[k]].now(s.q)+moved[k]*turnsBy[s.knobs[k]]; math.IsInf(sum, 1) || !limits.Contains(at) {
			moved[k] = x[k] - h
			up, sum = s.misses(moved, false)
			by = -h
		}
		if math.IsInf(sum, 1) {
			continue
		}
		for i := range r {
			j.Set(i, k, (up[i]-r[i])/by)
		}
	}
	var normal, inverse mat.Dense
	normal.Mul(j, j.T())
	for i := range m {
		normal.Set(i, i, normal.At(i, i)+damping*(1+normal.At(i, i)))
	}
	out := make([]float64, n)
	if inverse.Inverse(&normal) != nil {
		return out
	}
	var lambda, step mat.VecDense
	lambda.MulVec(&inverse, mat.NewVecDense(m, r))
	step.MulVec(j.T(), &lambda)
	const farthest = 3.0 // turns of a knob at a time
	for k := range out {
		out[k] = -max(-farthest, min(farthest, step.AtVec(k)))
	}
	return out
}

// settle rounds a solution to values that can be set: of the neighbouring settings of the dial and the kettle the pair that
// comes nearest to the targets.
func (s *together) settle(x []float64) (Trade, error) {
	best, least := x, math.Inf(1)
	try := func(p []float64) {
		if _, sum := s.misses(p, true); sum < least-1e-9 {
			best, least = slices.Clone(p), sum
		}
	}
	try(x)
	for k, knob := range s.knobs {
		stride := 1 / turnsBy[knob] // a degree
		if knob == recipe.Grind {
			stride = cmp.Or(math.Abs(float64(s.q.Gear.Grinder.Step)), knob.Step()) / turnsBy[knob]
		}
		if knob == recipe.Ratio {
			continue // whole grams are fine enough
		}
		base := slices.Clone(best)
		for _, by := range []float64{-stride, stride} {
			p := slices.Clone(base)
			p[k] += by
			try(p)
		}
	}
	q := s.q
	q.Recipe = s.recipeAt(best, true)
	out := Trade{Recipe: q.Recipe, Met: make([]bool, len(s.targets))}
	if err := out.Predicted.Run(q); err != nil {
		return out, err
	}
	for i, t := range s.targets {
		const close = 2 // tolerances: settings have steps
		out.Met[i] = math.Abs(s.read[i](&out.Predicted)-t.Value) <= close*nearEnough[t.Goal]
	}
	return out, out.explain(s.q)
}

// explain adds the effect of each change alone.
func (t *Trade) explain(q Question) error {
	var base, moved Forecast
	if err := base.Run(q); err != nil {
		return err
	}
	for _, c := range recipe.Changes(q.Recipe, t.Recipe) {
		alone := q
		alone.Recipe = q.Recipe.With(c.Address, c.To)
		if d := moved.differ(base, alone); d != nil {
			t.Changes = append(t.Changes, Turned{c, *d})
		}
	}
	return nil
}

// A Chill is one way to serve a drink over ice at a wanted strength.
type Chill struct {
	Recipe    recipe.Recipe
	Predicted Forecast
}

// Coldest returns recipes over ice of one strength, % TDS, with increasing shares of ice: the more ice, the colder the drink,
// and the less water is left to extract with. The ratio makes up for it, with the same drink. The last one is the coldest that
// the model finds: after it the ice no longer melts, the strength is out of reach or the yield implausible. Recipes that are
// not over ice have none.
func Coldest(q Question, strength float64) []Chill {
	if q.Recipe.Serving() != recipe.OverIce {
		return nil
	}
	limits := recipe.IcePart.Usual()
	var out []Chill
	for share := limits.Lo; share <= recipe.IcePart.Range().Hi+1e-9; share += recipe.IcePart.Step() {
		next := q
		next.Recipe = q.Recipe.With(recipe.AddressOf(recipe.IcePart), share)
		r, err := Reach(next, StrengthOf, recipe.Ratio, strength)
		if err != nil {
			continue
		}
		next.Recipe = r
		c := Chill{Recipe: r}
		const melted = 1 // g
		if c.Predicted.Run(next) != nil || c.Predicted.IceLeft > melted || c.Predicted.Yield.Value < plausible.Lo-1 {
			break
		}
		out = append(out, c)
	}
	return out
}

// Clogged is the drawdown from which a bed counts as clogged, s.
const Clogged units.Seconds = 360

// Finest returns the recipe with the finest grind that does not clog with a probability of sure: nine of ten brews drain
// within Clogged for 0.9. It returns an *UnreachableError if even the coarsest usual grind may clog.
func Finest(q Question, sure float64) (recipe.Recipe, Forecast, error) {
	z := math.Sqrt2 * math.Erfinv(2*sure-1)
	var f Forecast
	late := func(size float64) (float64, error) {
		next := q
		next.Recipe.Grind = units.Micrometres(size)
		if err := f.RunFlow(next); err != nil {
			return 0, err
		}
		if !f.Drained {
			return 2, nil
		}
		// A drawdown is about log-normal: ln t + z σ/t is its upper limit.
		return math.Log(float64(f.Drawdown/Clogged)) + z*next.timeError(&f)/float64(f.Drawdown), nil
	}
	limits := within(q, recipe.Grind)
	v, err := root.Find(late, limits, float64(q.Recipe.Grind), 0.01)
	var none root.NoneError
	switch {
	case errors.As(err, &none) && max(none.AtLo, none.AtHi) < 0: // even the finest drains
		v = limits.Lo
	case errors.As(err, &none):
		return q.Recipe, f, &UnreachableError{recipe.Grind, DrainIn, units.Range{Lo: float64(f.Drawdown), Hi: math.Inf(1)}}
	case err != nil:
		return q.Recipe, f, err
	}
	q.Recipe.Grind = q.Gear.Grinder.Snap(units.Micrometres(v))
	if later, err := late(float64(q.Recipe.Grind)); err == nil && later > 0.02 { // the nearest setting is too fine
		step := cmp.Or(math.Abs(float64(q.Gear.Grinder.Step)), recipe.Grind.Step())
		q.Recipe.Grind = q.Gear.Grinder.Snap(q.Recipe.Grind + units.Micrometres(step))
	}
	f, err = Predict(q)
	return q.Recipe, f, err
}

// timeError returns the standard error of a drawdown, s, by runs of the flow alone.
func (q Question) timeError(f *Forecast) float64 {
	brew, b := q.Brew(), q.beliefs()
	r := results.Get().(*sim.Result)
	defer results.Put(r)
	sum := 0.0
	for column := range b.Root {
		var at [2]float64
		drained := 0
		for side := range at {
			theta := b.Mean
			for p := range theta {
				theta[p] += float64(1-2*side) * b.Root[p][column]
			}
			at[side] = float64(f.Drawdown)
			if sim.RunFlowCoarse(r, WithParameters(brew, theta)) == nil && r.Drained {
				at[side] = float64(r.Drawdown)
				drained++
			}
		}
		switch {
		case drained == len(at):
			sum += square((at[0] - at[1]) / 2)
		default:
			sum += square(float64(Clogged)) // one of the sides stalls
		}
	}
	own := q.OwnError(Outcome{}, float64(f.Drawdown-brew.Release))
	return math.Hypot(math.Sqrt(sum), own.Drawdown)
}
