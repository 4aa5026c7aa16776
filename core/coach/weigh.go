package coach

import (
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
	f         *forecast.Forecast
	practice  float64 // marks that practice adds
	plainMark float64 // expected
	good      float64 // probability that the next cup is good
	gain      float64 // value over a repeat, minus the cost of the change
	help      float64 // probability that the next cup is better than a repeated one
	lines     []Line  // terms of the gain
}

// question returns the question to the model about a case.
func (c Case) question() forecast.Question {
	return forecast.Question{Recipe: c.Recipe, Bag: c.Bag, Now: c.Now, Gear: c.Gear, Beliefs: c.Beliefs}
}

// asPoured returns the question with the pours as poured.
func (c Case) asPoured() forecast.Question {
	q := c.question()
	if slowSide(c) != "" {
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
	truths    truths // that represent the aim
	decision  *decision
	plainMark float64 // expected of a repeat
	chance    float64 // that a repeat is good
	warnings  int     // about it
	path      []Case  // the earlier brews and this one
	moves     []move  // of the path
	options   []option
	lines     []Sign      // the observations that matter
	without   []*weighing // the inference without each of them
	quick     bool        // without a list of evidence
	fresh     *aim        // before any cup of this bag
	cups      []spot      // of the path and this brew
	badBeds   []float64   // probabilities that they had an uneven bed
}

// weigh processes the brews of a bag up to this one and asks the model about every change.
func (c Case) weigh() *weighing {
	path := c.brews()
	w := &weighing{Case: c, path: path, moves: movesOf(path)}
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
	w.warnings = len(recipe.Check(w.Recipe, w.Gear, w.Prefs))
	for i, change := range changes {
		f := &forecasts[2*n+i]
		if wrong[2*n+i] || w.refuses(change, *f) {
			continue
		}
		w.options = append(w.options, option{candidate: change, drains: f.Drawdown, at: w.offset.of(*f), f: f,
			practice: w.benefit(change.Change)})
	}
	w.rank()
	w.omit()
	return w
}

// benefit returns what experience and the path add to the mark of a change.
func (w *weighing) benefit(change recipe.Change) float64 {
	return w.tried(change, w.practice(change)) + w.returning(change) + w.between(change)
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
	prior := *known
	if w.Known == nil && !wrong[0] { // people want about half of the style's own taste
		prior.Yield, prior.Strength = (prior.Yield+forecasts[0].Yield.Value)/2, (prior.Strength+forecasts[0].TDS)/2
	}
	prior = prior.unsure(w.offset.error())
	a := newAim(prior, w.Tongue.priors(), unevenBefore(path[0], forecasts[0]))
	w.fresh = a
	for i, past := range path {
		at := w.offset.of(forecasts[i])
		tasted := w.offset.cup(past, forecasts[i])
		w.cups = append(w.cups, tasted)
		past.lag = before.lag(past, forecasts[i])
		if i > 0 && laysBed(path[i-1].Recipe, past.Recipe) {
			a.mend(0.5)
		}
		if wrong[i] && i < here {
			w.badBeds = append(w.badBeds, 1)
			continue
		}
		if i < here {
			j := newJudgement(a, tasted)
			j.addAll(past.readings())
			next, bed := j.learned()
			a, w.badBeds = next, append(w.badBeds, bed)
			continue
		}
		w.at, w.cup, w.lag, w.late = at, tasted, past.lag, past.late
		w.judge(a)
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

// judge adds the evidence of this cup.
func (w *weighing) judge(a *aim) {
	w.judged = newJudgement(a, w.cup)
	w.judged.addAll(w.readings())
	next, bed := w.judged.learned()
	w.chances, w.badBeds = w.judged.chances(), append(w.badBeds, bed)
	w.believe(next)
}

// believe sets the posterior aim.
func (w *weighing) believe(a *aim) { w.aim, w.truths = a, a.represent() }

// refuses reports whether a change is ruled out regardless of its gain: the bed would clog or overflow,
// there is a new warning, or the past rules it out.
func (w *weighing) refuses(change candidate, f forecast.Forecast) bool {
	const nearClog, longer = 1.25, 1.05 // relative to the end of the window and to the present drawdown
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
