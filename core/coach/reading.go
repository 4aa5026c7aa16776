package coach

import (
	"fmt"
	"math"

	"yardbloom/core/cup"
)

// A reading is one sign of a cup: what it says in a sentence, and how likely it is.
type reading struct {
	say string
	// taste is how likely, as a logarithm and up to a constant, it is of a cup that lies dy
	// points and ds % off the aim and is uneven by so much; nil where it does not depend on it.
	taste func(dy, ds, uneven float64) float64
	sight // how many times likelier it is by what ails a cup
}

// A sight says how many times likelier a sign is by each cause that it tells of: an uneven bed,
// whoever laid it, or one of the plain faults. What is not named makes no difference.
type sight map[Cause]float64

// sights are what is seen and what can be told without a scale of words. A trainer's table.
var sights = []struct {
	sign
	sight
}{
	{sign: flatBed, sight: sight{Uneven: 0.5}},
	{sign: seenBed(cup.Cratered), sight: sight{Uneven: 5}},
	{sign: seenBed(cup.Sloped), sight: sight{Uneven: 4}},
	{sign: seenBed(cup.HighWalls), sight: sight{Uneven: 4}},
	{sign: seenBed(cup.DryPocket), sight: sight{Uneven: 8}},
	{sign: seenBed(cup.Domed), sight: sight{Uneven: 1.3}},
	{sign: seenBed(cup.Mud), sight: sight{Clogged: 8}},
	{sign: markedAs(cup.Channel), sight: sight{Uneven: 8}},
	{sign: markedAs(cup.DrySpot), sight: sight{Uneven: 6}},
	{sign: markedAs(cup.Stall), sight: sight{Clogged: 60}},
	{sign: oneSided, sight: sight{Uneven: 8}},
	{sign: badSeat, sight: sight{Uneven: 6}},
	{sign: badPour, sight: sight{Uneven: 30}},
	{sign: standing, sight: sight{Clogged: 40}},
	{sign: muchLater, sight: sight{Clogged: 6, Uneven: 0.5}},
	{sign: muchSooner, sight: sight{Uneven: 3, Clogged: 0.1}},
	{sign: flat, sight: sight{Stale: 15}},
	{sign: old, sight: sight{Stale: 8}},
	{sign: veryOld, sight: sight{Stale: 5}},
	{sign: papery, sight: sight{Papery: 600}},
	{sign: unrinsed, sight: sight{Papery: 5}},
	{sign: coldBrewer, sight: sight{Cool: 8}},
	{sign: noThermostat, sight: sight{Cool: 3, Warm: 3}},
	{sign: both(sharp, flowsWell), sight: sight{Cool: 2.5, Warm: 0.2}},
	{sign: both(harsh, flowsWell), sight: sight{Warm: 2.5, Cool: 0.2}},
	{sign: hotForRoast, sight: sight{Warm: 6}},
	{sign: weakSourFast, sight: sight{Uneven: 6}},
	{sign: both(harsh, runsFast), sight: sight{Uneven: 2.5}},
	{sign: muddled, sight: sight{Stirred: 60}},
	{sign: iceLeft, sight: sight{Icy: 400}},
}

// before is how likely each plain fault is against its not being so, before anything is seen.
var before = map[Cause]float64{Stale: 0.01, Papery: 0.005, Clogged: 0.02, Stirred: 0.01, Icy: 0.005, Cool: 0.02, Warm: 0.02}

// readings are all the signs of a cup.
func (c Case) readings() []reading {
	var out []reading
	for _, sc := range cup.Scales() {
		if step := c.step(sc.Sense); step > 0 {
			out = append(out, c.sensed(sc, step))
		}
	}
	for _, fault := range cup.Faults() {
		if f, known := flaws[fault]; known && c.Cup.Faults[fault] {
			out = append(out, reading{say: fmt.Sprintf("It is %s.", fault), sight: sight{Uneven: f.uneven},
				taste: func(dy, _, _ float64) float64 { return -min(0, dy) * math.Log(f.under) }})
		}
	}
	if mark := float64(c.Cup.Overall); mark > 0 {
		out = append(out, reading{say: fmt.Sprintf("You gave it %.0f of 10.", mark),
			taste: func(dy, ds, uneven float64) float64 { return broad((mark - expected(dy, ds, uneven)) / ofMarks) }})
	}
	switch c.Cup.Serve { // about a mark of 7 or more, or 6 or less
	case "yes":
		out = append(out, reading{say: "You would serve it.", taste: func(dy, ds, uneven float64) float64 { return bell(min(0, expected(dy, ds, uneven)-7.7)) }})
	case "no":
		out = append(out, reading{say: "You would not serve it.", taste: func(dy, ds, uneven float64) float64 { return bell(max(0, expected(dy, ds, uneven)-6.7)) }})
	}
	for _, want := range cup.Wants() {
		if w := wishes[want]; c.Cup.Wants[want] {
			out = append(out, reading{say: wanted(want)(c), taste: func(dy, ds, _ float64) float64 {
				return -math.Log1p(math.Exp(-3 * (w.yield*dy + w.strength*ds*10 + w.off*(math.Abs(dy)-1))))
			}})
		}
	}
	for _, s := range sights {
		if said := s.sign(c); said != "" {
			out = append(out, reading{say: said, sight: s.sight})
		}
	}
	return out
}

// sensed is what a word of a sense says: where on the scale the cup stands. A sense that
// is liked as it is says nothing of the distance, but that there is little of it.
func (c Case) sensed(sc cup.Scale, step int) reading {
	t := traits[sc.Sense]
	say := fmt.Sprintf("%s: %s.", sc.Name, cup.Word(sc.Sense, step))
	switch c.Cup.Likes[sc.Sense] {
	case cup.Liked:
		return reading{say: fmt.Sprintf("%s: %s, and you like it so.", sc.Name, cup.Word(sc.Sense, step)),
			taste: func(dy, ds, uneven float64) float64 { return bell((9.2 - expected(dy, ds, uneven)) / 2) }}
	case cup.Disliked:
		say = fmt.Sprintf("%s: %s, and you do not like it.", sc.Name, cup.Word(sc.Sense, step))
		return reading{say: say, taste: func(dy, ds, uneven float64) float64 {
			return bell((float64(step)-t.step(dy, ds, uneven))/ofSteps) + bell(max(0, expected(dy, ds, uneven)-8))
		}}
	}
	return reading{say: say, taste: func(dy, ds, uneven float64) float64 { return bell((float64(step) - t.step(dy, ds, uneven)) / ofSteps) }}
}

// bell is the logarithm of a normal likelihood so many standard deviations off.
func bell(z float64) float64 { return -z * z / 2 }

// broad is the same with tails: a palate may be stricter than the table, or milder.
func broad(z float64) float64 { return -2 * math.Log1p(z*z/4) }
