package words

import (
	"fmt"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Differences describes the changes from one draft to another, such as "2 clicks finer, a larger bloom";
// empty for none.
func Differences(before, after brew.Draft, prefs units.Prefs) string {
	var out []string
	if before.Recipe.Style != after.Recipe.Style {
		out = append(out, after.Recipe.Style.Style().Name)
	} else {
		for _, c := range recipe.Changes(before.Recipe, after.Recipe) {
			say, _ := coach.Describe(after.Recipe, after.Gear.Grinder, c, prefs)
			out = append(out, say)
		}
		if a, b := len(before.Recipe.Pours), len(after.Recipe.Pours); a != b && !after.Recipe.Has(recipe.AddressOf(recipe.Pours)) {
			out = append(out, fmt.Sprintf("%d pours instead of %d", b, a))
		}
	}
	for _, g := range []struct{ was, is string }{{before.Gear.Brewer.Name, after.Gear.Brewer.Name},
		{before.Gear.Grinder.Name, after.Gear.Grinder.Name}, {before.Gear.Kettle.Name, after.Gear.Kettle.Name},
		{before.Gear.Water.Name, after.Gear.Water.Name}} {
		if g.was != g.is && g.is != "" {
			out = append(out, "with "+g.is)
		}
	}
	return strings.Join(out, ", ")
}

// Drawdown formats a predicted drawdown: "3:18 ± 0:12", or "stalls".
func Drawdown(f forecast.Figures) string {
	if !f.Drained {
		return "stalls"
	}
	return fmt.Sprintf("%s ± %s", f.Drawdown, f.DrawdownError)
}
