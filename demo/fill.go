package demo

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/store"
	"yardbloom/yard"
)

// Brews is the number of brews of the demo history.
func Brews() (n int) {
	for _, c := range story {
		for _, l := range c.lines {
			n += len(l.days)
		}
	}
	return n + len(rushRecipes)
}

// Fill writes the demo history into a new store, ending on the day of now.
func Fill(ctx context.Context, st *store.Store, now time.Time) error {
	return FillWith(ctx, st, now, func(int) {})
}

// FillWith is Fill with a function that is called after each brew with the number of brews made.
func FillWith(ctx context.Context, st *store.Store, now time.Time, made func(int)) error {
	f := filler{ctx: ctx, st: st, now: now, made: made}
	if err := f.gear(); err != nil {
		return fmt.Errorf("demo gear: %w", err)
	}
	for _, c := range story { // the shelf is complete before the first brew
		if err := f.bag(c); err != nil {
			return fmt.Errorf("demo bag %s: %w", c.bag.Name, err)
		}
	}
	for _, c := range story {
		if c.bag.ID == lastBrewed { // its gear counts as the last used, after that of the rush
			if err := errors.Join(f.book(), f.rush()); err != nil {
				return fmt.Errorf("demo book and rush: %w", err)
			}
		}
		if err := f.chapter(c); err != nil {
			return fmt.Errorf("demo bag %s: %w", c.bag.Name, err)
		}
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
		brew, name string
		change     func(recipe.Recipe) recipe.Recipe
	}{
		{"slate-terrace-3", "Terrace at the window", nil},
		{"slate-terrace-4", "Terrace at the window", nil},
		{"long-meadow-2", "Meadow for two", func(r recipe.Recipe) recipe.Recipe { return r.With(recipe.AddressOf(recipe.Dose), 24) }},
		{"orchard-wall-5", "Orchard over ice", func(r recipe.Recipe) recipe.Recipe {
			return r.With(recipe.AddressOf(recipe.Served), 1).With(recipe.AddressOf(recipe.Dose), 21.5)
		}},
	} {
		b, err := f.st.Brew(f.ctx, k.brew)
		if err != nil {
			return err
		}
		d := b.Next(k.brew+"-kept", nil, f.now)
		said := ""
		if b.Advised != nil {
			said = b.Advised.Say
		}
		d.Parent, d.Name = "", k.name
		if k.change != nil {
			d.Recipe = k.change(d.Recipe)
		}
		d.Recipe.Grind = d.Gear.Grinder.Snap(d.Recipe.Grind)
		id, err := f.st.KeepRecipe(f.ctx, d, f.now, func(_, _ brew.Draft) string { return said })
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
	ctx   context.Context
	st    *store.Store
	now   time.Time
	made  func(int)
	brews int
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
	if err := f.st.SaveFullRecipe(f.ctx, "", true); err != nil {
		return err
	}
	return f.st.SaveUnits(f.ctx, "", units.Prefs{}, altitude, 0)
}

func (f *filler) day(ago int) time.Time { return f.now.AddDate(0, 0, -ago) }

// dated returns the bag of a chapter with its dates.
func (f *filler) dated(c chapter) coffee.Bag {
	c.bag.RoastedOn = f.day(c.roasted).Format(coffee.Day)
	if c.opened > 0 {
		c.bag.OpenedOn = f.day(c.opened).Format(coffee.Day)
	}
	return c.bag
}

func (f *filler) bag(c chapter) error {
	_, err := f.st.AddBag(f.ctx, f.dated(c))
	return err
}

func (f *filler) chapter(c chapter) error {
	c.bag = f.dated(c)
	for _, l := range c.lines {
		if err := f.line(c, l); err != nil {
			return fmt.Errorf("line %s: %w", l.id, err)
		}
	}
	return nil
}

func (f *filler) line(c chapter, l line) error {
	g, err := f.st.Gear(f.ctx, gear.IDs{Brewer: brewers[l.brewer].ID, Grinder: grinders[l.grinder].ID, Kettle: kettles[l.kettle].ID,
		Water: waters[l.water].ID})
	if err != nil {
		return err
	}
	var path []brew.Brew
	for n := range l.days {
		b, err := f.brew(c, l, g, path, n)
		if err != nil {
			return err
		}
		path = append(path, b)
		f.brews++
		f.made(f.brews)
	}
	if !l.planned {
		return nil
	}
	return f.st.AddDraft(f.ctx, next(c, l, g, path, l.id+"-next", f.now), f.now)
}

// next returns the recipe that follows the last brew of a line, or its first.
func next(c chapter, l line, g gear.Set, path []brew.Brew, id string, at time.Time) brew.Draft {
	if len(path) == 0 {
		d := brew.First(id, c.bag, g, nil, recipe.Habits{}, at)
		d.Recipe = forecast.FirstRecipe(d.Question(at), l.style)
		if l.start != nil {
			d.Recipe = l.start(d.Recipe)
		}
		return d
	}
	last := path[len(path)-1]
	if last.Advice == nil {
		return last.Next(id, nil, at)
	}
	advised := last.Advice.First
	if l.careful && advised != nil && advised.Knob == recipe.Grind {
		by := g.Grinder.Step
		if advised.To < advised.From {
			by = -by
		}
		advised = last.Case(coach.Person{}).Propose(recipe.AddressOf(recipe.Grind), float64(last.Recipe.Grind+by))
	}
	return last.Next(id, advised, at)
}

// at returns the time of the n-th brew of a line.
func (f *filler) at(l line, n int) time.Time {
	y, month, d := f.day(l.days[n]).Date()
	at := time.Date(y, month, d, l.hour, l.minute+(7*n)%11, 0, 0, f.now.Location())
	if at.After(f.now) { // the demo may start before the time of today's first brew
		at = f.now.Add(-20 * time.Minute)
	}
	return at
}

// brew adds the n-th brew of a line, with taps or scale readings, and a tasting.
func (f *filler) brew(c chapter, l line, g gear.Set, path []brew.Brew, n int) (brew.Brew, error) {
	id, at := fmt.Sprintf("%s-%d", l.id, n+1), f.at(l, n)
	b, err := brew.Begin(next(c, l, g, path, id, at), brew.Event{Key: "start", Kind: brew.Start, Instant: at})
	if err != nil {
		return b, err
	}
	o, err := outcomeOf(b, l, c.truth, l.days[n], slices.Contains(l.uneven, n+1), chanceOf(id))
	if err != nil {
		return b, err
	}
	marks := marksOf(b.Plan, o.uneven)
	happened := taps(b.Plan, o.drawdown, n, marks)
	var readings []trace.Reading
	if l.brewer == windowCone {
		readings, happened = scaleReadings(b, o.drawdown, l.days[n], marks)
	}
	if b, err = applyAll(b, happened, at); err != nil {
		return b, err
	}
	if !slices.Contains(l.untasted, n+1) {
		m := o.measured(b, chanceOf(id+" measured"))
		m.Taste = palates[l.palate].tasted(o, c.bag.Notes, chanceOf(id+l.palate))
		if b, err = b.Taste(m, coach.Person{}, tastedOf(path)...); err != nil {
			return b, err
		}
	}
	if err := f.st.AddBrews(f.ctx, b); err != nil || len(readings) == 0 {
		return b, err
	}
	return b, f.st.AppendReadings(f.ctx, map[string][]trace.Reading{b.ID: readings})
}

// tastedOf returns the brews that were tasted.
func tastedOf(path []brew.Brew) []brew.Brew {
	return slices.DeleteFunc(slices.Clone(path), func(b brew.Brew) bool { return b.Status != brew.Done })
}

// chanceOf returns the random numbers that belong to a name, always the same ones.
func chanceOf(name string) *rand.Rand { return rand.New(rand.NewPCG(device.SeedOf(name), 28)) }
