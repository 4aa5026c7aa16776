package forecast

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"yardbloom/core/recipe"
	"yardbloom/core/root"
	"yardbloom/core/units"
)

// A fit sets the figures that a style leaves to the model, for this coffee and this gear. Its reason explains the figures of
// the question's recipe, edited or not, at the address beside which it is shown.
type fit struct {
	set    func(Question) recipe.Recipe
	reason func(Question, units.Prefs) (recipe.Reason, bool)
}

// fits holds the styles whose figures are fitted. The figures of their entries in core/recipe are those of the usual gear.
var fits = map[recipe.StyleID]fit{
	recipe.BloomByEye:      {wetThrough, wetReason},
	recipe.TwoCentredPours: {level, levelReason},
	recipe.LongBloom:       {longBloom, longReason},
}

// IsFitted reports whether the model finds figures of a style for each coffee.
func IsFitted(id recipe.StyleID) bool {
	_, ok := fits[id]
	return ok
}

// fitted returns a newly written recipe with its style's figures fitted and its grind dialled in. The figures depend on the
// grind: they are fitted at the one that the style's own figures need, which is near the final one.
func fitted(q Question) recipe.Recipe {
	f, known := fits[q.Recipe.Style]
	if !known {
		return dialledIn(q)
	}
	start := q.Recipe.Grind
	q.Recipe.Grind = dial(q, start).grind
	q.Recipe = f.set(q)
	q.Recipe.Grind = start
	return dialledIn(q)
}

// Bloom by eye: the bloom opens this coffee's clumps.

// wet is the share of the grounds that is wet when the pours begin, in a bed without a dry patch to be seen. Pockets
// of a ninth are hidden in it. An assumption: more water for more than this gains less than a quarter of a point of
// yield for each multiple of the dose, less water loses more.
const wet = 8. / 9

// blooms is the range of a fitted bloom, g/g. More water runs past the dry pockets (sim).
var blooms = recipe.Bloom.Usual()

// wetThrough returns the recipe with the least bloom, to a tenth of the dose, after which the bed is wet; with the largest if no
// bloom wets it that far.
func wetThrough(q Question) recipe.Recipe {
	if q.Habits.Bloom > 0 {
		return q.Recipe
	}
	bloom := recipe.AddressOf(recipe.Bloom)
	var f Forecast
	off := func(x float64) (float64, error) {
		next := q
		next.Recipe = q.Recipe.With(bloom, x)
		err := f.RunFlow(next)
		return f.wetted() - wet, err
	}
	const near = 0.001
	x, err := root.Find(off, blooms, q.Recipe.Value(bloom), near)
	var none root.NoneError
	switch {
	case errors.As(err, &none) && none.AtHi < 0:
		x = blooms.Hi
	case errors.As(err, &none):
		x = blooms.Lo
	case err != nil:
		return q.Recipe
	}
	return q.Recipe.With(bloom, units.Round(x, 1))
}

// wetted returns the share of the grounds that is wet when the first pour after the bloom begins.
func (f *Forecast) wetted() float64 {
	if len(f.Pours) < 2 {
		return 1
	}
	return f.Pours[1].Wetted
}

func wetReason(q Question, p units.Prefs) (recipe.Reason, bool) {
	at := recipe.AddressOf(recipe.Bloom)
	var f Forecast
	if q.Recipe.Value(at) == 0 || f.RunFlow(q) != nil {
		return recipe.Reason{}, false
	}
	text := fmt.Sprintf("By the model, %s of the grounds are wet when the next pour begins.", p.Unit(units.Share).Format(f.wetted()))
	if f.wetted() < wet-0.01 && q.Recipe.Value(at) >= blooms.Hi-0.05 {
		text += " Gas keeps the rest dry, and more water would run past it: swirl it well."
	}
	return recipe.Reason{At: at, Text: text + " Trust your eyes over it, and add water if part of the bed stays dry."}, true
}

// Two centred pours: the second starts while a cushion of water protects the bed, and rises as high as the first.

// cushion is the water over the bed, mm, onto which the second pour falls. A fast stream into less digs into the bed; with
// much more the two pours are one.
const cushion = 10

// level returns the recipe with its second pour when the water has sunk to the cushion, and with the water divided so that
// both pours reach the same height.
func level(q Question) recipe.Recipe {
	first, ok := centred(q.Recipe)
	if !ok {
		return q.Recipe
	}
	var f Forecast
	for range 2 { // the time depends on the first pour's water, and the water on the time
		q.Recipe = atCushion(q, first)
		water := recipe.Address{Knob: recipe.Water, Pour: first + 1}
		off := func(grams float64) (float64, error) {
			next := q
			next.Recipe = q.Recipe.With(water, grams)
			err := f.RunFlow(next)
			return f.levelOf(first) - f.levelOf(first+1), err
		}
		const near = 0.003 // of the height to the rim
		grams, err := root.Find(off, q.Recipe.RangeAt(water), q.Recipe.Value(water), near)
		if err != nil {
			return q.Recipe
		}
		q.Recipe = q.Recipe.With(water, math.Round(grams))
	}
	return q.Recipe
}

// centred returns the index of the first of two pours after the bloom.
func centred(r recipe.Recipe) (first int, ok bool) {
	n := len(r.Pours)
	return n - 2, n >= 2 && !r.Pours[n-2].Bloom && (n == 2 || r.Pours[n-3].Bloom)
}

// atCushion returns the recipe with the second pour when the water of the first has sunk to the cushion, to five seconds.
func atCushion(q Question, first int) recipe.Recipe {
	const longest = 120 // s
	start := recipe.Address{Knob: recipe.Start, Pour: first + 2}
	wait := q
	wait.Recipe = q.Recipe.With(start, float64(q.Recipe.Pours[first].Start)+longest)
	var f Forecast
	if f.RunFlow(wait) != nil || len(f.Pours) <= first {
		return q.Recipe
	}
	for t := int(math.Ceil(float64(f.Pours[first].End))); t < len(f.Level); t++ {
		if f.Level[t]-f.BedHeight <= cushion {
			soonest := float64(q.Recipe.Pours[first].Start + q.Recipe.MinGap())
			return q.Recipe.With(start, max(soonest, math.Round(float64(t)/5)*5))
		}
	}
	return q.Recipe
}

func levelReason(q Question, _ units.Prefs) (recipe.Reason, bool) {
	first, ok := centred(q.Recipe)
	var f Forecast
	if !ok || f.RunFlow(q) != nil || len(f.Pours) < first+2 {
		return recipe.Reason{}, false
	}
	return recipe.Reason{At: recipe.AddressOf(recipe.Pours), Text: fmt.Sprintf("By the model the first pour rises to %.0f mm and the second, onto %.0f "+
		"mm of water over the bed, to %.0f mm. Equal heights agitate the bed equally.", f.Pours[first].Level, f.Pours[first+1].Above,
		f.Pours[first+1].Level)}, true
}

// Long bloom: length, height and hand actions that give the most yield in the style's time.

const (
	// worthwhile is the yield, in points, from which more effort pays: a longer wait, a higher pour, a stronger stir.
	worthwhile = 0.1
	// The bloom grows in steps of longer, s, up to longest.
	longer, longest = 10, 150
)

// efforts lists the values that a long bloom may have besides its length, the one with the least effort first.
var efforts = []struct {
	at     recipe.Address
	values []float64
}{
	{recipe.Address{Knob: recipe.HandAfter, Pour: 1}, handValues(recipe.NoHand, recipe.Swirl, recipe.StirBed)},
	{recipe.Address{Knob: recipe.HandAfter, Pour: 2}, handValues(recipe.NoHand, recipe.Swirl, recipe.SurfaceStir)},
	{recipe.Address{Knob: recipe.PourHeight, Pour: 2}, []float64{float64(recipe.Low), float64(recipe.Mid), float64(recipe.High)}},
}

// handValues returns the values of the knob for hand actions.
func handValues(hands ...recipe.HandAction) (out []float64) {
	for _, h := range hands {
		out = append(out, float64(slices.Index(recipe.Hands(), h)))
	}
	return out
}

// longBloom returns the recipe with the hand actions, the height and the length of the bloom that are worth their effort.
func longBloom(q Question) recipe.Recipe {
	if len(q.Recipe.Pours) != 2 || !q.Recipe.Pours[0].Bloom {
		return q.Recipe
	}
	y, ok := newYields(q)
	if !ok {
		return q.Recipe
	}
	for _, e := range efforts {
		if e.at.Knob == recipe.HandAfter && q.Habits.Hand != "" { // the person's own
			continue
		}
		best, chosen := math.Inf(-1), q.Recipe
		for _, v := range e.values {
			r := q.Recipe.With(e.at, v)
			if got := y.of(q, r); got >= best+worthwhile {
				best, chosen = got, r
			}
		}
		q.Recipe = chosen
	}
	if q.Habits.BloomTime > 0 {
		return q.Recipe
	}
	q.Recipe = q.Recipe.With(recipe.AddressOf(recipe.BloomTime), float64(max(60, q.Recipe.MinBloom())))
	for now := y.of(q, q.Recipe); ; {
		next, then, more := y.longer(q)
		if !more || then-now < worthwhile {
			return q.Recipe
		}
		q.Recipe, now = next, then
	}
}

// yields compares recipes by their yields at equal times: what agitates more drains later, and a coarser grind that makes up
// for it extracts less.
type yields struct {
	f         Forecast
	drains    float64 // time from the last pour to the end, s, that the others are brought to
	perSecond float64 // points of yield for each second by which a finer grind drains later
}

// newYields returns yields that bring recipes to the time of a question's recipe; false if that does not drain.
func newYields(q Question) (y *yields, ok bool) {
	y = &yields{}
	if !y.run(q, q.Recipe) {
		return y, false
	}
	y.drains = y.drain()
	yield := y.f.Yield.Value
	const coarser = 1.05
	if !y.run(q, q.Recipe.With(recipe.AddressOf(recipe.Grind), coarser*float64(q.Recipe.Grind))) || y.drain() >= y.drains {
		return y, false
	}
	y.perSecond = (yield - y.f.Yield.Value) / (y.drains - y.drain())
	return y, true
}

func (y *yields) run(q Question, r recipe.Recipe) bool {
	q.Recipe = r
	return y.f.RunCoarse(q) == nil && y.f.Drained
}

func (y *yields) drain() float64 { return float64(y.f.Drawdown - y.f.Pours[len(y.f.Pours)-1].End) }

// of returns the yield, %, of a recipe at equal time; −Inf if it does not drain.
func (y *yields) of(q Question, r recipe.Recipe) float64 {
	if !y.run(q, r) {
		return math.Inf(-1)
	}
	return y.f.Yield.Value - y.perSecond*(y.drain()-y.drains)
}

// longer returns the recipe with a longer bloom and its yield; false if the bloom is the longest.
func (y *yields) longer(q Question) (recipe.Recipe, float64, bool) {
	time := q.Recipe.Value(recipe.AddressOf(recipe.BloomTime)) + longer
	if time > longest {
		return q.Recipe, 0, false
	}
	r := q.Recipe.With(recipe.AddressOf(recipe.BloomTime), time)
	return r, y.of(q, r), true
}

func longReason(q Question, _ units.Prefs) (recipe.Reason, bool) {
	y, ok := newYields(q)
	if !ok {
		return recipe.Reason{}, false
	}
	now := y.of(q, q.Recipe)
	_, then, more := y.longer(q)
	points := fmt.Sprintf("%.1f points", then-now)
	if then-now < worthwhile {
		points = fmt.Sprintf("less than %.1f points", worthwhile)
	}
	text := fmt.Sprintf("By the model, a bloom that is %d s longer gives %s more yield in the same drain time.", longer, points)
	if !more {
		text = "This is the longest bloom that the model tries."
	}
	return recipe.Reason{At: recipe.AddressOf(recipe.Bloom), Text: text}, true
}
