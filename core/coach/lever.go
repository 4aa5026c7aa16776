package coach

import (
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A direction is the part of a brew that a lever affects, in the order in which they are corrected.
type direction int

// The order in which most trainers correct: bed, grind, temperature, ratio. The rest changes the schedule
// and comes last.
const (
	bedTurn direction = iota
	grindTurn
	heatTurn
	ratioTurn
	otherTurn
)

// orders holds the cost, in marks, of a lever that the person does not prefer.
var orders = map[recipe.LeverOrder][5]float64{
	recipe.BedFirst:   {bedTurn: 0, grindTurn: 0, heatTurn: 0.04, ratioTurn: 0.02, otherTurn: 0.3},
	recipe.GrindFirst: {grindTurn: 0, bedTurn: 0.1, heatTurn: 0.1, ratioTurn: 0.06, otherTurn: 0.35},
	recipe.HeatFirst:  {heatTurn: 0, bedTurn: 0.1, grindTurn: 0.12, ratioTurn: 0.06, otherTurn: 0.35},
}

// A lever is a knob that can correct a cup.
type lever struct {
	knob  recipe.Knob
	turn  direction
	sizes []float64 // sizes of a change, in its unit, or in steps of the grinder
	// price is the cost of the largest size, in marks. Half the size costs a quarter, so that the smaller
	// of two equally good changes is preferred.
	price    float64
	upOnly   bool
	once     bool   // only from its first choice
	asked    bool   // used only if practice recommends it or it evens out the bed
	down, up string // reasons
}

// levers is a table of trainers' experience.
var levers = []lever{
	{knob: recipe.Grind, turn: grindTurn, sizes: []float64{1, 2, 3, 4, 6, 8}, price: 0.6,
		down: "Finer grounds have more surface and slow the water down.",
		up:   "Coarser grounds drain faster and extract less."},
	{knob: recipe.Temperature, turn: heatTurn, sizes: []float64{2, 4, 6}, price: 0.15,
		down: "Cooler water extracts fewer bitter compounds and hardly changes the flow.",
		up:   "Hotter water extracts more in the same time."},
	{knob: recipe.Ratio, turn: ratioTurn, sizes: []float64{0.5, 1, 1.5, 2, 2.5}, price: 0.25,
		down: "Less water for the same dose is stronger.", up: "More water for the same dose is lighter and clearer."},
	{knob: recipe.SameCup, turn: ratioTurn, sizes: []float64{1, 1.5, 2}, price: 0.6,
		down: "More coffee and less water make the same amount stronger, with a deeper bed.",
		up:   "Less coffee and more water make the same amount lighter."},
	{knob: recipe.FinerCooler, turn: heatTurn, sizes: []float64{1, 2}, price: 0.2, asked: true,
		down: "Finer grounds slow the water down, and cooler water keeps the bitterness out.",
		up:   "Coarser grounds let the water through, and hotter water extracts as much in less time."},
	{knob: recipe.Coffee, turn: ratioTurn, sizes: []float64{1, 2, 3, 4}, price: 0.25,
		down: "Less coffee in the same water is lighter.", up: "More coffee in the same water is stronger, with the same ice."},
	{knob: recipe.Dose, turn: otherTurn, sizes: []float64{1, 2, 4, 6}, price: 0.1, upOnly: true, asked: true,
		up: "A deeper bed slows the water down and has less bypass."},
	{knob: recipe.Release, turn: grindTurn, sizes: []float64{15, 30, 45, 60}, price: 0.15,
		down: "A shorter steep extracts fewer bitter compounds.", up: "A longer steep extracts a little more."},
	{knob: recipe.Bloom, turn: bedTurn, sizes: []float64{0.5, 1}, price: 0.1, upOnly: true,
		up: "A larger bloom wets grounds that would stay dry."},
	{knob: recipe.BloomTime, turn: otherTurn, sizes: []float64{15, 30}, price: 0.2, upOnly: true,
		up: "A longer bloom wets the core of each grain before the flow begins."},
	{knob: recipe.HandAfter, turn: bedTurn, price: 0.05, asked: true,
		down: "Without a swirl the fines stay in place.", up: "A swirl after the bloom and after the last pour levels the bed and wets " +
			"all of it."},
	{knob: recipe.PourHeight, turn: bedTurn, sizes: []float64{1}, price: 0.05, asked: true,
		down: "A lower stream digs less into the bed.", up: "A higher stream stirs the bed more."},
	{knob: recipe.Pours, turn: otherTurn, sizes: []float64{1}, price: 0.1,
		down: "Fewer pours stir the bed less, so fewer fines settle in it.",
		up:   "More pours wash the grounds with fresh water more often."},
	{knob: recipe.Gap, turn: otherTurn, sizes: []float64{5, 10}, price: 0.1,
		down: "Pours closer together keep the bed under water.", up: "More time between the pours lets the water sink in."},
	{knob: recipe.Wait, turn: otherTurn, sizes: []float64{1}, price: 0.05, upOnly: true, once: true,
		up: "Each pour then starts at the right moment, however fast the bed drains today."},
	{knob: recipe.IcePart, turn: otherTurn, sizes: []float64{0.05, 0.1}, price: 0.1, asked: true,
		down: "Less ice, and more of the water through the grounds.", up: "More ice chills it further."},
	{knob: recipe.Dilute, turn: ratioTurn, sizes: []float64{0.05, 0.1}, price: 0.1,
		down: "Less dilution keeps it stronger.", up: "More dilution makes the flavours clearer."},
	{knob: recipe.Balance, turn: bedTurn, sizes: []float64{0.05, 0.1}, price: 0.1, asked: true,
		down: "Less water in the first pour makes the cup sweeter.", up: "More water in the first pour makes the cup brighter."},
	{knob: recipe.LastPours, turn: bedTurn, sizes: []float64{1}, price: 0.1, asked: true,
		down: "Fewer last pours make a lighter cup.", up: "More last pours make a stronger cup."},
	{knob: recipe.Rinse, turn: bedTurn, sizes: []float64{1}, upOnly: true,
		up: "A rinse removes the taste of paper."},
}

// leverOf returns the lever of a knob, or an empty one.
func leverOf(k recipe.Knob) lever {
	for _, l := range levers {
		if l.knob == k {
			return l
		}
	}
	return lever{knob: k, turn: otherTurn}
}

// reason returns the reason of a change.
func reason(c recipe.Change) string {
	if c.To > c.From {
		return leverOf(c.Knob).up
	}
	return leverOf(c.Knob).down
}

// cost returns the cost of a change for its size alone, in marks.
func (l lever) cost(size float64) float64 {
	if len(l.sizes) == 0 {
		return l.price
	}
	part := size / l.sizes[len(l.sizes)-1]
	return l.price * part * part
}

// hands lists the tested hand actions: none and a swirl.
var hands = []float64{choice(recipe.HandAfter, string(recipe.Swirl)), choice(recipe.HandAfter, recipe.NoHand.String())}

func choice(k recipe.Knob, name string) float64 {
	for i, c := range k.Choices() {
		if c == name {
			return float64(i)
		}
	}
	return 0
}

// A candidate is a possible change, with its size in the lever's steps.
type candidate struct {
	recipe.Change
	size float64
}

// candidates lists all plausible changes that the gear allows.
func (c Case) candidates() []candidate {
	var out []candidate
	add := func(l lever, change recipe.Change, size float64) {
		if l.knob == recipe.FinerCooler && !c.heats(change) {
			return
		}
		if !l.asked || mends(change) > 0 || c.practice(change) > 0 {
			out = append(out, candidate{change, size})
		}
	}
	for _, l := range levers {
		at := recipe.AddressOf(l.knob)
		if !c.turns(l) {
			continue
		}
		if l.knob == recipe.HandAfter {
			was := c.Recipe.Value(at)
			for _, to := range hands {
				if (to > 0) != (was > 0) {
					add(l, recipe.Change{Address: at, From: was, To: to}, 1)
				}
			}
			continue
		}
		from, step, limits := c.scale(l.knob)
		for _, n := range l.sizes {
			for _, to := range []float64{from - n*step, from + n*step} {
				if (limits.Contains(to) || comesBack(from, to, limits)) && !(l.upOnly && to < from) && !(l.once && from > 0) {
					add(l, recipe.Change{Address: at, From: c.Recipe.Value(at), To: to}, n)
				}
			}
		}
	}
	return out
}

// heats reports whether the kettle reaches the temperature of a joint change.
func (c Case) heats(change recipe.Change) bool {
	then := c.Recipe.With(change.Address, change.To).Temperature()
	return then != c.Recipe.Temperature() && then <= gear.MaxTemperature(c.Gear.Boiling) && recipe.Temperature.Usual().Contains(float64(then))
}

// comesBack reports whether a change leads back towards the usual range from outside of it.
func comesBack(from, to float64, usual units.Range) bool {
	return from > usual.Hi && to < from && to > usual.Lo || from < usual.Lo && to > from && to < usual.Hi
}

// turns reports whether a lever exists and makes sense: a blade has no clicks; over ice the coffee, not the
// water, makes a drink stronger; only paper is rinsed.
func (c Case) turns(l lever) bool {
	iced := c.Recipe.Serving() == recipe.OverIce
	switch l.knob {
	case recipe.Grind, recipe.FinerCooler:
		return c.Gear.Grinder.Repeatable() && c.Gear.Grinder.Adjustable()
	case recipe.Coffee:
		return iced
	case recipe.Ratio, recipe.SameCup:
		return !iced
	case recipe.Bloom, recipe.HandAfter, recipe.PourHeight:
		return !c.Recipe.Steeps() && c.Recipe.Has(recipe.AddressOf(l.knob))
	case recipe.Rinse:
		return !c.Recipe.Rinse
	}
	return c.Recipe.Has(recipe.AddressOf(l.knob))
}

// scale returns the present value of a knob, its step and its limits.
func (c Case) scale(k recipe.Knob) (from, step float64, limits units.Range) {
	from, step, limits = c.Recipe.Value(recipe.AddressOf(k)), 1, k.Usual()
	switch k {
	case recipe.Grind, recipe.FinerCooler:
		if step = math.Abs(float64(c.Gear.Grinder.Step)); step == 0 {
			step = 40
		}
		from = float64(c.Gear.Grinder.Snap(units.Micrometres(from)))
	case recipe.Temperature:
		limits.Hi = float64(gear.MaxTemperature(c.Gear.Boiling))
	case recipe.Dose, recipe.Coffee:
		limits.Hi = c.Gear.Brewer.Kind.Form().Dose.Hi
	}
	return from, step, limits
}
