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

// A sight says how many times likelier a sign is where a bed is uneven, coffee is stale,
// paper comes through, the bed closes up, it was stirred too much, there is too much ice, or the water met
// the grounds too cool or too warm. 0 stands for 1: it makes no difference.
type sight struct{ uneven, stale, papery, clogged, stirred, icy, cool, warm float64 }

// sights are what is seen and what can be told without a scale of words. A trainer's table.
var sights = []struct {
	sign
	sight
}{
	{sign: flatBed, sight: sight{uneven: 0.5}},
	{sign: seenBed(cup.Cratered), sight: sight{uneven: 5}},
	{sign: seenBed(cup.Sloped), sight: sight{uneven: 4}},
	{sign: seenBed(cup.HighWalls), sight: sight{uneven: 4}},
	{sign: seenBed(cup.DryPocket), sight: sight{uneven: 8}},
	{sign: seenBed(cup.Domed), sight: sight{uneven: 1.3}},
	{sign: seenBed(cup.Mud), sight: sight{clogged: 8}},
	{sign: markedAs(cup.Channel), sight: sight{uneven: 8}},
	{sign: markedAs(cup.DrySpot), sight: sight{uneven: 6}},
	{sign: markedAs(cup.Stall), sight: sight{clogged: 60}},
	{sign: oneSided, sight: sight{uneven: 8}},
	{sign: badSeat, sight: sight{uneven: 6}},
	{sign: badPour, sight: sight{uneven: 30}},
	{sign: standing, sight: sight{clogged: 40}},
	{sign: muchLater, sight: sight{clogged: 6, uneven: 0.5}},
	{sign: muchSooner, sight: sight{uneven: 3, clogged: 0.1}},
	{sign: flat, sight: sight{stale: 15}},
	{sign: old, sight: sight{stale: 8}},
	{sign: veryOld, sight: sight{stale: 5}},
	{sign: papery, sight: sight{papery: 600}},
	{sign: unrinsed, sight: sight{papery: 5}},
	{sign: coldBrewer, sight: sight{cool: 8}},
	{sign: noThermostat, sight: sight{cool: 3, warm: 3}},
	{sign: both(sharp, flowsWell), sight: sight{cool: 2.5, warm: 0.2}},
	{sign: both(harsh, flowsWell), sight: sight{warm: 2.5, cool: 0.2}},
	{sign: hotForRoast, sight: sight{warm: 6}},
	{sign: weakSourFast, sight: sight{uneven: 6}},
	{sign: both(harsh, runsFast), sight: sight{uneven: 2.5}},
	{sign: muddled, sight: sight{stirred: 60}},
	{sign: iceLeft, sight: sight{icy: 400}},
}

// Before anything is seen, how likely each is against its not being so.
const (
	staleBefore   = 0.01
	paperyBefore  = 0.005
	cloggedBefore = 0.02
	stirredBefore = 0.01
	icyBefore     = 0.005
	coolBefore    = 0.02
	warmBefore    = 0.02
)

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
			out = append(out, reading{say: fmt.Sprintf("It is %s.", fault), sight: sight{uneven: f.uneven},
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
