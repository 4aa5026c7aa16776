package coach

import (
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A turn is which part of a brew a lever belongs to, in the order of mending.
type turn int

// The order in which most trainers mend: the bed, then the grind, then the water's heat, then the
// ratio. What is left changes the schedule, which is for last.
const (
	bedTurn turn = iota
	grindTurn
	heatTurn
	ratioTurn
	otherTurn
)

// orders are what it costs, in marks, to turn something before what a person turns first.
var orders = map[recipe.FirstTurned][5]float64{
	recipe.BedFirst:   {bedTurn: 0, grindTurn: 0, heatTurn: 0.04, ratioTurn: 0.02, otherTurn: 0.3},
	recipe.GrindFirst: {grindTurn: 0, bedTurn: 0.1, heatTurn: 0.1, ratioTurn: 0.06, otherTurn: 0.35},
	recipe.HeatFirst:  {heatTurn: 0, bedTurn: 0.1, grindTurn: 0.12, ratioTurn: 0.06, otherTurn: 0.35},
}

// A lever is a knob that a hand can turn to mend a cup.
type lever struct {
	knob  recipe.Knob
	turn  turn
	sizes []float64 // how far it is turned at once, in its unit, or in steps of the mill
	// price is what the largest turn costs, in marks: half of it costs a quarter, so that of two
	// changes that promise the same the smaller is made.
	price    float64
	upOnly   bool
	asked    bool   // turned only where practice asks for it, or it mends the bed
	down, up string // why
}

// levers are a trainer's table.
var levers = []lever{
	{knob: recipe.Grind, turn: grindTurn, sizes: []float64{1, 2, 3, 4, 5}, price: 0.35,
		down: "Finer grounds have more surface and hold the water longer.", up: "Coarser grounds let the water through sooner and give less away."},
	{knob: recipe.Temperature, turn: heatTurn, sizes: []float64{2, 4, 6}, price: 0.15,
		down: "Cooler water takes less of the bitter end along; the flow stays about as it is.", up: "Hotter water takes more along in the same time."},
	{knob: recipe.Ratio, turn: ratioTurn, sizes: []float64{0.5, 1, 1.5, 2, 2.5}, price: 0.25,
		down: "Less water on the same dose is stronger.", up: "More water on the same dose is lighter, and clearer."},
	{knob: recipe.Coffee, turn: ratioTurn, sizes: []float64{1, 2, 3, 4}, price: 0.25,
		down: "Less coffee in the same water is lighter.", up: "More coffee in the same water is stronger, and the ice stays as it is."},
	{knob: recipe.Dose, turn: otherTurn, sizes: []float64{1, 2, 4, 6}, price: 0.1, upOnly: true, asked: true,
		up: "A deeper bed holds the water longer and lets less of it slip past."},
	{knob: recipe.Release, turn: grindTurn, sizes: []float64{15, 30, 45, 60}, price: 0.15,
		down: "A shorter steep leaves the late, bitter part behind.", up: "A longer steep takes more along, slowly."},
	{knob: recipe.Bloom, turn: bedTurn, sizes: []float64{0.5, 1}, price: 0.1, upOnly: true,
		up: "More water in the bloom reaches grounds that would stay dry."},
	{knob: recipe.BloomTime, turn: otherTurn, sizes: []float64{15, 30}, price: 0.2, upOnly: true,
		up: "A longer bloom wets the core of each grain before the flow begins."},
	{knob: recipe.HandAfter, turn: bedTurn, price: 0.05, asked: true,
		down: "Without it the fines stay where they are.", up: "A swirl after the bloom and after the last pour levels the bed and wets all of it."},
	{knob: recipe.PourHeight, turn: bedTurn, sizes: []float64{1}, price: 0.05, asked: true,
		down: "A lower stream digs less into the bed.", up: "A higher stream stirs the bed more."},
	{knob: recipe.Pours, turn: otherTurn, sizes: []float64{1}, price: 0.1,
		down: "Fewer pours stir the bed less, so fewer fines settle in it.", up: "More pours wash the grounds with fresh water more often."},
	{knob: recipe.Gap, turn: otherTurn, sizes: []float64{5, 10}, price: 0.1,
		down: "Pours closer together keep the bed under water.", up: "More time between the pours lets the water sink in."},
	{knob: recipe.Wait, turn: otherTurn, sizes: []float64{1}, price: 0.05, upOnly: true,
		up: "Each pour then finds the bed as it should be, however fast it drains today."},
	{knob: recipe.IcePart, turn: otherTurn, sizes: []float64{0.05, 0.1}, price: 0.1, asked: true,
		down: "Less ice, and more of the water through the grounds.", up: "More ice chills it further."},
	{knob: recipe.Dilute, turn: ratioTurn, sizes: []float64{0.05, 0.1}, price: 0.1,
		down: "Less water into the cup keeps it stronger.", up: "More water into the cup opens it up."},
	{knob: recipe.Balance, turn: bedTurn, sizes: []float64{0.05, 0.1}, price: 0.1, asked: true,
		down: "Less in the first pour leans the cup towards sweet.", up: "More in the first pour leans the cup towards bright."},
	{knob: recipe.LastPours, turn: bedTurn, sizes: []float64{1}, price: 0.1, asked: true,
		down: "Fewer last pours make a lighter cup.", up: "More last pours make a stronger cup."},
	{knob: recipe.Rinse, turn: bedTurn, sizes: []float64{1}, upOnly: true,
		up: "The rinse goes down the sink, and the taste of paper with it."},
}

// leverOf is the lever of a knob, or one that says nothing.
func leverOf(k recipe.Knob) lever {
	for _, l := range levers {
		if l.knob == k {
			return l
		}
	}
	return lever{knob: k, turn: otherTurn}
}

// reason says why a change is made.
func reason(c recipe.Change) string {
	if c.To > c.From {
		return leverOf(c.Knob).up
	}
	return leverOf(c.Knob).down
}

// cost is what a turn costs for its size alone, in marks.
func (l lever) cost(size float64) float64 {
	if len(l.sizes) == 0 {
		return l.price
	}
	part := size / l.sizes[len(l.sizes)-1]
	return l.price * part * part
}

// swirled is what the hand is taken to: to nothing, or to a swirl.
var hands = []float64{choice(recipe.HandAfter, string(recipe.Swirl)), choice(recipe.HandAfter, recipe.NoHand.String())}

func choice(k recipe.Knob, name string) float64 {
	for i, c := range k.Choices() {
		if c == name {
			return float64(i)
		}
	}
	return 0
}

// A candidate is a change that can be made, and its size in the lever's own steps.
type candidate struct {
	recipe.Change
	size float64
}

// candidates are all changes that the gear allows and somebody might make.
func (c Case) candidates() []candidate {
	var out []candidate
	add := func(l lever, change recipe.Change, size float64) {
		if !l.asked || mends(change) > 0 || c.practice(change) > 0 {
			out = append(out, candidate{change, size})
		}
	}
	for _, l := range levers {
		at := recipe.Of(l.knob)
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
				if limits.Holds(to) && !(l.upOnly && to < from) {
					add(l, recipe.Change{Address: at, From: c.Recipe.Value(at), To: to}, n)
				}
			}
		}
	}
	return out
}

// turns says whether a lever is there and makes sense: a blade's seconds are no clicks; over
// ice it is the coffee, not the water, that makes a drink stronger; a rinse is for paper.
func (c Case) turns(l lever) bool {
	iced := c.Recipe.Serving() == recipe.OverIce
	switch l.knob {
	case recipe.Grind:
		return c.Gear.Grinder.Burrs != gear.Blade
	case recipe.Coffee:
		return iced
	case recipe.Ratio:
		return !iced
	case recipe.Bloom, recipe.HandAfter, recipe.PourHeight:
		return !c.Recipe.Steeps() && c.Recipe.Has(recipe.Of(l.knob))
	case recipe.Rinse:
		return !c.Recipe.Rinse
	}
	return c.Recipe.Has(recipe.Of(l.knob))
}

// scale is where a knob stands, what one step of it is, and how far it goes.
func (c Case) scale(k recipe.Knob) (from, step float64, limits units.Range) {
	from, step, limits = c.Recipe.Value(recipe.Of(k)), 1, k.Usual()
	switch k {
	case recipe.Grind:
		if step = math.Abs(float64(c.Gear.Grinder.Step)); step == 0 {
			step = 40
		}
		from = float64(c.Gear.Grinder.Snap(units.Micrometres(from)))
	case recipe.Temperature:
		limits.Hi = float64(gear.Hottest(c.Gear.Boiling))
	case recipe.Dose, recipe.Coffee:
		limits.Hi = c.Gear.Brewer.Kind.Form().Dose.Hi
	}
	return from, step, limits
}
