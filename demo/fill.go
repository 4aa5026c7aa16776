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
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/yard"
)

// Fill writes the demo history into a new store, ending on the day of now.
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
	if err := f.book(); err != nil {
		return fmt.Errorf("demo book: %w", err)
	}
	if err := f.tables(); err != nil {
		return fmt.Errorf("demo tables: %w", err)
	}
	if err := f.live(); err != nil {
		return fmt.Errorf("demo practice and stage: %w", err)
	}
	_, err := yard.LearnOnce(ctx, st, now)
	return err
}

// book keeps recipes in the book: the recipe of the window with its versions, one for hot days, one for
// large orders.
func (f *filler) book() error {
	for _, k := range []struct {
		brew, name, said string
		change           func(recipe.Recipe) recipe.Recipe
	}{
		{"slate-terrace-3", "Terrace at the window", "", again},
		{"slate-terrace-4", "Terrace at the window", "0.5 finer on the dial", again},
		{"long-meadow-2", "Meadow for two", "", func(r recipe.Recipe) recipe.Recipe { return r.With(recipe.AddressOf(recipe.Dose), 24) }},
		{"orchard-wall-3", "Orchard over ice", "", func(r recipe.Recipe) recipe.Recipe {
			return r.With(recipe.AddressOf(recipe.Served), 1).With(recipe.AddressOf(recipe.Dose), 21.5)
		}},
	} {
		b, err := f.st.Brew(f.ctx, k.brew)
		if err != nil {
			return err
		}
		d := b.Next(k.brew+"-kept", nil, f.now)
		d.Parent, d.Name, d.Recipe = "", k.name, k.change(d.Recipe)
		d.Recipe.Grind = d.Gear.Grinder.Snap(d.Recipe.Grind)
		id, err := f.st.KeepRecipe(f.ctx, d, f.now, func(_, _ brew.Draft) string { return k.said })
		if err != nil {
			return err
		}
		if k.brew == "slate-terrace-4" {
			if err := f.st.SetFavourite(f.ctx, id, true); err != nil {
				return err
			}
		}
	}
	return nil
}

type filler struct {
	ctx context.Context
	st  *store.Store
	now time.Time
}

func (f *filler) gear() error {
	if err := f.st.AddGear(f.ctx, brewers, grinders, kettles); err != nil {
		return err
	}
	for _, d := range devices {
		if err := f.st.SaveDevice(f.ctx, d, 0); err != nil {
			return err
		}
	}
	for _, w := range waters {
		if err := f.st.SaveWater(f.ctx, w, 0); err != nil {
			return err
		}
	}
	return f.st.SaveUnits(f.ctx, "", units.Prefs{}, altitude, 0)
}

func (f *filler) day(ago int) time.Time { return f.now.AddDate(0, 0, -ago) }

func (f *filler) chapter(c chapter) error {
	c.bag.RoastedOn = f.day(c.roasted).Format(coffee.Day)
	if c.opened > 0 {
		c.bag.OpenedOn = f.day(c.opened).Format(coffee.Day)
	}
	if _, err := f.st.AddBag(f.ctx, c.bag); err != nil {
		return err
	}
	g, err := f.st.Gear(f.ctx, gear.IDs{Brewer: brewers[c.brewer].ID, Grinder: grinders[c.grinder].ID, Kettle: kettles[c.kettle].ID,
		Water: waters[c.water].ID})
	if err != nil {
		return err
	}
	var path []brew.Brew
	for i, m := range c.cups {
		b, err := f.brew(c, g, m, path, fmt.Sprintf("%s-%d", c.bag.ID, i+1))
		if err != nil {
			return err
		}
		path = append(path, b)
	}
	if !c.plannedChange {
		return nil
	}
	return f.st.AddDraft(f.ctx, next(c, g, entry{}, path, c.bag.ID+"-next", f.now), f.now)
}

// next returns the recipe that follows the last brew of a path, or the first of a bag.
func next(c chapter, g gear.Set, m entry, path []brew.Brew, id string, at time.Time) brew.Draft {
	if len(path) == 0 {
		d := brew.First(id, c.bag, g, nil, recipe.Habits{}, at)
		d.Recipe = recipe.Suggest(c.style, d.Question(at).Situation())
		if m.change != nil {
			d.Recipe = m.change(d.Recipe)
		}
		return d
	}
	last := path[len(path)-1]
	if m.takes.knob != "" {
		knob := recipe.AddressOf(m.takes.knob)
		turned := last.Case(coach.Person{}).Propose(knob, last.Recipe.Value(knob)+m.takes.by)
		return last.Next(id, turned, at)
	}
	if m.change != nil || last.Advice == nil {
		d := last.Next(id, nil, at)
		d.Recipe = m.change(d.Recipe)
		return d
	}
	return last.Next(id, last.Advice.First, at)
}

// brew adds one brew of the history, with taps and a tasting.
func (f *filler) brew(c chapter, g gear.Set, m entry, path []brew.Brew, id string) (brew.Brew, error) {
	y, month, d := f.day(m.days).Date()
	at := time.Date(y, month, d, m.hour, m.minute, 0, 0, f.now.Location())
	if at.After(f.now) { // the demo may start before the time of today's first brew
		at = f.now.Add(-20 * time.Minute)
	}
	b, err := brew.Begin(next(c, g, m, path, id, at), brew.Event{Key: "start", Kind: brew.Start, Instant: at})
	if err != nil {
		return b, err
	}
	happened := taps(b.Plan, m)
	var readings []trace.Reading
	if c.brewer == windowCone {
		readings, happened = scaleReadings(b, m)
	}
	for _, e := range happened {
		if b, err = b.Apply(e, at.Add(time.Hour)); err != nil {
			return b, err
		}
	}
	if !m.untasted {
		if b, err = b.Taste(tasted(b, m), coach.Person{}, path...); err != nil {
			return b, err
		}
	}
	if err := f.st.AddBrews(f.ctx, b); err != nil || len(readings) == 0 {
		return b, err
	}
	return b, f.st.AppendReadings(f.ctx, map[string][]trace.Reading{b.ID: readings})
}

// senses is the order of the steps in the story.
var senses = []cup.Sense{cup.Acidity, cup.Sweetness, cup.Body, cup.Clarity, cup.Bitterness, cup.Dryness, cup.Aftertaste}

func tasted(b brew.Brew, m entry) cup.Cup {
	r := b.Recipe
	c := cup.Cup{Drawdown: b.Cup.Drawdown, TDS: m.tds, Bed: m.bed,
		Beverage: units.Grams(units.Round(float64(r.Total())-m.kept*float64(r.Dose), 0)),
		Taste:    cup.Taste{Steps: map[cup.Sense]int{}, Faults: map[cup.Fault]bool{}, Overall: m.overall, Serve: m.serve, Notes: m.notes}}
	for i, sense := range senses {
		c.Steps[sense] = m.taste[i]
	}
	for _, fault := range m.faults {
		c.Faults[fault] = true
	}
	return c
}
