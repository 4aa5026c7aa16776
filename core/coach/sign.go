package coach

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A sign is an observation about a brew: it returns a sentence, or an empty string if it does not apply.
type sign func(Case) string

func says(there bool, format string, args ...any) string {
	if !there {
		return ""
	}
	return fmt.Sprintf(format, args...)
}

// Taste.

func sharp(c Case) string { return says(c.step(cup.Acidity) >= 4, "Sharp acidity.") }
func harsh(c Case) string {
	return says(c.step(cup.Bitterness) >= 4 || c.step(cup.Dryness) >= 4, "Bitter or drying.")
}

// sharpAlone and harshAlone: both together indicate an uneven bed.
func sharpAlone(c Case) string { return says(harsh(c) == "", "%s", sharp(c)) }
func harshAlone(c Case) string { return says(sharp(c) == "", "%s", harsh(c)) }

// Strength is not extraction: sour alone does not call for more water, nor bitter alone for less.
func sharpNotHeavy(c Case) string { return says(c.step(cup.Body) <= 3, "%s", sharp(c)) }
func harshNotThin(c Case) string {
	return says(c.step(cup.Body) == 0 || c.step(cup.Body) >= 3, "%s", harsh(c))
}

func thin(c Case) string {
	return says(c.step(cup.Body) == 1 || c.step(cup.Body) == 2, "A thin body.")
}

// complaint is any word for a fault.
var complaint = either(sharp, harsh, thin, muddled, func(c Case) string { return says(len(c.Cup.Faults) > 0, "It has a fault.") })

// onlyThin: thin without a sign of under-extraction. Strength is not extraction.
func onlyThin(c Case) string {
	return says(c.step(cup.Acidity) <= 3 && len(c.Cup.Faults) == 0, "%s", thin(c))
}
func salty(c Case) string   { return says(c.Cup.Faults[cup.Salty], "It tastes salty.") }
func muddled(c Case) string { return says(c.step(cup.Clarity) == 1, "The flavours are muddled.") }
func papery(c Case) string  { return says(c.Cup.Faults[cup.Papery], "It tastes of paper.") }
func flat(c Case) string    { return says(c.Cup.Faults[cup.Flat], "It tastes flat.") }

// liked: a person who would serve the cup or gives it a good mark is right, whatever the words.
func liked(c Case) string {
	if c.Cup.Serve == "yes" {
		return "You would serve it."
	}
	return says(c.Cup.Serve == "" && c.Cup.Overall >= c.good(), "You gave it %d of 10.", c.Cup.Overall)
}

// content: it is sweet and no word indicates a fault, although there is no mark.
func content(c Case) string {
	clean := sharp(c) == "" && harsh(c) == "" && muddled(c) == "" && c.step(cup.Body) != 1 && c.step(cup.Body) != 5 &&
		len(c.Cup.Faults) == 0 && len(c.Cup.Wants) == 0
	return says(clean && c.step(cup.Sweetness) >= 4 && c.Cup.Overall == 0 && c.Cup.Serve == "", "It is sweet, and you name no fault.")
}

// Time.

// muchLater and muchSooner compare the drawdown with the prediction for this recipe.
func muchLater(c Case) string  { return c.timed(c.lag.errors > 1.5, "later") }
func muchSooner(c Case) string { return c.timed(c.lag.errors < -1.5, "sooner") }

func (c Case) timed(there bool, way string) string {
	return says(there, "The drawdown, %s, came %s %s than predicted, %.1f times its error.", c.Cup.Drawdown,
		units.Seconds(math.Abs(float64(c.lag.by))).Span(), way, math.Abs(c.lag.errors))
}

func weakSourFast(c Case) string {
	return says(c.step(cup.Acidity) >= 4 && (c.step(cup.Body) == 1 || c.Cup.TDS > 0 && c.Cup.TDS < 1.15) &&
		(c.lag.errors < -0.8 || c.fast()), "Weak and sour, with a fast drawdown.")
}

// fast and slow compare the drawdown with the target window.
func (c Case) fast() bool {
	return c.Window.IsSet() && c.Cup.Drawdown > 0 && c.drained() < c.Window.From
}
func (c Case) slow() bool { return c.Window.IsSet() && c.drained() > c.Window.To }

// drained returns the drawdown without the part that follows from how it was poured.
func (c Case) drained() units.Seconds { return c.Cup.Drawdown - c.late }

// aside describes that part if it is significant.
func (c Case) aside() string {
	if math.Abs(float64(c.late)) < 5 {
		return ""
	}
	return fmt.Sprintf(", not counting %+.0f s because of how it was poured", float64(c.late))
}

func flowsWell(c Case) string {
	return says(c.Cup.Drawdown > 0 && c.Window.IsSet() && !c.fast() && !c.slow(), "The flow is good: it drained in its window.")
}

func runsSlow(c Case) string {
	return says(c.slow(), "It drained %.0f s past its window%s.", float64(c.drained()-c.Window.To), c.aside())
}

func runsFast(c Case) string {
	return says(c.fast(), "It drained %.0f s before its window%s.", float64(c.Window.From-c.drained()), c.aside())
}

func standing(c Case) string {
	return says(c.Laters >= 2, "There was still water over the bed at %d pours.", c.Laters)
}

// The bed and the brewer.

func flatBed(c Case) string { return says(c.Cup.Bed == cup.FlatBed, "The spent bed is flat.") }

func seenBed(b cup.Bed) sign {
	return func(c Case) string { return says(c.Cup.Bed == b, "The spent bed: %s.", b) }
}

func markedAs(m cup.Mark) sign {
	return func(c Case) string { return says(slices.Contains(c.Marks, m), "You marked a %s.", m) }
}

func seen(s cup.Sight) sign {
	return func(c Case) string { return says(c.Cup.Sights[s], "You saw it: %s.", s) }
}

var iceLeft = seen(cup.IceLeft)

// slowSide and badPaper are marked while pouring, or seen afterwards: one observation.
var (
	slowSide = either(seen(cup.OneSided), markedAs(cup.Outlets))
	badPaper = either(seen(cup.BadSeat), markedAs(cup.Ridge))
)

// faulty names a fault in a sentence.
func faulty(f cup.Fault) string { return fmt.Sprintf("It is %s.", f) }

func wanted(w cup.Want) sign {
	return func(c Case) string { return says(c.Cup.Wants[w], "You want it %s.", w) }
}

func badPour(c Case) string { return says(c.Cup.BadPour, "You say that it was a bad pour.") }

// stalled: a stall that was marked in a brew that drained early is doubted.
func stalled(c Case) string {
	return says(markedStall(c) != "" && !c.fast() || (c.Cup.Bed == cup.Mud || sludge(c) != "") && c.slow(), "The flow stalled.")
}

var sludge = markedAs(cup.Sludge)

var markedStall = markedAs(cup.Stall)

func doubtedStall(c Case) string {
	return says(markedStall(c) != "" && c.fast(), "You marked a stall, but it drained before its window.")
}

func overIce(c Case) string {
	return says(c.Recipe.Serving() == recipe.OverIce, "It was brewed over ice.")
}

// markAlone: a verdict below good, and nothing that tells why.
func markAlone(c Case) string {
	mark, _ := markOf(c.Cup)
	verdict := c.Cup.Overall > 0 || c.Cup.Serve != ""
	return says(verdict && mark < float64(c.good()) && len(c.Cup.Steps) == 0 && len(c.Cup.Faults) == 0 && len(c.Cup.Wants) == 0 && c.Cup.TDS == 0 &&
		!c.Cup.BadPour, "A mark alone gives no cause.")
}

func thinBed(c Case) string {
	return says(c.Gear.Brewer.Kind != "" && !c.Recipe.Steeps() &&
		c.Recipe.Dose < forecast.Brewer(c.Gear.Brewer).MinDose(), "The dose makes a thin bed in this brewer.")
}

func bladeMill(c Case) string {
	return says(!c.Gear.Grinder.Repeatable(), "A blade cannot repeat a grind.")
}

func noHand(c Case) string {
	return says(!c.Recipe.Steeps() && c.Recipe.Value(recipe.AddressOf(recipe.HandAfter)) == 0, "Nothing levels the bed after the bloom.")
}

func smallBloom(c Case) string {
	return says(c.Recipe.Has(recipe.AddressOf(recipe.Bloom)) && c.Recipe.Value(recipe.AddressOf(recipe.Bloom)) < 2, "The bloom is small.")
}

func unrinsed(c Case) string { return says(!c.Recipe.Rinse, "The filter was not rinsed.") }

func coldBrewer(c Case) string {
	heavy := c.Gear.Brewer.Material == gear.Glass || c.Gear.Brewer.Material == gear.Ceramic
	return says(heavy && !c.Recipe.Rinse, "The brewer was cold: %s absorbs a lot of heat.", c.Gear.Brewer.Material)
}

func noThermostat(c Case) string {
	return says(c.Gear.Kettle.Capacity > 0 && !c.Gear.Kettle.Thermostat, "The kettle has no thermostat.")
}

func hotForRoast(c Case) string {
	dark := c.Bag.Roast == coffee.Dark || c.Bag.Roast == coffee.MediumDark
	return says(dark && c.Recipe.Temperature() >= 95, "The water is hot for so dark a roast.")
}

func splitStyle(c Case) bool { return c.Recipe.Style == recipe.Split }

// The water.

func dull(c Case) string {
	return says(c.Cup.Faults[cup.Flat] || c.step(cup.Acidity) == 1, "Hardly any acidity.")
}
func lively(c Case) string { return says(c.step(cup.Acidity) == 3, "Lively acidity.") }

// dulls: the water neutralizes a third of the acids of a coffee that should have some.
func dulls(c Case) string {
	const much, usual = 0.33, 1.35 // %: the TDS of a cup that was not measured
	share, known := c.question().Buffered(cmp.Or(c.Cup.TDS, usual))
	return says(known && share > much && c.Bag.Roast < coffee.MediumDark, "The water neutralizes about %.0f %% of the acids.", 100*share)
}

// bare: a water with hardly any alkalinity.
func bare(c Case) string {
	const little = 15 // mg/l as CaCO₃
	alkalinity, known := c.Gear.Water.Alkalinity()
	return says(c.Gear.Water.ID != "" && known && alkalinity < little, "The water has hardly any alkalinity: %.0f mg/l.", alkalinity)
}

// The coffee.

func old(c Case) string {
	return says(c.Bag.Freshness(c.Now) == coffee.GettingOld, "The bag is past its window.")
}

func veryOld(c Case) string {
	days, known := c.Bag.Age(c.Now)
	return says(known && days > 70, "It was roasted %d days ago.", days)
}

// veryFresh: by its age, or by the dome that its gas makes of the bloom.
func veryFresh(c Case) string {
	if marked := markedAs(cup.Dome)(c); marked != "" {
		return marked + " The coffee is full of gas."
	}
	return says(c.Bag.Freshness(c.Now) == coffee.TooFresh, "The coffee is very fresh, and full of gas.")
}

// either returns the first sign that applies.
func either(signs ...sign) sign {
	return func(c Case) string {
		for _, s := range signs {
			if said := s(c); said != "" {
				return said
			}
		}
		return ""
	}
}

func both(a, b sign) sign {
	return func(c Case) string {
		if a(c) == "" {
			return ""
		}
		return b(c)
	}
}

// A lag is the delay of a drawdown against the prediction, in seconds and in standard errors.
type lag struct {
	by     units.Seconds
	errors float64
}
