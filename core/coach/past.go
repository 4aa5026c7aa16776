package coach

import (
	"fmt"
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
)

// A move is a single change between two brews of a bag and its effect: -1 if the cup was liked less, +1 if
// more, 0 if they are indistinguishable. It is idle if no measurement changed either.
type move struct {
	recipe.Change
	did  int
	idle bool
}

// movesOf returns the changes of a path, the oldest first. It skips steps with more than one change.
func movesOf(path []Case) []move {
	var out []move
	for i := 1; i < len(path); i++ {
		before, after := path[i-1], path[i]
		if changes := recipe.Changes(before.Recipe, after.Recipe); len(changes) == 1 {
			did := liking(before.Cup, after.Cup)
			out = append(out, move{changes[0], did, did == 0 && !differ(before, after)})
		} else {
			out = append(out, move{})
		}
	}
	return out
}

// differ reports whether the figures of two cups are distinguishable.
func differ(before, after Case) bool {
	const told = 0.1 // twice the scatter of a drawdown from brew to brew
	was, ok := before.Yield()
	is, both := after.Yield()
	if ok && both && was.Differs(is) {
		return true
	}
	from, to := float64(before.Cup.Drawdown), float64(after.Cup.Drawdown)
	return from > 0 && to > 0 && math.Abs(math.Log(to/from)) > told
}

// last returns the change before this brew.
func (w *weighing) last() (m move, ok bool) {
	if n := len(w.moves); n > 0 {
		m = w.moves[n-1]
	}
	return m, m.Knob != ""
}

// spoilt returns the change before this brew if it made the cup worse.
func (w *weighing) spoilt() (move, bool) {
	m, ok := w.last()
	return m, ok && m.did < 0
}

// alike reports whether the last change made no difference that was noticed.
func (w *weighing) alike() bool {
	m, ok := w.last()
	return ok && m.did == 0
}

// before returns the previous brew; the caller checks that there is one.
func (w *weighing) before() Case { return w.Path[len(w.Path)-1] }

// liking returns +1 if the second of two cups was liked perceptibly more, -1 if less, by their marks or
// else by their words.
func liking(before, after cup.Cup) int {
	was, wasError := markOf(before)
	is, isError := markOf(after)
	switch off := math.Hypot(wasError, isError); {
	case is-was > off:
		return 1
	case was-is > off:
		return -1
	}
	return 0
}

// backward returns the change back to the previous recipe, if the last change made the cup worse.
func (w *weighing) backward() []candidate {
	if m, ok := w.spoilt(); ok {
		return []candidate{{recipe.Change{Address: m.Address, From: m.To, To: m.From}, 1}}
	}
	return nil
}

// worse returns the probability that this cup is truly worse than the previous one.
func (w *weighing) worse() float64 {
	if said, compared := likelyWorse[w.Cup.Better]; compared {
		return said
	}
	was, wasError := markOf(w.before().Cup)
	is, isError := markOf(w.Cup)
	return above((was - is) / math.Hypot(wasError, isError))
}

// followed describes the effect of the last change.
func (w *weighing) followed() string {
	if _, compared := likelyWorse[w.Cup.Better]; compared {
		return fmt.Sprintf("You find it %s than the cup before.", w.Cup.Better)
	}
	was, _ := markOf(w.before().Cup)
	is, _ := markOf(w.Cup)
	if w.Cup.Overall > 0 && w.before().Cup.Overall > 0 {
		return fmt.Sprintf("You gave it %.0f, after %.0f for the cup before.", is, was)
	}
	return "By your tasting notes it is further from your taste than the previous cup."
}

// likelyWorse is the probability that a cup is truly worse than the one before, by what the person says. Two cups of one recipe
// are called "a little" better or worse in about one case of seven.
var likelyWorse = map[cup.Than]float64{cup.ClearlyWorse: 0.97, cup.LittleWorse: 0.85, cup.LittleBetter: 0.15, cup.ClearlyBetter: 0.03}

// back reports whether a change fully undoes the last one.
func (w *weighing) back(change recipe.Change) bool {
	m, ok := w.spoilt()
	return ok && change.Address == m.Address && math.Abs(change.To-m.From) < 1e-6
}

// returning returns the bonus of the previous recipe beyond the posterior, in marks: the cup before was liked more.
func (w *weighing) returning(change recipe.Change) float64 {
	const known = 0.8
	if w.back(change) && w.chances.bed() < 0.4 {
		return known
	}
	return 0
}

// pastRefuses reports whether the path rules out a change: one further in a direction that made the cup worse, one back to a recipe
// that was liked no more than this one, or one of a lever that was tried twice that way without any effect.
func (w *weighing) pastRefuses(change candidate) bool {
	if m, ok := w.spoilt(); ok && change.Address == m.Address && w.chances.bed() < 0.4 &&
		(change.To > change.From) == (m.To > m.From) {
		return true
	}
	next := w.Recipe.With(change.Address, change.To)
	for _, past := range w.Path {
		if len(recipe.Changes(past.Recipe, next)) == 0 && liking(past.Cup, w.Cup) >= 0 {
			return true
		}
	}
	idle := 0
	for _, m := range w.moves {
		if m.Address == change.Address && m.Knob != "" && m.idle && (m.To > m.From) == (change.To > change.From) {
			idle++
		}
	}
	return idle >= 2
}

// between returns the bonus, in marks, for a change to a value between the last two steps, if one cup was
// sour and the other bitter.
func (w *weighing) between(change recipe.Change) float64 {
	const halfWay, perOff = 0.8, 1.2
	m, ok := w.last()
	if !ok || change.Address != m.Address {
		return 0
	}
	before := w.before()
	sourThenBitter := sharp(before) != "" && harsh(before) == "" && harsh(w.Case) != "" && sharp(w.Case) == ""
	bitterThenSour := harsh(before) != "" && sharp(before) == "" && sharp(w.Case) != "" && harsh(w.Case) == ""
	if !sourThenBitter && !bitterThenSour {
		return 0
	}
	way := (change.To - m.To) / (m.From - m.To) // 1 is the full way back
	return halfWay - perOff*min(1, math.Abs(2*way-1))
}

// again returns the number of consecutive earlier brews with the same recipe.
func (c Case) again() (n int) {
	for i := len(c.Path) - 1; i >= 0 && len(recipe.Changes(c.Path[i].Recipe, c.Recipe)) == 0; i-- {
		n++
	}
	return n
}

// keptBefore reports whether this recipe made a good cup before, and this is the first bad one.
func (c Case) keptBefore() bool {
	n := len(c.Path)
	return n > 0 && c.again() > 0 && liked(c.Path[n-1]) != ""
}

// Helped reports whether a cup after a change was liked perceptibly more than the previous one, or was
// good.
func Helped(before, after cup.Cup) bool {
	return liking(before, after) > 0 || liked(Case{Cup: after}) != ""
}

// markOf returns the mark of a cup with its error: the given one, or an estimate from its words.
func markOf(c cup.Cup) (mark, within float64) {
	if c.Overall > 0 {
		return float64(c.Overall), 0.6
	}
	mark = 9
	for _, sc := range cup.Scales() {
		if l, step := likings[sc.Sense], c.Steps[sc.Sense]; step > 0 && c.Likes[sc.Sense] != cup.Liked {
			mark -= l.per * math.Abs(float64(step)-l.at)
		}
	}
	switch c.Serve {
	case "yes":
		mark = max(mark, 8)
	case "no":
		mark = min(mark, 6)
	}
	return mark, 1
}

// likings holds the step of each sense that costs no mark.
var likings = map[cup.Sense]struct{ at, per float64 }{
	cup.Acidity: {3, 0.9}, cup.Bitterness: {2, 0.9}, cup.Dryness: {1.7, 0.5}, cup.Sweetness: {4, 0.5}, cup.Body: {3, 0.9},
	cup.Clarity: {3.6, 0.4}, cup.Aftertaste: {3.6, 0.3},
}
