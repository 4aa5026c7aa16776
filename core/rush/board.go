package rush

import (
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
