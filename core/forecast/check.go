package forecast

import (
	"fmt"
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// inquiry is what a check looks at: a recipe, what is expected of it, and how
// the person wants to read it.
type inquiry struct {
	Question
	Forecast
	prefs units.Prefs
}

// A check looks for one problem, and proposes changes that might mend it,
// the smallest change first. A proposal is offered only if the model agrees.
type check struct {
	find  func(inquiry) (recipe.Knob, string)
	fixes func(inquiry) []recipe.Fix
	// grave: a fix is offered even where it causes a lesser problem, as with hot water over the rim.
	grave bool
}

var checks = []check{
	{find: thinBed, fixes: moreDose}, {find: runsOver, fixes: lowerLevel, grave: true}, {find: offWindow, fixes: drainOnTime},
	{find: runsDry, fixes: sooner}, {find: underWater, fixes: later}, {find: coolsDown, fixes: hotterOrSooner},
}

// Check returns the problems that the model predicts, each with its cause
// and the first fix after which the model predicts neither it nor another problem
// in its place. Problems that show without a model are found by recipe.Check.
func Check(q Question, f Forecast, prefs units.Prefs) []recipe.Warning {
	now := inquiry{q, f, prefs}
	wrong := now.wrong()
	var out []recipe.Warning
	for _, c := range checks {
		if knob, text := c.find(now); text != "" {
			out = append(out, recipe.Warning{At: recipe.Of(knob), Text: text, Fix: now.mend(c, wrong)})
		}
	}
	return out
}

// mend tries what a check proposes, and returns the first that helps, or nil.
func (q inquiry) mend(c check, wrong int) *recipe.Fix {
	if c.grave {
		wrong++
	}
	for _, fix := range c.fixes(q) {
		if next, ok := q.after(fix); ok && next.wrong() < wrong {
			if _, still := c.find(next); still == "" {
				return &fix
			}
		}
	}
	return nil
}

// wrong counts the checks that find something.
func (q inquiry) wrong() (n int) {
	for _, c := range checks {
		if _, text := c.find(q); text != "" {
			n++
		}
	}
	return n
}

// after is the inquiry into the recipe as a fix leaves it. Its drawdown is taken to be as
// uncertain, as a share, as it was.
func (q inquiry) after(fix recipe.Fix) (inquiry, bool) {
	q.Recipe = fix.Apply(q.Recipe)
	var f Forecast
	err := f.Ask(q.Question)
	f.DrawdownError = q.DrawdownError * f.Drawdown / q.Drawdown
	q.Forecast = f
	return q, err == nil
}

// window is the drawdown that is wanted, or the zero Window where the recipe has no aim.
func (q inquiry) window() coffee.Window { return q.Bag.Wanted(q.Recipe.Plan().Window) }

// thinBed: the bed is lower than the least for this brewer, so that water runs past the grounds.
func thinBed(q inquiry) (recipe.Knob, string) {
	brewer := Brewer(q.Gear.Brewer)
	if q.Recipe.Dose >= brewer.MinDose() {
		return "", ""
	}
	return recipe.Dose, fmt.Sprintf("A bed of %s is thin in this brewer: water finds ways past it, and it drains too fast.", q.length(1000*brewer.BedHeight(q.Recipe.Dose)))
}

func moreDose(q inquiry) []recipe.Fix {
	half := math.Ceil(float64(Brewer(q.Gear.Brewer).MinDose())*2) / 2
	return []recipe.Fix{{Address: recipe.Of(recipe.Dose), Value: half}}
}

// runsOver: the slurry rises above the rim.
func runsOver(q inquiry) (recipe.Knob, string) {
	if q.Overflow < 0 {
		return "", ""
	}
	return recipe.Water, fmt.Sprintf("Predicted to run over at %s: it would rise to %s, and the rim is at %s.", q.Overflow, q.length(q.TopLevel), q.length(q.Rim))
}

// lowerLevel proposes the same water in more pours, which stands less high, and then less water.
func lowerLevel(q inquiry) []recipe.Fix {
	brewer := Brewer(q.Gear.Brewer)
	over := brewer.Volume(q.TopLevel/1000) - brewer.Volume(q.Rim/1000) // ml
	return append(morePours(q), lessWater(q, float64(q.Recipe.Water())-over)...)
}

// offWindow: the drawdown lies outside the wanted one by more than the model's own error.
func offWindow(q inquiry) (recipe.Knob, string) {
	window := q.window()
	switch {
	case q.Overflow >= 0: // a brew that runs over has no drawdown to compare
		return "", ""
	case !q.Drained:
		return recipe.Grind, "Predicted to stall: the bed clogs before the water is through. Coarser."
	case !window.Set():
		return "", ""
	case q.Drawdown-q.DrawdownError > window.To:
		return recipe.Grind, fmt.Sprintf("Predicted to drain at %s, past the wanted %s: coarser.", q.Drawdown, window.To)
	case q.Drawdown+q.DrawdownError < window.From:
		return recipe.Grind, fmt.Sprintf("Predicted to drain at %s, before the wanted %s: finer.", q.Drawdown, window.From)
	}
	return "", ""
}

// drainOnTime proposes the grind that drains in the middle of the window. Where no
// grind does, the coarsest or the finest and another amount or number of pours must help.
func drainOnTime(q inquiry) []recipe.Fix {
	window := q.window()
	var out []recipe.Fix
	if r, err := Reach(q.Question, DrainIn, recipe.Grind, float64(window.From+window.To)/2); err == nil {
		out = append(out, recipe.Fix{Address: recipe.Of(recipe.Grind), Value: float64(r.Grind)})
	}
	usual := recipe.Grind.Usual()
	if q.Drained && q.Drawdown < window.From {
		out = append(out, recipe.Fix{Address: recipe.Of(recipe.Grind), Value: float64(q.Gear.Grinder.Snap(units.Micrometres(usual.Lo)))})
		return append(out, morePours(q)...)
	}
	out = append(out, recipe.Fix{Address: recipe.Of(recipe.Grind), Value: float64(q.Gear.Grinder.Snap(units.Micrometres(usual.Hi)))})
	return append(out, lessWater(q, float64(q.Recipe.Water()))...)
}

// morePours proposes one or two pours more, where there are any.
func morePours(q inquiry) []recipe.Fix {
	if q.Recipe.Release > 0 {
		return nil
	}
	n := q.Recipe.Value(recipe.Of(recipe.Pours))
	return []recipe.Fix{{Address: recipe.Of(recipe.Pours), Value: n + 1}, {Address: recipe.Of(recipe.Pours), Value: n + 2}}
}

// fewerPours proposes fewer and fewer pours, down to one.
func fewerPours(q inquiry) []recipe.Fix {
	var out []recipe.Fix
	for n := int(q.Recipe.Value(recipe.Of(recipe.Pours))) - 1; n >= 1; n-- {
		out = append(out, recipe.Fix{Address: recipe.Of(recipe.Pours), Value: float64(n)})
	}
	return out
}

// lessWater proposes smaller and smaller brews, from an amount of water down.
func lessWater(q inquiry, from float64) []recipe.Fix {
	var out []recipe.Fix
	for _, share := range []float64{1, 0.98, 0.95, 0.9, 0.8, 0.65, 0.5, 0.35} {
		if water := math.Floor(from * share); water < float64(q.Recipe.Water()) {
			out = append(out, recipe.Fix{Address: recipe.Of(recipe.Water), Value: water})
		}
	}
	return out
}

// repeated are the pours that come onto a bed which a pour has filled before: a
// bloom is meant to sink in.
func (q inquiry) repeated() (first int) {
	const most = 4.5 // g per g of dose: more than that is no bloom
	if first := q.Plan.Steps[0]; first.Bloom || first.Water <= most*q.Recipe.Dose {
		return 2
	}
	return 1
}

// runsDry: the bed stands without water so long before a pour that it cools and packs.
func runsDry(q inquiry) (recipe.Knob, string) {
	const longest = 12 // s
	for i := q.repeated(); i < len(q.Pours); i++ {
		if p := q.Pours[i]; p.Dry > longest {
			return recipe.Gap, fmt.Sprintf("Predicted: the bed has been dry for %.0f s when pour %d begins, and cools.", float64(p.Dry), i+1)
		}
	}
	return "", ""
}

// length formats a length in mm in the user's unit.
func (q inquiry) length(mm float64) string { return q.prefs.Unit(units.Length).Format(mm) }

// gap is the time from pour to pour, s.
func (q inquiry) gap() units.Seconds { return units.Seconds(q.Recipe.Value(recipe.Of(recipe.Gap))) }

// sooner shortens the gap, and where the hand cannot go faster, drops pours.
func sooner(q inquiry) []recipe.Fix {
	var out []recipe.Fix
	now, least := q.gap(), q.Recipe.LeastGap()
	for _, by := range []units.Seconds{5, 10, 20, 40, 80} {
		if gap := max(now-by, least); gap < now {
			out = append(out, recipe.Fix{Address: recipe.Of(recipe.Gap), Value: float64(gap)})
		}
	}
	return append(out, fewerPours(q)...)
}

// underWater: so much still stands over the bed that the next clocked pour only
// piles more on top.
func underWater(q inquiry) (recipe.Knob, string) {
	const most = 0.55 // of the room between bed and rim
	for i := q.repeated(); i < len(q.Pours); i++ {
		if above := q.Pours[i].Above; above > most*(q.Rim-q.BedHeight) {
			return recipe.Gap, fmt.Sprintf("Predicted: %s of water still stand over the bed when pour %d is due.", q.length(above), i+1)
		}
	}
	return "", ""
}

// later lengthens the gap, or cuts the water into more pours.
func later(q inquiry) []recipe.Fix {
	var out []recipe.Fix
	for longer := units.Seconds(10); longer <= 60; longer += 10 {
		out = append(out, recipe.Fix{Address: recipe.Of(recipe.Gap), Value: float64(q.gap() + longer)})
	}
	return append(out, morePours(q)...)
}

// mostLost is how much cooler than it should start the last pour may be, K.
const mostLost = 5

// coolsDown: a kettle without a thermostat gives the last pour water that is much
// cooler than this coffee should start with.
func coolsDown(q inquiry) (recipe.Knob, string) {
	n := len(q.Pours)
	if n == 0 || q.Gear.Kettle.Thermostat {
		return "", ""
	}
	last, wanted := q.Pours[n-1].Temperature, min(q.wanted(), q.Recipe.Temperature())
	if wanted-last <= mostLost {
		return "", ""
	}
	t := q.prefs.Unit(units.Temperature)
	return recipe.Temperature, fmt.Sprintf("Off the heat, %s has cooled to %s by the last pour. Start hotter, pour sooner, or put it back on the heat between pours.", q.Gear.Kettle.Name, t.Format(float64(last)))
}

// wanted is the temperature at which the product would start this coffee.
func (q inquiry) wanted() units.Celsius {
	return recipe.StartTemperature(recipe.Situation{Bag: q.Bag, Gear: q.Gear, Now: q.Now})
}

// hotterOrSooner proposes the first temperature from which the last pour is just warm enough,
// taking the loss as proportional to the difference to the room.
func hotterOrSooner(q inquiry) []recipe.Fix {
	room, last := q.Air(), q.Pours[len(q.Pours)-1].Temperature
	keeps := float64(last-room) / float64(q.Recipe.Temperature()-room)
	start := math.Ceil(float64(room) + float64(q.wanted()-mostLost-room)/keeps)
	var out []recipe.Fix
	if start = min(start, hottest(q.Question)); start > float64(q.Recipe.Temperature()) {
		out = append(out, recipe.Fix{Address: recipe.Of(recipe.Temperature), Value: start})
	}
	if short := float64(max(q.Recipe.LeastBloom(), 30)); short < q.Recipe.Value(recipe.Of(recipe.BloomTime)) {
		out = append(out, recipe.Fix{Address: recipe.Of(recipe.BloomTime), Value: short})
	}
	return append(out, sooner(q)...)
}
