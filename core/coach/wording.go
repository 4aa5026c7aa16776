package coach

import (
	"fmt"
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
)

// heard returns the evidence for and against a cause.
func (w *weighing) heard(cause Cause) (agree, against []string) {
	const least = 0.03
	bed := cause == Uneven || cause == Chance // both causes have the same evidence
	for _, s := range w.lines {
		by := 0.0
		for _, m := range s.Moved {
			if m.Cause == string(cause) || bed && (m.Cause == string(Uneven) || m.Cause == string(Chance)) {
				by += m.By
			}
		}
		switch {
		case by >= least:
			agree = append(agree, s.Say)
		case by <= -least && !s.fact:
			against = append(against, s.Say)
		}
	}
	if len(agree) == 0 && !w.quick {
		agree = w.alone(cause)
	}
	if len(agree) == 0 {
		agree = []string{"All tasting notes, combined."}
		if !w.quick && newJudgement(w.judged.before, w.cup).chances().of(cause) > 0.5 { // before this cup was tasted
			agree = []string{fmt.Sprintf("The model places it at %.1f %% of yield and %.2f %% of TDS.", w.cup.yield, w.cup.strength)}
		}
	}
	return agree, against
}

// causeOf returns the cause that a change addresses.
func (w *weighing) causeOf(x option) Cause {
	for _, p := range plain {
		if turns(x.Change, p.knob, p.by) && w.chances.of(p.cause) > 0.2 {
			return p.cause
		}
	}
	bed := leverOf(x.Knob).turn == bedTurn || w.Recipe.Steeps() && mends(x.Change) > 0
	extracts := Over
	if x.at.yield > w.at.yield {
		extracts = Under
	}
	switch {
	case bed && w.chances.bed() > 0.3 && w.chances.bed() > w.chances.of(extracts):
		return Uneven
	case leverOf(x.Knob).turn == ratioTurn && x.at.strength > w.at.strength, x.Knob == recipe.LastPours && x.To > x.From:
		return Weak
	case leverOf(x.Knob).turn == ratioTurn, x.Knob == recipe.LastPours:
		return Strong
	case x.Knob == recipe.Balance && x.To > x.From:
		return Over
	case x.Knob == recipe.Balance:
		return Under
	}
	return extracts
}

// plain lists the causes that a change addresses regardless of its effect on the yield.
var plain = []struct {
	knob  recipe.Knob
	by    float64
	cause Cause
}{
	{recipe.Rinse, +1, Papery}, {recipe.Rinse, +1, Cool}, {recipe.Temperature, +1, Cool}, {recipe.Temperature, -1, Warm},
	{recipe.IcePart, -1, Icy},
	{recipe.HandAfter, -1, Stirred}, {recipe.PourHeight, -1, Stirred}, {recipe.Grind, +1, Stirred},
	{recipe.Grind, +1, Clogged}, {recipe.Pours, -1, Clogged}, {recipe.HandAfter, -1, Clogged}, {recipe.PourHeight, -1, Clogged},
	{recipe.Wait, +1, Clogged}, {recipe.Gap, +1, Clogged},
}

// handworks lists corrections of technique, used if there is nothing to change on the recipe.
var handworks = []struct {
	sign sign
	do   string
}{
	{badPaper, "Fold the seam, seat the filter flat against the wall, and repeat the recipe"},
	{slowSide, "Level the brewer and the bed, check that no outlet is blocked, and repeat the recipe"},
	{seenBed(cup.Sloped), "Level the brewer and the dry bed, and repeat the recipe"},
}

// handwork returns the correction of technique for a bed that was probably uneven.
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

// watches holds what to watch for in the next brew, by cause.
var watches = map[Cause]string{
	Under:   "More sweetness, and a longer aftertaste. If it turns dry, the change was too large.",
	Over:    "Less bitterness at the end. If it turns sour, undo half of the change.",
	Weak:    "A fuller body at the same balance.",
	Strong:  "A lighter body, and more distinct flavours.",
	Uneven:  "A flat spent bed, and no dry spots in the bloom.",
	Clogged: "The water sinking at the same speed until the end.",
	Stirred: "Distinct flavours.",
	Papery:  "No smell of paper from the rinsed filter.",
	Cool:    "More sweetness at the same time.",
	Warm:    "Less bitterness at the same time.",
	Icy:     "The last of the ice just melting.",
}

// watch returns what to watch for after a change, with the expected time.
func (w *weighing) watch(x option) string {
	out := watches[w.causeOf(x)]
	if by := float64(x.drains-w.now.Drawdown) * w.slower; math.Abs(by) >= 5 && w.Cup.Drawdown > 0 && !w.Recipe.Steeps() {
		out += fmt.Sprintf(" It should drain at about %s.", w.drained()+x.drains-w.now.Drawdown)
	}
	return out
}

// lost returns why a change is not the first choice: the term in which it loses most.
func lost(first, x option) string {
	most, why := 0.005, "The predicted benefit is the same, but it comes later in your order of adjustments."
	for i := range min(len(first.lines), len(x.lines)) {
		if by := first.lines[i].By - x.lines[i].By; by > most {
			most, why = by, whyLost[i]
		}
	}
	return why
}

// whyLost holds the text of each term in which a runner-up loses, in the order of the terms.
var whyLost = []string{"A good next cup is less likely.", "It would teach less.", "It brings the cup less far.", "It moves the drawdown out of its window.",
	"It needs a larger change, or is later in your order of adjustments."}

// A Map holds the cups of a bag, the person's estimated aim, and the predicted result of a change. Yields
// and strengths in %, in the model's coordinates.
type Map struct {
	Aim  Patch
	Cups []Point // of the bag, the oldest first; the last is this one
	// YieldError and StrengthError are the standard errors of this cup's position.
	YieldError, StrengthError float64
	Then                      *Point // predicted result of the change
	Measured                  bool   // this cup was measured
}

// A Point is a position on a Map, with its brew if there is one.
type Point struct {
	Yield, Strength float64
	Brew            string
}

// chart returns the map.
func (w *weighing) chart(first *Proposal) *Map {
	if w.now.Yield.Value == 0 {
		return nil
	}
	m := &Map{Aim: w.aim.patch()}
	for i, at := range w.cups {
		m.Cups = append(m.Cups, Point{at.yield, at.strength, w.path[i].ID})
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

// modelYield and modelStrength are the standard errors of an unmeasured cup's position.
const modelYield, modelStrength = 1.1, 0.08
