package cup

import (
	"math"

	"yardbloom/core/units"
)

// A Sense is one attribute of taste, on a scale of five steps.
type Sense string

// The senses.
const (
	Aroma      Sense = "aroma"
	Acidity    Sense = "acidity"
	Sweetness  Sense = "sweetness"
	Body       Sense = "body"
	Clarity    Sense = "clarity"
	Bitterness Sense = "bitterness"
	Dryness    Sense = "dryness"
	Aftertaste Sense = "aftertaste"
	Complexity Sense = "complexity"
)

// A Scale names the five steps of a sense, from little to much, and describes a lesson with something from
// the kitchen.
type Scale struct {
	Sense  Sense
	Name   string
	Words  [5]string
	Lesson string
}

var scales = []Scale{
	{Aroma, "Aroma", [5]string{"none", "faint", "clear", "strong", "filling"},
		"Before the sip, with the nose over the cup, and again when it has cooled: how much there is, not whether you like it."},
	{Acidity, "Acidity", [5]string{"none", "soft", "lively", "sharp", "sour"},
		"Bite into an apple: what makes the sides of the tongue water. A ripe one is lively, an unripe one sour. Lemon in water at four " +
			"strengths trains it."},
	{Sweetness, "Sweetness", [5]string{"none", "faint", "clear", "full", "syrupy"},
		"Not sugar, but the absence of sourness and bitterness: ripe pear, caramel, the second half of a carrot. Look for it as " +
			"the cup cools."},
	{Body, "Body", [5]string{"thin", "light", "medium", "full", "heavy"},
		"The weight on the tongue: water, skimmed milk, whole milk, cream. It comes from strength, not from bitterness."},
	{Clarity, "Clarity", [5]string{"muddled", "hazy", "fair", "clear", "very clear"},
		"Whether flavours are distinct, like fruit in a salad, or blended, like a purée."},
	{Bitterness, "Bitterness", [5]string{"none", "a trace", "some", "strong", "harsh"},
		"At the back of the tongue, late: tonic water, the pith of a grapefruit, dark chocolate. A trace holds a cup together."},
	{Dryness, "Dryness", [5]string{"none", "a trace", "some", "drying", "rough"},
		"A feeling, not a taste: the tongue turns rough, as after black tea that stood too long or a walnut's skin."},
	{Aftertaste, "Aftertaste", [5]string{"none", "short", "medium", "long", "lasting"},
		"Swallow, wait ten seconds and breathe out through the nose: note how much flavour remains, as with good chocolate."},
	{Complexity, "Complexity", [5]string{"plain", "simple", "some", "rich", "many-layered"},
		"How many flavours there are, at once and one after another as it cools: an apple has few, an apple pie with spices has many."},
}

// Scales lists the senses in the order on the form.
func Scales() []Scale { return scales }

// Word returns the word for a step of a sense, 1 to 5, or an empty string for other steps.
func Word(s Sense, step int) string {
	for _, sc := range scales {
		if sc.Sense == s && step >= 1 && step <= len(sc.Words) {
			return sc.Words[step-1]
		}
	}
	return ""
}

// A Fault is a defect of the cup.
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

// Lesson describes how to recognize a fault.
func (f Fault) Lesson() string { return lessons[f] }

var lessons = map[Fault]string{
	Papery: "Wet cardboard: pour hot water through an empty filter and smell it.",
	Flat:   "Stale bread: nothing is wrong, but nothing is there.",
	Salty:  "Like broth, at the tip of the tongue: a strongly under-extracted cup.",
	Hollow: "A beginning and an end with nothing between, like tea from a bag used twice.",
}

// A Mark is an observation made while pouring.
type Mark string

// The marks.
const (
	DrySpot Mark = "dry spot"
	Channel Mark = "channel"
	Stall   Mark = "stall"
	Spill   Mark = "spill"
	Outlets Mark = "one outlet faster"
	Ridge   Mark = "collapsed ridge"
	Dome    Mark = "dome"
	Sludge  Mark = "sludge"
	// CrustBroken is the moment at which the crust of a steep was broken that the recipe leaves alone.
	CrustBroken Mark = "crust broken"
)

// Marks lists the marks.
func Marks() []Mark {
	return []Mark{DrySpot, Channel, Stall, Spill, Outlets, Ridge, Dome, Sludge, CrustBroken}
}

// Now returns what a mark means for the rest of the brew.
func (m Mark) Now() string { return nows[m] }

// nows is trainers' experience.
var nows = map[Mark]string{
	DrySpot:     "Wet it with the next pour, from low down.",
	Channel:     "Pour the rest lower, and away from it.",
	Stall:       "Wait until the water moves again, and do not stir.",
	Spill:       "Weigh the carafe at the end, and enter what was poured.",
	Outlets:     "Level the brewer, and turn the paper a little.",
	Dome:        "Full of gas: let it sink before the next pour.",
	Sludge:      "Pour gently into the middle, and do not stir.",
	CrustBroken: "The model counts it from here.",
	Ridge:       "Hold the paper off the wall there with a spoon, and pour gently.",
}

// A Sight is an observation at the brewer or in the glass, apart from the bed.
type Sight string

// The sights.
const (
	OneSided Sight = "one side ran faster"
	BadSeat  Sight = "the filter sat badly"
	IceLeft  Sight = "ice was left"
)

// Sights lists the sights.
func Sights() []Sight { return []Sight{OneSided, BadSeat, IceLeft} }

// A Want is a request for the next cup.
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

// A Like is a preference that the word of a sense does not imply.
type Like int

// The likes; zero is not given.
const (
	Disliked Like = iota - 1
	_
	Liked
)

// A Than compares a cup with the last one of the coffee.
type Than string

// The comparisons.
const (
	ClearlyWorse  Than = "clearly worse"
	LittleWorse   Than = "a little worse"
	Same          Than = "the same"
	LittleBetter  Than = "a little better"
	ClearlyBetter Than = "clearly better"
)

// Thans lists the comparisons from worse to better.
func Thans() []Than { return []Than{ClearlyWorse, LittleWorse, Same, LittleBetter, ClearlyBetter} }

// A Stage is the temperature stage of a tasting. A cup changes as it cools.
type Stage string

// The stages.
const (
	Hot  Stage = "hot"
	Warm Stage = "warm"
	Cool Stage = "cool"
)

// Stages lists the stages from hot to cool.
func Stages() []Stage { return []Stage{Hot, Warm, Cool} }

// weights is the weight of each stage: flavours are clearer in a cooler cup.
var weights = map[Stage]float64{Hot: 1, Warm: 2, Cool: 2}

// A Sip is the tasting of a cup at one stage.
type Sip struct {
	Steps    map[Sense]int
	Likes    map[Sense]Like
	Flavours []string // found at this stage
}

// Combine combines the sips of all stages: the weighted mean step of each sense, and the latest
// preference.
func Combine(sips map[Stage]Sip) (steps map[Sense]int, likes map[Sense]Like) {
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
	Sips     map[Stage]Sip // the tastings by stage that Steps and Likes are computed from, if any
	Faults   map[Fault]bool
	Flavours []string
	Overall  int
	Better   Than // than the last cup of the coffee; empty: not said
	Serve    string
	Notes    string
}

// IsJudged reports whether anything was judged that the advice can use.
func (t Taste) IsJudged() bool { return len(t.Steps) > 0 || len(t.Faults) > 0 }

// IsRecorded reports whether anything at all was recorded about the cup.
func (t Taste) IsRecorded() bool {
	return t.IsJudged() || t.Overall > 0 || t.Serve != "" || t.Better != ""
}

// A Cup holds the measurements and the tasting of a brew. A reading of zero was not taken.
type Cup struct {
	// Dose and Water are the measured amounts, g, and Grind the size that the grinder was really set to; 0 means as in the recipe.
	Dose, Water units.Grams
	Grind       units.Micrometres
	Beverage    units.Grams // without the carafe
	Carafe      units.Grams // empty carafe, if the beverage was weighed in it
	TDS         float64     // mean of the readings without outliers
	Readings    []float64   // of the refractometer, if more than one
	// Simulated reports whether a simulated device measured any of the figures.
	Simulated bool
	ServedTo  string // who drank it
	Drawdown  units.Seconds
	Bed       Bed
	Spots     map[Place]Look // the regions marked on the picture that Bed is computed from
	Sights    map[Sight]bool
	Taste
	// Feedback for the coach: requests for the next cup, whether the pour was bad, and whether the advised
	// change was skipped.
	Wants         map[Want]bool
	BadPour       bool
	SkippedChange bool
}

// Shared returns the part of a cup that is the same for everybody: the measurements and the course of the brew.
func (c Cup) Shared() Cup {
	c.Taste, c.Wants = Taste{}, nil
	return c
}

// Personal returns the part of a cup that is one person's: the taste and the requests.
func (c Cup) Personal() Cup { return Cup{Taste: c.Taste, Wants: c.Wants} }

// With returns a cup with the personal part of another.
func (c Cup) With(personal Cup) Cup {
	c.Taste, c.Wants = personal.Taste, personal.Wants
	return c
}
