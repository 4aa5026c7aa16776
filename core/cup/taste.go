package cup

import (
	"math"

	"yardbloom/core/units"
)

// A Sense is one thing that is tasted, on five steps with a word each.
type Sense string

// The senses.
const (
	Acidity    Sense = "acidity"
	Sweetness  Sense = "sweetness"
	Body       Sense = "body"
	Clarity    Sense = "clarity"
	Bitterness Sense = "bitterness"
	Dryness    Sense = "dryness"
	Aftertaste Sense = "aftertaste"
)

// A Scale names the five steps of a sense, from little to much, and says how to tell it by
// something that everybody has in the kitchen.
type Scale struct {
	Sense  Sense
	Name   string
	Words  [5]string
	Lesson string
}

var scales = []Scale{
	{Acidity, "Acidity", [5]string{"none", "soft", "lively", "sharp", "sour"}, "Bite into an apple: what makes the sides of the tongue water. A ripe one is lively, an unripe one sour. Lemon in water at four strengths trains it."},
	{Sweetness, "Sweetness", [5]string{"none", "faint", "clear", "full", "syrupy"}, "Not sugar, but what is left when nothing pulls the other way: ripe pear, caramel, the second half of a carrot. Look for it as the cup cools."},
	{Body, "Body", [5]string{"thin", "light", "medium", "full", "heavy"}, "The weight on the tongue: water, skimmed milk, whole milk, cream. It comes from strength, not from bitterness."},
	{Clarity, "Clarity", [5]string{"muddled", "hazy", "fair", "clear", "very clear"}, "Whether flavours stand apart, as fruit in a salad does, or run together as in a purée."},
	{Bitterness, "Bitterness", [5]string{"none", "a trace", "some", "strong", "harsh"}, "At the back of the tongue, late: tonic water, the pith of a grapefruit, dark chocolate. A trace holds a cup together."},
	{Dryness, "Dryness", [5]string{"none", "a trace", "some", "drying", "rough"}, "A feeling, not a taste: the tongue turns rough, as after black tea that stood too long or a walnut's skin."},
	{Aftertaste, "Aftertaste", [5]string{"none", "short", "medium", "long", "lasting"}, "Swallow, wait ten seconds and breathe out through the nose: how much is still there, as with good chocolate."},
}

// Scales lists the senses in the order in which they are asked.
func Scales() []Scale { return scales }

// Word returns the word for a step of a sense, 1 to 5, or nothing for a step not given.
func Word(s Sense, step int) string {
	for _, sc := range scales {
		if sc.Sense == s && step >= 1 && step <= len(sc.Words) {
			return sc.Words[step-1]
		}
	}
	return ""
}

// A Fault is something in the cup that should not be there at all.
type Fault string

// The faults.
const (
	Papery Fault = "papery"
	Flat   Fault = "flat, stale"
	Salty  Fault = "salty"
	Hollow Fault = "hollow"
)

// Faults lists the faults.
func Faults() []Fault { return []Fault{Papery, Flat, Salty, Hollow} }

// Lesson says how to tell a fault.
func (f Fault) Lesson() string { return lessons[f] }

var lessons = map[Fault]string{
	Papery: "Wet cardboard: pour hot water through an empty filter and smell it.",
	Flat:   "Bread that was left out: nothing is wrong, and nothing is there.",
	Salty:  "As of broth, at the tip of the tongue: a cup of which very little came out.",
	Hollow: "It begins and ends, with nothing between, like tea from a bag used twice.",
}

// A Mark is something that was seen while pouring.
type Mark string

// What can be marked while pouring.
const (
	DrySpot Mark = "dry spot"
	Channel Mark = "channel"
	Stall   Mark = "stall"
	Spill   Mark = "spill"
)

// Marks lists what can be marked.
func Marks() []Mark { return []Mark{DrySpot, Channel, Stall, Spill} }

// A Sight is something that was seen at the brewer or in the glass, besides the bed.
type Sight string

// What can be seen.
const (
	OneSided Sight = "one side ran faster"
	BadSeat  Sight = "the filter sat badly"
	IceLeft  Sight = "ice was left over"
)

// Sights lists what can be seen.
func Sights() []Sight { return []Sight{OneSided, BadSeat, IceLeft} }

// A Want is what somebody asks of the next cup, in one word.
type Want string

// The wants.
const (
	Sweeter  Want = "sweeter"
	Brighter Want = "brighter"
	Lighter  Want = "lighter"
	Stronger Want = "stronger"
)

// Wants lists the wants.
func Wants() []Want { return []Want{Sweeter, Brighter, Lighter, Stronger} }

// A Like is whether somebody likes a sense as it is, where that is not what its word says.
type Like int

// The likes; zero is not said.
const (
	Disliked Like = iota - 1
	_
	Liked
)

// A Stage is how warm a cup was when it was tasted. A cup changes as it cools.
type Stage string

// The stages.
const (
	Hot  Stage = "hot"
	Warm Stage = "warm"
	Cool Stage = "cool"
)

// Stages lists the stages as a cup goes through them.
func Stages() []Stage { return []Stage{Hot, Warm, Cool} }

// weights are how much each stage says of a cup: heat hides what a cooler cup tells.
var weights = map[Stage]float64{Hot: 1, Warm: 2, Cool: 2}

// A Sip is what was said of a cup at one stage.
type Sip struct {
	Steps map[Sense]int
	Likes map[Sense]Like
}

// Together is what sips come to: the mean step of each sense, cooler ones counting twice,
// and the liking that was said last.
func Together(sips map[Stage]Sip) (steps map[Sense]int, likes map[Sense]Like) {
	steps, likes = map[Sense]int{}, map[Sense]Like{}
	for _, sc := range scales {
		sum, of := 0.0, 0.0
		for _, stage := range Stages() {
			if step := sips[stage].Steps[sc.Sense]; step > 0 {
				sum, of = sum+weights[stage]*float64(step), of+weights[stage]
			}
			if like := sips[stage].Likes[sc.Sense]; like != 0 {
				likes[sc.Sense] = like
			}
		}
		if of > 0 {
			steps[sc.Sense] = int(math.Round(sum / of))
		}
	}
	return steps, likes
}

// Taste is a tasting: a step from 1 to 5 for each sense that was judged, the
// faults found, one overall mark from 1 to 10 (0: not given), and whether the
// taster would serve it ("yes", "no" or nothing).
type Taste struct {
	Steps    map[Sense]int
	Likes    map[Sense]Like
	Sips     map[Stage]Sip // what Steps and Likes come from, where it was tasted by stages
	Faults   map[Fault]bool
	Flavours []string
	Overall  int
	Serve    string
	Notes    string
}

// Given says whether anything was judged that advice can be based on.
func (t Taste) Given() bool { return len(t.Steps) > 0 || len(t.Faults) > 0 }

// Said says whether anything at all was said of the cup.
func (t Taste) Said() bool { return t.Given() || t.Overall > 0 || t.Serve != "" }

// A Cup is what was found in a brew. Zero readings were not taken.
type Cup struct {
	// Dose and Water are what was really weighed and poured, g; 0 for what the recipe says.
	Dose, Water units.Grams
	Beverage    units.Grams // without the carafe
	Carafe      units.Grams // empty, where it was weighed along
	TDS         float64     // the mean of the readings that count
	Readings    []float64   // of the refractometer, where there was more than one
	// Simulated reports whether a simulated device measured any of the figures.
	Simulated bool
	Drawdown  units.Seconds
	Bed       Bed
	Spots     map[Place]Look // what Bed comes from, where it was tapped on the picture
	Seen      map[Sight]bool
	Taste
	// What was said back to the coach: what is wanted of the next cup, that the pour was a
	// bad one, and that the change which was advised was not made.
	Wants   map[Want]bool
	BadPour bool
	NotDone bool
}
