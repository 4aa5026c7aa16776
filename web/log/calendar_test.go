package log

import (
	"strings"
	"testing"
	"time"

	"yardbloom/core/tally"
	"yardbloom/core/units"
	"yardbloom/store"
)

var grams = units.Prefs{}.Unit(units.BagWeight)

// Totals are arranged by week from the week of the first brew, days without a brew included, in the currency of most of the cost.
// Mutations caught: a week that begins on a Sunday, a day that is left out, two currencies added up, cups without a price counted as free.
func TestCalendarArrangesDaysAndWeeks(t *testing.T) {
	today := time.Date(2026, 5, 20, 0, 0, 0, 0, time.UTC) // a Wednesday
	mark := func(v float64) tally.Sample { return tally.Sample{N: 1, Sum: v, Squares: v * v} }
	c := newCalendar([]store.DayTotal{
		{Day: "2026-05-10", Currency: "EUR", Brews: 2, Used: 40, Priced: 40, Cost: 300, Sample: mark(6)}, // a Sunday
		{Day: "2026-05-11", Currency: "EUR", Brews: 1, Used: 20, Priced: 20, Cost: 150, Sample: mark(8)},
		{Day: "2026-05-11", Currency: "GBP", Brews: 1, Used: 15, Priced: 15, Cost: 200},
		{Day: "2026-05-20", Brews: 1, Used: 18},
	}, today.AddDate(0, 0, -70), today)
	if len(c.days) != 17 || len(c.weeks) != 3 || c.weeks[0].start.Day() != 4 || c.weeks[0].brews != 2 || c.weeks[1].brews != 2 || c.weeks[2].brews != 1 {
		t.Errorf("%d days, weeks %+v", len(c.days), c.weeks)
	}
	if c.currency != "EUR" || c.weeks[1].cost != 150 || c.others != 200 || c.unpriced != 18 {
		t.Errorf("cost %+v, %s, others %v, unpriced %v", c.weeks[1], c.currency, c.others, c.unpriced)
	}
	if got, want := c.says(grams), "5 brews since 4 May 2026, with 93\u00a0g of coffee for 4.50 EUR. Mean mark 7.0 ± 1.0, of 2 cups."; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	charts := c.charts(grams)
	if len(charts) != 4 || len(charts[0].Rows) != 17 || len(charts[2].Rows) != 3 || charts[3].Rows[1].Value != "1.50" ||
		!strings.Contains(charts[3].Summary, "Without 18\u00a0g") || !strings.Contains(charts[3].Summary, "other currencies") {
		t.Errorf("charts %+v", charts)
	}
	one := newCalendar([]store.DayTotal{{Day: "2026-05-20", Brews: 1, Used: 18}}, today, today)
	if len(one.days) != 1 || one.total().brews != 1 {
		t.Errorf("one day that is no Monday: %+v", one)
	}
	if none := newCalendar(nil, today.AddDate(0, 0, -70), today); none.charts(grams) != nil || !strings.Contains(none.says(grams), "Nothing was brewed") {
		t.Errorf("no brew: %q", none.says(grams))
	}
}

// A lead is called one from two standard errors on, and three lucky cups do not lead. Mutations caught: an order by the mean alone, an
// error that is not that of the difference.
func TestRankingSaysOnlyWhatItKnows(t *testing.T) {
	total := func(name string, marks ...float64) store.MarkTotal {
		m := store.MarkTotal{Kind: store.OfCoffees, ID: name, Name: name}
		for _, v := range marks {
			m.Sample = m.Plus(tally.Sample{N: 1, Sum: v, Squares: v * v})
		}
		return m
	}
	many := make([]float64, 30)
	for i := range many {
		many[i] = 7.5 + 0.5*float64(i%2)
	}
	lucky, steady, poor := total("Lucky", 8, 9, 7.2), total("Steady", many...), total("Poor", 4, 5, 4, 5)
	c := ranking("Mean mark by coffee", "coffee", []store.MarkTotal{lucky, steady, poor})
	if c.Rows[0].At != "Steady" || c.Rows[0].Note != "30" || !strings.Contains(c.Summary, "is within the error") ||
		strings.Contains(string(c.SVG), "chart-best") {
		t.Errorf("%+v", c)
	}
	if c := ranking("", "", []store.MarkTotal{steady, poor}); c.Summary != "Steady is ahead of Poor." || !strings.Contains(string(c.SVG), "chart-best") {
		t.Errorf("%+v", c)
	}
	if ranking("", "", []store.MarkTotal{steady}) != nil {
		t.Error("one alone is ranked")
	}
}

// Scatter from a few repeats has a warning, and hands are blamed only if the scatter of all exceeds that of each. Mutation caught: a scatter of
// a single pair, which is as often 0 as it is twice the truth.
func TestSpreadSaysOnlyWhatItKnows(t *testing.T) {
	of := func(freedom int, deviation float64) map[string]tally.Spread {
		return map[string]tally.Spread{"drawdown": {Freedom: freedom, Squares: deviation * deviation * float64(freedom)}}
	}
	for _, c := range []struct {
		all, within map[string]tally.Spread
		want        string
	}{
		{of(1, 0), of(1, 0), "A recipe brewed again shows"},
		{of(3, 6), nil, "too few to rely on"},
		{of(40, 12), of(36, 5), "the hands differ too"},
		{of(40, 6), of(36, 5.8), "(one standard deviation)."},
	} {
		if got := spreadText(c.all, c.within, true); !strings.Contains(got, c.want) || strings.Contains(got, "hands") != strings.Contains(c.want, "hands") {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
	if got := deviation(tally.Spread{Freedom: 1}, "yield"); got != "–" {
		t.Errorf("a single pair: %s", got)
	}
}
