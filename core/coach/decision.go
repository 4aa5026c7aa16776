package coach

import (
	"cmp"
	"math"
	"slices"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A truth is one hypothesis about person and bed, drawn from the posterior.
type truth struct {
	who     taster
	y, s    float64 // the aim
	badBeds float64 // probability of an uneven bed with the present recipe
}

// truthCount is the number of truths that represent the posterior: each represents an equal share of it.
const truthCount = 96

type truths [truthCount]truth

// represent returns truths at equal distances in the cumulative distribution of the posterior.
func (a *aim) represent() (out truths) {
	sum, n := 0.0, 0
	for i := range aimYields {
		for k := range aimStrengths {
			for t := range tasters {
				for bed := range beds {
					sum += a.weight[t][bed][i][k]
					for n < truthCount && sum >= (float64(n)+0.5)/truthCount {
						out[n] = truth{tasters[t], yieldAt(i), strengthAt(k), goesWrong[bed]}
						n++
					}
				}
			}
		}
	}
	for ; n < truthCount && n > 0; n++ {
		out[n] = out[n-1]
	}
	return out
}

// A prospect is a recipe as the decision sees it: its position, the share of uneven beds that it leaves, and what practice adds to
// its mark.
type prospect struct {
	at       spot
	bedsLeft float64
	practice float64
}

// The standard deviation of a mark from the expected one: the brew and the person together.
const ofNext = 0.6

// evenMark returns the mark of an even cup of a prospect, if a truth holds.
func (p prospect) evenMark(t *truth) float64 {
	return t.who.liked(p.at.yield-t.y, p.at.strength-t.s) + p.practice
}

// isGood returns the probability that the next cup of a prospect gets a good mark, if a truth holds.
func (p prospect) isGood(t *truth, good float64) float64 {
	mark, bad := p.evenMark(t), t.badBeds*p.bedsLeft
	return (1-bad)*above((mark-good+0.5)/ofNext) + bad*above((mark-unevenCosts-good+0.5)/ofNext)
}

// expectedMark returns the expected mark of a prospect, if a truth holds.
func (p prospect) expectedMark(t *truth) float64 {
	return p.evenMark(t) - unevenCosts*t.badBeds*p.bedsLeft
}

// betterThan returns the probability that the next cup of p is truly better than that of q, if a truth holds.
func (p prospect) betterThan(q prospect, t *truth) float64 {
	const apart = 0.5 // standard deviation of a cup's true mark from brew to brew
	by := p.evenMark(t) - q.evenMark(t)
	mine, its := t.badBeds*p.bedsLeft, t.badBeds*q.bedsLeft
	z := func(by float64) float64 { return above(by / (apart * math.Sqrt2)) }
	return (mine*its+(1-mine)*(1-its))*z(by) + mine*(1-its)*z(by-unevenCosts) + (1-mine)*its*z(by+unevenCosts)
}

// A decision compares prospects by the probability that the next cup is good, or the one after it, given the lesson of the next
// one.
type decision struct {
	truths *truths
	good   float64
	later  float64 // worth of a good cup one brew later
	steps  []spot  // differences that a second change can make
}

// later is the worth of a good cup one brew later.
const later = 0.75

// stays is the part of what practice adds to a change that counts for the brew after the next too: the change stays, but the next cup
// corrects the expectation.
const stays = 0.3

// secondSteps is the largest number of second changes that are considered.
const secondSteps = 24

func (w *weighing) newDecision() *decision {
	d := &decision{truths: &w.truths, good: float64(w.good()), later: later, steps: []spot{{}}}
	if w.BrewsLeft == 1 { // nothing is worth learning from the last cup
		d.later = 0
	}
	for _, x := range w.options {
		step := spot{x.at.yield - w.at.yield, x.at.strength - w.at.strength}
		near := func(s spot) bool { return math.Hypot(s.yield-step.yield, 10*(s.strength-step.strength)) < 0.25 }
		if len(d.steps) < secondSteps && !slices.ContainsFunc(d.steps, near) {
			d.steps = append(d.steps, step)
		}
	}
	return d
}

// mean returns the mean of a figure over the truths.
func (all *truths) mean(of func(*truth) float64) (sum float64) {
	for i := range all {
		sum += of(&all[i])
	}
	return sum / truthCount
}

// nextGood returns the probability that the next cup of a prospect is good.
func (d *decision) nextGood(p prospect) float64 {
	return d.truths.mean(func(t *truth) float64 { return p.isGood(t, d.good) })
}

// mark returns the expected mark of the next cup.
func (d *decision) mark(p prospect) float64 { return d.truths.mean(p.expectedMark) }

// better returns the probability that the next cup of p is truly better than that of q.
func (d *decision) better(p, q prospect) float64 {
	return d.truths.mean(func(t *truth) float64 { return p.betterThan(q, t) })
}

// value returns the probability of a good next cup plus the value of its lesson: the probability that the one after it is good, if
// the next is not, and the best second change is chosen by its taste.
func (d *decision) value(p prospect) float64 { return d.valueTold(p, asTasted) }

// The precision with which the next cup tells the truths apart, relative to one that is tasted only: a measured one is placed better.
const asTasted, asMeasured = 1, 1.5

// worthMeasuring returns the gain in value from a measurement of the next cup.
func (d *decision) worthMeasuring(p prospect) float64 {
	return d.valueTold(p, asMeasured) - d.valueTold(p, asTasted)
}

// valueTold is value for a precision of the places of cups.
func (d *decision) valueTold(p prospect, precision float64) float64 {
	const every = 3 // of the truths are looked ahead from
	// The taste of a cup of p under each truth: a mark, and a word for the yield and for the strength.
	type taste struct{ mark, yield, strength float64 }
	var says [truthCount]taste
	for i := range d.truths {
		t := &d.truths[i]
		yield, strong := t.who.means(p.at.yield-t.y, 10*(p.at.strength-t.s))
		says[i] = taste{p.expectedMark(t) / 0.8, precision * max(-3, min(3, yield)) / 1.1, precision * max(-3, min(3, strong)) / 1.3}
	}
	// Whether a second change makes a good cup under each truth.
	good := make([][truthCount]float64, len(d.steps))
	for m, step := range d.steps {
		then := prospect{spot{p.at.yield + step.yield, p.at.strength + step.strength}, p.bedsLeft, stays * p.practice}
		for i := range d.truths {
			good[m][i] = then.isGood(&d.truths[i], d.good)
		}
	}
	now, ahead, n := d.nextGood(p), 0.0, 0
	for r := 0; r < truthCount; r += every {
		var like [truthCount]float64
		sum := 0.0
		for i := range like {
			a, b := &says[r], &says[i]
			like[i] = math.Exp(-(square(a.mark-b.mark) + square(a.yield-b.yield) + square(a.strength-b.strength)) / 2)
			sum += like[i]
		}
		best := 0.0
		for m := range good {
			v := 0.0
			for i := range like {
				v += like[i] * good[m][i]
			}
			best = max(best, v)
		}
		ahead += (1 - p.isGood(&d.truths[r], d.good)) * best / sum
		n++
	}
	return now + d.later*ahead/float64(n)
}

func square(v float64) float64 { return v * v }

// rank evaluates all options against a repeat, the best first.
func (w *weighing) rank() {
	same := prospect{at: w.at, bedsLeft: 1}
	slices.SortStableFunc(w.options, func(a, b option) int { return cmp.Compare(b.practice, a.practice) })
	w.decision = w.newDecision()
	w.plainMark = w.decision.mark(same)
	base := w.decision.value(same)
	w.chance = w.decision.nextGood(same)
	forecast.Parallel(len(w.options), func(mine forecast.Indices) {
		for i := range mine {
			w.evaluate(&w.options[i], same, base)
		}
	})
	slices.SortStableFunc(w.options, func(a, b option) int { return cmp.Compare(b.gain, a.gain) })
}

// evaluate computes the terms of an option against a repeat, whose value is base.
func (w *weighing) evaluate(x *option, same prospect, base float64) {
	p := x.prospect()
	x.plainMark, x.help, x.good = w.decision.mark(p), w.decision.better(p, same), w.decision.nextGood(p)
	x.lines = []Line{
		{"chance of a good next cup, compared with repeating this recipe", x.good - w.chance},
		{"what that cup would teach", w.decision.value(p) - base - (x.good - w.chance)},
		{"a better cup on the way there", towards * (x.plainMark - w.plainMark)},
		{"the clock", (w.clock(w.now) - w.clock(*x.f)) * perLateMark},
		{"size of the change, and your order of adjustments", -perMark * (leverOf(x.Knob).cost(x.size) + w.outOfTurn(x.Change))},
	}
	if x.practice <= 0 { // it does not address a plain fault
		rest := w.judged.rest()
		for i := range x.lines[:3] {
			x.lines[i].By *= rest
		}
	}
	x.gain = 0
	for _, line := range x.lines {
		x.gain += line.By
	}
	if bladeMill(w.Case) != "" { // the next cup may differ for any change
		x.help = 0.5 + 0.6*(x.help-0.5)
	}
}

// outOfTurn returns the cost, in marks, of a lever that the person or the cup does not ask for: a change of what lays the bed is the
// first choice for an uneven bed, and an odd way to change the extraction of an even one.
func (w *weighing) outOfTurn(change recipe.Change) float64 {
	turn := leverOf(change.Knob).turn
	cost := orders[w.Order][turn]
	if turn == bedTurn && w.asksFor(change) == "" && !splitStyle(w.Case) {
		cost += evenBed * (1 - min(1, w.chances.bed()/0.5))
	}
	return cost
}

const evenBed = 1.0

// towards is the worth of a mark that does not make a good cup yet: it decides while every good cup is out of reach of one change.
const towards = 0.03

// perMark converts a small difference of marks to a difference of probability.
const perMark = 0.12

// perLateMark is perMark for the clock, which is evidence and not the verdict.
const perLateMark = 0.1

func (x *option) prospect() prospect {
	return prospect{x.at, 1 - mends(x.Change), x.practice}
}

// tried returns what practice adds to the mark of a change, corrected by the changes of this kind on this bag: the practice is a
// prior mean, and each change that was tasted an observation of it.
func (w *weighing) tried(change recipe.Change, prior float64) float64 {
	const spread, noise = 0.6, 1.0 // of the prior, and of an observed difference of marks
	mean, precision := prior, 1/(spread*spread)
	seen := false
	for i, m := range w.moves {
		if m.Address != change.Address || m.Knob == "" || (m.To > m.From) != (change.To > change.From) {
			continue
		}
		was, _ := markOf(w.path[i].Cup)
		is, _ := markOf(w.path[i+1].Cup)
		expected := w.expectedAt(w.cups[i+1]) - w.expectedAt(w.cups[i])
		mean = (mean*precision + (is-was-expected)/(noise*noise)) / (precision + 1/(noise*noise))
		precision += 1 / (noise * noise)
		seen = true
	}
	if !seen {
		return prior
	}
	return max(-1, min(1.5, mean))
}

// expectedAt returns the expected mark of an even cup at a spot.
func (w *weighing) expectedAt(at spot) float64 { return w.truths.mean(prospect{at: at}.evenMark) }

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
