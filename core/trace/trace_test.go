package trace

import (
	"math"
	"math/rand/v2"
	"testing"

	"yardbloom/core/units"
)

// show feeds a Reader with the readings of a noiseless scale during a period.
func show(r *Reader, from, to float64, weight func(at float64) float64) (seen []Seen) {
	for i := int(math.Round(from * 10)); i < int(math.Round(to*10)); i++ {
		at := float64(i) / 10
		seen = append(seen, append([]Seen(nil), r.Read(Reading{units.Seconds(at), units.Grams(math.Round(weight(at)*10) / 10)})...)...)
	}
	return seen
}

func kinds(seen []Seen) (out []Kind) {
	for _, s := range seen {
		out = append(out, s.Kind)
	}
	return out
}

func level(g float64) func(float64) float64 { return func(float64) float64 { return g } }

// climb pours at 5 g/s, starting from a level and a time.
func climb(g, from float64) func(float64) float64 {
	return func(at float64) float64 { return g + 5*max(0, at-from) }
}

// Readings are missing for a minute, as on a sleeping laptop: water poured meanwhile is one pour.
func TestWaterDuringAGapIsOnePour(t *testing.T) {
	var r Reader
	show(&r, 0, 3, level(0))
	seen := show(&r, 63, 66, level(81))
	if len(seen) != 2 || seen[0].Kind != Began || seen[1].Kind != Ended || seen[1].Water != 81 || seen[1].At < 60 {
		t.Errorf("81 g that came in an hour of sleep: %+v", seen)
	}
	if r.Pouring() || r.Total() != 81 {
		t.Errorf("then %v, pouring %v", r.Total(), r.Pouring())
	}
}

// A tare during the brew, a spoon on the scale and a hand leaning on it are not water.
func TestOtherLoadsAreNotWater(t *testing.T) {
	for name, c := range map[string]func(at float64) float64{
		"a tare":         func(at float64) float64 { return map[bool]float64{true: 54, false: 0}[at < 30] },
		"a spoon":        func(at float64) float64 { return map[bool]float64{true: 54, false: 84}[at < 30] },
		"a hand leans":   func(at float64) float64 { return map[bool]float64{true: 54 + 200, false: 54}[at > 30 && at < 30.4] },
		"a swirl":        func(at float64) float64 { return 54 + map[bool]float64{true: 4 * math.Sin(10*at)}[at > 30 && at < 34] },
		"a slow drift":   func(at float64) float64 { return 54 + 0.02*(at-20) },
		"one odd sample": func(at float64) float64 { return 54 + map[bool]float64{true: 900}[at > 29.95 && at < 30.05] },
	} {
		var r Reader
		show(&r, 0, 3, level(0))
		show(&r, 3, 13.8, climb(0, 3))
		show(&r, 13.8, 20, level(54))
		seen := show(&r, 20, 45, c)
		for _, k := range kinds(seen) {
			if k == Began {
				t.Errorf("%s is water: %+v", name, seen)
			}
		}
		if d := r.Total() - 54; d < -1.5 || d > 1.5 {
			t.Errorf("%s: the total is %v", name, r.Total())
		}
		// The next pour counts from there.
		base := c(45)
		seen = show(&r, 45, 60, climb(base, 46))
		seen = append(seen, show(&r, 60, 64, level(base+70))...)
		got := units.Grams(0)
		for _, s := range seen {
			if s.Kind == Ended || s.Kind == Weighed {
				got = s.Water
			}
		}
		if got < 68 || got > 72 {
			t.Errorf("after %s a pour of 70 g is %v: %+v", name, got, seen)
		}
	}
}

// Brewer and carafe that come back without the water were rinsed. A lift for a swirl, a brewer held in the
// air, a lift at the end and a tare are not a rinse.
func TestRinseIsDetected(t *testing.T) {
	for name, c := range map[string]struct {
		then  func(at float64) float64 // from second 20 on, with 80 g on the scale
		water units.Grams              // tipped out; 0: no rinse
	}{
		"all lifted, tipped, put back": {func(at float64) float64 { return map[bool]float64{true: -700, false: 4}[at < 31] }, 76},
		"brewer first, then carafe": {func(at float64) float64 {
			switch {
			case at < 24:
				return -270
			case at < 33:
				return -700
			case at < 36:
				return -350
			}
			return 5
		}, 75},
		"lifted for a swirl":                   {func(at float64) float64 { return map[bool]float64{true: -270, false: 80}[at < 25] }, 0},
		"a light brewer held over its carafe":  {func(at float64) float64 { return 0 }, 0},
		"lifted off, and the carafe is served": {func(at float64) float64 { return map[bool]float64{true: -270, false: -700}[at < 31] }, 0},
	} {
		var r Reader
		show(&r, 0, 3, level(0))
		show(&r, 3, 19, climb(0, 3))
		seen := append(show(&r, 19, 22, level(80)), show(&r, 22, 60, c.then)...)
		var got units.Grams
		for _, s := range seen {
			if s.Kind == Emptied {
				got += s.Water
			}
		}
		if got != c.water {
			t.Errorf("%s: %v is a rinse: %+v", name, got, seen)
		}
	}
}

// A tare is detected, even of a small dose, and the weight before it still counts.
func TestTareIsDetected(t *testing.T) {
	for _, dose := range []float64{8, 12, 18, 60} {
		var r Reader
		show(&r, 0, 3, level(0))
		show(&r, 3, 3+dose/5, climb(0, 3))
		show(&r, 3+dose/5, 20, level(dose))
		seen := show(&r, 20, 24, level(0))
		if len(seen) != 1 || seen[0].Kind != Tared || math.Abs(float64(seen[0].Total)-dose) > 0.5 ||
			math.Abs(float64(r.Total())-dose) > 0.5 {
			t.Errorf("%.0f g tared away are %+v, in all %v", dose, seen, r.Total())
		}
	}
}

// Implausible readings change nothing.
func TestInvalidReadingsAreIgnored(t *testing.T) {
	var r Reader
	show(&r, 0, 3, level(10))
	for _, x := range []Reading{{units.Seconds(math.NaN()), 5}, {units.Seconds(math.Inf(1)), 5}, {4, 1e9}, {4, units.Grams(math.Inf(-1))},
		{4, units.Grams(math.NaN())}, {1, 500}, {2.9, 500}} {
		if seen := r.Read(x); len(seen) > 0 {
			t.Errorf("%+v is understood as %+v", x, seen)
		}
	}
	for i := range 1000 { // a thousand per second, of which fifty count
		r.Read(Reading{units.Seconds(3 + float64(i)/1000), 10})
	}
	if n := len(r.recent); n > 90 {
		t.Errorf("%d readings are stored", n)
	}
	rng := rand.New(rand.NewPCG(1, 1))
	for i := range 20000 { // random weights must not break it
		r.Read(Reading{units.Seconds(10 + float64(i)/10), units.Grams(rng.Float64()*2000 - 500)})
	}
	if math.IsNaN(float64(r.Total())) || math.IsNaN(r.Rate()) {
		t.Errorf("%v, %v", r.Total(), r.Rate())
	}
}

// A scale with two or irregular readings per second works too.
func TestSlowScale(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 3))
	for name, step := range map[string]func() float64{"twice a second": func() float64 { return 0.5 },
		"whenever it likes": func() float64 { return 0.05 + 0.9*rng.Float64() }} {
		weight := func(at float64) float64 {
			return 5*max(0, min(at, 14)-3) + 6*max(0, min(at, 60)-45)
		}
		var r Reader
		var starts, amounts []float64
		for at := 0.0; at < 70; at += step() {
			for _, s := range r.Read(Reading{units.Seconds(at), units.Grams(math.Round(weight(at)*10) / 10)}) {
				switch s.Kind {
				case Began:
					starts = append(starts, float64(s.At))
				case Ended:
					amounts = append(amounts, float64(s.Water))
				case Weighed:
					amounts[len(amounts)-1] = float64(s.Water)
				}
			}
		}
		if len(starts) != 2 || len(amounts) != 2 || math.Abs(starts[0]-3) > 1 || math.Abs(starts[1]-45) > 1 ||
			math.Abs(amounts[0]-55) > 1.5 || math.Abs(amounts[1]-90) > 1.5 {
			t.Errorf("%s: began at %.1f, gave %.1f", name, starts, amounts)
		}
	}
}

// Mutations caught: a rate over more or less than a second, a rate after the end of the pour.
func TestRateIsThatOfTheLastSecond(t *testing.T) {
	var r Reader
	show(&r, 0, 3, level(0))
	show(&r, 3, 7, func(at float64) float64 { return 4 * (at - 3) })
	if got := r.Rate(); math.Abs(got-4) > 0.1 {
		t.Errorf("4 g/s reads as %.2f g/s", got)
	}
	show(&r, 7, 8.2, func(at float64) float64 { return 16 + 8*(at-7) })
	if got := r.Rate(); math.Abs(got-8) > 0.1 {
		t.Errorf("a second after the change to 8 g/s: %.2f g/s", got)
	}
	show(&r, 8.2, 14, level(25.6))
	if got := r.Rate(); got != 0 {
		t.Errorf("after the pour: %.2f g/s", got)
	}
}
