package rush

import (
	"errors"
	"time"

	"yardbloom/core/units"
)

// A Rush is a set of orders for one pair of hands.
type Rush struct {
	ID      string
	By      string // id of the person who planned it; empty: the yard
	Orders  []Ordered
	Kettle  Kettle
	Filled  units.Grams // water added to the kettle since the start
	Started time.Time   // zero before
	Ended   bool
	Version int64
}

// ErrTasks is returned for an order without a task for the hands, or whose tasks are not in the order of their time.
var ErrTasks = errors.New("an order has no tasks, or they are out of order")

// The largest times of an order and of a rush, s.
const (
	longestOrder units.Seconds = 3600
	longestRush  units.Seconds = 24 * 3600
)

// Valid returns ErrTasks if the orders of a rush cannot be planned.
func (r Rush) Valid() error {
	for _, o := range r.Orders {
		if len(o.Tasks) == 0 {
			return ErrTasks
		}
		last := o.Tasks[len(o.Tasks)-1]
		if !isTime(last.Start) || !isTime(o.Drains) || !(o.Planned >= -longestRush && o.Planned <= longestRush) {
			return ErrTasks
		}
		before := units.Seconds(0) // the first task is at 0
		for i, t := range o.Tasks {
			if !isTime(t.Lasts) || !isTime(t.Stretch) || t.Start < before || i == 0 && t.Start > 0 {
				return ErrTasks
			}
			before = t.Start
		}
	}
	return nil
}

// isTime reports whether a time is possible within an order.
func isTime(s units.Seconds) bool { return s >= 0 && s <= longestOrder }

// An Ordered brew is an order with its brew.
type Ordered struct {
	Order
	Brew       string        // brew id
	BrewerName string        // name of the brewer
	Planned    units.Seconds // originally planned time of its first water, since the start
}

// Waiting returns the orders whose brew has not begun, and their indices.
func (r Rush) Waiting(begun func(brewID string) bool) (of []int, orders []Order) {
	for i, o := range r.Orders {
		if !begun(o.Brew) {
			of, orders = append(of, i), append(orders, o.Order)
		}
	}
	return of, orders
}
