package shelf

import (
	"fmt"
	"math"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/units"
	"yardbloom/web/chart"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// bestText says which recipe of a path is the best so far, and how sure that is; empty without marks.
func bestText(path []brew.Brew, prefs units.Prefs) string {
	best, ok := brew.BestOf(path)
	if !ok {
		return ""
	}
	b := best.Brew
	say := fmt.Sprintf("Best so far: grind %s, %s, %s, with %s", b.Gear.Grinder.Setting(b.AsBrewed().Grind),
		prefs.Unit(units.Ratio).Format(b.Recipe.Ratio()), prefs.Unit(units.Temperature).Format(float64(b.Recipe.Temperature())),
		units.Trim(best.Mark, 1)+" of 10")
	if best.Brews > 1 {
		say += fmt.Sprintf(" on average of %d brews", best.Brews)
	}
	switch {
	case best.Chance == 0:
		return say + ". There is no other recipe to compare it with."
	case best.Chance < 0.6:
		return say + ". Another one is as good, as far as the marks tell."
	}
	return say + fmt.Sprintf(". It is the better one with %.0f %%: marks of equal cups scatter.", math.Min(99, 100*best.Chance))
}

// courseCharts draws the marks, yields and drawdowns of the brews on a path, with the change before each.
func courseCharts(path []brew.Brew, steps []station.PathBrew) []page.Chart {
	best, _ := brew.BestOf(path)
	marks := chart.Chart{Title: "Mark, of 10", Line: true, Lo: 1, Hi: 10}
	yields := chart.Chart{Title: "Extraction yield, %", Line: true, Decimals: 1}
	times := chart.Chart{Title: "Drawdown, min", Line: true, Format: func(v float64) string { return units.Seconds(v).String() }}
	var ticks []chart.Tick
	for i, b := range path {
		x, note := float64(i+1), ""
		if at := slices.IndexFunc(steps, func(s station.PathBrew) bool { return s.ID == b.ID }); at >= 0 {
			note = steps[at].What
		}
		tick := chart.Tick{At: x, Label: b.Started.Format("2 Jan")}
		if days, known := b.Bag.Age(b.Started); known {
			tick.Below = fmt.Sprintf("day %d", days)
		}
		ticks = append(ticks, tick)
		if b.Cup.Overall > 0 {
			marks.Points = append(marks.Points, chart.Point{X: x, Y: float64(b.Cup.Overall), Note: note, Best: b.ID == best.Brew.ID})
		}
		if y, ok := b.Yield(); ok {
			yields.Points = append(yields.Points, chart.Point{X: x, Y: y.Value, Error: y.Error, Note: note, Best: b.ID == best.Brew.ID})
		}
		if b.Cup.Drawdown > 0 {
			times.Points = append(times.Points, chart.Point{X: x, Y: float64(b.Cup.Drawdown), Note: note, Best: b.ID == best.Brew.ID})
		}
	}
	var out []page.Chart
	for _, c := range []chart.Chart{marks, yields, times} {
		if len(c.Points) > 1 {
			c.Ticks, c.Axis = ticks, "brewed on, and days since the roast"
			out = append(out, page.ChartOf(c, "change"))
		}
	}
	return out
}
