package recipe

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// noSecond is the value of the field of the second kettle for none.
const noSecond = "none"

// chosenGear returns the brewer, grinder and kettles chosen in the form. Missing fields keep the present
// gear, and so do retired things, with a sentence.
func (s *Screens) chosenGear(r *http.Request, f *form.Form, g gear.Set) (gear.Set, error) {
	touched := touchedSince(f)
	chosen := func(name, now string) string {
		if id := f.Values[name]; id != "" && touched(name) {
			return id
		}
		return now
	}
	things, err := s.yard.Store.Things(r.Context())
	if err != nil {
		return g, err
	}
	retired := func(id string) bool {
		return !slices.ContainsFunc(things, func(t store.Thing) bool { return t.ID == id })
	}
	ids := gear.IDs{Brewer: chosen("brewer", g.Brewer.ID), Grinder: chosen("grinder", g.Grinder.ID), Kettle: chosen("kettle", g.Kettle.ID),
		Water: chosen("of_water", g.Water.ID), Second: chosen("second", g.Second.ID)}
	switch second := ids.Second; {
	case second == noSecond:
		ids.Second = ""
	case second != "" && second == ids.Kettle:
		f.Fail("second", "That is the first kettle: choose another one, or none.")
		ids.Second = g.Second.ID
	case second != g.Second.ID && retired(second):
		if _, err := s.yard.Store.Kettle(r.Context(), second); err == nil {
			f.Fail("second", "That kettle is retired: choose another one, or bring it back under Gear.")
			ids.Second = g.Second.ID
		}
	}
	if ids.Second == ids.Kettle { // the first one was changed to it
		ids.Second = ""
	}
	if ids == g.IDs() {
		return g, nil
	}
	other, err := s.yard.Store.Gear(r.Context(), ids)
	if errors.Is(err, store.ErrNotFound) {
		return g, page.Problem{Status: http.StatusBadRequest, Title: "Unknown gear",
			Text: "Reload the page and choose from its lists."}
	}
	return other, err
}

// gearFields returns the lists of gear and of the styles that suit the brewer.
func (s *Screens) gearFields(r *http.Request, f *form.Form, sc *station.Scene) ([]form.Field, error) {
	things, err := s.yard.Store.Things(r.Context())
	if err != nil {
		return nil, err
	}
	list := func(name, kind, label string, used store.Thing) form.Field {
		all, there := []store.Thing{}, false
		for _, t := range things {
			if t.Kind == kind {
				all, there = append(all, t), there || t.ID == used.ID
			}
		}
		retired := !there && used.ID != ""
		if !there {
			all = append([]store.Thing{used}, all...)
		}
		e := form.Select(f, name, label, all, func(t store.Thing) (string, string) { return t.ID, t.Name })
		if retired {
			e.Hint = retiredHint
		}
		return e
	}
	g := sc.Gear
	return []form.Field{
		list("brewer", "brewers", "Brewer", store.Thing{ID: g.Brewer.ID, Name: g.Brewer.Name}),
		form.Select(f, "style", "Style", recipe.Styles(g.Brewer.Kind),
			func(v recipe.Style) (string, string) { return string(v.ID), v.Name }),
		list("grinder", "grinders", "Grinder", store.Thing{ID: g.Grinder.ID, Name: g.Grinder.Name}),
		list("kettle", "kettles", "Kettle", store.Thing{ID: g.Kettle.ID, Name: g.Kettle.Name}),
		s.secondField(f, things, g),
		servingField(f, sc.Recipe),
		list("of_water", "waters", "Water", store.Thing{ID: g.Water.ID, Name: cmp.Or(g.Water.Name, "not named")}),
	}, nil
}

// secondField returns the list of the other kettles, and none.
func (s *Screens) secondField(f *form.Form, things []store.Thing, g gear.Set) form.Field {
	all, listed := []store.Thing{{ID: noSecond, Name: "none"}}, g.Second.ID == ""
	for _, t := range things {
		if t.Kind == "kettles" && t.ID != g.Kettle.ID {
			all, listed = append(all, t), listed || t.ID == g.Second.ID
		}
	}
	if !listed {
		all = append(all, store.Thing{ID: g.Second.ID, Name: g.Second.Name})
	}
	e := form.Select(f, "second", "Second kettle", all, func(t store.Thing) (string, string) { return t.ID, t.Name })
	e.Hint = "For pours of another temperature: choose it for a pour in the menu at its end."
	if !listed {
		e.Hint = retiredHint
	}
	return e
}

// retiredHint is the hint beside retired gear.
const retiredHint = "It is retired but stays with this recipe."

// servingField returns the list of servings that the style supports.
func servingField(f *form.Form, r recipe.Recipe) form.Field {
	style := r.Style.Style()
	var takes []string
	out := ""
	for _, v := range recipe.Servings() {
		if why := style.WhyNotServed(v); why == "" {
			takes = append(takes, string(v))
		} else if out == "" {
			out = fmt.Sprintf("No other serving: %s.", why)
		}
	}
	e := form.Select(f, string(recipe.Served), recipe.Served.Label(), takes, form.Plain)
	e.Hint = out
	return e
}
