package cup

import "yardbloom/core/units"

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

// A Scale names the five steps of a sense, from little to much.
type Scale struct {
	Sense Sense
	Name  string
	Words [5]string
}

var scales = []Scale{
	{Acidity, "Acidity", [5]string{"none", "soft", "lively", "sharp", "sour"}},
	{Sweetness, "Sweetness", [5]string{"none", "faint", "clear", "full", "syrupy"}},
	{Body, "Body", [5]string{"thin", "light", "medium", "full", "heavy"}},
	{Clarity, "Clarity", [5]string{"muddled", "hazy", "fair", "clear", "very clear"}},
	{Bitterness, "Bitterness", [5]string{"none", "a trace", "some", "strong", "harsh"}},
	{Dryness, "Dryness", [5]string{"none", "a trace", "some", "drying", "rough"}},
	{Aftertaste, "Aftertaste", [5]string{"none", "short", "medium", "long", "lasting"}},
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

// Bed is what the spent bed looks like.
type Bed string

// The shapes of a spent bed.
const (
	FlatBed   Bed = "flat"
	Domed     Bed = "domed"
	Cratered  Bed = "cratered"
	Sloped    Bed = "sloped"
	HighWalls Bed = "grounds high on the wall"
	Mud       Bed = "mud on top"
	DryPocket Bed = "dry pockets"
)

// Beds lists the shapes of a spent bed, the wanted one first.
func Beds() []Bed { return []Bed{FlatBed, Domed, Cratered, Sloped, HighWalls, Mud, DryPocket} }

// Uneven says whether the shape shows that the water ran unevenly through the bed.
func (b Bed) Uneven() bool {
	return b == Cratered || b == Sloped || b == HighWalls || b == DryPocket
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

// Taste is a tasting: a step from 1 to 5 for each sense that was judged, the
// faults found, one overall mark from 1 to 10 (0: not given), and whether the
// taster would serve it ("yes", "no" or nothing).
type Taste struct {
	Steps   map[Sense]int
	Likes   map[Sense]Like
	Faults  map[Fault]bool
	Overall int
	Serve   string
	Notes   string
}

// Given says whether anything was judged that advice can be based on.
func (t Taste) Given() bool { return len(t.Steps) > 0 || len(t.Faults) > 0 }

// A Cup is what was found in a brew. Zero readings were not taken.
type Cup struct {
	Beverage units.Grams
	TDS      float64
	Drawdown units.Seconds
	Bed      Bed
	Seen     map[Sight]bool
	Taste
	// What was said back to the coach: what is wanted of the next cup, that the pour was a
	// bad one, and that the change which was advised was not made.
	Wants   map[Want]bool
	BadPour bool
	NotDone bool
}
