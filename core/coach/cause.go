package coach

import (
	"cmp"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// A cause is what a change says was wrong with a cup: what to call it, why the change
// mends it, and which signs speak for it and against it.
type cause struct {
	name, verdict, because string
	agree, disagree        []sign
}

var (
	tooLittle = cause{"too little", "Too little came out", "Sweetness comes after acidity: take a little more out of the same grounds.",
		[]sign{sour, salty, short, lowYield, fast}, []sign{harsh, highYield}}
	tooMuch = cause{"too much", "Too much came out", "Past this, what still comes out is mostly bitter: leave it behind.",
		[]sign{bitter, dry, highYield, slow}, []sign{sour, lowYield}}
	tooWeak = cause{"too weak", "Too weak, not too little extracted", "Strength is not extraction. Less water on the same dose makes a fuller cup.",
		[]sign{thin, weak}, []sign{heavy, strong}}
	tooStrong = cause{"too strong", "Too strong, not too much extracted", "Strength is not extraction. More water on the same dose opens the cup up.",
		[]sign{heavy, strong}, []sign{thin, weak}}
)

// onAim is no cause at all: whatever promises most is taken.
var onAim = cause{name: "on aim"}

// causeOf is the cause that a change answers to.
func (x choice) causeOf(yieldNow float64) cause {
	switch {
	case x.Knob == recipe.Ratio && x.To < x.From:
		return tooWeak
	case x.Knob == recipe.Ratio:
		return tooStrong
	case x.then.Yield.Value > yieldNow:
		return tooLittle
	}
	return tooMuch
}

// reasons say why a knob is turned down or up.
var reasons = map[recipe.Knob][2]string{
	recipe.Grind:       {finer.reason, coarser.reason},
	recipe.Temperature: {cooler.reason, hotter.reason},
	recipe.Ratio:       {lessWater.reason, moreWater.reason},
	recipe.BloomTime:   {"A shorter bloom leaves the core of each grain dry for longer.", longerBloom.reason},
	recipe.Release:     {shorterSteep.reason, longerSteep.reason},
}

// What a change must promise, in marks, to be worth making, and to go before one that
// answers to what was tasted.
const (
	worthIt    = 0.1
	muchBetter = 0.5
)

// How likely a change must be to help to be called likely, or perhaps.
const likely, perhaps = 0.75, 0.6

// weighed is the advice that the brews of the bag so far give, by where the person's aim
// seems to lie and what the model expects of each change. It returns false where no
// change is worth making, or the best one answers to another cause than the rule's and
// is not much better.
func (c Case) weighed(w weighing, rule cause) (Advice, bool) {
	slices.SortStableFunc(w.choices, func(a, b choice) int { return cmp.Compare(b.gain, a.gain) })
	if len(w.choices) == 0 || w.choices[0].gain < worthIt {
		return Advice{}, false
	}
	first := w.choices[0]
	why := first.causeOf(w.now.Yield.Value)
	if rule.name != onAim.name && why.name != rule.name && first.gain < muchBetter {
		return Advice{}, false
	}
	a := Advice{Rule: why.name, Verdict: why.verdict, Because: why.because, Instead: "Keep the recipe", Sure: Guess}
	switch {
	case first.help >= likely:
		a.Sure = Likely
	case first.help >= perhaps:
		a.Sure = Perhaps
	}
	a.Evidence, a.Against = heard(c, why.agree), heard(c, why.disagree)
	if len(c.Path) > 0 {
		a.Evidence = append(a.Evidence, "The earlier cups of this bag were weighed with it.")
	}
	if len(a.Evidence) == 0 {
		a.Evidence = []string{"All that was said of the cup, taken together."}
	}
	if len(a.Against) > 0 {
		a.Sure = max(a.Sure-1, Guess)
	}
	p := c.propose(first)
	a.First = &p
	for _, x := range w.choices[1:] {
		if x.Knob != first.Knob && x.gain > 0 && x.causeOf(w.now.Yield.Value).name == why.name {
			second := c.propose(x)
			a.Second = &second
			break
		}
	}
	c.expect(a.First, a.Second)
	if p.Knob == recipe.Grind && c.Gear.Grinder.Burrs == gear.Blade {
		a.Sure = Guess
		a.Against = append(a.Against, "A blade does not repeat its grind, so the next cup may differ for that alone.")
	}
	return a, true
}

// heard are the signs that are there.
func heard(c Case, signs []sign) (out []string) {
	for _, s := range signs {
		if said := s(c); said != "" && !slices.Contains(out, said) {
			out = append(out, said)
		}
	}
	return out
}

// Propose is a change that a person makes of their own, as the coach would say it, with
// what the model expects of it.
func (c Case) Propose(at recipe.Address, to float64) *Proposal {
	change := recipe.Change{Address: at, From: c.Recipe.Value(at), To: to}
	p := c.propose(choice{Change: change})
	c.expect(&p, nil)
	return &p
}

// propose says a choice in the person's own terms.
func (c Case) propose(x choice) Proposal {
	up := 0
	if x.To > x.From {
		up = 1
	}
	p := Proposal{Change: x.Change, Reason: reasons[x.Knob][up]}
	p.Say, p.LeadsTo = Describe(c.Recipe, c.Gear.Grinder, p.Change, c.Prefs)
	return p
}
