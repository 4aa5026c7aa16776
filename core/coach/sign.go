package coach

import (
	"fmt"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/units"
)

// A sign is one thing that can be seen in a brew: it returns the sentence that
// says so, or nothing where it is not there.
type sign func(Case) string

func says(there bool, format string, args ...any) string {
	if !there {
		return ""
	}
	return fmt.Sprintf(format, args...)
}

// Taste. Steps 1 and 5 of a sense are its ends.
func sour(c Case) string {
	return says(c.step(cup.Acidity) >= 4, "The acidity is %s.", cup.Word(cup.Acidity, c.step(cup.Acidity)))
}

func bitter(c Case) string {
	return says(c.step(cup.Bitterness) >= 4, "The bitterness is %s.", cup.Word(cup.Bitterness, c.step(cup.Bitterness)))
}

func dry(c Case) string {
	return says(c.step(cup.Dryness) >= 4, "It leaves the mouth dry.")
}

func harsh(c Case) string { return either(bitter, dry)(c) }

func sweet(c Case) string {
	return says(c.step(cup.Sweetness) >= 3, "It is sweet.")
}

func salty(c Case) string { return says(c.Cup.Faults[cup.Salty], "It tastes salty.") }

func hollow(c Case) string { return says(c.Cup.Faults[cup.Hollow], "It is hollow in the middle.") }

func short(c Case) string {
	return says(c.step(cup.Aftertaste) == 1 || c.step(cup.Aftertaste) == 2, "The aftertaste is short.")
}

func under(c Case) string { return either(sour, salty)(c) }

func thin(c Case) string  { return says(c.step(cup.Body) == 1, "The body is thin.") }
func heavy(c Case) string { return says(c.step(cup.Body) == 5, "The body is heavy.") }

func muddled(c Case) string { return says(c.step(cup.Clarity) == 1, "The flavours are muddled.") }

func papery(c Case) string { return says(c.Cup.Faults[cup.Papery], "It tastes of paper.") }

func flat(c Case) string { return says(c.Cup.Faults[cup.Flat], "It tastes flat.") }

func tasted(c Case) string { return says(c.Cup.Taste.Given(), "It was tasted.") }

// liked: whoever would serve it, or gives a good mark, is right, whatever else is said.
func liked(c Case) string {
	const good = 8 // of 10
	if c.Cup.Serve == "yes" {
		return "You would serve it."
	}
	return says(c.Cup.Serve == "" && c.Cup.Overall >= good, "You gave it %d of 10.", c.Cup.Overall)
}

// disliked: they gave it less than a fair mark, or would not serve it.
func disliked(c Case) string {
	const fair = 7 // of 10
	if c.Cup.Serve == "no" {
		return "You would not serve it."
	}
	return says(c.Cup.Serve == "" && c.Cup.Overall > 0 && c.Cup.Overall < fair, "You gave it %d of 10.", c.Cup.Overall)
}

// Time, against the window wanted for this coffee.
func fast(c Case) string {
	early := c.Window.From - c.Cup.Drawdown
	return says(c.Cup.Drawdown > 0 && c.Window.Set() && early > 0, "The drawdown, %s, is %.0f s before its window.", c.Cup.Drawdown, float64(early))
}

func slow(c Case) string {
	late := c.Cup.Drawdown - c.Window.To
	return says(c.Cup.Drawdown > 0 && c.Window.Set() && late > 0, "The drawdown, %s, is %.0f s past its window.", c.Cup.Drawdown, float64(late))
}

func onTime(c Case) string {
	return says(c.Cup.Drawdown > 0 && fast(c) == "" && slow(c) == "", "The drawdown, %s, is in its window.", c.Cup.Drawdown)
}

// clogging is a drawdown so late that the next step finer may stop the flow.
func clogging(c Case) string {
	const nearly units.Seconds = 40
	return says(c.Cup.Drawdown > c.Window.To+nearly && c.Window.Set(), "The bed nearly clogs.")
}

func stalled(c Case) string {
	return says(c.marked(cup.Stall) != "" || c.Cup.Bed == cup.Mud && slow(c) != "", "The flow stalled.")
}

// The bed.
func uneven(c Case) string {
	if m := c.marked(cup.DrySpot, cup.Channel); m != "" {
		return fmt.Sprintf("You marked a %s.", m)
	}
	return says(c.Cup.Bed.Uneven(), "The spent bed: %s.", c.Cup.Bed)
}

// What the refractometer says, where its error leaves no doubt. The usual range
// of a filter brew is 18 to 22 % and about 1.15 to 1.45 %.
func lowYield(c Case) string {
	y, ok := c.Yield()
	return says(ok && y.Value+y.Error < 18.5, "The yield, %s, is low.", y)
}

func highYield(c Case) string {
	y, ok := c.Yield()
	return says(ok && y.Value-y.Error > 22.5, "The yield, %s, is high.", y)
}

func weak(c Case) string {
	return says(c.Cup.TDS > 0 && c.Cup.TDS < 1.15, "The strength, %.2f %%, is low.", c.Cup.TDS)
}

func strong(c Case) string {
	return says(c.Cup.TDS > 1.55, "The strength, %.2f %%, is high.", c.Cup.TDS)
}

func old(c Case) string {
	return says(c.Bag.Freshness(c.Now) == coffee.GettingOld, "The bag is past its window.")
}

// either is the first of the signs that is there.
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
