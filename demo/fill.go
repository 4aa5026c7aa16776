package demo

import (
	"context"
	"fmt"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
)

// Fill tells the story into a new store, so that it ends on the day of now.
func Fill(ctx context.Context, st *store.Store, now time.Time) error {
	f := filler{ctx: ctx, st: st, now: now}
	if err := f.gear(); err != nil {
		return fmt.Errorf("demo gear: %w", err)
	}
	for _, c := range story {
		if err := f.chapter(c); err != nil {
			return fmt.Errorf("demo bag %s: %w", c.bag.Name, err)
		}
	}
	return nil
}

type filler struct {
	ctx      context.Context
	st       *store.Store
	now      time.Time
	brewers  []gear.Brewer
	grinders []gear.Grinder
	kettles  []gear.Kettle
}

func (f *filler) gear() (err error) {
	if err := f.st.AddGear(f.ctx, brewers, grinders, kettles); err != nil {
		return err
	}
	if f.brewers, err = f.st.Brewers(f.ctx); err != nil {
		return err
	}
	if f.grinders, err = f.st.Grinders(f.ctx); err != nil {
		return err
	}
	if f.kettles, err = f.st.Kettles(f.ctx); err != nil {
		return err
	}
	return f.st.SaveUnits(f.ctx, units.Prefs{}, altitude)
}

func (f *filler) day(ago int) time.Time { return f.now.AddDate(0, 0, -ago) }

func (f *filler) chapter(c chapter) error {
	c.bag.RoastedOn = f.day(c.roasted).Format(coffee.Day)
	if c.opened > 0 {
		c.bag.OpenedOn = f.day(c.opened).Format(coffee.Day)
	}
	var err error
	if c.bag.ID, err = f.st.AddBag(f.ctx, c.bag); err != nil {
		return err
	}
	var last brew.Brew
	for _, m := range c.cups {
		if last, err = f.brew(c, m, last); err != nil {
			return err
		}
	}
	if !c.plannedChange {
		return nil
	}
	next := f.next(c, made{}, last, f.now)
	next.Draft.Held = [2]recipe.Field{recipe.Ratio, recipe.Dose}
	_, err = f.st.PlanBrew(f.ctx, next)
	return err
}

// next is the recipe that follows on the last brew, or the first of a bag.
func (f *filler) next(c chapter, m made, last brew.Brew, at time.Time) brew.Brew {
	b := brew.Brew{BagID: c.bag.ID, Parent: last.ID, Status: brew.Planned, Bag: c.bag, Created: at,
		Gear: brew.Gear{Brewer: f.brewers[c.brewer], Grinder: f.grinders[c.grinder], Kettle: f.kettles[c.kettle], Boiling: gear.Boiling(altitude)}}
	switch {
	case last.ID == 0:
		b.Recipe = recipe.Suggest(c.style, recipe.Situation{Bag: c.bag, Brewer: b.Gear.Brewer, Grinder: b.Gear.Grinder, Boiling: b.Gear.Boiling, Now: at})
		if m.change != nil {
			b.Recipe = m.change(b.Recipe)
		}
	case m.change != nil:
		b.Recipe = m.change(last.Recipe)
	default:
		b.Recipe = last.Recipe
		if p := coach.Advise(coach.Of(last, units.Prefs{})).First; p != nil {
			b.Recipe = b.Recipe.With(p.Knob, p.Change.To)
			b.Asked = &brew.Asked{Change: p.Change, Say: p.Say, Reason: p.Reason, Yield: p.Effect.Yield, Time: p.Effect.Time}
		}
	}
	b.Plan = b.Recipe.Plan()
	return b
}

func (f *filler) brew(c chapter, m made, last brew.Brew) (brew.Brew, error) {
	y, month, d := f.day(m.days).Date()
	at := time.Date(y, month, d, m.hour, m.minute, 0, 0, f.now.Location())
	if at.After(f.now) { // the demo may begin before breakfast
		at = f.now.Add(-20 * time.Minute)
	}
	b := f.next(c, m, last, at)
	b.Started, b.Status = at, brew.Done
	b.Events = touches(b.Plan, m)
	b.Ended = at.Add(time.Duration(float64(m.drawdown) * float64(time.Second)))
	b.Cup = cup.Cup{Drawdown: m.drawdown}
	if m.untasted {
		b.Status = brew.Poured
	} else {
		b.Cup = tasted(b.Recipe, m)
	}
	var err error
	b.ID, err = f.st.KeepBrew(f.ctx, b)
	return b, err
}

func tasted(r recipe.Recipe, m made) cup.Cup {
	c := cup.Cup{Drawdown: m.drawdown, TDS: m.tds, Bed: m.bed,
		Beverage: units.Grams(units.Round(float64(r.Water)-m.kept*float64(r.Dose), 0)),
		Taste:    cup.Taste{Steps: map[cup.Sense]int{}, Faults: map[cup.Fault]bool{}, Overall: m.overall, Serve: m.serve, Notes: m.notes}}
	for i, sc := range cup.Scales() {
		c.Steps[sc.Sense] = m.taste[i]
	}
	for _, fault := range m.faults {
		c.Faults[fault] = true
	}
	return c
}

// touches are the taps of somebody who follows a plan with a human hand: each a
// second or so off, the last one at the last steady stream.
func touches(p recipe.Plan, m made) []brew.Event {
	var out []brew.Event
	add := func(at units.Seconds, e brew.Event) {
		e.Key, e.At = fmt.Sprintf("demo-%d", len(out)), at
		out = append(out, e)
	}
	off := func(i int) units.Seconds { return units.Seconds((i*7+m.minute*3)%5) * 0.6 }
	marks := m.marks
	for i, s := range p.Steps {
		if i > 0 {
			add(s.Start+off(i)-1, brew.Event{Kind: brew.Advance})
		}
		for len(marks) > 0 && marks[0].At < s.End() {
			add(max(marks[0].At, s.Start+2), brew.Event{Kind: brew.MarkEvent, Mark: marks[0].What})
			marks = marks[1:]
		}
		add(s.End()+off(i+3), brew.Event{Kind: brew.Advance})
	}
	add(m.drawdown, brew.Event{Kind: brew.Advance})
	return out
}
