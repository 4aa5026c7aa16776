package coach

import (
	"fmt"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/units"
)

// A sign is one thing that can be seen in a brew: it returns the sentence that
// says so, or nothing where it is not there.
type sign func(Brew) string

func says(there bool, format string, args ...any) string {
	if !there {
		return ""
	}
	return fmt.Sprintf(format, args...)
}

// Taste. Steps 1 and 5 of a sense are its ends.
func sour(b Brew) string {
	return says(b.step(cup.Acidity) >= 4, "The acidity is %s.", cup.Word(cup.Acidity, b.step(cup.Acidity)))
}

func bitter(b Brew) string {
	return says(b.step(cup.Bitterness) >= 4, "The bitterness is %s.", cup.Word(cup.Bitterness, b.step(cup.Bitterness)))
}

func dry(b Brew) string {
	return says(b.step(cup.Dryness) >= 4, "It leaves the mouth dry.")
}

func harsh(b Brew) string { return either(bitter, dry)(b) }

func sweet(b Brew) string {
	return says(b.step(cup.Sweetness) >= 3, "It is sweet.")
}

func salty(b Brew) string { return says(b.Cup.Faults[cup.Salty], "It tastes salty.") }

func hollow(b Brew) string { return says(b.Cup.Faults[cup.Hollow], "It is hollow in the middle.") }

func short(b Brew) string {
	return says(b.step(cup.Aftertaste) == 1 || b.step(cup.Aftertaste) == 2, "The aftertaste is short.")
}

func under(b Brew) string { return either(sour, salty)(b) }

func thin(b Brew) string  { return says(b.step(cup.Body) == 1, "The body is thin.") }
func heavy(b Brew) string { return says(b.step(cup.Body) == 5, "The body is heavy.") }

func muddled(b Brew) string { return says(b.step(cup.Clarity) == 1, "The flavours are muddled.") }

func papery(b Brew) string { return says(b.Cup.Faults[cup.Papery], "It tastes of paper.") }

func flat(b Brew) string { return says(b.Cup.Faults[cup.Flat], "It tastes flat.") }

func tasted(b Brew) string { return says(b.Cup.Taste.Given(), "It was tasted.") }

func liked(b Brew) string {
	return says(b.Cup.Serve == "yes" || b.Cup.Serve == "" && b.Cup.Overall >= 7, "You would serve it.")
}

// Time, against the window wanted for this coffee.
func fast(b Brew) string {
	early := b.Window.From - b.Cup.Drawdown
	return says(b.Cup.Drawdown > 0 && b.Window.Set() && early > 0, "The drawdown, %s, is %.0f s before its window.", b.Cup.Drawdown, float64(early))
}

func slow(b Brew) string {
	late := b.Cup.Drawdown - b.Window.To
	return says(b.Cup.Drawdown > 0 && b.Window.Set() && late > 0, "The drawdown, %s, is %.0f s past its window.", b.Cup.Drawdown, float64(late))
}

func onTime(b Brew) string {
	return says(b.Cup.Drawdown > 0 && fast(b) == "" && slow(b) == "", "The drawdown, %s, is in its window.", b.Cup.Drawdown)
}

// clogging is a drawdown so late that the next step finer may stop the flow.
func clogging(b Brew) string {
	const nearly units.Seconds = 40
	return says(b.Cup.Drawdown > b.Window.To+nearly && b.Window.Set(), "The bed nearly clogs.")
}

func stalled(b Brew) string {
	return says(b.marked(brew.Stall) != "" || b.Cup.Bed == cup.Mud && slow(b) != "", "The flow stalled.")
}

// The bed.
func uneven(b Brew) string {
	if m := b.marked(brew.DrySpot, brew.Channel); m != "" {
		return fmt.Sprintf("You marked a %s.", m)
	}
	return says(b.Cup.Bed.Uneven(), "The spent bed: %s.", b.Cup.Bed)
}

// What the refractometer says, where its error leaves no doubt. The usual field
// of a filter brew is 18 to 22 % and about 1.15 to 1.45 %.
func lowYield(b Brew) string {
	y, ok := b.Yield()
	return says(ok && y.Value+y.Error < 18.5, "The yield, %s, is low.", y)
}

func highYield(b Brew) string {
	y, ok := b.Yield()
	return says(ok && y.Value-y.Error > 22.5, "The yield, %s, is high.", y)
}

func weak(b Brew) string {
	return says(b.Cup.TDS > 0 && b.Cup.TDS < 1.15, "The strength, %.2f %%, is low.", b.Cup.TDS)
}

func strong(b Brew) string {
	return says(b.Cup.TDS > 1.55, "The strength, %.2f %%, is high.", b.Cup.TDS)
}

func old(b Brew) string {
	return says(b.Freshness == coffee.GettingOld, "The bag is past its window.")
}

// either is the first of the signs that is there.
func either(signs ...sign) sign {
	return func(b Brew) string {
		for _, s := range signs {
			if said := s(b); said != "" {
				return said
			}
		}
		return ""
	}
}
