package demo

import (
	"context"
	"fmt"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
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

// brewers and tasters of the bags.
var byBag = map[string]struct{ brews, tastes string }{
	"slate-terrace": {"marta", "marta"}, "orchard-wall": {"ivo", "ivo"}, "long-meadow": {"bruno", "tilda"},
	"winter-stores": {"ivo", "ivo"}, "evening-seed": {"tilda", "tilda"}, "first-frost": {"marta", "marta"},
}

// A second tasting is another person's opinion of a brew: Ivo and Bruno like it strong, Tilda bright and light.
type secondTasting struct {
	brew, by string
	taste    [7]int // acidity, sweetness, body, clarity, bitterness, dryness, aftertaste
	overall  int
	serve    string
	notes    string
}

var secondTastings = []secondTasting{
	{"slate-terrace-3", "ivo", [7]int{4, 3, 1, 4, 1, 1, 2}, 4, "no", "Tea. Clear, but where is the coffee?"},
	{"slate-terrace-4", "ivo", [7]int{3, 3, 1, 4, 1, 1, 3}, 5, "no", "Still thin for me."},
	{"slate-terrace-5", "tilda", [7]int{3, 4, 3, 5, 1, 1, 4}, 9, "yes", "More of this, please."},
	{"orchard-wall-2", "tilda", [7]int{2, 3, 4, 2, 4, 3, 3}, 4, "no", "Too heavy."},
	{"orchard-wall-3", "bruno", [7]int{3, 4, 4, 3, 2, 1, 4}, 9, "yes", ""},
	{"winter-stores-2", "bruno", [7]int{2, 4, 4, 3, 2, 1, 4}, 9, "yes", "For the morning."},
}

// Name gives the brews of the demo history to four people, some of whom taste the same brew.
func Name(ctx context.Context, st *store.Store) error {
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
	}
	for _, c := range story {
		if err := nameBag(ctx, st, c); err != nil {
			return fmt.Errorf("demo people of %s: %w", c.bag.Name, err)
		}
	}
	return st.Assign(ctx, staff[0].ID) // recipes, tables, practice
}

// nameBag gives the brews of a bag to their people and adds the second tastings.
func nameBag(ctx context.Context, st *store.Store, c chapter) error {
	who := byBag[c.bag.ID]
	for i, m := range c.cups {
		id := fmt.Sprintf("%s-%d", c.bag.ID, i+1)
		if err := st.SetBrewer(ctx, id, who.brews); err != nil {
			return err
		}
		if m.untasted {
			continue
		}
		if err := st.MoveTasting(ctx, id, "", who.tastes); err != nil {
			return err
		}
	}
	path, err := st.PathWithEvents(ctx, c.bag.ID, len(c.cups))
	if err != nil {
		return err
	}
	for i, b := range path {
		for _, t := range secondTastings {
			if t.brew != b.ID {
				continue
			}
			if b, err = b.For(t.by).Taste(t.cup(b.Cup), coach.Person{}, path[:i]...); err != nil {
				return err
			}
			path[i] = b
			if _, err := st.Change(ctx, b.ID, func(brew.Brew) (brew.Brew, error) { return b, nil }); err != nil {
				return err
			}
		}
	}
	return nil
}

// cup returns a measured cup with the tasting.
func (t secondTasting) cup(measured cup.Cup) cup.Cup {
	c := measured.Shared()
	c.Taste = cup.Taste{Steps: map[cup.Sense]int{}, Faults: map[cup.Fault]bool{}, Overall: t.overall, Serve: t.serve, Notes: t.notes}
	for i, sense := range senses {
		c.Steps[sense] = t.taste[i]
	}
	return c
}
