package coach

import (
	"slices"
	"sync"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// Advice is what the coach says of a brew. Without a First there is nothing to change.
type Advice struct {
	Rule     string // the name of the rule that applied
	Verdict  string
	Because  string
	Evidence []string // the signs that support it
	Against  []string // the signs that speak against it
	Sure     Sureness
	Instead  string // what to do where there is nothing to change
	First    *Proposal
	Second   *Proposal
	// Exhausted says that the rule wanted a change and every lever is at its limit.
	Exhausted bool
}

// Keep says that the advice is to leave the recipe as it is.
func (a Advice) Keep() bool { return a.First == nil && !a.Exhausted }

// Advise reads the table of rules from the top; the first whose signs are all there
// decides. A rule of the bed speaks only where the brews so far make an uneven bed
// likely. A rule that names too little, too much, too weak or too strong is weighed
// against all brews of the bag: which knob, and how far. Where no change that agrees
// with it is worth making, its own levers decide.
func Advise(c Case) Advice {
	weigh := sync.OnceValue(c.weigh)
	for _, r := range rules {
		evidence, ok := r.speaks(c)
		if !ok || r.ofBed && weigh().uneven < 0.5 {
			continue
		}
		if r.weighs != nil {
			if a, ok := c.weighed(weigh(), *r.weighs); ok {
				return a
			}
		}
		return r.advise(c, evidence)
	}
	return Advice{} // the last rule asks for nothing, so this is never reached
}

func (r rule) speaks(c Case) (evidence []string, ok bool) {
	for _, s := range r.signs {
		said := s(c)
		if said == "" {
			return nil, false
		}
		evidence = append(evidence, said)
	}
	for _, s := range r.without {
		if s(c) != "" {
			return nil, false
		}
	}
	return evidence, true
}

func (r rule) advise(c Case, evidence []string) Advice {
	a := Advice{Rule: r.name, Verdict: r.verdict, Because: r.because, Sure: r.sure, Instead: r.instead, Evidence: evidence}
	if a.Instead == "" {
		a.Instead = "Keep the recipe"
	}
	for _, s := range r.agree {
		if said := s(c); said != "" && !slices.Contains(a.Evidence, said) {
			a.Evidence = append(a.Evidence, said)
			a.Sure = min(a.Sure+1, Likely)
		}
	}
	for _, s := range r.disagree {
		if said := s(c); said != "" {
			a.Against = append(a.Against, said)
			a.Sure = max(a.Sure-1, Guess)
		}
	}
	for _, l := range r.levers {
		p, ok := l.pull(c)
		switch {
		case !ok:
		case a.First == nil:
			a.First = &p
		case a.Second == nil && p.Address != a.First.Address:
			a.Second = &p
		}
	}
	c.expect(a.First, a.Second)
	a.Exhausted = a.First == nil && len(r.levers) > 0
	if a.First != nil && a.First.Knob == recipe.Grind && c.Gear.Grinder.Burrs == gear.Blade {
		a.Sure = Guess
		a.Against = append(a.Against, "A blade does not repeat its grind, so the next cup may differ for that alone.")
	}
	return a
}
