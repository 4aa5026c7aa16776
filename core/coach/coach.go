package coach

import (
	"cmp"
	"slices"
	"strings"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Doing is what an advice asks for.
type Doing string

// What can be asked for.
const (
	Change  Doing = "change"  // one thing
	GoBack  Doing = "go back" // to what was there before the last change
	Repeat  Doing = "repeat"  // the same again: this cup may have been chance
	Measure Doing = "measure" // its TDS, before anything is turned
	Stop    Doing = "stop"    // it is good, or good enough
	Taste   Doing = "taste"   // first
	NewBag  Doing = "new bag"
	Nothing Doing = "nothing" // is left to turn
)

// Advice is what the coach says of a brew. Without a First there is nothing to turn.
type Advice struct {
	Do       Doing
	Rule     string  // the cause that it answers to
	Chance   float64 // how likely that cause is, 0 to 1
	Verdict  string
	Because  string
	Evidence []string // the signs that support it
	Against  []string // the signs that speak against it
	Sure     Sureness
	Instead  string // what to do where there is nothing to turn
	Settles  string // what that would settle
	First    *Proposal
	Second   *Proposal
	Third    *Proposal
	// Exhausted says that a change is wanted and every lever is at its limit.
	Exhausted bool
	Signs     []Sign // how it came to the cause, in the order in which the signs were taken in
	Map       *Map
	Earlier   []string // what was said of this cup before something was said back, the oldest first
}

// Keep says that the advice is to leave the recipe as it is.
func (a Advice) Keep() bool { return a.First == nil && !a.Exhausted }

// Told is what was told of a cup before a new advice on it, where that says something else.
func (a Advice) Told(now Advice) []string {
	const most = 12
	if a.told() == now.told() {
		return a.Earlier
	}
	out := append(slices.Clone(a.Earlier), a.told())
	return out[max(0, len(out)-most):]
}

// told is an advice in one line.
func (a Advice) told() string {
	if a.First != nil {
		return a.Verdict + ": " + a.First.Say
	}
	return a.Verdict + ": " + a.Instead
}

// A Proposal is one change to a recipe, in the person's own terms.
type Proposal struct {
	recipe.Change
	Say     string // "2 clicks finer"
	LeadsTo string // "20 clicks (614 µm)"
	Reason  string
	Effect  Effect
	Help    float64 // probability that the next cup is liked more
	Lines   []Line  // what speaks for it and against it, in marks
	Watch   string  // what to look for in the next brew
	Lost    string  // why it is not the first choice
}

// An Effect is what a change is expected to do, by the brew model.
type Effect struct {
	Yield    float64       // percentage points of EY
	Strength float64       // points of TDS
	Time     units.Seconds // of drawdown
	Mark     float64       // by where the aim seems to lie
	// YieldError and TimeError are one standard error of the difference.
	YieldError float64
	TimeError  units.Seconds
}

// A Line is a part of a sum, in marks.
type Line struct {
	Say string
	By  float64
}

// AskedFor is the Rule of advice that answers a request for the next cup rather than a cause.
const AskedFor = "asked for"

// worthHelp is how likely a change must be to help to be worth making.
const worthHelp = 0.5

// Advise says what most likely happened and the one thing to do. What is liked is left alone;
// else every change that the gear allows is asked of the model, and the one that promises most
// for what it costs is advised, if it is worth it beyond the error.
func Advise(c Case) Advice {
	if _, measured := c.Yield(); !c.Cup.Taste.Said() && len(c.Cup.Wants) == 0 && !c.Cup.BadPour && !measured {
		return Advice{Do: Taste, Rule: "nothing tasted", Verdict: "Taste it first", Because: "Time alone is evidence, not a verdict. Say what the cup is like, or measure it.",
			Instead: "Fill in the Cup station", Sure: Likely, Chance: 1}
	}
	w := c.weigh()
	slices.SortStableFunc(w.options, func(a, b option) int { return cmp.Compare(b.gain, a.gain) })
	a := w.decide()
	a.Signs, a.Map = w.lines, w.chart(a.First)
	c.expect(a.First, a.Second, a.Third)
	return a
}

// decide goes through what may be said, the surest first.
func (w *weighing) decide() Advice {
	first := w.best()
	switch {
	case len(w.Cup.Wants) > 0:
		return w.answer(first)
	case liked(w.Case) != "":
		a := w.keep(Stop, OnAim)
		a.Rule, a.Verdict, a.Because, a.Chance, a.Sure = "good", "Good enough is a result: stop here", "What you like wins over every other sign. Keep this recipe and save the coffee for drinking.", 1, Likely
		a.Evidence, a.Against = append([]string{liked(w.Case)}, a.Evidence...), nil
		if fault := either(sharp, harsh, muddled)(w.Case); fault != "" {
			a.Against = []string{fault + " Your word for the cup was followed, not these."}
		}
		return a
	case w.chances.of(Stale) > 0.5:
		return w.keep(NewBag, Stale)
	case w.keptBefore():
		a := w.keep(Repeat, Chance)
		a.Because = "This recipe was good the time before. Brew it once more before you change it."
		a.Settles = "If it is good again, this cup was a bad pour; if it is not, something has changed."
		return a
	case content(w.Case) != "":
		a := w.keep(Stop, OnAim)
		a.Evidence = append([]string{content(w.Case)}, a.Evidence...)
		return a
	case w.Cup.BadPour:
		return w.settle(Chance)
	case w.chances.of(Papery) > 0.5 && (first == nil || first.Knob != recipe.Rinse):
		return w.keep(Repeat, Papery)
	}
	if work := w.handwork(); work != "" {
		a := w.keep(Repeat, w.bedCause())
		a.Instead = work
		return a
	}
	switch {
	case first == nil && w.chances.bed() > bedFirst && w.again() < 2:
		return w.settle(w.bedCause())
	case first == nil:
		return w.leave()
	case w.undecided(*first):
		a := w.keep(Measure, w.causeOf(*first))
		a.Instead = "Measure the TDS of the next cup"
		a.Settles = "It tells a cup that is weak from one of which too little came out. To the tongue they are alike here."
		return a
	}
	return w.propose(*first)
}

// bedFirst is how likely a bed must have been uneven to be mended before all else.
const bedFirst = 0.55

// best is the change to make, or nil for none. Where the bed was likely uneven it is of the bed.
func (w *weighing) best() *option {
	for i, x := range w.options {
		if w.back(x.Change) { // only where nothing between the two steps is better, below
			continue
		}
		if w.chances.bed() > bedFirst && !w.ofBed(x.Change) && w.between(x.Change) <= 0 {
			continue
		}
		if x.gain >= w.worthIt() && x.help >= worthHelp {
			return &w.options[i]
		}
	}
	for i, x := range w.options { // what made it worse is taken back
		if w.back(x.Change) && w.chances.of(Chance) < 0.5 {
			return &w.options[i]
		}
	}
	return nil
}

// worthIt is what a change must promise, in marks: little where something is wrong, more the
// likelier the cup is good as it is. Who asks for another cup gets one.
func (w *weighing) worthIt() float64 {
	const least, perAim = 0.02, 0.25
	if len(w.Cup.Wants) > 0 {
		return 0
	}
	return least + perAim*w.chances.of(OnAim)
}

// ofBed says that a change mends how the bed lies.
func (w *weighing) ofBed(change recipe.Change) bool {
	return leverOf(change.Knob).turn == bedTurn || w.Recipe.Steeps() && mends(change) > 0
}

// bedCause is whose doing an uneven bed is.
func (w *weighing) bedCause() Cause {
	if w.chances.of(Uneven) > w.chances.of(Chance) {
		return Uneven
	}
	return Chance
}

// undecided says that the cup may be weak or under-extracted, the two ask for different turns,
// nothing that was said tells which, and this person can measure it.
func (w *weighing) undecided(first option) bool {
	const near = 0.15 // marks
	if w.Cup.TDS > 0 || !w.Measures || first.help > 0.6 {
		return false
	}
	for _, x := range w.options {
		if leverOf(x.Knob).turn == ratioTurn != (leverOf(first.Knob).turn == ratioTurn) && first.gain-x.gain < near {
			return true
		}
	}
	return false
}

// settle asks for the same again.
func (w *weighing) settle(cause Cause) Advice {
	a := w.keep(Repeat, cause)
	a.Instead = "Brew it again as it is, and pour with care"
	a.Settles = "If it comes out even, it was the pour; if not, it is the recipe."
	return a
}

// leave is the advice where no change is worth making.
func (w *weighing) leave() Advice {
	const poor = 6.5 // a cup that asks for something, although nothing helps
	cause := w.chances.likeliest()
	mark, _ := markOf(w.Cup)
	switch {
	case len(w.Cup.Wants) == 0 && (mark >= poor && w.chances.of(OnAim) > 0.3 || cause == OnAim):
		a := w.keep(Stop, OnAim)
		if w.Cup.Overall > 0 && mark < poor {
			a.Do, a.Because, a.Settles = Repeat, "Nothing that can be turned promises more than two brews of one recipe differ by.", "Whether it is this cup or the recipe that you do not like."
		}
		return a
	case w.again() == 0 && len(w.options) > 0:
		a := w.keep(Repeat, cause)
		a.Settles = "Whether this cup was the recipe's doing: no change promises more than two brews differ by."
		return a
	}
	a := w.keep(Nothing, cause)
	a.Exhausted = true
	return a
}

// keep is an advice that turns nothing.
func (w *weighing) keep(do Doing, cause Cause) Advice {
	row := causes[placeOf(cause)]
	a := Advice{Do: do, Rule: string(cause), Verdict: row.verdict, Because: row.because, Instead: row.instead, Chance: w.chances.of(cause)}
	if cause == Uneven { // by the recipe's doing or by chance
		a.Chance = w.chances.bed()
	}
	a.Evidence, a.Against = w.heard(cause)
	a.Sure = sureness(a.Chance)
	return a
}

// propose is an advice that turns one thing.
func (w *weighing) propose(first option) Advice {
	a := w.keep(Change, w.causeOf(first))
	_, spoilt := w.spoilt()
	switch asked := w.asksFor(first.Change); {
	case asked != "":
		a.Rule, a.Chance, a.Verdict, a.Because = AskedFor, 0, strings.TrimSuffix(asked, "."), "What you want of the next cup goes before what this one lacked."
	case spoilt:
		a.Rule, a.Chance = "made it worse", w.worse()
		a.Verdict, a.Because = "The last change made it worse", "What was followed by worse is taken back before anything new is tried."
		a.Evidence, a.Against = []string{w.followed()}, nil
		if w.back(first.Change) {
			a.Do = GoBack
		} else {
			a.Because = "What lies between your two steps is left."
		}
	}
	p := w.say(first)
	a.First, a.Instead, a.Sure = &p, "Keep the recipe", sureness(p.Help)
	p.Watch = w.watch(first)
	if x := bladeMill(w.Case); x != "" {
		a.Against = append(a.Against, x+" The next cup may differ for that alone.")
	}
	for _, x := range w.options {
		if x.Knob == first.Knob || a.Second != nil && x.Knob == a.Second.Knob || x.gain <= 0 {
			continue
		}
		other := w.say(x)
		other.Lost = lost(first, x)
		if a.Second == nil {
			a.Second = &other
			continue
		}
		a.Third = &other
		break
	}
	return a
}

// Propose is a change that a person makes of their own, as the coach would say it, with
// what the model expects of it.
func (c Case) Propose(at recipe.Address, to float64) *Proposal {
	w := weighing{Case: c}
	p := w.say(option{candidate: candidate{Change: recipe.Change{Address: at, From: c.Recipe.Value(at), To: to}}})
	c.expect(&p)
	return &p
}

// say says a change in the person's own terms.
func (w *weighing) say(x option) Proposal {
	p := Proposal{Change: x.Change, Reason: reason(x.Change), Help: calibrated(x.help), Lines: x.lines}
	p.Effect.Mark = x.plainMark - w.plainMark
	p.Say, p.LeadsTo = Describe(w.Recipe, w.Gear.Grinder, p.Change, w.Prefs)
	return p
}

// expect asks the model what the proposals do to this brew. Where a recipe lies
// outside the model's ranges, no effect is given.
func (c Case) expect(proposals ...*Proposal) {
	q := c.question()
	var now forecast.Forecast
	if proposals[0] == nil || now.Ask(q) != nil {
		return
	}
	proposals = slices.DeleteFunc(proposals, func(p *Proposal) bool { return p == nil })
	var moves []forecast.Move
	for _, p := range proposals {
		moves = append(moves, forecast.Move{Address: p.Address, To: p.To})
	}
	differences := forecast.Try(q, now, moves)
	forecast.Sure(q, moves[:1], differences[:1])
	for i, d := range differences {
		if d != nil {
			e := &proposals[i].Effect
			e.Yield, e.Strength, e.Time, e.YieldError, e.TimeError = d.Yield, d.Strength, d.Time, d.YieldError, d.TimeError
		}
	}
}
