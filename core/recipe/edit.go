package recipe

import (
	"errors"
	"slices"

	"yardbloom/core/units"
)

// Leasts of a pour that a hand can still make.
const (
	leastPour  units.Grams = 5  // g, left to each pour that gives water to another
	splitLeast units.Grams = 10 // g, for two pours to come of one
)

// PourRates are how fast a single pour may be, g/s.
var PourRates = units.Range{Lo: 0.5, Hi: 25}

// What cannot be done to pours.
var (
	ErrTooMany  = errors.New("there are as many pours as a recipe can have")
	ErrTooSmall = errors.New("there is too little in the pour for two")
	ErrLastPour = errors.New("it is the only pour")
	ErrNoNext   = errors.New("no pour comes after it")
	ErrNoPour   = errors.New("there is no such pour")
)

// spread gives so many g more, or less, to the pours after the bloom, in proportion
// to their water; not to the pour i, nor to pinned ones. It returns false where no
// pour is left that takes them. The recipe's pours are changed in place: clone it first.
func (r *Recipe) spread(more units.Grams, i int) bool {
	takers, sum := r.takers(i)
	if sum <= 0 {
		return false
	}
	for _, j := range takers {
		r.Pours[j].Water += more * r.Pours[j].Water / sum
	}
	return true
}

// takers are the pours that share what the pour i gives or takes, and their water.
func (r Recipe) takers(i int) (places []int, water units.Grams) {
	for j := r.blooms(); j < len(r.Pours); j++ {
		if j != i && !r.Pours[j].Pinned {
			places, water = append(places, j), water+r.Pours[j].Water
		}
	}
	return places, water
}

// pourWater returns the recipe with another amount of water in one pour. The other
// pours after the bloom that are not pinned share the difference, so that the total
// stays; where all of them are pinned, the total follows.
func (r Recipe) pourWater(i int, water units.Grams) Recipe {
	out := r.clone()
	out.spread(r.Pours[i].Water-water, i)
	out.Pours[i].Water = water
	return out
}

// startAt returns the recipe with one pour begun at another time by the clock. Those
// after it stay where they are, as long as there is time; else they are pushed on.
func (r Recipe) startAt(i int, start units.Seconds) Recipe {
	out := r.clone()
	end := lastStart(out)
	out.Pours[i].Start, out.Pours[i].WhenDrained = start, false
	for j := i + 1; j < len(out.Pours); j++ {
		before, was := out.Pours[j-1], r.Pours[j].Start-r.Pours[j-1].Start-r.Pours[j-1].Lasts()
		free := before.Start + before.Lasts() + max(0, min(was, minPause))
		if out.Pours[j].Start >= free {
			break
		}
		out.Pours[j].Start = free
	}
	if r.Aim > 0 {
		out.Aim += lastStart(out) - end
	}
	return out
}

func lastStart(r Recipe) units.Seconds { return r.Pours[len(r.Pours)-1].Start }

// pourFor returns the recipe with one pour poured in so many seconds: at another rate.
func (r Recipe) pourFor(i int, lasts units.Seconds) Recipe {
	out := r.clone()
	out.Pours[i].Rate = PourRates.Clamp(float64(out.Pours[i].Water) / float64(lasts))
	return out
}

// Allows is what may stand at an address of this recipe as it is now: a pour's water
// leaves something to those that share with it, it begins after the one before, and
// it ends before the next.
func (r Recipe) Allows(a Address) units.Range {
	out := a.Range()
	if a == Of(CrustAt) { // it is broken before the valve opens
		out.Hi = max(0, float64(r.Release-crustLasts-minPause))
	}
	i := a.Pour - 1
	if i < 0 || i >= len(r.Pours) {
		return out
	}
	p := r.Pours[i]
	switch a.Knob {
	case Water:
		if others, sum := r.takers(i); sum > 0 {
			out.Hi = min(out.Hi, float64(max(p.Water, p.Water+sum-leastPour*units.Grams(len(others)))))
		}
	case Start:
		if i == 0 {
			return units.Range{}
		}
		before := r.Pours[i-1]
		out.Lo = float64(before.Start + before.Lasts())
	case Lasts:
		rates := PourRates
		out = units.Range{Lo: float64(p.Water) / rates.Hi, Hi: float64(p.Water) / rates.Lo}
		if i+1 < len(r.Pours) && !r.Pours[i+1].WhenDrained {
			out.Hi = min(out.Hi, float64(max(p.Lasts(), r.Pours[i+1].Start-p.Start)))
		}
	}
	return out
}

// An Edit changes which pours there are.
type Edit string

// The edits.
const (
	AddAfter Edit = "add"    // one more pour, behind this one
	SplitIt  Edit = "split"  // two pours in place of this one
	MergeIt  Edit = "merge"  // one pour in place of this one and the next
	RemoveIt Edit = "remove" // its water goes to the others
	PinIt    Edit = "pin"    // or unpin
)

var edits = map[Edit]func(Recipe, int) (Recipe, error){AddAfter: Recipe.add, SplitIt: Recipe.split, MergeIt: Recipe.merge, RemoveIt: Recipe.remove,
	PinIt: func(r Recipe, i int) (Recipe, error) { r.Pours[i].Pinned = !r.Pours[i].Pinned; return r, nil }}

// Edit returns the recipe with an edit at the pour n, from 1, and all the water it
// had. The error is one of those above.
func (r Recipe) Edit(e Edit, n int) (Recipe, error) {
	edit, known := edits[e]
	if !known || n < 1 || n > len(r.Pours) {
		return r, ErrNoPour
	}
	if (e == AddAfter || e == SplitIt) && len(r.after()) >= int(Pours.Range().Hi) {
		return r, ErrTooMany
	}
	return edit(r.clone(), n-1)
}

// add puts one more pour behind i, with an equal part of the water that is shared.
func (r Recipe) add(i int) (Recipe, error) {
	places, sum := r.takers(-1)
	water := sum / units.Grams(len(places)+1)
	if len(places) == 0 || water < leastPour {
		return r, ErrTooSmall
	}
	p := r.Pours[max(i, r.blooms())] // in the manner of its neighbour
	p.Pinned, p.WhenDrained = false, i >= r.blooms() && p.WhenDrained
	last := r.Pours[i]
	start := last.Start + last.Lasts() + minPause
	r.spread(-water, -1)
	p.Water, p.Start = water, start
	r.Pours = slices.Insert(r.Pours, i+1, p)
	return r.pushed(i + 1), nil
}

// split makes two pours of one, with a pause between them.
func (r Recipe) split(i int) (Recipe, error) {
	p := r.Pours[i]
	if p.Water < splitLeast {
		return r, ErrTooSmall
	}
	first, second := p, p
	first.Water, second.Water = p.Water/2, p.Water/2
	first.Then, second.Bloom, second.WhenDrained = NoHand, false, false
	second.Start = p.Start + first.Lasts() + minPause
	if p.Bloom {
		first.Then, second.Then = p.Then, NoHand
	}
	r.Pours = slices.Replace(r.Pours, i, i+1, first, second)
	return r.pushed(i + 1), nil
}

// merge makes one pour of two.
func (r Recipe) merge(i int) (Recipe, error) {
	if i+1 >= len(r.Pours) {
		return r, ErrNoNext
	}
	p, next := r.Pours[i], r.Pours[i+1]
	p.Water += next.Water
	p.Then, p.Bloom, p.Pinned = next.Then, false, p.Pinned && next.Pinned
	if r.Pours[i].Bloom {
		p.Rate, p.Height, p.Pattern = next.Rate, next.Height, next.Pattern
	}
	r.Pours = slices.Replace(r.Pours, i, i+2, p)
	return r.pushed(i), nil
}

// remove takes a pour out; the others share its water.
func (r Recipe) remove(i int) (Recipe, error) {
	if len(r.Pours) == 1 {
		return r, ErrLastPour
	}
	water := r.Pours[i].Water
	r.Pours = slices.Delete(r.Pours, i, i+1)
	r.Pours[0].WhenDrained = false
	if i == 0 {
		r.shift(0, -r.Pours[0].Start)
	}
	if _, sum := r.takers(-1); sum <= 0 { // all others are pinned, or it is the bloom alone that is left
		r.Pours[len(r.Pours)-1].Water += water
		return r, nil
	}
	r.spread(water, -1)
	return r, nil
}

// pushed moves the pours behind i on as far as i needs, and the aim and the valve with the last one.
func (r Recipe) pushed(i int) Recipe {
	end := lastStart(r)
	for j := i + 1; j < len(r.Pours); j++ {
		before := r.Pours[j-1]
		if free := before.Start + before.Lasts() + minPause; r.Pours[j].Start < free {
			r.Pours[j].Start = free
		}
	}
	if last := lastStart(r); r.Aim > 0 && last > end {
		r.Aim += last - end
	}
	return r
}
