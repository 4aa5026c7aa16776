package yard

import (
	"context"
	"errors"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/rush"
	"yardbloom/core/units"
	"yardbloom/store"
)

var (
	// ErrUnplannable is returned for a recipe that the model cannot predict.
	ErrUnplannable = errors.New("the model cannot plan this recipe")
	// ErrNoOrder is returned for an order that a rush does not have.
	ErrNoOrder = errors.New("the rush has no such order")
)

// RushTopic returns the topic of the hub under which changes of a rush are notified.
func RushTopic(id string) string { return "rush " + id }

// RushMoment returns the current time on the clock of a rush, which its brews share. Setting the wall clock does not change it.
func (y *Yard) RushMoment(rs rush.Rush) time.Time {
	if rs.Started.IsZero() || rs.Ended {
		return y.Now()
	}
	return y.clocks.MomentOf(RushTopic(rs.ID))
}

// liftTime is the time to lift a brewer off, s.
const liftTime units.Seconds = 5

// Order returns an order of a kept recipe, and the copy of the recipe that is to be brewed. The
// copy is not stored yet. A recipe outside the model's ranges is an ErrUnplannable.
func (y *Yard) Order(ctx context.Context, recipeID string, set store.Settings) (rush.Ordered, brew.Draft, error) {
	d, _, err := y.Store.Draft(ctx, recipeID)
	if err != nil {
		return rush.Ordered{}, d, err
	}
	copied := d.Copy(store.NewID(), y.Now())
	copied.By = set.PersonID
	y.CompleteSheet(&copied.Sheet, set)
	o, err := rush.OrderOf(d.Name, copied.Question(y.Now()))
	if err != nil {
		return rush.Ordered{}, d, ErrUnplannable
	}
	return rush.Ordered{Order: o, Brew: copied.ID, BrewerName: d.Gear.Brewer.Name}, copied, nil
}

// NextOrder returns an order of a kept recipe, for an estimate of when an additional one would be ready.
func (y *Yard) NextOrder(ctx context.Context, recipeID string) (rush.Order, error) {
	d, _, err := y.Store.Draft(ctx, recipeID)
	if err != nil {
		return rush.Order{}, err
	}
	if err := y.completeSheet(ctx, &d.Sheet, d.By); err != nil {
		return rush.Order{}, err
	}
	o, err := rush.OrderOf(d.Name, d.Question(y.Now()))
	if err != nil {
		return o, ErrUnplannable
	}
	return o, nil
}

// A RushBrew is one order of a rush with its brew.
type RushBrew struct {
	rush.Ordered
	Number int        // of the order, from 1
	Brew   *brew.Brew // nil before its first water
	State  brew.State
	Since  units.Seconds // of its first water, since the rush began
}

// RushBrews returns the orders of a rush with their brews, and when hands and brewers are busy
// with those that run, counted from now (s since the rush began).
func (y *Yard) RushBrews(ctx context.Context, rs rush.Rush, now units.Seconds) (all []RushBrew, busy []rush.Busy, err error) {
	for i, o := range rs.Orders {
		x := RushBrew{Ordered: o, Number: i + 1}
		b, err := y.Store.Brew(ctx, o.Brew)
		switch {
		case errors.Is(err, store.ErrNotFound):
		case err != nil:
			return nil, nil, err
		default:
			if err := y.completeSheet(ctx, &b.Sheet, b.BrewedBy); err != nil {
				return nil, nil, err
			}
			x.Brew, x.State, x.Since = &b, b.At(y.Moment(&b)), units.Seconds(b.Started.Sub(rs.Started).Seconds())
			if b.Status == brew.Running {
				busy = append(busy, x.busy(now)...)
			}
		}
		all = append(all, x)
	}
	return all, busy, nil
}

// busy returns when a running brew needs the hands and its brewer, counted from now.
func (x RushBrew) busy(now units.Seconds) (out []rush.Busy) {
	for _, st := range x.State.Ahead() {
		if !st.Busy() && st.Kind != brew.Draining {
			continue
		}
		from, to := x.Since+st.Entered-now, x.Since+st.Left-now
		if st.Kind == brew.Draining {
			out = append(out, rush.Busy{To: to + liftTime, Brewer: x.Brewer})
			from, to = to, to+liftTime
		}
		out = append(out, rush.Busy{From: max(0, from), To: max(1, to)})
	}
	return out
}

// StartRush starts the clock of a rush, as of some time ago, and returns the rush. Of several screens the earliest counts.
func (y *Yard) StartRush(ctx context.Context, id string, ago time.Duration) (started rush.Rush, err error) {
	err = y.Store.ChangeRush(ctx, id, func(rs rush.Rush) (rush.Rush, error) {
		if at := y.RushMoment(rs).Add(-ago); rs.Started.IsZero() || at.Before(rs.Started) {
			rs.Started = at
		}
		started = rs
		return rs, nil
	})
	y.RushMoment(started) // starts its clock
	return started, err
}

// StartOrder starts the n-th order (from 1) of a rush, brewed by a person or the yard, whose first water ran some time
// ago. Its waits are stretched so that they stay clear of the hands' work for other orders. An unknown order is an
// ErrNoOrder.
func (y *Yard) StartOrder(ctx context.Context, id string, n int, by, key string, ago time.Duration) error {
	rs, err := y.Store.Rush(ctx, id)
	if err != nil {
		return err
	}
	if n < 1 || n > len(rs.Orders) {
		return ErrNoOrder
	}
	if rs.Started.IsZero() {
		if rs, err = y.StartRush(ctx, id, ago); err != nil {
			return err
		}
	}
	o := rs.Orders[n-1]
	now := y.RushMoment(rs)
	_, busy, err := y.RushBrews(ctx, rs, units.Seconds(now.Sub(rs.Started).Seconds()))
	if err != nil {
		return err
	}
	if plan, err := rush.Make([]rush.Order{o.Order}, busy, rush.Kettle{}); err == nil && len(plan.Slots) == 1 {
		if err := y.stretch(ctx, o, plan.Slots[0]); err != nil {
			return err
		}
	}
	if _, err := y.Store.Brew(ctx, o.Brew); errors.Is(err, store.ErrNotFound) {
		y.clocks.Share(o.Brew, RushTopic(id))
	}
	_, err = y.startAt(ctx, o.Brew, by, key, now.Add(-ago))
	return err
}

// UndoOrder makes the n-th order (from 1) of a rush wait again. Its brew must have begun a short time ago, by mistake, and
// have no taps, else it is a brew.ErrStatus. An unknown order is an ErrNoOrder.
func (y *Yard) UndoOrder(ctx context.Context, id string, n int) error {
	rs, err := y.Store.Rush(ctx, id)
	if err != nil {
		return err
	}
	if n < 1 || n > len(rs.Orders) {
		return ErrNoOrder
	}
	b, err := y.Store.Brew(ctx, rs.Orders[n-1].Brew)
	if errors.Is(err, store.ErrNotFound) { // undone already
		return nil
	}
	if err != nil {
		return err
	}
	err = y.takeBackStart(ctx, b, b.Draft(), 0)
	if errors.Is(err, store.ErrNotFound) {
		return brew.ErrStatus
	}
	return err
}

// FillKettle adds water to the kettle of a rush that was filled up to before, g. If it was filled since, the request was sent
// again, and nothing changes.
func (y *Yard) FillKettle(ctx context.Context, id string, before, water units.Grams) error {
	return y.Store.ChangeRush(ctx, id, func(rs rush.Rush) (rush.Rush, error) {
		if off := rs.Filled - before; off < 1 && off > -1 {
			rs.Filled += water
		}
		return rs, nil
	})
}

// stretch moves the pours of an order's draft to those of its slot.
func (y *Yard) stretch(ctx context.Context, o rush.Ordered, slot rush.Slot) error {
	d, _, err := y.Store.Draft(ctx, o.Brew)
	if errors.Is(err, store.ErrNotFound) { // started already
		return nil
	}
	if err != nil {
		return err
	}
	steps := d.Recipe.Plan().Steps
	moved := units.Seconds(0)
	for i, by := range slot.Stretched(o.Order) {
		if i < len(steps) && by != moved {
			steps, moved = rush.Later(steps, i, by-moved), by
		}
	}
	if moved == 0 {
		return nil
	}
	aim := d.Recipe.Aim
	d.Recipe = d.Recipe.WithSteps(steps)
	if aim > 0 {
		d.Recipe.Aim = aim + moved
	}
	_, err = y.Store.SaveDraft(ctx, d, y.Now())
	return err
}

// EndRush ends a rush and archives the drafts of orders that were not brewed.
func (y *Yard) EndRush(ctx context.Context, id string) error { return y.setEnded(ctx, id, true) }

// ResumeRush undoes EndRush.
func (y *Yard) ResumeRush(ctx context.Context, id string) error { return y.setEnded(ctx, id, false) }

func (y *Yard) setEnded(ctx context.Context, id string, ended bool) error {
	var orders []rush.Ordered
	err := y.Store.ChangeRush(ctx, id, func(rs rush.Rush) (rush.Rush, error) {
		rs.Ended = ended
		orders = rs.Orders
		return rs, nil
	})
	if err != nil {
		return err
	}
	y.clocks.Forget(RushTopic(id))
	for _, o := range orders {
		if err := y.Store.DiscardDraft(ctx, o.Brew, ended, y.Now()); err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	return nil
}
