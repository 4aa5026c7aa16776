package station

import (
	"cmp"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/units"
	"yardbloom/web/words"
)

// A Proposal is a change as pages show it.
type Proposal struct {
	coach.Proposal
	Of     string // address below /brews of the form that applies it; empty for none
	Choice string // the value of its button
	Expect string
	Helps  string
	Sums   []Sum
	Gain   string
}

// A Sum is a term of a sum of percentage points.
type Sum struct{ Say, By string }

// A Sign is a sign with its effect.
type Sign struct {
	Say     string
	Moved   []string
	Without string // the answer without it
}

// Advice is advice as pages show it.
type Advice struct {
	coach.Advice
	First, Second, Third *Proposal
	Chance               string // probability of the verdict
	Signs                []Sign
	Words                []string // how the person uses words
}

// AdviceOf returns stored advice in a person's units.
func AdviceOf(a coach.Advice, sheet brew.Sheet, prefs units.Prefs) (b Advice) {
	for _, p := range []**coach.Proposal{&a.First, &a.Second, &a.Third} {
		*p = Described(*p, sheet, prefs)
	}
	b.Advice, b.First, b.Second, b.Third = a, viewOf(a.First, "first"), viewOf(a.Second, "second"), viewOf(a.Third, "third")
	if a.Chance > 0 && a.Do != coach.Stop && a.Do != coach.Taste {
		b.Chance = words.Chance(a.Chance)
	}
	for _, s := range a.Signs {
		v := Sign{Say: s.Say, Without: cmp.Or(s.Without, "the same")}
		for _, m := range s.Moved {
			v.Moved = append(v.Moved, words.Moved(m))
		}
		b.Signs = append(b.Signs, v)
	}
	b.Words = a.Tongue.Says()
	return b
}

func viewOf(p *coach.Proposal, choice string) *Proposal {
	if p == nil {
		return nil
	}
	v := &Proposal{Proposal: *p, Choice: choice, Expect: words.Effect(p.Effect)}
	if p.Help > 0 {
		v.Helps = words.Chance(p.Help)
	}
	sum := 0.0
	for _, l := range p.Lines {
		sum += 100 * l.By
		if by := units.Signed(100*l.By, 1); by != units.Signed(0, 1) {
			v.Sums = append(v.Sums, Sum{l.Say, by})
		}
	}
	v.Gain = units.Signed(sum, 1)
	return v
}
