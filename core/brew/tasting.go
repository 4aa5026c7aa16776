package brew

import (
	"slices"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
)

// A Tasting is one person's opinion of a cup, and the coach's advice for them.
type Tasting struct {
	Taster string  // id of a person; empty: the yard
	Cup    cup.Cup // the personal part
	Advice *coach.Advice
}

// For returns a brew as seen by a taster: Cup has the measurements and their taste, Advice is for them. Someone
// who has not tasted it sees the measurements alone.
func (b Brew) For(taster string) Brew {
	t, _ := b.TastingBy(taster)
	b.Taster, b.Cup, b.Advice = taster, b.Cup.With(t.Cup), t.Advice
	return b
}

// ForFirst returns a brew as seen by its first taster.
func (b Brew) ForFirst() Brew {
	if len(b.Tastings) == 0 {
		return b.For("")
	}
	return b.For(b.Tastings[0].Taster)
}

// Preferring returns a brew as seen by a taster who has tasted it, and unchanged for another one.
func (b Brew) Preferring(taster string) Brew {
	if b.tasting(taster) >= 0 {
		return b.For(taster)
	}
	return b
}

// TastingBy returns the tasting of a person, and whether there is one.
func (b Brew) TastingBy(taster string) (Tasting, bool) {
	if i := b.tasting(taster); i >= 0 {
		return b.Tastings[i], true
	}
	return Tasting{}, false
}

func (b Brew) tasting(taster string) int {
	return slices.IndexFunc(b.Tastings, func(t Tasting) bool { return t.Taster == taster })
}

// withTasting returns a brew in which the present cup and advice are the tasting of its taster.
func (b Brew) withTasting() Brew {
	t := Tasting{b.Taster, b.Cup.Personal(), b.Advice}
	b.Tastings = slices.Clone(b.Tastings)
	if i := b.tasting(b.Taster); i >= 0 {
		b.Tastings[i] = t
	} else {
		b.Tastings = append(b.Tastings, t)
	}
	return b
}
