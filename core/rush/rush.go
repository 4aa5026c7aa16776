// Package rush schedules several brews for one pair of hands. It chooses when each begins and how far its
// waits are stretched, so that no two tasks overlap.
//
// Time is in whole seconds. Orders are placed one after the other, each at its earliest free slot. All
// sequences of orders are tried, and the plan with the least total waiting is chosen.
package rush

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"yardbloom/core/units"
)

// MaxOrders is the maximum number of orders in a plan.
const MaxOrders = 6

// switchTime is the time to move from one brewer to another, s.
const switchTime = 3

// A Task is a period in which an order needs the hands.
type Task struct {
	Say   string
	Start units.Seconds // after the first water of its order
	Lasts units.Seconds
	// Stretch is the harmless delay of the task relative to the task before it.
	Stretch units.Seconds
}

// An Order is one brew. Its first task is at 0.
type Order struct {
	Name   string
	Brewer string // a brewer makes one brew at a time
	Tasks  []Task
	Water  units.Grams // from the kettle
	// Drains is the time from the start of the last task until the cup is ready.
	Drains units.Seconds
	// Since is the time for which the order has already waited.
	Since units.Seconds
}

// A Kettle supplies all orders. The zero Kettle never runs out.
type Kettle struct {
	Holds units.Grams   // usable capacity; 0: unlimited
	Left  units.Grams   // remaining water
	Fill  units.Seconds // time the hands need to fill it
	Heat  float64       // heating time, s per gram of added water
}

// After returns the kettle after water was poured from it and added to it.
func (k Kettle) After(poured, filled units.Grams) Kettle {
	if k.Holds > 0 {
		k.Left = max(0, min(k.Holds, k.Left+filled-poured))
	}
	return k
}

// A Busy stretch is a period in which the hands are occupied.
type Busy struct {
	From, To units.Seconds // from now
	Brewer   string        // occupied until To; empty if only the hands are busy
}

// A Fill is a refill of the kettle, heating included. Nothing is poured meanwhile.
type Fill struct {
	From, To units.Seconds // from now
	Water    units.Grams
}

// A Slot is an order with its times from now.
type Slot struct {
	Order int // index in the given list
	Tasks []units.Seconds
	Ready units.Seconds
}

// Stretched returns the delay of each task relative to the first one.
func (s Slot) Stretched(o Order) []units.Seconds {
	out := make([]units.Seconds, len(s.Tasks))
	for i, at := range s.Tasks {
		out[i] = at - s.Tasks[0] - o.Tasks[i].Start
	}
	return out
}

// A Plan is a complete schedule.
type Plan struct {
	Slots  []Slot // sorted by first water
	Fills  []Fill
	Kettle Kettle // after the last pour
}

// Waiting returns the total waiting time of all cups, from now.
func (p Plan) Waiting() (sum units.Seconds) {
	for _, s := range p.Slots {
		sum += s.Ready
	}
	return sum
}

// Ready returns the time at which the last cup is ready.
func (p Plan) Ready() (last units.Seconds) {
	for _, s := range p.Slots {
		last = max(last, s.Ready)
	}
	return last
}

// Busy returns the periods in which a plan occupies hands and brewers, so that another order can be planned
// around them.
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
	// ErrMany is returned for more than Most orders.
	ErrMany = errors.New("too many brews for one pair of hands")
	// ErrKettle is returned if the kettle does not hold the water of a single order.
	ErrKettle = errors.New("the kettle does not hold the water of one brew")
	// ErrLong is returned if a plan would take longer than the horizon.
	ErrLong = errors.New("the orders take longer than an hour")
)

// horizon is the length of the schedule, s.
const horizon = 3600

// Make plans orders around the periods in which the hands are already busy. An error wraps one of the
// errors above and names the order.
func Make(orders []Order, busy []Busy, k Kettle) (Plan, error) {
	if len(orders) > MaxOrders {
		return Plan{}, fmt.Errorf("%d orders: %w", len(orders), ErrMany)
	}
	for _, o := range orders {
		if k.Holds > 0 && o.Water > k.Holds {
			return Plan{}, fmt.Errorf("%s needs %.0f g of water, and the kettle can pour %.0f: %w", o.Name, float64(o.Water), float64(k.Holds),
				ErrKettle)
		}
	}
	p := planner{orders: orders, own: ownBrewers(orders, busy), best: units.Seconds(math.Inf(1))}
	p.try(newTable(busy), k, nil, make([]bool, len(orders)), 0, nil)
	if p.found == nil && len(orders) > 0 {
		return Plan{}, ErrLong
	}
	plan := Plan{Slots: sortIdentical(p.found, orders, p.own), Fills: p.fills, Kettle: p.kettle}
	slices.SortStableFunc(plan.Slots, func(a, b Slot) int { return int(a.Tasks[0] - b.Tasks[0]) })
	return plan, nil
}

// MakeCups plans cups of one order, each in its own brewer. Its errors are those of Make.
func MakeCups(o Order, cups int) (Plan, error) {
	orders := slices.Repeat([]Order{o}, cups)
	for i := range orders {
		orders[i].Brewer = fmt.Sprint(i)
	}
	return Make(orders, nil, Kettle{})
}

// sortIdentical swaps identical orders so that the first in the list begins first, if each has its own free
// brewer.
func sortIdentical(slots []Slot, orders []Order, own []bool) []Slot {
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

// planner tries the orders in every sequence.
type planner struct {
	orders []Order
	own    []bool        // for each order: its brewer is free and used by no other order
	best   units.Seconds // least total waiting so far
	found  []Slot
	fills  []Fill
	kettle Kettle // after these fills
	tried  int    // number of placements, for tests
}

// try places one further order after the placed ones. waited is the total waiting of the placed orders.
func (p *planner) try(t *table, k Kettle, placed []Slot, used []bool, waited units.Seconds, fills []Fill) {
	if waited >= p.best {
		return
	}
	if len(placed) == len(p.orders) {
		p.best, p.found, p.fills, p.kettle = waited, slices.Clone(placed), slices.Clone(fills), k
		return
	}
	for i, o := range p.orders {
		if used[i] || p.hasTwin(i, used) {
			continue
		}
		now, kettle, filled := t, k, fills
		if k.Holds > 0 && o.Water > k.Left {
			now, kettle, filled = t.fill(k, p.waterNeeded(used), fills)
		}
		kettle.Left -= o.Water
		used[i] = true
		choices := p.choices()
		if len(placed) == len(p.orders)-1 {
			choices = 1 // nothing follows it
		}
		for _, slot := range now.places(o, choices, p.best-waited-o.Drains) {
			slot.Order = i
			p.tried++
			p.try(now.with(o, slot), kettle, append(placed[:len(placed):len(placed)], slot), used, waited+slot.Ready, filled)
		}
		used[i] = false
	}
}

// waterNeeded returns the total water of the orders that are not placed.
func (p *planner) waterNeeded(used []bool) (sum units.Grams) {
	for i, o := range p.orders {
		if !used[i] {
			sum += o.Water
		}
	}
	return sum
}

// choices returns the number of slots to try per order: more for fewer orders.
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

// hasTwin reports whether an identical order that has waited longer is still unplaced. Trying both first would
// give the same plan twice.
func (p *planner) hasTwin(i int, used []bool) bool {
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
