package demo

import (
	"context"
	"fmt"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
)

// staff are the people of the demo yard.
var staff = []store.Person{
	{Person: person.Person{ID: "marta", Name: "Marta", Initials: "M", Mark: person.Leaf}},
	{Person: person.Person{ID: "ivo", Name: "Ivo", Initials: "I", Mark: person.Pot}, Habits: recipe.Habits{First: recipe.GrindFirst, Good: 7}},
	{Person: person.Person{ID: "tilda", Name: "Tilda", Initials: "T", Mark: person.Drop}, Habits: recipe.Habits{Good: 8}},
	{Person: person.Person{ID: "bruno", Name: "Bruno", Initials: "B", Mark: person.Kite}, Prefs: units.Prefs{Fahrenheit: true, Ounces: true}},
}

// AddPeople adds the four people of the demo yard.
func AddPeople(ctx context.Context, st *store.Store) error {
	for _, p := range staff {
		if err := st.AddPerson(ctx, p.Person, false); err != nil {
			return fmt.Errorf("demo people: %w", err)
		}
		if err := st.SaveUnits(ctx, p.ID, p.Prefs, altitude, 0); err != nil {
			return fmt.Errorf("demo people: %w", err)
		}
		if err := st.SaveHabits(ctx, p.ID, p.Habits, 0); err != nil {
			return fmt.Errorf("demo people: %w", err)
		}
		if err := st.SaveFullRecipe(ctx, p.ID, true); err != nil {
			return fmt.Errorf("demo people: %w", err)
		}
	}
	return nil
}

// Name gives the brews of the demo history to four people, some of whom taste the same brew.
func Name(ctx context.Context, st *store.Store) error {
	if err := AddPeople(ctx, st); err != nil {
		return err
	}
	for _, c := range story {
		for _, l := range c.lines {
			if err := nameLine(ctx, st, c, l); err != nil {
				return fmt.Errorf("demo people of %s: %w", c.bag.Name, err)
			}
		}
	}
	return st.Assign(ctx, staff[0].ID) // recipes, tables, practice
}

// nameLine gives the brews of a line to their people and adds the second tastings.
func nameLine(ctx context.Context, st *store.Store, c chapter, l line) error {
	for n := range l.days {
		id := fmt.Sprintf("%s-%d", l.id, n+1)
		if err := st.SetBrewer(ctx, id, l.by[n%len(l.by)]); err != nil {
			return err
		}
		if slices.Contains(l.untasted, n+1) {
			continue
		}
		if err := st.MoveTasting(ctx, id, "", l.palate); err != nil {
			return err
		}
	}
	var path []brew.Brew
	for n := range l.days {
		b, err := st.Brew(ctx, fmt.Sprintf("%s-%d", l.id, n+1))
		if err != nil {
			return err
		}
		for _, t := range secondTastings {
			if t.brew != b.ID {
				continue
			}
			o := outcome{ey: 20, tds: b.Cup.TDS, stale: b.Bag.Freshness(b.Started) == coffee.GettingOld}
			if y, ok := b.Yield(); ok {
				o.ey = y.Value
			}
			m := b.Cup.Shared()
			m.Taste = palates[t.by].tasted(o, c.bag.Notes, chanceOf(b.ID+t.by))
			if b, err = b.For(t.by).Taste(m, coach.Person{}, tastedOf(path)...); err != nil {
				return err
			}
			if _, err := st.Change(ctx, b.ID, func(brew.Brew) (brew.Brew, error) { return b, nil }); err != nil {
				return err
			}
		}
		path = append(path, b)
	}
	return nil
}
