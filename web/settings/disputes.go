package settings

import (
	"slices"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A dispute is a question that practitioners answer differently.
type dispute struct {
	ID, Ask string
	texts
	// knob and sides are the setting of each side, the one that is named first; without a knob, Named holds the names of the sides
	// in a trial, and without those the two cannot be compared.
	knob  recipe.Knob
	sides func(recipe.Knob, forecast.Question) [2]float64
	Named string
}

// texts are the two answers, and the product's default with its reason.
type texts struct{ Some, Others, We string }

// Compared reports whether the model can compare the two sides.
func (d dispute) Compared() bool { return d.knob != "" }

// Tried reports whether a trial can compare the two sides.
func (d dispute) Tried() bool { return d.knob != "" || d.Named != "" }

func between(a, b float64) func(recipe.Knob, forecast.Question) [2]float64 {
	return func(recipe.Knob, forecast.Question) [2]float64 { return [2]float64{a, b} }
}

func choices(a, b string) func(recipe.Knob, forecast.Question) [2]float64 {
	return func(k recipe.Knob, _ forecast.Question) [2]float64 {
		return [2]float64{float64(slices.Index(k.Choices(), a)), float64(slices.Index(k.Choices(), b))}
	}
}

// boilingOrByRoast returns the hottest water here and the temperature for the roast.
func boilingOrByRoast(_ recipe.Knob, q forecast.Question) [2]float64 {
	return [2]float64{float64(gear.MaxTemperature(q.Gear.Boiling)), float64(recipe.StartTemperature(q.Situation()))}
}

// finerOrCoarser returns a tenth finer and a tenth coarser than the recipe, as the dial has them.
func finerOrCoarser(_ recipe.Knob, q forecast.Question) [2]float64 {
	snap, g := q.Gear.Grinder.Snap, q.Recipe.Grind
	return [2]float64{float64(snap(g * 0.9)), float64(snap(g * 1.1))}
}

// disputes lists the questions on which practitioners disagree, with the product's default.
var disputes = []dispute{
	{ID: "rinse", Ask: "Rinse the paper?", knob: recipe.Rinse, sides: between(1, 0),
		texts: texts{"It removes the taste of paper, seals the paper against the wall and warms the brewer.",
			"Many papers taste of nothing; corrugated ones collapse when they are wet and choke one side.",
			"We rinse all but corrugated paper and cloth: a rinse costs a minute, a papery cup the whole brew."}},
	{ID: "well", Ask: "A well in the bed?", Named: "a small well, a level bed",
		texts: texts{"The bloom reaches the deepest grounds at once.", "A level bed drains evenly, and a well becomes a channel.",
			"We make a small one in a cone, where the bed is deep in the middle, and level all others."}},
	{ID: "bloom", Ask: "How large a bloom, and how long?", knob: recipe.Bloom, sides: between(2, 4),
		texts: texts{"Twice the dose for half a minute: more is washed away.",
			"Three to four times, for a minute or more: nothing stays dry.",
			"Three times for 45 s, and 15 s longer for coffee of a few days: by the model, less than twice leaves clumps dry, and more than " +
				"three adds little."}},
	{ID: "hand", Ask: "Swirl, stir, or hands off?", knob: recipe.HandAfter, sides: choices(recipe.Swirl.String(), recipe.NoHand.String()),
		texts: texts{"A swirl levels the bed and wets all of it.",
			"Agitation moves fines down, where they clog the filter; a spoon reaches deeper than a swirl.",
			"One swirl after the bloom and one after the last pour: it opens most clumps and moves the fewest fines."}},
	{ID: "heat", Ask: "How hot?", knob: recipe.Temperature, sides: boilingOrByRoast,
		texts: texts{"Always at the boil: adjust the extraction with the grind.",
			"By the roast: dark coffee turns harsh in very hot water.",
			"By the roast, from {96 °C} for light to {87 °C} for dark, a degree more for coffee grown high, two less for decaf."}},
	{ID: "pattern", Ask: "Where to pour?", knob: recipe.PourPattern, sides: choices(string(recipe.Centre), string(recipe.Spiral)),
		texts: texts{"Only in the middle, away from the wall.", "In spirals, over everything except the wall.",
			"In spirals away from the wall: water at the wall bypasses the bed."}},
	{ID: "height", Ask: "How high?", knob: recipe.PourHeight, sides: choices(recipe.High.String(), recipe.Low.String()),
		texts: texts{"High: the stream stirs, and cools a little.", "Low: the bed stays undisturbed.",
			"From a hand’s width, with a low last pour, so that the bed settles flat."}},
	{ID: "pours", Ask: "One pour or many?", knob: recipe.Pours, sides: between(1, 5),
		texts: texts{"One: nothing disturbs the bed.", "Many: fresh water on the bed each time.",
			"Three: easy to repeat. In the model the same water in the same time gives the same yield for any number of pours; they change " +
				"the agitation."}},
	{ID: "over", Ask: "Poured too much?",
		texts: texts{"Reduce the next pour: the total is the recipe.", "Keep it, and pour the rest for the same strength.",
			"We keep the total, since a scale shows it; the strength or the yield can be kept instead, by the model."}},
	{ID: "order", Ask: "What to adjust first?",
		texts: texts{"The grind: it has the largest effect.", "The temperature: it does not change the flow.",
			"The bed, then the grind, the temperature, the ratio: an uneven bed tastes sour and bitter at once, and no grind corrects that."}},
	{ID: "grind", Ask: "Finer or coarser?", knob: recipe.Grind, sides: finerOrCoarser,
		texts: texts{"As fine as it still drains, for the highest extraction.", "Coarser with more pours: a clear cup that never clogs.",
			"In the middle, where the model drains it in the style’s time, based on your own brews."}},
}

// disputesIn returns the disputes with their figures in a person's units.
func disputesIn(prefs units.Prefs) []dispute {
	out := slices.Clone(disputes)
	for i := range out {
		out[i].We = prefs.Localize(out[i].We)
	}
	return out
}
