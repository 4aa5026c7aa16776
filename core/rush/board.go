package rush

import (
	"time"

	"yardbloom/core/units"
)

// A Rush is a set of orders that one pair of hands works through.
type Rush struct {
	ID      string
	Orders  []Ordered
	Kettle  Kettle
	Filled  units.Grams // into the kettle since the start
	Started time.Time   // zero before
	Ended   bool
	Version int64
}

// An Ordered brew is an order with the brew that is made for it.
type Ordered struct {
	Order
	Brew    string        // its id
	On      string        // the brewer's name
	Planned units.Seconds // of its first water since the start, as it was planned when the rush was made
}

// Waits are the places in the list of the orders whose brew has not begun, and those orders.
func (r Rush) Waits(begun func(brewID string) bool) (of []int, orders []Order) {
	for i, o := range r.Orders {
		if !begun(o.Brew) {
			of, orders = append(of, i), append(orders, o.Order)
		}
	}
	return of, orders
}
