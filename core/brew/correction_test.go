package brew

import (
	"testing"
	"time"

	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Every replaced value of a finished brew is kept with its person, a shared one once and a taste for its taster; what was not changed,
// and a first tasting, is not. Mutations caught: a value that is not compared, another person's taste, an empty value lost.
func TestReplacedValuesAreKept(t *testing.T) {
	t.Parallel()
	taste := func(mark int, notes string) cup.Cup {
		return cup.Cup{Taste: cup.Taste{Overall: mark, Notes: notes, Steps: map[cup.Sense]int{cup.Acidity: mark / 2}}}
	}
	was := Brew{Status: Done, MeasuredBy: "ada", Cup: cup.Cup{TDS: 1.42, Beverage: 260, Grind: 0},
		Tastings: []Tasting{{Taster: "ada", Cup: taste(6, "sharp")}, {Taster: "ben", Cup: taste(8, "")}}}
	is := was
	is.MeasuredBy = "ben"
	is.Cup.TDS, is.Cup.Grind = 1.38, 600
	is.Tastings = []Tasting{{Taster: "ada", Cup: taste(8, "sharp")}, {Taster: "ben", Cup: taste(8, "")}, {Taster: "eve", Cup: taste(5, "new")}}
	at := time.Date(2026, 5, 3, 14, 5, 0, 0, time.UTC)
	got := Corrections(was, is, at)
	g := gear.Grinder{Dial: gear.Dial{Kind: gear.Clicks, Step: 25}}
	want := map[string]Correction{
		"Grind was empty":       {"grind", "", "", "ben", at},
		"TDS was 1.42 %":        {"TDS", "1.42", "", "ben", at},
		"Mark was 6 of 10":      {"mark", "6", "ada", "ada", at},
		"Acidity: was “lively”": {"acidity", "lively", "ada", "ada", at},
	}
	if len(got) != len(want) {
		t.Errorf("%d corrections: %+v", len(got), got)
	}
	for _, c := range got {
		if want[c.Sentence(g, units.Prefs{})] != c {
			t.Errorf("%q: %+v", c.Sentence(g, units.Prefs{}), c)
		}
	}
	was.Status = Poured
	if got := Corrections(was, is, at); got != nil {
		t.Errorf("a first cup corrects %+v", got)
	}
	if got := (Correction{What: "grind", Was: "600"}).Sentence(g, units.Prefs{}); got != "Grind was 24 clicks" {
		t.Errorf("%q", got)
	}
}
