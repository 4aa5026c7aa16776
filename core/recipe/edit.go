package recipe

import (
	"errors"
	"slices"

	"yardbloom/core/units"
)

// The smallest pours.
const (
	minPour  units.Grams = 5  // g, left in each pour that gives water to another
	minSplit units.Grams = 10 // g, for a pour that can be split
)

// PourRates is the valid rate of a single pour, g/s.
var PourRates = units.Range{Lo: 0.5, Hi: 25}

// The errors of edits.
var (
	ErrTooMany  = errors.New("the recipe has the maximum number of pours")
	ErrTooSmall = errors.New("the pour is too small to split")
	ErrLastPour = errors.New("it is the only pour")
	ErrNoNext   = errors.New("no pour comes after it")
	ErrNoPour   = errors.New("no such pour")
)

// spread distributes more grams over the pours after the bloom, in proportion to their water, except pour i
// and pinned pours. more may be negative. It returns false if no pour can take them. It modifies the
// recipe's pours: clone it first.
func (r *Recipe) spread(more units.Grams, i int) bool {
	takers, sum := r.sharingPours(i)
	if sum <= 0 {
		return false
	}
	for _, j := range takers {
		r.Pours[j].Water += more * r.Pours[j].Water / sum
	}
	return true
}

// sharingPours returns the indices and the total water of the pours that compensate for a change of pour i.
func (r Recipe) sharingPours(i int) (places []int, water units.Grams) {
	for j := r.bloomCount(); j < len(r.Pours); j++ {
		if j != i && !r.Pours[j].Pinned {
			places, water = append(places, j), water+r.Pours[j].Water
		}
	}
	return places, water
}

// pourWater returns the recipe with another amount of water in one pour. The other unpinned pours after the
// bloom compensate, so that the total stays the same; if all of them are pinned, the total changes.
func (r Recipe) pourWater(i int, water units.Grams) Recipe {
	out := r.clone()
	out.spread(r.Pours[i].Water-water, i)
	out.Pours[i].Water, out.Pours[i].Level = water, 0
	return out
}

// ToLevel returns the recipe with pour i, from 0, poured to a share of the height from outlet to rim, which takes the given water. The
// pour keeps its water when others change.
func (r Recipe) ToLevel(i int, share float64, water units.Grams) Recipe {
	if i < 0 || i >= len(r.Pours) {
		return r
	}
	out := r.pourWater(i, water)
	out.Pours[i].Level, out.Pours[i].Pinned = share, true
	return out
}

// startAt returns the recipe with another start time of one pour. Later pours keep their times if there is
// room, and otherwise move back.
func (r Recipe) startAt(i int, start units.Seconds) Recipe {
	out := r.clone()
	end := lastStart(out)
	out.Pours[i].Start, out.Pours[i].Cue = start, ForTime
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

// pourFor returns the recipe with another duration of one pour, by changing its rate.
func (r Recipe) pourFor(i int, lasts units.Seconds) Recipe {
	out := r.clone()
	out.Pours[i].Rate = PourRates.Clamp(float64(out.Pours[i].Water) / float64(lasts))
	return out
}

// RangeAt returns the valid range at an address of this recipe: a pour leaves water to the pours that share
// with it, starts after the previous pour and ends before the next.
func (r Recipe) RangeAt(a Address) units.Range {
	out := a.Range()
	if a == AddressOf(CrustAt) { // the crust is broken before the valve opens
		out.Hi = max(0, float64(r.Release-crustLasts-minPause))
	}
	i := a.Pour - 1
	if i < 0 || i >= len(r.Pours) {
		return out
	}
	p := r.Pours[i]
	switch a.Knob {
	case Water:
		if others, sum := r.sharingPours(i); sum > 0 {
			out.Hi = min(out.Hi, float64(max(p.Water, p.Water+sum-minPour*units.Grams(len(others)))))
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
		if i+1 < len(r.Pours) && !r.Pours[i+1].Cue.ByEye() {
			out.Hi = min(out.Hi, float64(max(p.Lasts(), r.Pours[i+1].Start-p.Start)))
		}
	}
	return out
}

// An Edit adds, splits, merges, removes or pins a pour.
type Edit string

// The edits.
const (
	AddAfter Edit = "add"    // add a pour after this one
	SplitIt  Edit = "split"  // replace this pour by two
	MergeIt  Edit = "merge"  // merge this pour with the next
	RemoveIt Edit = "remove" // and distribute its water over the others
	PinIt    Edit = "pin"    // or unpin
)

var edits = map[Edit]func(Recipe, int) (Recipe, error){AddAfter: Recipe.add, SplitIt: Recipe.split, MergeIt: Recipe.merge,
	RemoveIt: Recipe.remove,
	PinIt:    func(r Recipe, i int) (Recipe, error) { r.Pours[i].Pinned = !r.Pours[i].Pinned; return r, nil }}

// Edit returns the recipe with an edit at pour n, counted from 1, and the same total water. It returns one
// of the errors above.
func (r Recipe) Edit(e Edit, n int) (Recipe, error) {
	edit, known := edits[e]
	if !known || n < 1 || n > len(r.Pours) {
		return r, ErrNoPour
	}
	if (e == AddAfter || e == SplitIt) && len(r.mainPours()) >= int(Pours.Range().Hi) {
		return r, ErrTooMany
	}
	return edit(r.clone(), n-1)
}

// add inserts a pour after i, with an equal share of the unpinned water.
func (r Recipe) add(i int) (Recipe, error) {
	places, sum := r.sharingPours(-1)
	water := sum / units.Grams(len(places)+1)
	if len(places) == 0 || water < minPour {
		return r, ErrTooSmall
	}
	p := r.Pours[max(i, r.bloomCount())] // copy the style of its neighbour
	if p.Pinned = false; i < r.bloomCount() {
		p.Cue = ForTime
	}
	last := r.Pours[i]
	start := last.Start + last.Lasts() + minPause
	r.spread(-water, -1)
	p.Water, p.Start, p.Level = water, start, 0
	r.Pours = slices.Insert(r.Pours, i+1, p)
	return r.withLaterPours(i + 1), nil
}

// split replaces a pour by two, with a pause between them.
func (r Recipe) split(i int) (Recipe, error) {
	p := r.Pours[i]
	if p.Water < minSplit {
		return r, ErrTooSmall
	}
	first, second := p, p
	first.Water, second.Water = p.Water/2, p.Water/2
	first.Level, second.Level = 0, 0
	first.Then, second.Bloom, second.Cue = NoHand, false, ForTime
	second.Start = p.Start + first.Lasts() + minPause
	if p.Bloom {
		first.Then, second.Then = p.Then, NoHand
	}
	r.Pours = slices.Replace(r.Pours, i, i+1, first, second)
	return r.withLaterPours(i + 1), nil
}

// merge replaces two pours by one.
func (r Recipe) merge(i int) (Recipe, error) {
	if i+1 >= len(r.Pours) {
		return r, ErrNoNext
	}
	p, next := r.Pours[i], r.Pours[i+1]
	p.Water, p.Level = p.Water+next.Water, 0
	p.Then, p.Bloom, p.Pinned = next.Then, false, p.Pinned && next.Pinned
	if r.Pours[i].Bloom {
		p.Rate, p.Height, p.Pattern = next.Rate, next.Height, next.Pattern
	}
	r.Pours = slices.Replace(r.Pours, i, i+2, p)
	return r.withLaterPours(i), nil
}

// remove deletes a pour and distributes its water over the others.
func (r Recipe) remove(i int) (Recipe, error) {
	if len(r.Pours) == 1 {
		return r, ErrLastPour
	}
	water := r.Pours[i].Water
	r.Pours = slices.Delete(r.Pours, i, i+1)
	r.Pours[0].Cue = ForTime
	if i == 0 {
		r.shift(0, -r.Pours[0].Start)
	}
	if _, sum := r.sharingPours(-1); sum <= 0 { // all others are pinned, or only the bloom remains
		r.Pours[len(r.Pours)-1].Water += water
		return r, nil
	}
	r.spread(water, -1)
	return r, nil
}

// withLaterPours moves the pours after i back as far as i needs, and the aim and the valve with the last one.
func (r Recipe) withLaterPours(i int) Recipe {
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
