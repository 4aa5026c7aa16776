package coach_test

import (
	"maps"
	"strings"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// A brewing modifies a cup for a situation.
type brewing func(*coach.Case)

// with returns the first recipe of a style in a brewer with a drawdown as predicted and a flat bed.
func with(kind gear.BrewerKind, style recipe.StyleID, changes ...brewing) coach.Case {
	q := forecast.Question{Bag: coffee.Bag{Roast: coffee.Medium, Process: coffee.Washed, RoastedOn: "2026-04-25"}, Now: morning,
		Gear: gear.Set{Boiling: 100, Kettle: gear.Kettle{Thermostat: true, Capacity: 900},
			Brewer:  gear.Brewer{Kind: kind, Material: gear.Plastic, Filter: kind.Form().Filter, Holds: 480, Retained: 2},
			Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}}}}
	q.Recipe = forecast.FirstRecipe(q, style)
	c := coach.Case{Recipe: q.Recipe, Bag: q.Bag, Now: morning, Gear: q.Gear}
	var f forecast.Forecast
	if f.Run(q) == nil {
		c.Window, c.Cup.Drawdown = f.Plan.Window, f.Drawdown
	}
	c.Cup.Bed, c.Cup.Steps, c.Cup.Faults = cup.FlatBed, map[cup.Sense]int{}, map[cup.Fault]bool{}
	for _, change := range changes {
		change(&c)
	}
	return c
}

func cone(changes ...brewing) coach.Case {
	return with(gear.OpenCone, recipe.ThreeRounds, changes...)
}
func flatBed(changes ...brewing) coach.Case {
	return with(gear.FlatBed, recipe.ThreeRounds, changes...)
}
func heavyCone(changes ...brewing) coach.Case {
	return with(gear.HeavyCone, recipe.ThreeRounds, changes...)
}
func steeper(changes ...brewing) coach.Case {
	return with(gear.ValveSteeper, recipe.SteepAndRelease, changes...)
}
func iced(changes ...brewing) coach.Case {
	return with(gear.OpenCone, recipe.IceHotAndSlow, changes...)
}
func diluted(changes ...brewing) coach.Case {
	return with(gear.OpenCone, recipe.Concentrate, changes...)
}
func split(changes ...brewing) coach.Case { return with(gear.OpenCone, recipe.Split, changes...) }

// asPredicted sets the drawdown to the prediction.
func asPredicted(c *coach.Case) {
	var f forecast.Forecast
	if f.Run(forecast.Question{Recipe: c.Recipe, Bag: c.Bag, Now: c.Now, Gear: c.Gear}) == nil {
		c.Cup.Drawdown = f.Drawdown
	}
}

// tastes sets senses: a letter and a step each, such as "a5 b1".
func tastes(said string) brewing {
	letters := map[byte]cup.Sense{'a': cup.Acidity, 'b': cup.Bitterness, 's': cup.Sweetness, 'o': cup.Body, 'd': cup.Dryness,
		'c': cup.Clarity, 't': cup.Aftertaste}
	return func(c *coach.Case) {
		c.Cup.Steps = maps.Clone(c.Cup.Steps)
		for word := range strings.FieldsSeq(said) {
			c.Cup.Steps[letters[word[0]]] = int(word[1] - '0')
		}
	}
}

func mark(n int) brewing        { return func(c *coach.Case) { c.Cup.Overall = n } }
func serve(s string) brewing    { return func(c *coach.Case) { c.Cup.Serve = s } }
func bed(b cup.Bed) brewing     { return func(c *coach.Case) { c.Cup.Bed = b } }
func marked(m cup.Mark) brewing { return func(c *coach.Case) { c.Marks = append(c.Marks, m) } }
func fault(f cup.Fault) brewing { return func(c *coach.Case) { c.Cup.Faults[f] = true } }
func saw(s cup.Sight) brewing {
	return func(c *coach.Case) { c.Cup.Sights = map[cup.Sight]bool{s: true} }
}
func wants(w cup.Want) brewing {
	return func(c *coach.Case) { c.Cup.Wants = map[cup.Want]bool{w: true} }
}
func roasted(day string) brewing { return func(c *coach.Case) { c.Bag.RoastedOn = day } }
func mill(b gear.Burrs) brewing {
	return all(func(c *coach.Case) {
		c.Gear.Grinder.Burrs = b
		c.Recipe = forecast.FirstRecipe(forecast.Question{Recipe: c.Recipe, Bag: c.Bag, Now: c.Now, Gear: c.Gear}, c.Recipe.Style)
		c.Window = c.Recipe.Plan().Window
	}, asPredicted)
}
func cools(c *coach.Case)            { c.Gear.Kettle.Thermostat = false }
func boils(at float64) brewing       { return func(c *coach.Case) { c.Gear.Boiling = units.Celsius(at) } }
func later(by units.Seconds) brewing { return func(c *coach.Case) { c.Cup.Drawdown += by } }
func laters(n int) brewing           { return func(c *coach.Case) { c.Laters = n } }

func brewedWith(hardness, alkalinity float64) brewing {
	return func(c *coach.Case) {
		c.Gear.Water = water.Water{ID: "water", Name: "the water", TypedHardness: hardness, TypedAlkalinity: alkalinity, Known: true}
	}
}

func turned(k recipe.Knob, v float64) brewing {
	return all(func(c *coach.Case) { c.Recipe = c.Recipe.With(recipe.AddressOf(k), v) }, asPredicted)
}
func turnedBy(k recipe.Knob, v float64) brewing {
	return func(c *coach.Case) {
		c.Recipe = c.Recipe.With(recipe.AddressOf(k), c.Recipe.Value(recipe.AddressOf(k))+v)
	}
}

// measured sets the TDS for a yield.
func measured(yield float64) brewing {
	return func(c *coach.Case) {
		c.Cup.Beverage = c.Recipe.Amounts(2).Cup
		c.Cup.TDS = units.Round(yield*float64(c.Recipe.Dose/c.Cup.Beverage), 2)
	}
}

// after adds earlier cups, each derived from this one.
func after(earlier ...brewing) brewing {
	return func(c *coach.Case) {
		now := *c
		for _, change := range earlier {
			before := now
			before.Cup.Faults = map[cup.Fault]bool{}
			change(&before)
			c.Path = append(c.Path, before)
		}
	}
}

func all(changes ...brewing) brewing {
	return func(c *coach.Case) {
		for _, change := range changes {
			change(c)
		}
	}
}

// situations lists cups with the answers that a good trainer would accept and refuse, for the first and the
// second choice: a knob with a direction, or the kind of advice.
var situations = []struct {
	name           string
	cup            coach.Case
	accept, refuse string
}{
	// Sour, bitter, and the clock.
	{"sour, on time", cone(tastes("a4 b1 s2 o3")), "grind- temperature+", "grind+ temperature- ratio- ratio+"},
	{"very sour, and a low mark", cone(tastes("a5 b1 s1 o3"), mark(3)), "grind-", "grind+ temperature-"},
	{"sour and fast", cone(tastes("a4 b1 s2 o3"), later(-35)), "grind-", "grind+ temperature-"},
	{"sour and slow", cone(tastes("a4 b1 s2 o3"), later(45)), "temperature+ bloom_time+ ratio+", "grind- grind+ temperature-"},
	{"bitter, good flow", cone(tastes("a2 b4 s3 o3")), "temperature- grind+", "grind- temperature+"},
	{"harsh, good flow", cone(tastes("a2 b5 s2 o3"), mark(4)), "temperature- grind+", "grind- temperature+"},
	{"bitter and slow", cone(tastes("a2 b4 s2 o3"), later(45)), "grind+", "grind- temperature+"},
	{"dry and slow", cone(tastes("a2 d5 s2 o3"), later(45)), "grind+", "grind- temperature+"},
	{"bitter and fast", cone(tastes("a3 b4 s2 o3"), later(-45)), "temperature- hand+ bloom+ height- repeat", "grind- temperature+"},
	{"salty and short", cone(tastes("a4 s1 t1"), fault(cup.Salty)), "grind- temperature+", "grind+ temperature- ratio+"},
	{"hollow and sour", cone(tastes("a4 s2"), fault(cup.Hollow)), "grind- temperature+ bloom+ hand+ height-", "grind+ ratio-"},
	{"a little sharp, else good", cone(tastes("a4 b2 s4 o3"), mark(7)), "stop repeat grind- temperature+", "grind+ ratio-"},
	// Strength is not extraction.
	{"thin, else good", cone(tastes("a3 b2 s4 o1")), "ratio-", "grind- grind+ ratio+"},
	{"light, else good", cone(tastes("a3 b2 s4 o2"), mark(7)), "ratio- stop repeat", "grind+ ratio+"},
	{"heavy, else good", cone(tastes("a3 b2 s4 o5")), "ratio+", "grind- ratio-"},
	{"heavy and bitter", cone(tastes("a2 b4 s3 o5")), "ratio+ grind+", "grind- ratio-"},
	{"thin and sour", cone(tastes("a4 b1 s2 o1")), "grind- ratio- bloom+ hand+ height-", "grind+ ratio+"},
	{"thin, and measured weak", cone(tastes("a3 b2 s4 o1"), measured(18.6)), "ratio- grind-", "ratio+ grind+"},
	{"stronger, please", cone(tastes("a3 b2 s3 o3"), wants(cup.Stronger)), "ratio-", "ratio+"},
	{"lighter, please", cone(tastes("a3 b2 s3 o3"), wants(cup.Lighter)), "ratio+", "ratio-"},
	{"lighter, please, though they would serve it", cone(tastes("a3 b2 s4 o3"), serve("yes"), wants(cup.Lighter)), "ratio+",
		"ratio- grind-"},
	{"lighter, please, though it is sour", cone(tastes("a5 b1 s2 o3"), mark(5), wants(cup.Lighter)), "ratio+", "ratio-"},
	{"stronger, please, over ice", iced(tastes("a3 b2 s3 o3"), wants(cup.Stronger)), "coffee+", "coffee- ice+"},
	{"brighter, please", cone(tastes("a2 b2 s3 o3"), wants(cup.Brighter)), "grind+ temperature-", "grind- temperature+"},
	{"sweeter, please", cone(tastes("a4 b1 s2 o3"), wants(cup.Sweeter)), "grind- temperature+", "grind+ temperature-"},
	// The bed first.
	{"sour and bitter", cone(tastes("a5 b5 s2 o3")), "bloom+ height- hand+ repeat", "grind- grind+ ratio- ratio+"},
	{"sour and bitter, no swirl", cone(turned(recipe.HandAfter, 0), tastes("a5 b5 s2 o3")), "bloom+ hand+ height-",
		"grind- grind+ ratio- ratio+"},
	{"sour and bitter, cratered", cone(tastes("a5 b4 s2 o3"), bed(cup.Cratered)), "height- bloom+", "grind- grind+"},
	{"sour and bitter, dry pockets", cone(tastes("a5 b4 s2 o3"), bed(cup.DryPocket)), "bloom+ hand+", "grind- grind+"},
	{"weak, sour and fast", cone(tastes("a5 o1 s1"), later(-45)), "grind- bloom+ hand+ height- repeat", "grind+ ratio+"},
	{"a channel was marked, sour", cone(tastes("a4 s2"), marked(cup.Channel)), "bloom+ height- hand+ repeat", "grind+ ratio-"},
	{"a dry spot was marked, sour and bitter", cone(tastes("a4 b4 s2"), marked(cup.DrySpot)), "bloom+ hand+", "grind- grind+ ratio-"},
	{"grounds high on the wall", cone(tastes("a4 b4 s2"), bed(cup.HighWalls)), "height- hand+", "grind- grind+ ratio-"},
	{"a sloped bed, sour and bitter", cone(tastes("a4 b4 s2"), bed(cup.Sloped)), "repeat hand+ bloom+", "grind- grind+"},
	{"one outlet faster than the others", flatBed(tastes("a4 b3 s2"), saw(cup.OneSided), bed(cup.Sloped)), "repeat", "grind- grind+"},
	{"a ridge of the filter collapsed", flatBed(tastes("a4 b4 s2"), saw(cup.BadSeat)), "repeat", "grind- grind+"},
	{"uneven beds, but it tastes good", cone(tastes("a3 b2 s4 o3"), bed(cup.Cratered), serve("yes")), "stop", "*"},
	{"cratered, and a clean taste", cone(tastes("a3 b2 s4 o3"), bed(cup.Cratered), mark(7)), "stop repeat height- hand+ bloom+",
		"grind- grind+"},
	{"a bad pour, they say", cone(tastes("a5 b4 s1"), func(c *coach.Case) { c.Cup.BadPour = true }), "repeat", "grind- grind+ ratio-"},
	// Clogging and stirring.
	{"stalled", cone(tastes("a2 b4"), marked(cup.Stall), later(120)), "grind+ pours- hand-", "grind- pours+"},
	{"mud on top, slow and bitter", cone(tastes("a2 b4 s2"), bed(cup.Mud), later(60)), "grind+ pours- hand-", "grind- pours+"},
	{"water standing at each next pour", cone(tastes("a2 b3 s3"), laters(3), later(30)), "wait+ gap+ grind+ pours-", "grind- pours+"},
	{"muddled", cone(tastes("a3 b2 c1 s3 o3")), "hand- height-", "grind- hand+"},
	{"nearly clogged, and sour", cone(turned(recipe.Grind, 400), tastes("a5 b1 s1"), later(150)),
		"grind+ temperature+ bloom_time+ bloom+ hand+ height- repeat ratio+ pours-", "grind-"},
	// Coffee and paper.
	{"papery, not rinsed", cone(turned(recipe.Rinse, 0), tastes("a3 s3"), fault(cup.Papery)), "rinse+", "grind- grind+"},
	{"papery though rinsed", cone(tastes("a3 s3"), fault(cup.Papery)), "repeat", "rinse+ grind- grind+ ratio-"},
	{"flat, past its window", cone(tastes("a2 s1 o2"), fault(cup.Flat), roasted("2026-03-20")), "new bag", "*"},
	{"an 80-day bag, flat", cone(tastes("a2 s1 o2"), fault(cup.Flat), roasted("2026-02-20")), "new bag", "*"},
	{"an 80-day bag that they would serve", cone(tastes("a2 s3"), roasted("2026-02-20"), serve("yes")), "stop", "*"},
	{"a one-day bag, sour", cone(tastes("a4 b2 s2"), roasted("2026-05-11")), "bloom_time+ bloom+ grind- repeat", "grind+"},
	{"sour from a cold ceramic brewer", cone(turned(recipe.Rinse, 0),
		func(c *coach.Case) { c.Gear.Brewer.Material, c.Gear.Kettle.Thermostat = gear.Ceramic, false }, tastes("a4 b1 s2 o3")),
		"rinse+ temperature+", "grind+ temperature-"},
	{"a dark roast at the boil, bitter", cone(func(c *coach.Case) { c.Bag.Roast = coffee.Dark }, turned(recipe.Temperature, 99),
		tastes("a1 b5 s2 o3")), "temperature-", "grind- temperature+"},
	// Water.
	{"flat in alkaline water", cone(brewedWith(180, 220), tastes("a1 b2 s2 o3")), "another water", "grind- grind+ temperature+"},
	{"sharp in the same water", cone(brewedWith(180, 220), tastes("a4 b1 s2 o3")), "grind- temperature+ bloom+ bloom_time+ hand+ repeat",
		"ratio-"},
	{"flat in soft water", cone(brewedWith(60, 30), tastes("a1 b4 s2 o3")), "grind+ temperature- ratio+ repeat", "grind-"},
	{"sharp in water without minerals", cone(brewedWith(5, 3), tastes("a5 b1 s2 o2")), "another water", "*"},
	// Good enough is a result.
	{"slow, yet sweet", cone(tastes("a3 b2 s4"), later(40)), "stop", "*"},
	{"would serve it, though it is sour", cone(tastes("a5 b4"), serve("yes")), "stop", "*"},
	{"a good mark and nothing else", cone(mark(8)), "stop", "*"},
	{"a good mark against its words", cone(tastes("a5 b1 s1"), mark(9)), "stop", "*"},
	{"a good mark that they would not serve", cone(tastes("a5 b1 s2"), mark(8), serve("no")), "grind- temperature+ repeat", "grind+ stop"},
	{"good words, no mark", cone(tastes("a3 b2 s4 o3 c4")), "stop", "*"},
	{"a low yield that tastes sweet", cone(tastes("a3 b2 s4 o3"), measured(17.2), mark(8)), "stop", "*"},
	{"nothing said", cone(), "taste", "*"},
	{"measured only, low", cone(measured(16.5)), "grind- temperature+ ratio+", "grind+ temperature-"},
	{"measured only, about right", cone(measured(20.6)), "stop repeat", "ratio-"},
	// Limits count.
	{"a blade mill, sour", cone(mill(gear.Blade), tastes("a5 b1 s1")), "temperature+ bloom_time+ ratio+ pours+ gap+ bloom+ wait+",
		"grind- grind+"},
	{"a blade mill, bitter", cone(mill(gear.Blade), tastes("a1 b5 s2")), "temperature- ratio- gap- pours-", "grind- grind+"},
	{"as fine as it goes, sour", cone(turned(recipe.Grind, 385), tastes("a5 b1 s1")),
		"temperature+ bloom_time+ ratio+ bloom+ repeat pours-", "grind-"},
	{"the kettle at the boil, slow and sour", cone(turned(recipe.Temperature, 100), tastes("a4 b1 s2"), later(45)),
		"bloom_time+ ratio+ pours- repeat bloom+ wait+ gap+", "temperature+ grind-"},
	{"water boils at 93 °C, sour", cone(turned(recipe.Temperature, 93), boils(93.4), tastes("a4 b1 s2")), "grind-", "temperature+ grind+"},
	{"a dose too small for the brewer", with(gear.FlatBed, recipe.ThreeRounds, turned(recipe.Dose, 8), tastes("a4 s2 o2"), later(-20)),
		"dose+", "grind+ temperature-"},
	{"weak or under, and a refractometer on the bench", cone(tastes("a3 b2 s1 o2"), func(c *coach.Case) { c.Measures = true }), "measure",
		"*"},
	// The other brewers.
	{"flat bed, sour", flatBed(tastes("a4 b1 s2 o3")), "grind- temperature+", "grind+ ratio-"},
	{"flat bed, bitter and slow", flatBed(tastes("a2 b4 s2 o3"), later(45)), "grind+", "grind-"},
	{"heavy cone, bitter and slow", heavyCone(tastes("a2 b5 s2 o3"), later(50)), "grind+", "grind-"},
	{"heavy cone, thin", heavyCone(tastes("a3 b2 s4 o1")), "ratio-", "ratio+ grind+"},
	{"steeper, sour", steeper(tastes("a4 b1 s2 o3")), "grind- release+ temperature+", "grind+ release- temperature-"},
	{"steeper, bitter", steeper(tastes("a2 b5 s2 o3")), "grind+ release- temperature-", "grind- release+ temperature+"},
	{"steeper, thin", steeper(tastes("a3 b2 s4 o1")), "ratio-", "ratio+ grind+"},
	{"a steeper that drains at once, weak and sour", steeper(tastes("a4 b1 s1 o2"), later(-60)), "grind- release+", "grind+ release-"},
	{"a steeper's cup that is good", steeper(tastes("a3 b2 s4 o3"), mark(9)), "stop", "*"},
	// Over ice, diluted, split.
	{"ice left over", iced(tastes("a3 b2 s3 o4"), saw(cup.IceLeft)), "ice-", "ice+ coffee+"},
	{"watery over ice", iced(tastes("a3 b2 s3 o1")), "coffee+", "ice- ratio-"},
	{"bitter over ice", iced(tastes("a2 b5 s2 o3")), "grind+ temperature-", "grind- temperature+"},
	{"sour over ice", iced(tastes("a5 b1 s2 o3")), "grind- temperature+ bloom_time+", "grind+ temperature- ice-"},
	{"diluted and watery", diluted(tastes("a3 b2 s4 o1")), "dilution- ratio-", "dilution+ ratio+"},
	{"diluted and heavy", diluted(tastes("a3 b2 s4 o5")), "dilution+ ratio+", "dilution- ratio-"},
	{"sharp for this drinker in the split style", split(tastes("a4 b2 s3 o3")), "balance-", "balance+"},
	{"thin for this drinker in the split style", split(tastes("a3 b2 s4 o1")), "last_pours+ ratio-", "last_pours- ratio+"},
	// The path.
	{"finer made it worse: back, or half of the way", cone(tastes("a2 b5 s2 o3"), mark(4),
		after(all(turnedBy(recipe.Grind, 80), tastes("a4 b2 s3"), mark(6)))), "grind+", "grind- temperature+ ratio-"},
	{"hotter made it worse", cone(tastes("a2 b4 s2 o3"), mark(4),
		after(all(turnedBy(recipe.Temperature, -4), tastes("a3 b3 s3"), mark(7)))), "temperature-", "grind- temperature+ ratio-"},
	{"a step finer, and the two are indistinguishable", cone(tastes("a4 b1 s2"), mark(5),
		after(all(turnedBy(recipe.Grind, 20), tastes("a4 b1 s2"), mark(5)))), "grind- temperature+", "grind+ ratio-"},
	{"finer twice without effect", cone(tastes("a4 b1 s2"), mark(5),
		after(all(turnedBy(recipe.Grind, 40), tastes("a4 b1 s2"), mark(5)), all(turnedBy(recipe.Grind, 20), tastes("a4 b1 s2"), mark(5)))),
		"temperature+ ratio+ bloom_time+ bloom+ pours+ repeat", "grind-"},
	{"finer, coarser, finer", cone(tastes("a4 b1 s2"), mark(6), after(
		all(turnedBy(recipe.Grind, 20), tastes("a4 b2 s2"), mark(6)), all(turnedBy(recipe.Grind, -40), tastes("a2 b4 s2"), mark(6)))),
		"grind- temperature+ ratio+ repeat", "grind+"},
	{"a kept recipe that was bad once", cone(tastes("a5 b2 s2"), mark(5), after(all(tastes("a3 b2 s4"), mark(9)))), "repeat", "*"},
	{"liked before, and bad after a turn", cone(tastes("a5 b1 s2"), mark(5),
		after(all(turnedBy(recipe.Grind, -60), tastes("a3 b2 s4"), mark(9)))), "back grind-", "grind+ ratio-"},
	// A mark alone gives no cause.
	{"a low mark and nothing else", cone(mark(4)), "taste", "*"},
	{"a low mark alone over ice", iced(mark(3)), "taste", "*"},
	{"they would not serve it, and say no more", steeper(serve("no")), "taste", "*"},
	// Far away, the way back has steps.
	{"1 : 22, thin", cone(turned(recipe.Ratio, 22), tastes("a3 b2 s3 o1"), mark(4)), "ratio-", "ratio+ grind+"},
	{"1 : 23 in a flat bed, thin and sour", flatBed(turned(recipe.Ratio, 23), tastes("a4 b1 s2 o1"), mark(4)), "ratio- grind-", "ratio+ grind+"},
	{"1 : 10, heavy", cone(turned(recipe.Ratio, 10), tastes("a3 b3 s3 o5"), mark(4)), "ratio+", "ratio- grind-"},
	// A stall in a fast brew is doubted.
	{"a stall was marked, and it drained fast, sour", cone(tastes("a4 b1 s2 o3"), marked(cup.Stall), later(-40)), "grind- temperature+ repeat",
		"grind+ pours-"},
	{"the same in a flat bed", flatBed(tastes("a5 b1 s2 o2"), marked(cup.Stall), later(-40)), "grind- temperature+ repeat bloom+", "grind+ pours-"},
	// A very fresh bag gets a longer bloom before the mill moves.
	{"a two-day bag, very sour", cone(tastes("a5 b1 s2 o3"), mark(5), roasted("2026-05-10")), "bloom_time+ bloom+", "grind+"},
	{"a one-day bag in a flat bed, sour", flatBed(tastes("a4 b1 s2"), roasted("2026-05-11")), "bloom_time+ bloom+", "grind+"},
	// A kettle that cools is poured sooner before the mill moves.
	{"a kettle that cools, sour", cone(cools, tastes("a4 b1 s2 o3")), "temperature+", "grind+"},
	{"a kettle that cools, sour in a heavy cone", heavyCone(cools, tastes("a5 b1 s2 o3"), mark(5)), "temperature+", "grind+"},
	// Fast, sour and thin on an even bed is finer.
	{"fast, sour and thin, a flat bed seen", cone(tastes("a5 b1 s2 o1"), later(-45), mark(4)), "grind-", "grind+ ratio+"},
	{"fast, sour and thin in a heavy cone", heavyCone(tastes("a4 b1 s2 o2"), later(-45)), "grind-", "grind+ ratio+"},
	// Over ice, the temperature first.
	{"iced, bitter, flows well", iced(tastes("a2 b4 s3 o3"), mark(6)), "temperature-", "grind- temperature+"},
	{"iced, very bitter", iced(tastes("a1 b5 d4 s2")), "temperature- grind+", "grind- temperature+"},
	{"iced, sour", iced(tastes("a4 b2 s3 o3"), mark(6)), "temperature+", "grind+ temperature-"},
	// Where water still stands, a longer gap.
	{"water stands at two pours, bitter", cone(tastes("a2 b4 s3"), laters(2)), "wait+ gap+", "grind- pours+"},
	{"water stands in a flat bed", flatBed(tastes("a3 b3 s3"), laters(3), mark(6)), "wait+ gap+", "grind- pours+"},
	// The split style has special levers.
	{"sour in the split style", split(tastes("a5 b1 s2 o3"), mark(5)), "balance-", "balance+ grind+"},
	{"weak in the split style", split(tastes("a3 b2 s3 o2"), mark(6)), "last_pours+", "last_pours- ratio+"},
	// Coffee over ice is one change, remembered like any other.
	{"more coffee over ice made it too strong", iced(tastes("a2 b3 s2 o5"), mark(4), after(all(turnedBy(recipe.Coffee, -3), tastes("a3 b2 s3 o3"),
		mark(7)))), "back coffee-", "coffee+ ice-"},
	{"more coffee over ice helped, still thin", iced(tastes("a3 b2 s3 o2"), mark(6), after(all(turnedBy(recipe.Coffee, -2), tastes("a3 b2 s3 o1"),
		mark(4)))), "coffee+", "coffee-"},
	{"measured, sour though much came out", cone(tastes("a5 b2 s2 o3"), measured(23.5)),
		"repeat bloom+ hand+ height- ratio- grind+ grind- temperature- measure", "temperature+ ratio+"},
}

// tokens returns the first and second choice of an advice in the notation of the table.
func tokens(a coach.Advice) (first, second string) {
	token := func(p *coach.Proposal) string {
		if p == nil {
			return ""
		}
		knob := p.Knob
		if knob == recipe.SameCup { // another way to the same ratio
			knob = recipe.Ratio
		}
		if p.To > p.From {
			return string(knob) + "+"
		}
		return string(knob) + "-"
	}
	if a.First == nil {
		return string(a.Do), ""
	}
	return token(a.First), token(a.Second)
}

// lists reports whether a list of tokens contains one; "*" matches every change.
func lists(list, token string) bool {
	return token != "" && strings.Contains(" "+list+" ", " "+token+" ") || list == token || list == "*" && strings.ContainsAny(token, "+-")
}

// Every request gets a change in its direction or a sentence about it. Mutations caught: a good cup that
// gets "change nothing" with a cause under 5 %, a fault or a bad pour that hides the request, a large step
// on a good cup.
func TestEveryWishIsAnswered(t *testing.T) {
	t.Parallel()
	towards := map[cup.Want]string{
		cup.Lighter: "ratio+ coffee- dilution+", cup.Stronger: "ratio- coffee+ dilution-",
		cup.Brighter: "grind+ temperature- release- balance+",
		cup.Sweeter:  "grind- grind+ temperature+ temperature- balance-",
	}
	badPour := func(c *coach.Case) { c.Cup.BadPour = true }
	good, sour := tastes("a3 b2 s4 o3"), tastes("a5 b1 s1 o2")
	for _, want := range cup.Wants() {
		for name, c := range map[string]coach.Case{
			"good cone": cone(good, mark(9), wants(want)), "served": cone(good, serve("yes"), wants(want)),
			"good flat bed": heavyCone(good, mark(9), wants(want)),
			"good steeper":  steeper(good, mark(9), wants(want)), "good over ice": iced(good, mark(9), wants(want)),
			"good split": split(good, mark(8), wants(want)),
			"sour":       cone(sour, mark(4), wants(want)), "bad pour": cone(sour, badPour, wants(want)),
			"stale":    cone(good, roasted("2025-08-01"), wants(want)),
			"cratered": cone(sour, bed(cup.Cratered), wants(want)), "blade": cone(mill(gear.Blade), good, wants(want)),
		} {
			a := coach.Advise(c)
			if a.Rule != coach.AskedFor || !strings.Contains(a.Verdict, string(want)) {
				t.Errorf("%s, %s: %s: %s (%s)", want, name, a.Rule, a.Verdict, a.Instead)
				continue
			}
			if first, _ := tokens(a); a.First != nil && !lists(towards[want], first) {
				t.Errorf("%s, %s: answered with %s", want, name, first)
			}
		}
	}
	c := cone(good, mark(9), wants(cup.Brighter))
	if a := coach.Advise(c); a.First == nil || strings.Contains(a.First.Say, "3 clicks") || len(a.Evidence) == 0 {
		t.Errorf("brighter on a good cup: %+v", a)
	}
	c.Cup.Wants = map[cup.Want]bool{cup.Lighter: true, cup.Stronger: true}
	if a := coach.Advise(c); a.First != nil || !strings.Contains(a.Verdict, "lighter and stronger") {
		t.Errorf("lighter and stronger at once: %s", a.Verdict)
	}
}

// If the mark and the words contradict each other, the coach tells which it followed.
func TestCoachSaysWhichWordItFollowed(t *testing.T) {
	t.Parallel()
	a := coach.Advise(cone(tastes("a5 b1 s1"), mark(9)))
	if a.Do != coach.Stop || len(a.Against) != 1 || !strings.Contains(a.Against[0], "was followed") {
		t.Errorf("9 of 10 for a sour cup: %+v", a)
	}
	c := cone(tastes("a5 b1 s1"), mark(6))
	c.Good = 6
	if a := coach.Advise(c); a.Do != coach.Stop {
		t.Errorf("6 of 10, where 6 is good: %s", a.Do)
	}
}

func TestAdviceInJudgedSituations(t *testing.T) {
	t.Parallel()
	if len(situations) < 60 {
		t.Errorf("%d situations", len(situations))
	}
	for _, s := range situations {
		a := coach.Advise(s.cup)
		first, second := tokens(a)
		back := a.Do == coach.GoBack && lists(s.accept, "back")
		if !lists(s.accept, first) && !back || lists(s.refuse, first) || lists(s.refuse, second) {
			t.Errorf("%s: %q, and %q behind it; %s (%.0f %%); accepted are %q, refused %q", s.name, first, second, a.Verdict, 100*a.Chance,
				s.accept, s.refuse)
		}
		if a.First != nil && (a.First.Reason == "" || a.First.LeadsTo == "" || a.First.Say == "" || len(a.Evidence) == 0) {
			t.Errorf("%s: a change without reason, goal, words or evidence: %+v", s.name, a)
		}
		if a.First == nil && a.Instead == "" || a.Verdict == "" || a.Because == "" {
			t.Errorf("%s: no answer: %+v", s.name, a)
		}
	}
}
