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

func TestParseNumberRefusesTheRest(t *testing.T) {
	for _, typed := range []string{"", "eighteen", "NaN", "Inf", "0x12", "1e3", "1.234,5", "18 18", "--3", strings.Repeat("9", 400)} {
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

func TestParseRatioAndClock(t *testing.T) {
	for _, typed := range []string{"16.5", "1:16.5", "1 : 16,5"} {
		if got, err := ParseRatio(typed); err != nil || got != 16.5 {
			t.Errorf("ParseRatio(%q) = %v, %v", typed, got, err)
		}
	}
	if _, err := ParseRatio("2:30"); err == nil {
		t.Error("a ratio of 2:30 was accepted")
	}
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

// A number is what a person would write: figures, one sign, one decimal sign. Leaving
// it to strconv alone, which knows 1e9, 0x1p4, Inf and 1_000 too, fails here.
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

// What a person reads and types back must be what was kept, to the last digit shown.
func TestEveryUnitRoundTripsWhatItShows(t *testing.T) {
	typical := map[Kind][]float64{
		Dose: {12, 18.3, 40}, Water: {200, 297, 660}, Cup: {180, 261}, BagWeight: {250, 1000}, Temperature: {87, 93.5, 100}, Grind: {450, 652},
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
