package coach

import (
	"fmt"
	"math"

	"yardbloom/core/cup"
)

// An evidence is one sign of a cup: its sentence and its likelihood.
type evidence struct {
	say string
	// taste returns the log-likelihood, up to a constant, for a cup that is dy points and ds % off the aim of a taster
	// and has an unevenness; nil if it does not depend on them.
	taste    func(who taster, dy, ds, uneven float64) float64
	personal bool // taste depends on the taster
	word     bool // one of several words for one cup
	sight         // likelihood ratios by cause
}

// A sight holds the likelihood ratio of a sign for each cause that it indicates: an uneven bed of either
// origin, or a plain fault. Other causes have a ratio of 1.
type sight map[Cause]float64

// sights lists observations, and taste without a scale. Trainers' experience.
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
	{sign: either(seenBed(cup.Mud), sludge), sight: sight{Clogged: 8}},
	{sign: markedAs(cup.Channel), sight: sight{Uneven: 8}},
	{sign: markedAs(cup.DrySpot), sight: sight{Uneven: 6}},
	{sign: both(markedStall, stalled), sight: sight{Clogged: 60}},
	{sign: doubtedStall, sight: sight{Clogged: 0.5}},
	{sign: slowSide, sight: sight{Uneven: 8}},
	{sign: badPaper, sight: sight{Uneven: 6}},
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
	{sign: dulls, sight: sight{Dulled: 20}},
	{sign: both(dulls, dull), sight: sight{Dulled: 10}},
	{sign: both(dulls, either(sharp, lively)), sight: sight{Dulled: 0.02}},
	{sign: bare, sight: sight{Bare: 30}},
	{sign: both(bare, sharp), sight: sight{Bare: 12}},
}

// before holds the prior odds of each plain fault.
var before = map[Cause]float64{Stale: 0.01, Papery: 0.005, Clogged: 0.02, Stirred: 0.01, Icy: 0.005, Cool: 0.02, Warm: 0.02,
	Dulled: 0.01, Bare: 0.005}

// readings returns all the evidence of a cup.
func (c Case) readings() []evidence {
	var out []evidence
	for _, sc := range cup.Scales() {
		if step := c.step(sc.Sense); step > 0 {
			out = append(out, c.sensed(sc, step))
		}
	}
	for _, fault := range cup.Faults() {
		if f, known := flaws[fault]; known && c.Cup.Faults[fault] {
			out = append(out, evidence{say: faulty(fault), sight: sight{Uneven: f.uneven},
				taste: func(_ taster, dy, _, _ float64) float64 { return -min(0, dy) * math.Log(f.under) }})
		}
	}
	out = append(out, c.marked()...)
	for _, want := range cup.Wants() {
		if w := wishes[want]; c.Cup.Wants[want] {
			out = append(out, evidence{say: wanted(want)(c), taste: func(_ taster, dy, ds, _ float64) float64 {
				return -math.Log1p(math.Exp(-3 * (w.yield*dy + w.strength*ds*10 + w.off*(math.Abs(dy)-1))))
			}})
		}
	}
	for _, s := range sights {
		if said := s.sign(c); said != "" && said != c.ignored {
			out = append(out, evidence{say: said, sight: s.sight})
		}
	}
	return out
}

// marked returns the evidence of the mark and of "would serve it", which are one scale: with a mark, the other adds nothing.
func (c Case) marked() []evidence {
	verdict := func(say string, of func(mark float64) float64) []evidence {
		return []evidence{{say: say, personal: true,
			taste: func(who taster, dy, ds, uneven float64) float64 { return of(who.expected(dy, ds, uneven)) }}}
	}
	switch mark := float64(c.Cup.Overall); {
	case mark > 0:
		return verdict(fmt.Sprintf("You gave it %.0f of 10.", mark), func(at float64) float64 { return broad((mark - at) / ofMarks) })
	case c.Cup.Serve == "yes": // about a mark of 8 or more
		return verdict("You would serve it.", func(at float64) float64 { return bell(min(0, at-7.7)) })
	case c.Cup.Serve == "no": // about a mark of 6 or less
		return verdict("You would not serve it.", func(at float64) float64 { return bell(max(0, at-6.7)) })
	}
	return nil
}

// sensed returns the evidence of a word for a sense. A sense that the person likes only indicates a small
// distance from the aim.
func (c Case) sensed(sc cup.Scale, step int) evidence {
	t, heard, as := traits[sc.Sense], hear(step), c.Tongue.heardAs(sc.Sense)
	out := evidence{say: fmt.Sprintf("%s: %s.", sc.Name, cup.Word(sc.Sense, step)), word: true, personal: t.loose,
		taste: func(who taster, dy, ds, uneven float64) float64 { return heard.at(as(t.step(who, dy, ds, uneven))) }}
	switch c.Cup.Likes[sc.Sense] {
	case cup.Liked:
		out.say, out.personal = fmt.Sprintf("%s: %s, and you like it.", sc.Name, cup.Word(sc.Sense, step)), true
		out.taste = func(who taster, dy, ds, uneven float64) float64 {
			return bell((who.top - who.expected(dy, ds, uneven)) / 2)
		}
	case cup.Disliked:
		out.say, out.personal = fmt.Sprintf("%s: %s, and you do not like it.", sc.Name, cup.Word(sc.Sense, step)), true
		out.taste = func(who taster, dy, ds, uneven float64) float64 {
			return heard.at(as(t.step(who, dy, ds, uneven))) + bell(max(0, who.expected(dy, ds, uneven)-8))
		}
	}
	return out
}

// bell returns the log of a normal likelihood at z standard deviations.
func bell(z float64) float64 { return -z * z / 2 }

// broad is bell with heavy tails: a palate may be stricter or milder than the table.
func broad(z float64) float64 { return -2 * math.Log1p(z*z/4) }
