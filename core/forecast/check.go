package forecast

import (
	"fmt"
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// inquiry is the input of a check: a recipe, its forecast, and the person's units.
type inquiry struct {
	Question
	Forecast
	prefs units.Prefs
}

// A check looks for one problem, and proposes changes that may fix it, the smallest change first. A
// proposal is offered only if the model confirms it.
type check struct {
	find  func(inquiry) (recipe.Knob, string)
	fixes func(inquiry) []recipe.Fix
	// grave: a fix is offered even if it causes a lesser problem, as with hot water over the rim.
	grave bool
}

var checks = []check{
	{find: thinBed, fixes: moreDose}, {find: runsOver, fixes: lowerLevel, grave: true}, {find: offWindow, fixes: drainOnTime},
	{find: dullWater, fixes: noFix}, {find: emptyWater, fixes: noFix},
	{find: missesLevel, fixes: refill}, {find: runsDry, fixes: sooner}, {find: underWater, fixes: later}, {find: coolsDown, fixes: hotterOrSooner},
}

// Check returns the problems that the model predicts, each with its cause and the first fix after which the
// model predicts neither it nor another problem instead. recipe.Check finds problems that need no model.
func Check(q Question, f Forecast, prefs units.Prefs) []recipe.Warning {
	now := inquiry{q, f, prefs}
	wrong := now.problems()
	var out []recipe.Warning
	for _, c := range checks {
		if knob, text := c.find(now); text != "" {
			out = append(out, recipe.Warning{At: recipe.AddressOf(knob), Text: text, Fix: now.fix(c, wrong)})
		}
	}
	return out
}

// fix tries the proposals of a check and returns the first one that helps, or nil.
func (q inquiry) fix(c check, wrong int) *recipe.Fix {
	if c.grave {
		wrong++
	}
	for _, fix := range c.fixes(q) {
		if next, ok := q.after(fix); ok && next.problems() < wrong {
			if _, still := c.find(next); still == "" {
				return &fix
			}
		}
	}
	return nil
}

// problems returns the number of checks that find a problem.
func (q inquiry) problems() (n int) {
	for _, c := range checks {
		if _, text := c.find(q); text != "" {
			n++
		}
	}
	return n
}

// after returns the inquiry into the recipe with a fix applied. The relative error of its drawdown is taken
// to be unchanged.
func (q inquiry) after(fix recipe.Fix) (inquiry, bool) {
	var err error
	if fix.Knob == recipe.Level {
		q.Recipe, err = ToLevel(q.Question, fix.Pour-1, fix.Value)
	} else {
		q.Recipe = fix.Apply(q.Recipe)
	}
	if err != nil {
		return q, false
	}
	var f Forecast
	err = f.Run(q.Question)
	f.DrawdownError = q.DrawdownError * f.Drawdown / q.Drawdown
	q.Forecast = f
	return q, err == nil
}

// window returns the target window of the drawdown, or the zero Window if the recipe has no aim.
func (q inquiry) window() coffee.Window { return q.Bag.TargetWindow(q.Recipe.Plan().Window) }

func noFix(inquiry) []recipe.Fix { return nil }

// dullWater: the water neutralizes much of the acids.
func dullWater(q inquiry) (recipe.Knob, string) {
	const much = 0.35
	share, known := q.Buffered(q.Strength.Value)
	if !known || share < much || q.Bag.Roast >= coffee.Dark { // dark coffee is brewed for other things
		return "", ""
	}
	alkalinity, _ := q.Gear.Water.Alkalinity()
	return recipe.Temperature, fmt.Sprintf("With %.0f mg/l of alkalinity this water neutralizes about %.0f %% of the acids: the cup turns flat, "+
		"whatever the grind.", alkalinity, 100*share)
}

// emptyWater: the water has hardly any minerals, or is so hard that it dulls and scales.
func emptyWater(q inquiry) (recipe.Knob, string) {
	const soft, hard = 20, 250 // mg/l as CaCO₃
	hardness, known := q.Gear.Water.Hardness()
	switch {
	case q.Gear.Water.ID == "" || !known:
	case hardness < soft:
		return recipe.Temperature, fmt.Sprintf("With %.0f mg/l of hardness this water extracts a little less and tastes thin.", hardness)
	case hardness > hard:
		return recipe.Temperature, fmt.Sprintf("With %.0f mg/l of hardness this water tastes dull and scales the kettle.", hardness)
	}
	return "", ""
}

// thinBed: the bed is lower than the minimum for this brewer, so that water bypasses the grounds.
func thinBed(q inquiry) (recipe.Knob, string) {
	brewer := Brewer(q.Gear.Brewer)
	if q.Recipe.Dose >= brewer.MinDose() {
		return "", ""
	}
	return recipe.Dose, fmt.Sprintf("A bed of %s is thin in this brewer: water bypasses it, and it drains too fast.",
		q.length(1000*brewer.BedHeight(q.Recipe.Dose)))
}

func moreDose(q inquiry) []recipe.Fix {
	half := math.Ceil(float64(Brewer(q.Gear.Brewer).MinDose())*2) / 2
	return []recipe.Fix{{Address: recipe.AddressOf(recipe.Dose), Value: half}}
}

// runsOver: the slurry rises above the rim.
func runsOver(q inquiry) (recipe.Knob, string) {
	if q.Overflow < 0 {
		return "", ""
	}
	return recipe.Water, fmt.Sprintf("Predicted to overflow at %s: the level would rise to %s, and the rim is at %s.", q.Overflow,
		q.length(q.TopLevel), q.length(q.Rim))
}

// lowerLevel proposes the same water in more pours, which lowers the level, and then less water.
func lowerLevel(q inquiry) []recipe.Fix {
	brewer := Brewer(q.Gear.Brewer)
	over := brewer.Volume(q.TopLevel/1000) - brewer.Volume(q.Rim/1000) // ml
	return append(morePours(q), lessWater(q, float64(q.Recipe.Water())-over)...)
}

// offWindow: the predicted drawdown is outside the target window by more than its error.
func offWindow(q inquiry) (recipe.Knob, string) {
	window := q.window()
	switch {
	case q.Overflow >= 0: // a brew that overflows has no drawdown to compare
		return "", ""
	case !q.Drained && !q.Gear.Grinder.Adjustable():
		return recipe.Water, "Predicted to stall: the bed clogs before the water has drained. Use less coffee and water, or coffee ground coarser."
	case !q.Gear.Grinder.Adjustable():
		return "", ""
	case !q.Drained:
		return recipe.Grind, "Predicted to stall: the bed clogs before the water has drained. Grind coarser."
	case !window.IsSet():
		return "", ""
	case q.Drawdown-q.DrawdownError > window.To:
		return recipe.Grind, fmt.Sprintf("Predicted to drain at %s, after the target %s. Grind coarser.", q.Drawdown, window.To)
	case q.Drawdown+q.DrawdownError < window.From:
		return recipe.Grind, fmt.Sprintf("Predicted to drain at %s, before the target %s. Grind finer.", q.Drawdown, window.From)
	}
	return "", ""
}

// drainOnTime proposes the grind that drains in the middle of the window. If no grind does, it proposes the
// coarsest or the finest, with another amount or number of pours.
func drainOnTime(q inquiry) []recipe.Fix {
	window := q.window()
	var out []recipe.Fix
	if !q.Gear.Grinder.Adjustable() {
		return lessWater(q, float64(q.Recipe.Water()))
	}
	if r, err := Reach(q.Question, DrainIn, recipe.Grind, float64(window.From+window.To)/2); err == nil {
		out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Grind), Value: float64(r.Grind)})
	}
	usual := recipe.Grind.Usual()
	if q.Drained && q.Drawdown < window.From {
		out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Grind), Value: float64(q.Gear.Grinder.Snap(units.Micrometres(usual.Lo)))})
		return append(out, morePours(q)...)
	}
	out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Grind), Value: float64(q.Gear.Grinder.Snap(units.Micrometres(usual.Hi)))})
	return append(out, lessWater(q, float64(q.Recipe.Water()))...)
}

// morePours proposes one or two additional pours.
func morePours(q inquiry) []recipe.Fix {
	if q.Recipe.Release > 0 {
		return nil
	}
	n := q.Recipe.Value(recipe.AddressOf(recipe.Pours))
	return []recipe.Fix{{Address: recipe.AddressOf(recipe.Pours), Value: n + 1}, {Address: recipe.AddressOf(recipe.Pours), Value: n + 2}}
}

// fewerPours proposes fewer pours, down to one.
func fewerPours(q inquiry) []recipe.Fix {
	var out []recipe.Fix
	for n := int(q.Recipe.Value(recipe.AddressOf(recipe.Pours))) - 1; n >= 1; n-- {
		out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Pours), Value: float64(n)})
	}
	return out
}

// lessWater proposes smaller brews, from an amount of water down.
func lessWater(q inquiry, from float64) []recipe.Fix {
	var out []recipe.Fix
	for _, share := range []float64{1, 0.98, 0.95, 0.9, 0.8, 0.65, 0.5, 0.35} {
		if water := math.Floor(from * share); water < float64(q.Recipe.Water()) {
			out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Water), Value: water})
		}
	}
	return out
}

// repeated returns the index of the first pour onto a bed that is already filled. A bloom is meant to sink
// in.
func (q inquiry) repeated() (first int) {
	const most = 4.5 // g per g of dose: the maximum of a bloom
	if first := q.Plan.Steps[0]; first.Bloom || first.Water <= most*q.Recipe.Dose {
		return 2
	}
	return 1
}

// runsDry: the bed is without water for so long before a pour that it cools and packs. Some styles want that.
func runsDry(q inquiry) (recipe.Knob, string) {
	const longest = 12 // s
	if q.Recipe.Style.Style().WantsDryBed() {
		return "", ""
	}
	for i := q.repeated(); i < len(q.Pours); i++ {
		if p := q.Pours[i]; p.Dry > longest && q.Recipe.Pours[i].Cue != recipe.ForDrips {
			return recipe.Gap, fmt.Sprintf("Predicted: the bed has been dry for %.0f s when pour %d begins, and cools.", float64(p.Dry),
				i+1)
		}
	}
	return "", ""
}

// length formats a length in mm in the person's unit.
func (q inquiry) length(mm float64) string { return q.prefs.Unit(units.Length).Format(mm) }

// gap returns the time from pour to pour, s.
func (q inquiry) gap() units.Seconds {
	return units.Seconds(q.Recipe.Value(recipe.AddressOf(recipe.Gap)))
}

// sooner proposes shorter gaps and then, if the hand cannot go faster, fewer pours.
func sooner(q inquiry) []recipe.Fix {
	var out []recipe.Fix
	now, least := q.gap(), q.Recipe.MinGap()
	for _, by := range []units.Seconds{5, 10, 20, 40, 80} {
		if gap := max(now-by, least); gap < now {
			out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Gap), Value: float64(gap)})
		}
	}
	return append(out, fewerPours(q)...)
}

// underWater: so much water is still over the bed that the next timed pour only raises the level.
func underWater(q inquiry) (recipe.Knob, string) {
	const most = 0.55 // of the height between bed and rim
	for i := q.repeated(); i < len(q.Pours); i++ {
		if above := q.Pours[i].Above; above > most*(q.Rim-q.BedHeight) {
			return recipe.Gap, fmt.Sprintf("Predicted: %s of water are still over the bed when pour %d is due.", q.length(above), i+1)
		}
	}
	return "", ""
}

// later proposes longer gaps, or more pours.
func later(q inquiry) []recipe.Fix {
	var out []recipe.Fix
	for longer := units.Seconds(10); longer <= 60; longer += 10 {
		out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Gap), Value: float64(q.gap() + longer)})
	}
	return append(out, morePours(q)...)
}

// maxLoss is the acceptable temperature loss of the last pour, K.
const maxLoss = 5

// coolsDown: a kettle without a thermostat is much too cool for this coffee at the last pour.
func coolsDown(q inquiry) (recipe.Knob, string) {
	n := len(q.Pours)
	if n == 0 || q.Gear.Kettle.Thermostat || q.Recipe.Reheat || q.Recipe.Pours[n-1].Second {
		return "", ""
	}
	last, wanted := q.Pours[n-1].Temperature, min(q.wanted(), q.Recipe.Temperature())
	if wanted-last <= maxLoss {
		return "", ""
	}
	t := q.prefs.Unit(units.Temperature)
	return recipe.Temperature, fmt.Sprintf("Off the heat, %s has cooled to %s by the last pour. Start hotter, pour sooner, or put it "+
		"back on the heat between pours.", q.Gear.Kettle.Name, t.Format(float64(last)))
}

// wanted returns the start temperature for this coffee.
func (q inquiry) wanted() units.Celsius {
	return recipe.StartTemperature(recipe.Situation{Bag: q.Bag, Gear: q.Gear, Now: q.Now})
}

// hotterOrSooner proposes the first temperature at which the last pour is just warm enough, assuming a loss
// proportional to the difference from room temperature.
func hotterOrSooner(q inquiry) []recipe.Fix {
	room, last := q.Air(), q.Pours[len(q.Pours)-1].Temperature
	keeps := float64(last-room) / float64(q.Recipe.Temperature()-room)
	start := math.Ceil(float64(room) + float64(q.wanted()-maxLoss-room)/keeps)
	var out []recipe.Fix
	if start = min(start, hottest(q.Question)); start > float64(q.Recipe.Temperature()) {
		out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Temperature), Value: start})
	}
	if short := float64(max(q.Recipe.MinBloom(), 30)); short < q.Recipe.Value(recipe.AddressOf(recipe.BloomTime)) {
		out = append(out, recipe.Fix{Address: recipe.AddressOf(recipe.BloomTime), Value: short})
	}
	out = append(out, sooner(q)...)
	return append(out, recipe.Fix{Address: recipe.AddressOf(recipe.Between), Value: 1})
}
