package coach

import (
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A spot is the position of a cup in the model's coordinates, %.
type spot struct{ yield, strength float64 }

// An option is a change with the predictions of the model and the aim.
type option struct {
	candidate
	drains    units.Seconds // predicted
	at        spot
	plainMark float64 // expected
	gain      float64 // of the mark over an unchanged recipe, minus the cost of the change
	help      float64 // probability that the next cup is liked more than this one
	lines     []Line  // terms of the gain
}

// question returns the question to the model about a case.
func (c Case) question() forecast.Question {
	return forecast.Question{Recipe: c.Recipe, Bag: c.Bag, Now: c.Now, Gear: c.Gear, Beliefs: c.Beliefs}
}

// asPoured returns the question with the pours as poured.
func (c Case) asPoured() forecast.Question {
	q := c.question()
	if c.Cup.Sights[cup.OneSided] {
		q.Blocked = forecast.SlowSide
	}
	if c.AsPoured != nil {
		q.Recipe = *c.AsPoured
	}
	return q
}

// A weighing is the state of the inference after the brews of a bag.
type weighing struct {
	Case
	now       forecast.Forecast // for the unchanged recipe
	offset    offset
	at        spot // of the recipe, by the model and the earlier brews
	cup       spot // of this cup
	aim       *aim // posterior after this cup
	slower    float64
	judged    *judgement
	chances   chances
	mark      float64 // expected for the unchanged recipe, weighted
	plainMark float64 // expected of it
	unevenBed float64 // probability that it lays an uneven bed
	warnings  int     // about it
	moves     []move  // of the path
	options   []option
	lines     []Sign // the reasoning behind the chances
	cups      []spot // of the path and this brew
}

// weigh processes the brews of a bag up to this one and asks the model about every change.
func (c Case) weigh() *weighing {
	path := c.brews()
	w := &weighing{Case: c, moves: movesOf(path)}
	changes := append(c.candidates(), w.backward()...)
	q := c.question()
	n := len(path)
	asked := make([]forecast.Question, 2*n, 2*n+len(changes)) // each brew as poured and as planned, then the changes
	for i, past := range path {
		past.Beliefs = c.Beliefs
		asked[i], asked[n+i] = past.asPoured(), past.question()
	}
	for _, change := range changes {
		turned := q
		turned.Recipe = q.Recipe.With(change.Address, change.To)
		asked = append(asked, turned)
	}
	forecasts := make([]forecast.Forecast, len(asked))
	wrong := make([]bool, len(asked))
	forecast.Parallel(len(asked), func(mine forecast.Indices) {
		for i := range mine {
			if i < n || i >= 2*n || path[i-n].AsPoured != nil {
				wrong[i] = forecasts[i].RunCoarse(asked[i]) != nil
			}
		}
	})
	for i, past := range path {
		was, planned := &forecasts[i], &forecasts[n+i]
		switch {
		case past.AsPoured == nil:
			*planned, wrong[n+i] = *was, wrong[i]
		case was.Drained && planned.Drained:
			path[i].late = was.Drawdown - planned.Drawdown
		}
	}
	here := n - 1
	w.now = forecasts[n+here]
	w.updateFromPath(path, forecasts[:n], wrong)
	if wrong[here] { // outside the model's range
		w.chances = w.judged.chances()
		return w
	}
	w.mark, w.plainMark = w.aim.marks(w.at)
	w.unevenBed, w.warnings = w.aim.unevenBed(), len(recipe.Check(w.Recipe, w.Gear, w.Prefs))
	for i, change := range changes {
		if f := forecasts[2*n+i]; !wrong[2*n+i] {
			w.score(change, f)
		}
	}
	return w
}

// updateFromPath updates the aim from the cups of the path, the oldest first, and judges the last of them.
func (w *weighing) updateFromPath(path []Case, forecasts []forecast.Forecast, wrong []bool) {
	here := len(path) - 1
	var before offset
	for i, past := range path {
		if wrong[i] {
			continue
		}
		if i < here {
			before.count(past, forecasts[i])
		}
		w.offset.count(past, forecasts[i])
	}
	w.slower = w.offset.slower()
	known := w.Known
	if known == nil {
		known = &usual
	}
	a := newAim(*known, unevenBefore(path[0], forecasts[0]))
	for i, past := range path {
		at := w.offset.of(forecasts[i])
		tasted := w.offset.cup(past, forecasts[i])
		w.cups = append(w.cups, tasted)
		past.lag = before.lag(past, forecasts[i])
		if i > 0 && laysBed(path[i-1].Recipe, past.Recipe) {
			a.mend(0.5)
		}
		if wrong[i] && i < here {
			continue
		}
		if i < here {
			j := newJudgement(a, tasted)
			for _, r := range past.readings() {
				j.add(r)
			}
			a = j.learned()
			continue
		}
		w.at, w.cup, w.lag, w.late = at, tasted, past.lag, past.late
		w.judge(a, before.of(forecasts[i]))
	}
}

// laysBed reports whether a recipe lays the bed in another way than the previous one.
func laysBed(before, after recipe.Recipe) bool {
	for _, k := range []recipe.Knob{recipe.Bloom, recipe.HandAfter, recipe.PourHeight, recipe.PourPattern} {
		if before.Value(recipe.AddressOf(k)) != after.Value(recipe.AddressOf(k)) {
			return true
		}
	}
	return false
}

// layouts lists the properties of a recipe that make an uneven bed more likely.
var layouts = []struct {
	sign sign
	adds float64 // to the probability
}{
	{noHand, 0.1}, {smallBloom, 0.15}, {thinBed, 0.15},
}

// unevenBefore returns the prior probability that a recipe lays an uneven bed: about one in ten, more
// depending on how it is laid, and more if the model predicts that a large share of the dose extracts
// unevenly.
func unevenBefore(c Case, f forecast.Forecast) float64 {
	const usually, usualShare, perShare, most = 0.1, 0.18, 1.2, 0.6
	p := usually + perShare*max(0, f.Below+f.Above-usualShare)
	for _, l := range layouts {
		if l.sign(c) != "" {
			p += l.adds
		}
	}
	return min(most, p)
}

// judge adds the evidence of this cup piece by piece and records the effect of each.
func (w *weighing) judge(a *aim, foreseen spot) {
	first := newJudgement(a, foreseen)
	w.chances = first.chances()
	w.note("The prediction for this recipe, and earlier cups", nil, w.chances)
	j := newJudgement(a, w.cup)
	chances := j.chances()
	if y, ok := w.Yield(); ok {
		w.note("Measured: "+y.String()+", "+units.Trim(w.Cup.TDS, 2)+" % TDS.", w.chances, chances)
	} else if w.Cup.Drawdown > 0 {
		w.note("The drawdown, "+w.Cup.Drawdown.String()+", is weak evidence of the yield.", w.chances, chances)
	}
	w.chances = chances
	for _, r := range w.readings() {
		j.add(r)
		chances := j.chances()
		w.note(r.say, w.chances, chances)
		w.chances = chances
	}
	w.judged, w.aim = j, j.learned()
}

// score evaluates a change, unless it is ruled out.
func (w *weighing) score(change candidate, f forecast.Forecast) {
	if w.refuses(change, f) {
		return
	}
	l := leverOf(change.Knob)
	x := option{candidate: change, drains: f.Drawdown, at: w.offset.of(f)}
	var mark float64
	mark, x.plainMark = w.aim.marks(x.at)
	x.lines = []Line{
		{"expected mark of the next cup, compared with repeating this recipe", mark - w.mark},
		{"a more even bed", unevenCosts * goesWrong[uneven] * w.unevenBed * mends(change.Change)},
		{"experience beyond the model", w.practice(change.Change)},
		{"the clock", w.clock(w.now) - w.clock(f)},
		{"size of the change", -l.cost(change.size)},
		{"your order of adjustments", -orders[w.Order][l.turn]},
		{"another cause is more likely", -w.beside(x)},
		{"between your last two settings", w.between(change.Change)},
	}
	for _, line := range x.lines {
		x.gain += line.By
	}
	x.help = w.helps(x)
	if bladeMill(w.Case) != "" { // the next cup may differ for any change
		x.help = 0.5 + 0.6*(x.help-0.5)
	}
	w.options = append(w.options, x)
}

// beside returns the cost, in marks, of a change that addresses another cause than the most likely one.
func (w *weighing) beside(x option) float64 {
	const per = 0.5
	likeliest := w.chances.likeliest()
	if likeliest == OnAim || likeliest == Chance || w.asksFor(x.Change) != "" {
		return 0
	}
	return per * max(0, w.chances.of(likeliest)-w.chances.of(w.causeOf(x)))
}

// clock returns the cost, in marks, of a drawdown outside its window. Time is evidence, not the verdict:
// half a minute costs almost nothing, one minute a little, two minutes a lot.
func (w *weighing) clock(f forecast.Forecast) float64 {
	const late, early, per, most = 0.15, 0.06, 30., 2.
	if !w.Window.IsSet() || w.Recipe.Steeps() {
		return 0
	}
	window := w.Window
	if !w.Bag.Window.IsSet() { // the plan's own window moves with its pours
		window.From, window.To = window.From+f.Plan.Window.From-w.now.Plan.Window.From, window.To+f.Plan.Window.To-w.now.Plan.Window.To
	}
	drains := f.Drawdown * units.Seconds(w.slower)
	after, before := max(0, float64(drains-window.To))/per, max(0, float64(window.From-drains))/per
	return min(most, late*after*after+early*before*before)
}

// refuses reports whether a change is ruled out regardless of its gain: the bed would clog or overflow,
// there is a new warning, or the past rules it out.
func (w *weighing) refuses(change candidate, f forecast.Forecast) bool {
	const nearClog, longer = 1.5, 1.05 // relative to the end of the window and to the present drawdown
	then, now := f.Drawdown*units.Seconds(w.slower), w.now.Drawdown*units.Seconds(w.slower)
	finer := change.Knob == recipe.Grind && change.To < change.From
	switch {
	case !f.Drained && w.now.Drained:
		return true
	case f.Overflow >= 0 && w.now.Overflow < 0:
		return true
	case then > longer*now && w.Window.IsSet() && !w.Recipe.Steeps() && then > nearClog*w.Window.To:
		return true
	case finer && (stalled(w.Case) != "" || w.chances.of(Clogged) > 0.3 || w.Window.IsSet() && w.drained() > w.Window.To+40):
		return true
	case w.warned(change):
		return true
	}
	return w.pastRefuses(change)
}

// warned reports whether a change causes a new warning.
func (w *weighing) warned(change candidate) bool {
	return len(recipe.Check(w.Recipe.With(change.Address, change.To), w.Gear, w.Prefs)) > w.warnings
}

// marks returns the expected mark of an even cup, weighted and as a person gives it.
func (a *aim) marks(at spot) (weighed, plain float64) {
	a.cells(at, func(dy, ds float64, _ int, w *float64) {
		mark := expected(dy, ds, 0)
		weighed, plain = weighed+*w*worth(mark), plain+*w*mark
	})
	return weighed, plain
}

// worth returns the weighted mark: a mark of a good cup gets a bonus.
func worth(mark float64) float64 { return mark + goodCounts/(1+math.Exp(-(mark-8)*3)) }

const goodCounts = 1.5

// fromBrewToBrew is the standard deviation of the marks between brews of one recipe.
const fromBrewToBrew = 0.6

// helps returns the probability that the next cup is liked more than this one.
func (w *weighing) helps(x option) float64 {
	mended := 1 - mends(x.Change)
	sum, total := 0.0, 0.0
	practice := w.practice(x.Change)
	dy, ds := x.at.yield-w.cup.yield, x.at.strength-w.cup.strength
	w.judged.each(func(ny, ns float64, bed, cup int, weight float64) {
		if weight < 1e-12 {
			return
		}
		was := expected(ny, ns, float64(cup))
		again := goesWrong[bed]
		if bed == uneven {
			again *= mended
		}
		then := expected(ny+dy, ns+ds, 0) + practice
		p := (1-again)*above((then-was)/fromBrewToBrew) + again*above((then-unevenCosts-was)/fromBrewToBrew)
		sum, total = sum+weight*p, total+weight
	})
	return sum / total
}

// above returns the standard normal distribution function at z.
func above(z float64) float64 { return math.Erfc(-z/math.Sqrt2) / 2 }
