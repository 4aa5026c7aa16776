package coach

import (
	"math"

	"yardbloom/core/units"
)

// A Supply holds the contents of a bag and the losses of brewing from it.
type Supply struct {
	Left   units.Grams
	Wanted int         // brews out of it; 0: as many as the present dose gives
	Dose   units.Grams // at present
	Least  units.Grams // the brewer's smallest dose
	Most   units.Grams // and its largest
	Loss   units.Grams // stays in the grinder at each grind
	Purge  units.Grams // is ground and thrown away after a change of the setting
}

// A BagPlan is a plan for the rest of a bag: the first brews dial in, with a change after each, the others are for drinking.
type BagPlan struct {
	Brews   int
	Changes int         // brews after which a change is worth it
	Dose    units.Grams // of each brew
	Waste   units.Grams // goes into the grinder, or is thrown away
	Over    units.Grams // is left at the end
	// Short is true if the bag does not give the wanted number.
	Short bool
}

// Drinking returns the number of brews without a change.
func (p BagPlan) Drinking() int { return p.Brews - p.Changes }

// PlanBag plans the rest of a bag. chance is the probability that the next cup is good; settled is true if the recipe already makes a good
// one. Changes end once a good cup is four in five likely, and never take more than a third of the brews; the last two brews are for
// drinking.
func PlanBag(s Supply, settled bool, chance float64) BagPlan {
	if s.Dose <= 0 || s.Left <= 0 {
		return BagPlan{}
	}
	changes := 0
	if !settled {
		changes = untilGood(chance)
	}
	p := s.with(changes)
	for p.Changes > 0 && p.Changes > min((p.Brews+2)/3, p.Brews-2) {
		p = s.with(p.Changes - 1)
	}
	return p
}

// untilGood returns the number of changes after which a good cup is four in five likely. Each cup teaches, so later ones are good at least
// as often as simulated learners find.
func untilGood(chance float64) int {
	const enough, later, most = 0.8, 0.45, 6
	bad := 1.0
	for n := range most {
		if 1-bad >= enough {
			return n
		}
		if n > 0 {
			chance = max(chance, later)
		}
		bad *= 1 - chance
	}
	return most
}

// with returns the plan for a number of changes, each of which takes a purge.
func (s Supply) with(changes int) BagPlan {
	purged := s.Purge * units.Grams(changes)
	usable := s.Left - purged
	fit := func(dose units.Grams) int { return max(0, int(math.Floor(float64((usable+1e-6)/(dose+s.Loss))))) }
	p := BagPlan{Dose: s.Dose, Brews: fit(s.Dose), Changes: changes}
	if s.Wanted > 0 {
		dose := usable/units.Grams(s.Wanted) - s.Loss
		p.Dose = units.Grams(math.Floor(10*float64(min(s.Most, max(s.Least, dose)))) / 10)
		p.Brews = min(s.Wanted, fit(p.Dose))
		p.Short = p.Brews < s.Wanted
	}
	p.Changes = min(changes, p.Brews)
	p.Waste = purged + s.Loss*units.Grams(p.Brews)
	p.Over = max(0, usable-units.Grams(p.Brews)*(p.Dose+s.Loss))
	return p
}
