package coach

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
)

// A Sign is one thing that was taken in, and what it moved.
type Sign struct {
	Say   string
	Moved []Moved
}

// Moved is by how much a sign made a cause likelier, -1 to 1, and how likely it was then.
type Moved struct {
	Cause  string
	By, To float64
}

// note keeps what a sign moved: the causes that it moved furthest.
func (w *weighing) note(say string, before, after chances) {
	const least = 0.015
	var moved []Moved
	for i, c := range causes {
		by := after[i]
		if before != nil {
			by -= before[i]
		}
		if math.Abs(by) >= least {
			moved = append(moved, Moved{string(c.Cause), by, after[i]})
		}
	}
	slices.SortStableFunc(moved, func(a, b Moved) int { return cmp.Compare(math.Abs(b.By), math.Abs(a.By)) })
	const most = 4
	w.lines = append(w.lines, Sign{say, moved[:min(len(moved), most)]})
}

// heard are the signs that spoke for a cause and against it.
func (w *weighing) heard(cause Cause) (agree, against []string) {
	const least = 0.03
	bed := cause == Uneven || cause == Chance // the same signs speak for both
	for _, s := range w.lines[min(1, len(w.lines)):] {
		by := 0.0
		for _, m := range s.Moved {
			if m.Cause == string(cause) || bed && (m.Cause == string(Uneven) || m.Cause == string(Chance)) {
				by += m.By
			}
		}
		switch {
		case by >= least:
			agree = append(agree, s.Say)
		case by <= -least:
			against = append(against, s.Say)
		}
	}
	if len(w.Path) > 0 {
		agree = append(agree, "The earlier cups of this bag were weighed with it.")
	}
	if len(agree) == 0 {
		agree = []string{"All that was said of the cup, taken together."}
	}
	return agree, against
}

// causeOf is the cause that a change answers to.
func (w *weighing) causeOf(x option) Cause {
	for _, p := range plain {
		if turns(x.Change, p.knob, p.by) && w.chances.of(p.cause) > 0.2 {
			return p.cause
		}
	}
	bed := leverOf(x.Knob).turn == bedTurn || w.Recipe.Steeps() && mends(x.Change) > 0
	switch {
	case bed && w.chances.bed() > 0.3:
		return Uneven
	case leverOf(x.Knob).turn == ratioTurn && x.at.strength > w.at.strength, x.Knob == recipe.LastPours && x.To > x.From:
		return Weak
	case leverOf(x.Knob).turn == ratioTurn, x.Knob == recipe.LastPours:
		return Strong
	case x.Knob == recipe.Balance && x.To > x.From:
		return Over
	case x.Knob == recipe.Balance, x.at.yield > w.at.yield:
		return Under
	}
	return Over
}

// plain are the causes that a turn answers to whatever it does to the yield.
var plain = []struct {
	knob  recipe.Knob
	by    float64
	cause Cause
}{
	{recipe.Rinse, +1, Papery}, {recipe.Rinse, +1, Cool}, {recipe.Temperature, +1, Cool}, {recipe.Temperature, -1, Warm}, {recipe.IcePart, -1, Icy},
	{recipe.HandAfter, -1, Stirred}, {recipe.PourHeight, -1, Stirred}, {recipe.Grind, +1, Stirred},
	{recipe.Grind, +1, Clogged}, {recipe.Pours, -1, Clogged}, {recipe.HandAfter, -1, Clogged}, {recipe.PourHeight, -1, Clogged}, {recipe.Wait, +1, Clogged}, {recipe.Gap, +1, Clogged},
}

// handworks are what a hand can do where nothing is to be turned on the recipe.
var handworks = []struct {
	sign sign
	do   string
}{
	{badSeat, "Fold the seam, seat the filter flat against the wall, and brew it again as it is"},
	{oneSided, "Level the brewer and the bed, see that no outlet is blocked, and brew it again as it is"},
	{seenBed(cup.Sloped), "Level the brewer and the dry bed, and brew it again as it is"},
}

// handwork is what the hand can mend, where the bed was likely uneven.
func (w *weighing) handwork() string {
	if w.chances.bed() < 0.4 {
		return ""
	}
	for _, h := range handworks {
		if h.sign(w.Case) != "" {
			return h.do
		}
	}
	return ""
}

// watches say what to look for in the next brew, by what the change answers to.
var watches = map[Cause]string{
	Under:   "More sweetness, and a longer aftertaste. If it turns dry, you have gone past it.",
	Over:    "Less bitterness at the end. If it turns sour, go half of the way back.",
	Weak:    "A fuller body at the same balance.",
	Strong:  "A lighter body, and more to tell apart.",
	Uneven:  "A flat spent bed, and no dry spots in the bloom.",
	Clogged: "The water sinking at the same speed until the end.",
	Stirred: "Flavours that stand apart.",
	Papery:  "No smell of paper from the rinsed filter.",
	Cool:    "More sweetness at the same time.",
	Warm:    "Less bitterness at the same time.",
	Icy:     "The last of the ice just melting.",
}

// watch is what to look for after a change, with the time to expect.
func (w *weighing) watch(x option) string {
	out := watches[w.causeOf(x)]
	if by := float64(x.drains-w.now.Drawdown) * w.slower; math.Abs(by) >= 5 && w.Cup.Drawdown > 0 && !w.Recipe.Steeps() {
		out += fmt.Sprintf(" It should drain at about %s.", w.drained()+x.drains-w.now.Drawdown)
	}
	return out
}

// lost says why a change is not the first choice: by the line that costs it most against the first.
func lost(first, x option) string {
	most, why := 0.05, "It promises about as much; the first is turned first."
	for i := range min(len(first.lines), len(x.lines)) {
		if by := first.lines[i].By - x.lines[i].By; by > most {
			most, why = by, whyLost[i]
		}
	}
	return why
}

// whyLost says what each line of a gain costs a runner-up, in the order of the lines.
var whyLost = []string{"The model expects less of it.", "It does less for the bed.", "Practice says less for it here.", "It takes the drawdown out of its window.",
	"It takes a larger turn.", "It comes later in your order of mending.", "It answers to what is less likely wrong.",
	"It does not lie between your last two steps."}

// A Map is where the cups of a bag lie, where this person's aim seems to be, and where a
// change leads. Yields and strengths in %, in the coordinates of the brew model.
type Map struct {
	Aim  Patch
	Cups []Point // of the bag, the oldest first; the last is this one
	// YieldError and StrengthError are one standard error of this cup's place.
	YieldError, StrengthError float64
	Then                      *Point // where the change leads
	Measured                  bool   // this cup was
}

// A Point is a place on a Map, and the brew that lies there, where it is one.
type Point struct {
	Yield, Strength float64
	Brew            string
}

// chart draws up the map.
func (w *weighing) chart(first *Proposal) *Map {
	if w.now.Yield.Value == 0 {
		return nil
	}
	m := &Map{Aim: w.aim.patch()}
	path := w.brews()
	for i, at := range w.cups {
		m.Cups = append(m.Cups, Point{at.yield, at.strength, path[i].ID})
	}
	if y, ok := w.Yield(); ok {
		m.Measured, m.YieldError, m.StrengthError = true, y.Error, 0.03
	} else {
		m.YieldError, m.StrengthError = modelYield, modelStrength
	}
	if first != nil {
		for _, x := range w.options {
			if x.Change == first.Change {
				m.Then = &Point{Yield: x.at.yield + w.cup.yield - w.at.yield, Strength: x.at.strength + w.cup.strength - w.at.strength}
			}
		}
	}
	return m
}

// modelYield and modelStrength are about how far the model may be off where nothing was
// measured, one standard error.
const modelYield, modelStrength = 1.1, 0.08
