// Package rush plans several brews for one pair of hands: when each begins, and how far the
// waits in it are stretched, so that no two things are to be done at once.
//
// Time is counted in whole seconds. Orders are placed one after the other, each where it is
// ready earliest between what is placed already; which goes first is tried in every order,
// and the plan whose cups wait least in all is taken.
package rush

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"yardbloom/core/units"
)

// Most is how many brews one pair of hands is planned for.
const Most = 6

// turn is what hands need from one brewer to another, s.
const turn = 3

// A Task is something that keeps the hands busy.
type Task struct {
	Say   string
	Start units.Seconds // since the first water of its order
	Lasts units.Seconds
	// Stretch is how much later than Start, after the task before it, it may begin without
	// harm to the cup.
	Stretch units.Seconds
}

// An Order is one brew. Its first task is at 0.
type Order struct {
	Name   string
	Brewer string // one brewer makes one brew at a time
	Tasks  []Task
	Water  units.Grams // out of the kettle
	// Drains is how long after its last task begins the cup is ready.
	Drains units.Seconds
	// Since is how long the order has waited already.
	Since units.Seconds
}

// A Kettle is what all orders are poured from. The zero Kettle never runs out.
type Kettle struct {
	Holds units.Grams   // that can be poured out of it; 0: it never runs out
	Left  units.Grams   // of that, now
	Fill  units.Seconds // hands busy with filling it
	Heat  float64       // s for each gram that is filled in, until it is hot
}

// After is the kettle after so much was poured out of it and filled in again.
func (k Kettle) After(poured, filled units.Grams) Kettle {
	if k.Holds > 0 {
		k.Left = max(0, min(k.Holds, k.Left+filled-poured))
	}
	return k
}

// A Busy stretch is one in which the hands cannot do anything else.
type Busy struct {
	From, To units.Seconds // since now
	Brewer   string        // that is in use until To, where that is why; empty: only the hands are busy
}

// A Fill is when water is filled into the kettle and heats up: nothing is poured meanwhile.
type Fill struct {
	From, To units.Seconds // since now
	Water    units.Grams
}

// A Slot is an order with its times, since now.
type Slot struct {
	Order int // in the list that was asked for
	Tasks []units.Seconds
	Ready units.Seconds
}

// Stretched is how much later than planned each task begins, against its first one.
func (s Slot) Stretched(o Order) []units.Seconds {
	out := make([]units.Seconds, len(s.Tasks))
	for i, at := range s.Tasks {
		out[i] = at - s.Tasks[0] - o.Tasks[i].Start
	}
	return out
}

// A Plan is when everything is done.
type Plan struct {
	Slots  []Slot // by the time of the first water
	Fills  []Fill
	Kettle Kettle // when all is poured
}

// Waiting is how long the cups are waited for in all, from now.
func (p Plan) Waiting() (sum units.Seconds) {
	for _, s := range p.Slots {
		sum += s.Ready
	}
	return sum
}

// Ready is when the last cup is ready.
func (p Plan) Ready() (last units.Seconds) {
	for _, s := range p.Slots {
		last = max(last, s.Ready)
	}
	return last
}

// Busy is what a plan asks of the hands and keeps of the brewers, for one more order to be
// planned behind it.
func (p Plan) Busy(orders []Order) []Busy {
	var out []Busy
	for _, f := range p.Fills {
		out = append(out, Busy{From: f.From, To: f.To})
	}
	for _, s := range p.Slots {
		o := orders[s.Order]
		for i, at := range s.Tasks {
			out = append(out, Busy{From: at, To: at + o.Tasks[i].Lasts})
		}
		if o.Brewer != "" {
			out = append(out, Busy{To: s.Ready, Brewer: o.Brewer})
		}
	}
	return out
}

var (
	// ErrMany is returned for more orders than one pair of hands is planned for.
	ErrMany = errors.New("too many brews for one pair of hands")
	// ErrKettle is returned where the kettle does not hold the water of a single order.
	ErrKettle = errors.New("the kettle does not hold the water of one brew")
	// ErrLong is returned where a plan would not end within an hour.
	ErrLong = errors.New("the orders take longer than an hour")
)

// horizon is how far ahead is planned, s.
const horizon = 3600

// Make plans orders around what the hands are busy with already. Where it cannot be done the
// error says which of the reasons above it is, and for which order.
func Make(orders []Order, busy []Busy, k Kettle) (Plan, error) {
	if len(orders) > Most {
		return Plan{}, fmt.Errorf("%d orders: %w", len(orders), ErrMany)
	}
	for _, o := range orders {
		if k.Holds > 0 && o.Water > k.Holds {
			return Plan{}, fmt.Errorf("%s needs %.0f g of water, and the kettle gives %.0f: %w", o.Name, float64(o.Water), float64(k.Holds), ErrKettle)
		}
	}
	p := planner{orders: orders, own: ownBrewers(orders, busy), best: units.Seconds(math.Inf(1))}
	p.try(newTable(busy), k, nil, make([]bool, len(orders)), 0, nil)
	if p.found == nil && len(orders) > 0 {
		return Plan{}, ErrLong
	}
	plan := Plan{Slots: inTurn(p.found, orders, p.own), Fills: p.fills, Kettle: p.kettle}
	slices.SortStableFunc(plan.Slots, func(a, b Slot) int { return int(a.Tasks[0] - b.Tasks[0]) })
	return plan, nil
}

// inTurn lets of orders that are alike the first in the list begin first, where each has a
// brewer of its own that is free.
func inTurn(slots []Slot, orders []Order, own []bool) []Slot {
	for i := range slots {
		for j := range slots[:i] {
			a, b := &slots[i], &slots[j]
			if orders[a.Order].like(orders[b.Order]) && own[a.Order] && own[b.Order] && (a.Order < b.Order) != (a.Tasks[0] < b.Tasks[0]) {
				a.Order, b.Order = b.Order, a.Order
			}
		}
	}
	return slots
}

// ownBrewers reports for each order whether its brewer is free and used by no other order. Such
// orders are interchangeable.
func ownBrewers(orders []Order, busy []Busy) []bool {
	own := make([]bool, len(orders))
	for i, o := range orders {
		own[i] = !slices.ContainsFunc(busy, func(b Busy) bool { return b.Brewer != "" && b.Brewer == o.Brewer })
		for j, other := range orders {
			own[i] = own[i] && (j == i || other.Brewer != o.Brewer)
		}
	}
	return own
}

// planner tries the orders one after the other in every sequence.
type planner struct {
	orders []Order
	own    []bool        // of each order: its brewer is free and its own
	best   units.Seconds // the least waiting so far
	found  []Slot
	fills  []Fill
	kettle Kettle // after them
	tried  int    // placements of an order, for tests
}

// try places one more order after those that are placed. waited is their waiting.
func (p *planner) try(t *table, k Kettle, placed []Slot, used []bool, waited units.Seconds, fills []Fill) {
	if waited >= p.best {
		return
	}
	if len(placed) == len(p.orders) {
		p.best, p.found, p.fills, p.kettle = waited, slices.Clone(placed), slices.Clone(fills), k
		return
	}
	for i, o := range p.orders {
		if used[i] || p.twin(i, used) {
			continue
		}
		now, kettle, filled := t, k, fills
		if k.Holds > 0 && o.Water > k.Left {
			now, kettle, filled = t.fill(k, p.thirst(used), fills)
		}
		kettle.Left -= o.Water
		used[i] = true
		choices := p.choices()
		if len(placed) == len(p.orders)-1 {
			choices = 1 // nothing comes after it
		}
		for _, slot := range now.places(o, choices, p.best-waited-o.Drains) {
			slot.Order = i
			p.tried++
			p.try(now.with(o, slot), kettle, append(placed[:len(placed):len(placed)], slot), used, waited+slot.Ready, filled)
		}
		used[i] = false
	}
}

// thirst is the water of all orders that are not placed yet.
func (p *planner) thirst(used []bool) (sum units.Grams) {
	for i, o := range p.orders {
		if !used[i] {
			sum += o.Water
		}
	}
	return sum
}

// choices is how many places are tried for each order: the fewer orders, the more.
func (p *planner) choices() int {
	switch len(p.orders) {
	case 0, 1, 2:
		return 40
	case 3:
		return 12
	case 4:
		return 3
	}
	return 1
}

// twin says that an order just like this one is still to be placed and has waited longer: to
// try both first is to try the same twice.
func (p *planner) twin(i int, used []bool) bool {
	for j := range i {
		sameBrewer := p.orders[j].Brewer == p.orders[i].Brewer || p.own[i] && p.own[j]
		if !used[j] && sameBrewer && p.orders[j].like(p.orders[i]) {
			return true
		}
	}
	return false
}

// like reports whether two orders differ in nothing but their names and brewers.
func (o Order) like(other Order) bool {
	return o.Water == other.Water && o.Drains == other.Drains && slices.Equal(o.Tasks, other.Tasks)
}
