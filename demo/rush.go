package demo

import (
	"fmt"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/rush"
)

// A rush day: the orders of a Saturday morning, from the book, brewed as they were planned.
const (
	rushDay  = 4 // days ago
	rushHour = 10
)

var rushRecipes = []string{"slate-terrace-3-kept", "long-meadow-2-kept", "orchard-wall-5-kept"}

func (f *filler) rush() error {
	y, month, d := f.day(rushDay).Date()
	rs := rush.Rush{ID: "saturday-rush", Started: time.Date(y, month, d, rushHour, 4, 0, 0, f.now.Location()), Ended: true}
	var orders []rush.Order
	var drafts []brew.Draft
	for i, id := range rushRecipes {
		kept, _, err := f.st.Draft(f.ctx, id)
		if err != nil {
			return fmt.Errorf("recipe %s: %w", id, err)
		}
		draft := kept.Copy(fmt.Sprintf("%s-%d", rs.ID, i+1), rs.Started)
		o, err := rush.OrderOf(kept.Name, draft.Question(rs.Started))
		if err != nil {
			return err
		}
		orders, drafts = append(orders, o), append(drafts, draft)
		rs.Orders = append(rs.Orders, rush.Ordered{Order: o, Brew: draft.ID, BrewerName: kept.Gear.Brewer.Name})
	}
	plan, err := rush.Make(orders, nil, rush.Kettle{})
	if err != nil {
		return err
	}
	for _, slot := range plan.Slots {
		rs.Orders[slot.Order].Planned = slot.Tasks[0]
		if err := f.rushBrew(drafts[slot.Order], rs.Started.Add(time.Duration(float64(slot.Tasks[0])*float64(time.Second)))); err != nil {
			return err
		}
	}
	return f.st.AddRush(f.ctx, rs, rs.Started)
}

// rushBrew adds an untasted brew of a rush.
func (f *filler) rushBrew(d brew.Draft, at time.Time) error {
	b, err := brew.Begin(d, brew.Event{Key: "start", Kind: brew.Start, Instant: at})
	if err != nil {
		return err
	}
	drawdown := b.Plan.Finish
	if b.Forecast != nil {
		drawdown = max(b.Forecast.Drawdown, b.Plan.Steps[len(b.Plan.Steps)-1].End()+5)
	}
	if b, err = applyAll(b, taps(b.Plan, drawdown, len(d.ID), nil), at); err != nil {
		return err
	}
	f.brews++
	f.made(f.brews)
	return f.st.AddBrews(f.ctx, b)
}
