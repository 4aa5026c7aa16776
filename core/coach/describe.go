package coach

import (
	"cmp"
	"fmt"
	"math"
	"strings"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// ways holds the texts of an increase and a decrease of each knob; %s is the size.
var ways = map[recipe.Knob]struct{ up, down string }{
	recipe.Dose:        {"%s more coffee", "%s less coffee"},
	recipe.Coffee:      {"%s more coffee in the same water", "%s less coffee in the same water"},
	recipe.Water:       {"%s more", "%s less"},
	recipe.Temperature: {"%s hotter", "%s cooler"},
	recipe.Bloom:       {"a larger bloom", "a smaller bloom"},
	recipe.BloomTime:   {"bloom %s longer", "bloom %s shorter"},
	recipe.Rate:        {"pour faster", "pour slower"},
	recipe.Gap:         {"pours %s further apart", "pours %s closer together"},
	recipe.PourHeight:  {"pour from higher", "pour lower"},
	recipe.Release:     {"steep %s longer", "steep %s shorter"},
	recipe.Rinse:       {"rinse the filter", "do not rinse the filter"},
	recipe.Start:       {"%s later", "%s earlier"},
	recipe.IcePart:     {"%s more ice", "%s less ice"},
	recipe.Dilute:      {"%s more dilution", "%s less dilution"},
	recipe.CrustAt:     {"break the crust %s later", "break the crust %s earlier"},
	recipe.Balance:     {"more in the first pour", "less in the first pour"},
	recipe.Discard:     {"discard %s more of the beginning", "discard %s less of the beginning"},
}

// Describe describes a change of a recipe in the person's units: what to do, and the resulting value.
func Describe(r recipe.Recipe, g gear.Grinder, c recipe.Change, prefs units.Prefs) (say, leadsTo string) {
	u := prefs.Unit(c.Knob.Kind())
	size := u.Size(c.To - c.From)
	if c.Knob == recipe.Release || c.Knob == recipe.Start || c.Knob == recipe.CrustAt {
		size = prefs.Unit(units.Span).Size(c.To - c.From)
	}
	leadsTo = u.Format(c.To)
	switch c.Knob {
	case recipe.Grind:
		from, to := units.Micrometres(c.From), units.Micrometres(c.To)
		return g.DescribeMove(g.Nudge(from, to-from), from), fmt.Sprintf("%s (%s)", g.Setting(to), u.Format(c.To))
	case recipe.Ratio:
		water := prefs.Unit(units.Water)
		more := math.Round(float64(r.Dose)*c.To) - math.Round(float64(r.Dose)*c.From)
		return fmt.Sprintf("%s %s water on the same dose", water.Size(more), oneOf(more > 0, "more", "less")),
			fmt.Sprintf("%s, %s", u.Format(c.To), water.Format(math.Round(float64(r.Dose)*c.To)))
	case recipe.SameCup:
		then := r.With(c.Address, c.To)
		return fmt.Sprintf("%s %s, for the same cup", prefs.Unit(units.Dose).Size(float64(then.Dose-r.Dose)), oneOf(then.Dose > r.Dose, "more coffee",
				"less coffee")), fmt.Sprintf("%s, %s of coffee and %s of water", u.Format(c.To), prefs.Unit(units.Dose).Format(float64(then.Dose)),
				prefs.Unit(units.Water).Format(float64(then.Water())))
	case recipe.FinerCooler:
		then := r.With(c.Address, c.To)
		grind, setting := Describe(r, g, recipe.Change{Address: recipe.AddressOf(recipe.Grind), From: c.From, To: c.To}, prefs)
		heat, celsius := Describe(r, g, recipe.Change{Address: recipe.AddressOf(recipe.Temperature), From: float64(r.Temperature()),
			To: float64(then.Temperature())}, prefs)
		return grind + " and " + heat, setting + " and " + celsius
	case recipe.HandAfter:
		return describeHand(c)
	case recipe.Served:
		return "serve it " + c.Knob.Choices()[int(c.To)], c.Knob.Choices()[int(c.To)]
	case recipe.IceFrom:
		return "ice from " + c.Knob.Choices()[int(c.To)], c.Knob.Choices()[int(c.To)]
	case recipe.CarafeOf:
		return "a " + c.Knob.Choices()[int(c.To)] + " carafe", c.Knob.Choices()[int(c.To)]
	case recipe.DiluteBy:
		return "dilute with " + c.Knob.Choices()[int(c.To)], c.Knob.Choices()[int(c.To)]
	case recipe.Wait:
		say, leadsTo = "pour "+c.Knob.Choices()[int(c.To)], c.Knob.Choices()[int(c.To)]
	case recipe.Source:
		say, leadsTo = "pour from "+c.Knob.Choices()[int(c.To)], c.Knob.Choices()[int(c.To)]
	case recipe.Between:
		return "kettle " + c.Knob.Choices()[int(c.To)] + " between the pours", c.Knob.Choices()[int(c.To)]
	case recipe.IceAt:
		say = "ice at " + leadsTo
	case recipe.GlassIce:
		say = leadsTo + " of large ice in the glass"
	case recipe.Level:
		if say = "pour to " + leadsTo + " of the height"; c.To == 0 {
			say = "pour by weight"
		}
	case recipe.Screen:
		return oneOf(c.To > 0, "pour through a dispersing screen", "pour without the screen"), oneOf(c.To > 0, "with a screen", "no screen")
	case recipe.CutAt:
		if c.To == 0 {
			return "let it drain", "without a cut"
		}
		return "lift the brewer off at " + leadsTo, leadsTo + " in the carafe"
	case recipe.First:
		return c.Knob.Choices()[int(c.To)] + " in first", c.Knob.Choices()[int(c.To)] + " first"
	case recipe.Pours, recipe.LastPours:
		n := math.Abs(c.To - c.From)
		say = fmt.Sprintf("%s pours %s", units.Trim(n, 0), oneOf(c.To > c.From, "more", "less"))
		if n == 1 {
			say = "one pour " + oneOf(c.To > c.From, "more", "less")
		}
		if c.Knob == recipe.Pours {
			leadsTo += " after the bloom"
		}
	case recipe.PourPattern:
		pattern := c.Knob.Choices()[int(c.To)]
		return "pour in " + oneOf(strings.HasSuffix(pattern, "s"), pattern, "a "+pattern), pattern
	default:
		way := ways[c.Knob]
		say = oneOf(c.To > c.From, way.up, way.down)
		if strings.Contains(say, "%s") {
			say = fmt.Sprintf(say, size)
		}
	}
	switch c.Knob {
	case recipe.PourHeight:
		leadsTo = c.Knob.Choices()[int(c.To)]
	case recipe.Gap:
		leadsTo = "every " + leadsTo
	case recipe.Rinse:
		leadsTo = oneOf(c.To > 0, "rinsed", "not rinsed")
	}
	if c.Pour > 0 {
		say = fmt.Sprintf("pour %d: %s", c.Pour, say)
	}
	return say, leadsTo
}

// describeHand describes another hand action after the bloom and the last pour, or after one pour.
func describeHand(c recipe.Change) (say, leadsTo string) {
	hands := recipe.Hands()
	was, is := hands[int(c.From)], hands[int(c.To)]
	after := "after the bloom and after the last pour"
	if c.Pour > 0 {
		after = fmt.Sprintf("after pour %d", c.Pour)
	}
	noun := map[recipe.HandAction]string{recipe.WashWall: "wash of the wall"}
	if is == recipe.NoHand {
		return fmt.Sprintf("drop the %s", cmp.Or(noun[was], string(was))), fmt.Sprintf("no %s", cmp.Or(noun[was], string(was)))
	}
	return fmt.Sprintf("%s %s", is, after), fmt.Sprintf("with a %s", cmp.Or(noun[is], string(is)))
}

func oneOf(yes bool, a, b string) string {
	if yes {
		return a
	}
	return b
}
