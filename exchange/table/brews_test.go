package table

import (
	"bytes"
	"encoding/csv"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
)

// A row has the figures of its brew in the units of its headers, and no cell that a spreadsheet would calculate. Mutations caught: a
// column under another header, a planned dose instead of the measured one, a formula in a note or a name, a bare line feed.
func TestRowHasTheFiguresOfItsBrew(t *testing.T) {
	b := brew.Brew{Sheet: brew.Sheet{ID: "one", Recipe: recipe.ThreeRounds.Style().Generate(18, 300, 94),
		Bag:  coffee.Bag{Name: "=cmd|' /C calc'!A0", Roaster: "Kiln, \"Field\" & Co", Roast: coffee.Light, RoastedOn: "2026-05-01"},
		Gear: gear.Set{Grinder: gear.Grinder{Name: "-2+3", Dial: gear.Dial{Kind: gear.Numbered, Zero: 0, Step: 100}}}},
		Status: brew.Done, BrewedBy: "ada", Taster: "ben",
		Started: time.Date(2026, 5, 12, 9, 30, 0, 0, time.FixedZone("", 2*3600)),
		Cup: cup.Cup{Dose: 18.2, Drawdown: 192, Beverage: 262, TDS: 1.375, Grind: 700,
			Taste: cup.Taste{Overall: 8, Steps: map[cup.Sense]int{cup.Sweetness: 4}, Faults: map[cup.Fault]bool{cup.Papery: true},
				Flavours: []string{"pear", "honey"}, Notes: "@SUM(A1)\nsecond line"}}}
	var out bytes.Buffer
	w := NewWriter(&out, func(id string) string { return map[string]string{"ada": "+Ada", "ben": "Ben"}[id] })
	if err := w.Write(Headers()); err != nil {
		t.Fatal(err)
	}
	if err := w.Brew(b); err != nil {
		t.Fatal(err)
	}
	w.Flush()
	if !strings.Contains(out.String(), "\r\n") || strings.HasPrefix(out.String(), BOM) {
		t.Errorf("line ends or an order mark: %q", out.String()[:60])
	}
	rows, err := csv.NewReader(&out).ReadAll()
	if err != nil || len(rows) != 2 {
		t.Fatalf("%d rows, %v", len(rows), err)
	}
	cell := func(header string) string { return rows[1][slices.Index(rows[0], header)] }
	for header, want := range map[string]string{"id": "one", "started_at": "2026-05-12T09:30:00+02:00", "brewed_by": "'+Ada", "taster": "Ben",
		"coffee": "'=cmd|' /C calc'!A0", "roaster": `Kiln, "Field" & Co`, "roast": "light", "grinder": "'-2+3", "dose_g": "18.2", "water_g": "300.0",
		"grind_um": "700", "dial": "7", "temperature_c": "94.0", "drawdown_s": "192", "beverage_g": "262.0", "tds_percent": "1.375", "sweetness": "full",
		"bitterness": "", "faults": "papery", "flavours": "pear; honey", "mark": "8", "notes": "'@SUM(A1)\nsecond line", "ice_g": ""} {
		if got := cell(header); got != want {
			t.Errorf("%s is %q, want %q", header, got, want)
		}
	}
	if y, _ := b.Yield(); math.Abs(parse(t, cell("ey_percent"))-y.Value) > 0.006 || math.Abs(parse(t, cell("ey_standard_error"))-y.Error) > 0.006 {
		t.Errorf("yield %s ± %s, want %v", cell("ey_percent"), cell("ey_standard_error"), y)
	}
	seen := map[string]bool{}
	for _, h := range Headers() {
		if seen[h] {
			t.Errorf("%s is there twice", h)
		}
		seen[h] = true
	}
}

func parse(t *testing.T, s string) float64 {
	t.Helper()
	v, err := strconv.ParseFloat(s, 64)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// A reading has its brew, second and weight, also below 0. Mutation caught: a negative weight that is disarmed as text.
func TestReadingIsANumber(t *testing.T) {
	var out bytes.Buffer
	w := NewWriter(&out, nil)
	if err := w.Reading("one", trace.Reading{At: 1.25, Grams: -0.3}); err != nil {
		t.Fatal(err)
	}
	if w.Flush(); out.String() != "one,1.25,-0.3\r\n" {
		t.Errorf("%q", out.String())
	}
}
