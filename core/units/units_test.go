package units

import (
	"errors"
	"math"
	"strconv"
	"strings"
	"testing"
)

func TestParseNumberAcceptsWhatPeopleType(t *testing.T) {
	for typed, want := range map[string]float64{
		"18": 18, " 18.5 ": 18.5, "18,5": 18.5, "18,5\u00a0g": 18.5, "18g": 18, "-3": -3, "−3": -3, ".5": 0.5, "7.": 7,
	} {
		got, err := ParseNumber(typed, "g")
		if err != nil || got != want {
			t.Errorf("ParseNumber(%q) = %v, %v; want %v", typed, got, err, want)
		}
	}
}

func TestParseNumberRefusesOtherText(t *testing.T) {
	for _, typed := range []string{"", "eighteen", "NaN", "Inf", "0x12", "1e3", "18 18", "--3", strings.Repeat("9", 400)} {
		_, err := ParseNumber(typed, "g")
		var wrong *ValueError
		if !errors.As(err, &wrong) || len(wrong.Error()) > 200 {
			t.Errorf("ParseNumber(%q): %v", typed, err)
		}
		if kind := map[bool]error{true: ErrMissing, false: ErrSyntax}[typed == ""]; !errors.Is(err, kind) {
			t.Errorf("ParseNumber(%q): %v, want %v", typed, err, kind)
		}
	}
}

// Values are canonical.
func TestParseAcceptsEveryNotationOfAQuantity(t *testing.T) {
	metric, imperial := Prefs{}, Prefs{Ounces: true, Fahrenheit: true}
	for _, c := range []struct {
		prefs Prefs
		kind  Kind
		want  map[string]float64
	}{
		{metric, Dose, map[string]float64{"18": 18, " 18,5 g": 18.5, "0.85 oz": 24.1, "4 tbsp": 24, "4 level tablespoons": 24,
			"1 1/2 oz": 42.52, "1½ oz": 42.52, "½ oz": 14.17, "18 grams": 18, "18,5\u00a0g": 18.5, "0.02 kg": 20, "18g": 18}},
		{imperial, Dose, map[string]float64{"0.7": 19.84, "20 g": 20, "3/4": 21.26, "0,7 oz": 19.84, "5 tablespoons": 30}},
		{metric, Water, map[string]float64{"300": 300, "300 ml": 300, "12 fl oz": 354.9, "10.5 oz": 297.7, "0.3 l": 300, "2 mugs": 500,
			"1,500": 1500, "1.500": 1500, "1 500 g": 1500, "1'500": 1500}},
		{imperial, Water, map[string]float64{"10.5": 297.7, "297 g": 297}},
		{metric, Cup, map[string]float64{"300 ml": 300, "12 fl oz": 354.9, "12 fl. oz": 354.9, "2 x 250": 500, "2×250 ml": 500,
			"Two mugs of 250 ml": 500, "three cups": 750, "1,5 dl": 150, "a mug": 250, "half a mug": 125, "two cups of 8 fl oz": 473.2,
			"0.5 l": 500, "250 g": 250}},
		{imperial, Cup, map[string]float64{"12": 354.9, "12 oz": 354.9, "300 ml": 300, "2 x 8": 473.2}},
		{metric, Temperature, map[string]float64{"94": 94, "94C": 94, "94 °C": 94, "201 F": 93.89, "201°F": 93.89, "93,5": 93.5}},
		{imperial, Temperature, map[string]float64{"201": 93.89, "94 c": 94}},
		{metric, Ratio, map[string]float64{"16": 16, "1:16": 16, "1 : 16,5": 16.5, "1/16": 16, "60 g/l": 16.67, "60g/L": 16.67,
			"60 grams per litre": 16.67}},
		{metric, Time, map[string]float64{"2:30": 150, "150s": 150, "150": 150, "2 min 30": 150, "2 min 30 s": 150, "2m30s": 150,
			"2.5 min": 150, "2 1/2 minutes": 150, "1 h": 3600}},
		{metric, Span, map[string]float64{"45": 45, "45 s": 45, "0:45": 45, "3/4 min": 45}},
		{metric, Rate, map[string]float64{"5": 5, "5 g/s": 5, "5 ml/s": 5, "0.2 oz/s": 5.67}},
		{imperial, Rate, map[string]float64{"0.2": 5.67, "5 g/s": 5}},
		{metric, PerDose, map[string]float64{"3": 3, "3x": 3, "3×": 3, "3 times the dose": 3}},
		{metric, Share, map[string]float64{"40": 0.4, "40 %": 0.4, "40 percent": 0.4}},
		{metric, Strength, map[string]float64{"1.35": 1.35, "1,350 %": 1.35}},
		{metric, Grind, map[string]float64{"650": 650, "650 um": 650, "650 microns": 650, "0.65 mm": 650}},
		{metric, BagWeight, map[string]float64{"250": 250, "1/4 kg": 250, "1 lb": 453.6, "12 oz": 340.2, "1,500": 1500}},
		{metric, Altitude, map[string]float64{"1500": 1500, "1,500 m": 1500, "5000 ft": 1524}},
		{imperial, Altitude, map[string]float64{"5000": 1524, "1500 m": 1500}},
	} {
		u, r := c.prefs.Unit(c.kind), typicalRange[c.kind]
		for typed, want := range c.want {
			if got, err := u.ParseIn(typed, r); err != nil || math.Abs(got-want) > 0.001*math.Abs(want) {
				t.Errorf("%q in a field of %s is %v, %v; want %v", typed, u.Symbol, got, err, want)
			}
		}
	}
}

// typicalRange is the range of a typical field of each kind.
var typicalRange = map[Kind]Range{
	Dose: {5, 120}, Water: {60, 2000}, Cup: {40, 1800}, Temperature: {70, 100}, Ratio: {6, 25}, Time: {0, 4000}, Span: {1, 600},
	Rate: {1, 20}, PerDose: {0, 5}, Share: {0, 1},
	Strength: {0.3, 5}, Grind: {200, 1600}, BagWeight: {1, 5000}, Altitude: {0, 5000},
}

// Mutations caught: a temperature accepted as grams, an ambiguous number guessed.
func TestParseRejectsOtherQuantitiesAndAmbiguity(t *testing.T) {
	u := func(k Kind) Unit { return Prefs{}.Unit(k) }
	for _, c := range []struct {
		kind  Kind
		typed string
		err   error
	}{
		{Dose, "94 C", ErrUnit}, {Dose, "18 stone", ErrUnit}, {Dose, "300 ml", ErrUnit}, {Temperature, "18 g", ErrUnit},
		{Temperature, "2:30", ErrSyntax}, {Time, "18 g", ErrUnit},
		{Ratio, "2:30", ErrSyntax}, {Ratio, "16 g", ErrUnit}, {Grind, "24 clicks", ErrUnit}, {Time, "3.18", ErrSyntax},
		{Time, "3:1", ErrSyntax}, {Time, "3:75", ErrSyntax}, {Time, "-1:00", ErrSyntax},
		{Dose, "", ErrMissing}, {Dose, "eighteen", ErrSyntax}, {Dose, "18 18", ErrSyntax}, {Dose, "1e3", ErrSyntax},
		{Dose, "NaN", ErrSyntax}, {Dose, "18 g 3 oz", ErrSyntax}, {Dose, "1/0", ErrSyntax},
		{Cup, "2 x x 250", ErrSyntax}, {Cup, "two dogs", ErrUnit}, {Time, "30 s 2 min", ErrSyntax}, {Dose, "1.2.3", ErrSyntax},
	} {
		_, err := u(c.kind).ParseIn(c.typed, typicalRange[c.kind])
		var wrong *ValueError
		if !errors.Is(err, c.err) || !errors.As(err, &wrong) {
			t.Errorf("%q in a field of %s: %v, want %v", c.typed, u(c.kind).Symbol, err, c.err)
		}
	}
	var wrong *ValueError
	if _, err := u(Dose).Parse("94 C"); !errors.As(err, &wrong) || wrong.Measures != "a temperature" {
		t.Errorf("94 C as a dose: %+v", wrong)
	}
	if _, err := (Prefs{Ounces: true}).Unit(BagWeight).ParseIn("1,500 g", Range{1, 5000}); !errors.Is(err, ErrAmbiguous) ||
		!errors.As(err, &wrong) || wrong.Value != 1.5 || wrong.Other != 1500 {
		t.Errorf("1,500 as a bag: %+v", wrong)
	}
}

func TestParseClock(t *testing.T) {
	for typed, want := range map[string]Seconds{"3:18": 198, "198": 198, "0:05": 5} {
		if got, err := ParseClock(typed); err != nil || got != want {
			t.Errorf("ParseClock(%q) = %v, %v", typed, got, err)
		}
	}
	for _, typed := range []string{"", "3.18", "3:1", "3:75", "-1:00", "a:10"} {
		if got, err := ParseClock(typed); err == nil {
			t.Errorf("ParseClock(%q) = %v, want an error", typed, got)
		}
	}
}

// Any text gives a finite value or a *ValueError. The formatted value parses to the same value.
func FuzzParse(f *testing.F) {
	for _, s := range []string{"201 F", "1 1/2 oz", "1,500", "2 x 250 ml", "1 turn 6 clicks", "60 g/l", "0 g/l", "2 min 30", "½", "1:16",
		"-3", "1/0", "٣", ".", "999999999999999999999999999999999999999999", "1'500,5"} {
		f.Add(s, uint8(1), true)
	}
	f.Fuzz(func(t *testing.T, typed string, kind uint8, imperial bool) {
		k := Kind(1 + int(kind)%int(Length))
		u := Prefs{Ounces: imperial, Fahrenheit: imperial}.Unit(k)
		r := Range{-1e6, 1e6}
		v, err := u.ParseIn(typed, r)
		var wrong *ValueError
		switch {
		case err != nil && !errors.As(err, &wrong):
			t.Fatalf("%q: %v is no *ValueError", typed, err)
		case err != nil:
			return
		case math.IsNaN(v) || math.IsInf(v, 0):
			t.Fatalf("%q is %v", typed, v)
		}
		if !r.Contains(v) || v < 0 && u.Notation == Clock {
			return
		}
		shown := u.Number(v)
		back, err := u.Parse(shown)
		if err != nil || u.Number(back) != shown {
			t.Fatalf("%q is %v, shown as %q, and that is %v (%v)", typed, v, shown, back, err)
		}
	})
}

// A number consists of digits, one sign and one decimal sign. Mutation caught: calling strconv.ParseFloat
// directly, which also accepts 1e9, 0x1p4, Inf and 1_000.
func FuzzParseNumber(f *testing.F) {
	for _, s := range []string{"18,5", "18.5 g", " +7 ", "−3", "1e9", "0x1p4", "Inf", "NaN", "1_000", "1.2.3", "--1", "g", "٣", ".", "5."} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		v, err := ParseNumber(s, "g")
		if err != nil {
			return
		}
		figures := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(strings.ReplaceAll(s, "\u00a0", " ")), "g"))
		figures = strings.NewReplacer(",", ".", "−", "-").Replace(figures)
		digits, dots := 0, 0
		for i, r := range figures {
			switch {
			case r >= '0' && r <= '9':
				digits++
			case r == '.':
				dots++
			case (r == '-' || r == '+') && i == 0:
			default:
				t.Fatalf("%q was read as %v", s, v)
			}
		}
		if want, err := strconv.ParseFloat(figures, 64); digits == 0 || dots > 1 || err != nil || v != want || math.IsInf(v, 0) {
			t.Fatalf("%q was read as %v, want %v", s, v, want)
		}
	})
}

// Typing a shown value back gives the stored value, to the last digit shown.
func TestEveryUnitRoundTripsWhatItShows(t *testing.T) {
	typical := map[Kind][]float64{
		Dose: {12, 18.3, 40}, Water: {200, 297, 660}, Cup: {180, 261}, BagWeight: {250, 1000}, Temperature: {87, 93.5, 100},
		Grind: {450, 652},
	}
	for _, p := range []Prefs{{}, {Ounces: true}, {Fahrenheit: true}} {
		for k, values := range typical {
			u := p.Unit(k)
			for _, v := range values {
				shown := u.Number(v)
				back, err := ParseNumber(shown, u.Symbol)
				if err != nil || u.Number(u.Canonical(back)) != shown {
					t.Errorf("%v %s: %v shows as %q and comes back as %v (%v)", k, u.Symbol, v, shown, back, err)
				}
			}
		}
	}
	if got := (Prefs{Fahrenheit: true}).Unit(Temperature).Format(93); got != "199\u00a0°F" {
		t.Errorf("93\u00a0°C shows as %q", got)
	}
	if got := (Prefs{Ounces: true}).Unit(Dose).Format(18); got != "0.63\u00a0oz" {
		t.Errorf("18\u00a0g shows as %q", got)
	}
	if got := (Prefs{Fahrenheit: true}).Unit(Temperature).Difference(2); got != "+4\u00a0°F" {
		t.Errorf("2 K shows as %q", got)
	}
}

func TestSecondsPrintAsAStopwatch(t *testing.T) {
	for s, want := range map[Seconds]string{0: "0:00", 5.4: "0:05", 59.6: "1:00", 198: "3:18", -6: "−0:06"} {
		if got := s.String(); got != want {
			t.Errorf("%v prints %q, want %q", float64(s), got, want)
		}
	}
}

// Mutations caught: a sign lost in the grouped reading, groups of other than three digits, a range without
// its rounding tolerance or with a wide one, a text that is cut one rune early.
func TestSignsGroupsAndLimits(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		typed          string
		value, grouped float64
	}{
		{"-1,500", -1.5, -1500}, {"999.999", 999.999, 999999}, {"1000,500", 1000.5, math.NaN()}, {"0,500", 0.5, math.NaN()},
		{"1,234,567", 1234567, math.NaN()}, {"1.234.567,8", 1234567.8, math.NaN()}, {"1,234.5", 1234.5, math.NaN()},
	} {
		parts, err := ReadParts(c.typed)
		if err != nil || len(parts) != 1 || parts[0].Value != c.value ||
			parts[0].Grouped != c.grouped && !(math.IsNaN(c.grouped) && math.IsNaN(parts[0].Grouped)) {
			t.Errorf("%q gives %+v, %v; want %g or %g", c.typed, parts, err, c.value, c.grouped)
		}
	}
	for _, typed := range []string{"12,345,6", "1,2345,678", "1234,567,890", "1,234.567,8"} {
		if parts, err := ReadParts(typed); err == nil {
			t.Errorf("%q gives %+v", typed, parts)
		}
	}
	r := Range{Lo: 5, Hi: 120}
	for v, want := range map[float64]bool{5: true, 120: true, 5 - 1e-10: true, 120 + 1e-10: true, 5 - 1e-8: false, 120 + 1e-8: false} {
		if r.Contains(v) != want {
			t.Errorf("%s contains %.10f: %v", r, v, !want)
		}
	}
	const letters = "abcdefghijklmnopqrstuvwxyz"
	if Shorten(letters[:24]) != letters[:24] || Shorten(letters[:25]) != letters[:24]+"…" {
		t.Errorf("shortened to %q and %q", Shorten(letters[:24]), Shorten(letters[:25]))
	}
	if a, b := Seconds(-0.4).String(), Seconds(-30).String(); a != "0:00" || b != "−0:30" {
		t.Errorf("negative times are %s and %s", a, b)
	}
}
