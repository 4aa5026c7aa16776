package rush

import (
	"maps"
	"math"
	"slices"

	"yardbloom/core/units"
)

// A table records for every second whether the hands are busy, and until when each brewer is.
type table struct {
	taken   [horizon]bool
	brewers map[string]units.Seconds
}

func newTable(busy []Busy) *table {
	t := &table{brewers: map[string]units.Seconds{}}
	for _, b := range busy {
		if b.Brewer != "" {
			t.brewers[b.Brewer] = max(t.brewers[b.Brewer], b.To)
		} else {
			t.occupy(b.From, b.To)
		}
	}
	return t
}

// occupy marks the hands as busy for a period and for the switch to another brewer around it.
func (t *table) occupy(from, to units.Seconds) {
	for s := second(float64(from) - switchTime); s < second(math.Ceil(float64(to)+switchTime)); s++ {
		t.taken[s] = true
	}
}

// with returns a copy of the table with an order in a slot.
func (t *table) with(o Order, s Slot) *table {
	c := t.copy()
	for i, at := range s.Tasks {
		c.occupy(at, at+o.Tasks[i].Lasts)
	}
	if o.Brewer != "" {
		c.brewers[o.Brewer] = s.Ready
	}
	return c
}

func (t *table) copy() *table {
	c := *t
	c.brewers = maps.Clone(t.brewers)
	return &c
}

// fill adds a refill of the kettle, as much as is needed or as it holds, in the first period in which the
// hands are free for the filling and the heating.
func (t *table) fill(k Kettle, wanted units.Grams, fills []Fill) (*table, Kettle, []Fill) {
	water := min(wanted, k.Holds) - k.Left
	lasts := k.Fill + units.Seconds(float64(water)*k.Heat)
	at := 0
	for free := 0; at < horizon && free < second(float64(lasts)); at++ {
		if free++; t.taken[at] {
			free = 0
		}
	}
	from := units.Seconds(at) - lasts
	c := t.copy()
	c.occupy(from, from+lasts)
	k.Left += water
	return c, k, append(fills[:len(fills):len(fills)], Fill{from, from + lasts, water})
}

// places returns the earliest slot of an order and a number of later ones, up to the time until. For each
// task it finds all seconds at which the task can begin after its predecessor. From the last task it then
// goes back with the smallest stretch, or the largest.
func (t *table) places(o Order, most int, until units.Seconds) (out []Slot) {
	end := second(float64(until))
	n := len(o.Tasks)
	can := make([][horizon]bool, n)
	first := second(float64(t.brewers[o.Brewer]))
	for k, task := range o.Tasks {
		free := t.freeFor(task.Lasts)
		gap, stretch := 0, horizon
		if k > 0 {
			gap, stretch = second(math.Round(float64(task.Start-o.Tasks[k-1].Start))), second(float64(task.Stretch))
		}
		last := -horizon // the latest start of the previous task, up to now minus the gap
		for s := range end {
			switch before := s - gap; {
			case k == 0 && s >= first:
				last = s
			case k > 0 && before >= 0 && can[k-1][before]:
				last = before
			}
			can[k][s] = free[s] && s-gap-last <= stretch && last >= 0
			if k == 0 {
				can[k][s] = free[s] && s >= first
			}
		}
	}
	earliest := slices.Index(can[n-1][:end], true)
	for i := 0; earliest >= 0 && i < most; i++ {
		s := earliest + i + i*i/6 // dense at first, then wider: later orders may fit better
		if s >= end || !can[n-1][s] {
			continue
		}
		out = append(out, o.back(can, s, false))
		if most > 1 {
			out = append(out, o.back(can, s, true))
		}
	}
	return out
}

// back follows an order from the start of its last task to its first. With early, each task begins as early
// as possible.
func (o Order) back(can [][horizon]bool, at int, early bool) Slot {
	s := Slot{Tasks: make([]units.Seconds, len(o.Tasks)), Ready: units.Seconds(at) + o.Drains}
	for k := len(o.Tasks) - 1; k >= 0; k-- {
		s.Tasks[k] = units.Seconds(at)
		if k == 0 {
			break
		}
		at -= second(math.Round(float64(o.Tasks[k].Start - o.Tasks[k-1].Start)))
		by := -1
		if early {
			at, by = max(0, at-second(float64(o.Tasks[k].Stretch))), 1
		}
		for !can[k-1][at] {
			at += by
		}
	}
	return s
}

// freeFor returns for each second whether the hands are free from then on for a duration.
func (t *table) freeFor(lasts units.Seconds) (free [horizon]bool) {
	need, run := second(math.Ceil(float64(lasts))), 0
	for s := horizon - 1; s >= 0; s-- {
		if run++; t.taken[s] {
			run = 0
		}
		free[s] = run >= need
	}
	return free
}

func second(s float64) int { return int(max(0, min(horizon-1, s))) }
