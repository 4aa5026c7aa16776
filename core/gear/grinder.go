package gear

import (
	"fmt"
	"math"

	"yardbloom/core/units"
)

// Burrs is the type of a grinder's cutters.
type Burrs string

// The kinds of grinder.
const (
	FlatBurr    Burrs = "flat burr"
	ConicalBurr Burrs = "conical burr"
	HandMill    Burrs = "hand mill"
	Blade       Burrs = "blade"
	// Bought is coffee that was bought ground: its size cannot be set.
	Bought Burrs = "bought ground"
)

// BurrKinds lists the kinds of grinder in the order in which they are offered.
func BurrKinds() []Burrs { return []Burrs{FlatBurr, ConicalBurr, HandMill, Blade, Bought} }

// DialKind is the way in which a grinder shows its setting.
type DialKind string

// The kinds of dial.
const (
	Numbered DialKind = "numbers" // a scale with numbers, such as 4.5
	Clicks   DialKind = "clicks"  // counted clicks from closed, such as 22 clicks
	Turns    DialKind = "turns"   // turns and clicks, such as 1 turn + 10
	Collar   DialKind = "collar"  // turns of a collar without clicks, such as 1.25 turns
	Words    DialKind = "words"   // no dial: texture words
)

// DialKinds lists the kinds of dial in the order in which they are offered.
func DialKinds() []DialKind { return []DialKind{Numbered, Clicks, Turns, Collar, Words} }

// A Dial translates between a median grind size in µm and a grinder's own
// terms. A setting counts steps from the dial's zero:
//
//	size = Zero + steps × Step
//
// where Step is negative on a dial whose higher numbers are finer.
type Dial struct {
	Kind DialKind `db:"dial_kind"`
	// Zero is the size in µm at setting 0, Step the change in size per step.
	Zero units.Micrometres `db:"dial_zero"`
	Step units.Micrometres `db:"dial_step"`
	// Mark is the value of one step on a numbered dial (0.5 if the dial has half marks). PerTurn is the
	// number of clicks in a turn, or the number of parts of a turn to which a collar can be set.
	Mark    float64 `db:"dial_mark"`
	PerTurn int     `db:"dial_per_turn"`
}

// DialFrom returns a dial of which only the setting for filter coffee is known, numbers or clicks: closed near setting 0, and a table-salt
// grind of 650 µm at that setting. Its error in between is about a fifth, until the grinder is zeroed or its brews are learned.
func DialFrom(kind DialKind, filter float64) Dial {
	const size = 650 // µm
	d := Dial{Kind: kind, Zero: 50}
	if kind == Numbered {
		d.Zero, d.Mark = 150, 1
		if filter < 12 || filter != math.Trunc(filter) {
			d.Mark = 0.5
		}
	}
	d.Step = (size - d.Zero) / units.Micrometres(filter/d.Stride())
	return d
}

// MinStep is the smallest change in size of one step, µm. Settings that differ by less count as the same
// grind.
const MinStep = 0.1

// Steps returns the number of whole steps nearest to a size.
func (d Dial) Steps(size units.Micrometres) int {
	if d.Step == 0 {
		return 0
	}
	return int(math.Round(float64((size - d.Zero) / d.Step)))
}

// Size returns the median size at a number of steps.
func (d Dial) Size(steps int) units.Micrometres {
	return d.Zero + units.Micrometres(steps)*d.Step
}

// Snap returns the nearest size to which the grinder can be set.
func (d Dial) Snap(size units.Micrometres) units.Micrometres {
	if d.Step == 0 {
		return size
	}
	return d.Size(d.Steps(size))
}

// Setting prints the setting for a size in the grinder's own terms.
func (d Dial) Setting(size units.Micrometres) string {
	steps := d.Steps(size)
	switch {
	case d.Kind == Words || d.Step == 0:
		return Texture(size)
	case d.Kind == Numbered:
		return units.Trim(float64(steps)*d.Stride(), 2)
	case d.Kind == Turns && d.PerTurn > 0:
		return fmt.Sprintf("%s + %s", units.Plural(steps/d.PerTurn, "turn"), units.Plural(steps%d.PerTurn, "click"))
	case d.Kind == Collar:
		return inTurns(float64(steps) * d.Stride())
	default:
		return units.Plural(steps, "click")
	}
}

// Number returns the setting as one number: the mark on a numbered dial, the turns of a collar, otherwise the steps.
func (d Dial) Number(size units.Micrometres) float64 {
	return float64(d.Steps(size)) * d.Stride()
}

// FromNumber returns the size at a typed setting.
func (d Dial) FromNumber(reading float64) units.Micrometres {
	return d.Size(int(math.Round(reading / d.Stride())))
}

// Stride returns the change of the number per step: the mark on a numbered dial, a part of a turn of a collar, otherwise one.
func (d Dial) Stride() float64 {
	switch {
	case d.Kind == Numbered && d.Mark > 0:
		return d.Mark
	case d.Kind == Collar && d.PerTurn > 0:
		return 1 / float64(d.PerTurn)
	}
	return 1
}

// inTurns formats an amount of turns of a collar, such as 1.25 turns.
func inTurns(n float64) string {
	if n == 1 {
		return "1 turn"
	}
	return units.Trim(n, 3) + " turns"
}

// A Move is a change of setting in whole steps, with the resulting size.
type Move struct {
	Steps int
	Size  units.Micrometres
}

// Nudge returns the move of about delta µm from a size, in whole steps and at least one.
func (d Dial) Nudge(from, delta units.Micrometres) Move {
	if d.Step == 0 {
		return Move{Size: from + delta}
	}
	n := int(math.Round(float64(delta / d.Step)))
	if n == 0 {
		n = 1
		if (delta < 0) != (d.Step < 0) {
			n = -1
		}
	}
	return Move{Steps: n, Size: d.Size(d.Steps(from) + n)}
}

// DescribeMove prints a move in the grinder's own terms, such as "2 clicks finer".
func (d Dial) DescribeMove(m Move, from units.Micrometres) string {
	way := "coarser"
	if m.Size < from {
		way = "finer"
	}
	n := m.Steps
	if n < 0 {
		n = -n
	}
	switch {
	case d.Kind == Words || d.Step == 0:
		const little, much = 60, 140 // µm
		switch by := math.Abs(float64(m.Size - from)); {
		case by <= little:
			return "a little " + way
		case by <= much:
			return "clearly " + way
		}
		return "much " + way
	case d.Kind == Numbered:
		return fmt.Sprintf("%s %s on the dial", units.Trim(float64(n)*d.Stride(), 2), way)
	case d.Kind == Collar:
		return inTurns(float64(n)*d.Stride()) + " " + way
	default:
		return units.Plural(n, "click") + " " + way
	}
}

// Texture describes a median size in words, for grinders without a dial.
func Texture(size units.Micrometres) string {
	for _, t := range textures {
		if size < t.below {
			return t.words
		}
	}
	return "like coarse breadcrumbs"
}

var textures = []struct {
	below units.Micrometres
	words string
}{
	{400, "like icing sugar with a little grit"},
	{550, "like fine table salt"},
	{700, "like table salt"},
	{850, "like coarse sand"},
	{1000, "like sea salt"},
}

// A Grinder is one that a person owns.
type Grinder struct {
	ID    string `db:"id"`
	Name  string `db:"name"`
	Burrs Burrs  `db:"burrs"`
	Dial
	// Loss is the coffee that stays in the grinder per grind, g.
	Loss units.Grams `db:"loss"`
	// Zeroed counts how often the grinder was taken apart and calibrated again. Settings from before a
	// calibration do not apply after it.
	Zeroed int `db:"zeroed"`
}

// BoughtSize is the usual median size of coffee that is sold ground for filters, µm. Packs differ by about a fifth.
const BoughtSize units.Micrometres = 750

// Adjustable reports whether the size of the grind can be chosen; that of coffee bought ground cannot.
func (g Grinder) Adjustable() bool { return g.Burrs != Bought }

// Repeatable reports whether the same setting gives the same grind. A blade has no setting.
func (g Grinder) Repeatable() bool { return g.Burrs != Blade }

// Purge returns the grams to grind and throw away after a change of the coffee or the setting: about three times what stays in the
// grinder, since the new grounds mix with it.
func (g Grinder) Purge() units.Grams {
	return units.Grams(math.Ceil(float64(3 * g.Loss)))
}

// GrindSeconds returns the seconds for which a blade must run, in pulses, for a texture like that of a median
// size. It is a rule of thumb with an error of about a third.
func GrindSeconds(size units.Micrometres) float64 {
	const at650 = 14
	return math.Round(at650 * 650 / float64(max(size, 200)))
}
