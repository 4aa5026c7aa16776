package coach

import (
	"fmt"
	"slices"
	"strings"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Doing is the kind of an advice.
type Doing string

// The kinds of advice.
const (
	Change  Doing = "change"  // one change
	GoBack  Doing = "go back" // undo the last change
	Repeat  Doing = "repeat"  // brew it again unchanged: this cup may have been chance
	Measure Doing = "measure" // measure the TDS before any change
	Stop    Doing = "stop"    // the cup is good, or good enough
	Taste   Doing = "taste"   // taste first
	NewBag  Doing = "new bag"
	Water   Doing = "another water"
	Nothing Doing = "nothing" // no change is left
)

// Advice is the coach's advice on a brew. Without a First there is nothing to change.
type Advice struct {
	Do       Doing
	Rule     string  // the cause it addresses
	Chance   float64 // probability of the cause, 0 to 1
	Verdict  string
	Because  string
	Evidence []string // evidence for it
	Against  []string // evidence against it
	Sure     Sureness
	Instead  string // what to do if there is nothing to change
	Settles  string // the question that this settles
	Also     string // what else to do with the next cup, and why
	First    *Proposal
	Second   *Proposal
	Third    *Proposal
	// Exhausted is true if a change is needed but every lever is at its limit.
	Exhausted bool
	Signs     []Sign // the reasoning, in the order of the evidence
	Map       *Map
	Tongue    *Tongue  // how the person uses words, this bag included
	Good      float64  // probability that the next cup is good, if the advice is followed
	Earlier   []string // earlier advice on this cup, before feedback, the oldest first
}

// Keep reports whether the advice is to leave the recipe unchanged.
func (a Advice) Keep() bool { return a.First == nil && !a.Exhausted }

// History returns the earlier advice on a cup, including this one if new advice differs from it.
func (a Advice) History(now Advice) []string {
	const most = 12
	if a.Summary() == now.Summary() {
		return a.Earlier
	}
	out := append(slices.Clone(a.Earlier), a.Summary())
	return out[max(0, len(out)-most):]
}

// Summary returns the advice in one line.
func (a Advice) Summary() string {
	if a.First != nil {
		return a.Verdict + ": " + a.First.Say
	}
	return a.Verdict + ": " + a.Instead
}

// A Proposal is a change to a recipe, in the person's units.
type Proposal struct {
	recipe.Change
	Say     string // "2 clicks finer"
	LeadsTo string // "20 clicks (614 µm)"
	Reason  string
	Effect  Effect
	Help    float64 // probability that the next cup is better than one of the same recipe
	Lines   []Line  // its value against a repeat, in probability of a good cup
	Watch   string  // what to watch for in the next brew
	Lost    string  // why it is not the first choice
	For     string  // id of the person for whom it was advised, once it is followed; empty: the yard
}

// An Effect is the predicted effect of a change.
type Effect struct {
	Yield    float64       // percentage points of EY
	Strength float64       // points of TDS
	Time     units.Seconds // of the drawdown
	Mark     float64       // relative to the estimated aim
	// YieldError and TimeError are the standard errors of the difference.
	YieldError float64
	TimeError  units.Seconds
}

// A Line is a term of a sum.
type Line struct {
	Say string
	By  float64
}

// AskedFor is the Rule of advice that answers a request for the next cup rather than a cause.
const AskedFor = "asked for"

// worthHelp is the minimum probability of help for a change.
const worthHelp = 0.5

// Advise returns the most likely cause and one thing to do. A good cup is left alone. Otherwise the model
// predicts every change that the gear allows, and the one with the best expected gain is advised if the
// gain exceeds its error and cost.
func Advise(c Case) Advice {
	if _, measured := c.Yield(); !c.Cup.Taste.IsRecorded() && len(c.Cup.Wants) == 0 && !c.Cup.BadPour && !measured {
		return Advice{Do: Taste, Rule: "nothing tasted", Verdict: "Taste it first",
			Because: "The time alone is not enough. Describe the cup, or measure it.",
			Instead: "Fill in the Cup station", Sure: Likely, Chance: 1}
	}
	w := c.weigh()
	a := w.decide()
	a.Good = w.chance
	if a.First != nil {
		a.Good = w.options[slices.IndexFunc(w.options, func(x option) bool { return x.Change == a.First.Change })].good
	}
	w.answersWithout(a)
	a.Signs, a.Map, a.Tongue = w.lines, w.chart(a.First), w.tongue()
	c.expect(a.First, a.Second, a.Third)
	return a
}

// decide tries the kinds of advice, the most certain first.
func (w *weighing) decide() Advice {
	first := w.best()
	switch {
	case len(w.Cup.Wants) > 0:
		return w.answer(first)
	case liked(w.Case) != "":
		a := w.keep(Stop, OnAim)
		a.Rule, a.Verdict, a.Because, a.Chance, a.Sure = "good", "Good enough is a result: stop here",
			"What you like wins over every other sign. Keep this recipe and save the coffee for drinking.", 1, Likely
		a.Evidence, a.Against = append([]string{liked(w.Case)}, a.Evidence...), nil
		if fault := either(sharp, harsh, muddled)(w.Case); fault != "" {
			a.Against = []string{fault + " Your word for the cup was followed, not these."}
		}
		return a
	case w.chances.of(Stale) > 0.5:
		return w.keep(NewBag, Stale)
	case w.chances.of(Dulled) > 0.5:
		return w.keep(Water, Dulled)
	case w.chances.of(Bare) > 0.5:
		return w.keep(Water, Bare)
	case w.keptBefore():
		a := w.keep(Repeat, Chance)
		a.Because = "This recipe was good last time. Brew it once more before you change it."
		a.Settles = "If it is good again, this cup was a bad pour; if it is not, something has changed."
		return a
	case content(w.Case) != "":
		a := w.keep(Stop, OnAim)
		a.Evidence = append([]string{content(w.Case)}, a.Evidence...)
		return a
	case w.Cup.BadPour:
		return w.settle(Chance)
	case w.unexplained():
		return Advice{Do: Taste, Rule: "a mark alone", Verdict: "A mark alone gives no cause",
			Because: "One word more decides: was it rather sour or rather bitter, thin or heavy?", Instead: "Say what was wrong with the cup",
			Sure: Likely, Chance: 1}
	case w.chances.of(Papery) > 0.5 && (first == nil || first.Knob != recipe.Rinse):
		return w.keep(Repeat, Papery)
	}
	if work := w.handwork(); work != "" {
		a := w.keep(Repeat, w.bedCause())
		a.Instead = work
		return a
	}
	switch {
	case first == nil && w.chances.bed() > 0.5 && w.again() < 2:
		return w.settle(w.bedCause())
	case first == nil:
		return w.leave()
	case w.undecided(*first):
		return w.measure(w.causeOf(*first))
	}
	return w.propose(*first)
}

// unexplained reports whether a cup that is not good has a mark and nothing else. The coach asks for a word once, then tries a lever.
func (w *weighing) unexplained() bool {
	n := len(w.Path)
	asked := n > 0 && markAlone(w.Path[n-1]) != ""
	return markAlone(w.Case) != "" && !asked && w.chances.bed() < 0.4 && w.chances.of(Clogged) < 0.3
}

// measure advises to measure the next cup before a change.
func (w *weighing) measure(cause Cause) Advice {
	a := w.keep(Measure, cause)
	a.Instead = "Measure the TDS of the next cup"
	a.Settles = "It distinguishes a weak cup from an under-extracted one, which taste alike here."
	return a
}

// best returns the change to advise, or nil if a repeat is as good. Of two that are equal, the one that was advised before
// stays.
func (w *weighing) best() (first *option) {
	const equal = 0.02
	for i := range w.options {
		x := &w.options[i]
		switch {
		case x.gain < w.worthIt() || x.help < worthHelp:
		case first == nil:
			first = x
		case w.Said != nil && x.Change == *w.Said && first.gain-x.gain < equal:
			return x
		}
	}
	return first
}

// worthIt returns the minimum gain of a change: more than the noise of the computation, and less than the cost of a small change if
// the cup is not good yet. A person who asks for another cup always gets a change.
func (w *weighing) worthIt() float64 {
	const noMark, untasted, notGood = 0.02, 0.04, -0.03
	mark, _ := markOf(w.Cup)
	switch {
	case len(w.Cup.Wants) > 0:
		return -1
	case !w.Cup.Taste.IsRecorded():
		return untasted
	case (w.Cup.Overall > 0 || w.Cup.Serve == "no") && mark < float64(w.good()), complaint(w.Case) != "":
		return notGood
	}
	return noMark
}

// bedCause returns whether the recipe or chance laid an uneven bed.
func (w *weighing) bedCause() Cause {
	if w.chances.of(Uneven) > w.chances.of(Chance) {
		return Uneven
	}
	return Chance
}

// undecided reports whether the cup may be weak or under-extracted, the two need different changes, the
// taste does not distinguish them, and the person can measure it.
func (w *weighing) undecided(first option) bool {
	const near = 0.02
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

// settle advises to repeat the brew.
func (w *weighing) settle(cause Cause) Advice {
	a := w.keep(Repeat, cause)
	a.Instead = "Repeat the recipe and pour with care"
	a.Settles = "If the next cup is even, it was the pour; if not, it is the recipe."
	return a
}

// leave returns the advice if no change is worth making.
func (w *weighing) leave() Advice {
	const poor = 6.5 // a cup that needs a change, although none helps
	cause := w.chances.likeliest()
	mark, _ := markOf(w.Cup)
	switch {
	case len(w.Cup.Wants) == 0 && (mark >= poor && w.chances.of(OnAim) > 0.3 || cause == OnAim):
		a := w.keep(Stop, OnAim)
		if w.Cup.Overall > 0 && mark < poor {
			a.Do, a.Because, a.Settles = Repeat, "No change would have a larger effect than the difference between two brews of one recipe.",
				"Whether you dislike this cup or the recipe."
		}
		return a
	case w.Measures && w.Cup.TDS == 0 && len(w.options) > 0:
		return w.measure(cause)
	case w.again() == 0 && w.alike():
		a := w.keep(Repeat, cause)
		a.Instead = "Brew this recipe and the previous one again, and taste them blind"
		a.Settles = "Whether the last change made any difference."
		return a
	case w.again() == 0 && len(w.options) > 0:
		a := w.keep(Repeat, cause)
		a.Settles = "Whether the recipe caused this cup: no change would have a larger effect than the difference between two brews."
		return a
	}
	a := w.keep(Nothing, cause)
	a.Exhausted = true
	return a
}

// keep returns an advice without a change.
func (w *weighing) keep(do Doing, cause Cause) Advice {
	row := causes[placeOf(cause)]
	a := Advice{Do: do, Rule: string(cause), Verdict: row.verdict, Because: row.because, Instead: row.instead, Chance: w.chances.of(cause)}
	if cause == Uneven { // caused by the recipe or by chance
		a.Chance = w.chances.bed()
	}
	a.Evidence, a.Against = w.heard(cause)
	a.Sure = sureness(a.Chance)
	return a
}

// propose returns an advice with one change.
func (w *weighing) propose(first option) Advice {
	a := w.keep(Change, w.causeOf(first))
	_, spoilt := w.spoilt()
	switch asked := w.asksFor(first.Change); {
	case asked != "":
		a.Rule, a.Chance, a.Verdict, a.Because = AskedFor, 0, strings.TrimSuffix(asked, "."),
			"Your request for the next cup takes priority over the faults of this one."
	case spoilt:
		a.Rule, a.Chance = "made it worse", w.worse()
		a.Verdict, a.Because = "The last change made it worse", "A change that made the cup worse is undone before a new one is tried."
		a.Evidence, a.Against = []string{w.followed()}, nil
		if w.back(first.Change) {
			a.Do = GoBack
		} else {
			a.Because = "A setting between the last two is worth trying."
		}
	}
	a.Also = w.also(first)
	p := w.say(first)
	a.First, a.Instead, a.Sure = &p, "Keep the recipe", sureness(p.Help)
	p.Watch = w.watch(first)
	if x := bladeMill(w.Case); x != "" {
		a.Against = append(a.Against, x+" The next cup may differ for that reason alone.")
	}
	for _, x := range w.options {
		if !w.worthNaming(x, first, a.Second) {
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

// also returns what else to do with the next cup: a measurement, if it pays and the person can measure.
func (w *weighing) also(first option) string {
	const pays = 0.02
	worth := w.decision.worthMeasuring(first.prospect())
	if !w.Measures || worth < pays {
		return ""
	}
	return fmt.Sprintf("Measure its TDS too: a good cup after it becomes about %.0f points more likely.", 100*worth)
}

// worthNaming reports whether an option is named beside the first and the second: another lever with a part of the gain, which makes a
// good next cup more likely.
func (w *weighing) worthNaming(x, first option, second *Proposal) bool {
	const part = 0.3 // of the first's gain
	switch {
	case sameDecision(x.Knob, first.Knob), second != nil && sameDecision(x.Knob, second.Knob), x.gain < max(0, part*first.gain):
		return false
	}
	const aPoint = 0.01
	return x.good >= w.chance+aPoint || w.asksFor(x.Change) != ""
}

// sameDecision reports whether two knobs are one decision to a barista.
func sameDecision(a, b recipe.Knob) bool {
	ratio := func(k recipe.Knob) bool { return k == recipe.Ratio || k == recipe.SameCup }
	return a == b || ratio(a) && ratio(b)
}

// Propose describes a person's own change like an advised one, with its predicted effect.
func (c Case) Propose(at recipe.Address, to float64) *Proposal {
	w := weighing{Case: c}
	p := w.say(option{candidate: candidate{Change: recipe.Change{Address: at, From: c.Recipe.Value(at), To: to}}})
	c.expect(&p)
	return &p
}

// say describes a change in the person's units.
func (w *weighing) say(x option) Proposal {
	p := Proposal{Change: x.Change, Reason: reason(x.Change), Help: x.help, Lines: x.lines}
	p.Effect.Mark = x.plainMark - w.plainMark
	p.Say, p.LeadsTo = Describe(w.Recipe, w.Gear.Grinder, p.Change, w.Prefs)
	return p
}

// expect predicts the effects of proposals on this brew. A recipe outside the model's range has none.
func (c Case) expect(proposals ...*Proposal) {
	q := c.question()
	if proposals[0] == nil {
		return
	}
	proposals = slices.DeleteFunc(proposals, func(p *Proposal) bool { return p == nil })
	var moves []forecast.Move
	for _, p := range proposals {
		moves = append(moves, forecast.Move{Address: p.Address, To: p.To})
	}
	differences := forecast.Try(q, moves)
	forecast.AddErrors(q, moves[:1], differences[:1])
	for i, d := range differences {
		if d != nil {
			e := &proposals[i].Effect
			e.Yield, e.Strength, e.Time, e.YieldError, e.TimeError = d.Yield, d.Strength, d.Time, d.YieldError, d.TimeError
		}
	}
}
