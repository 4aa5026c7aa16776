package recipe

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// chosenGear returns the brewer, grinder and kettle chosen in the form. Missing fields keep the present
// gear.
func (s *Screens) chosenGear(r *http.Request, f *form.Form, g gear.Set) (gear.Set, error) {
	touched := touchedSince(f)
	chosen := func(name, now string) string {
		if id := f.Values[name]; id != "" && touched(name) {
			return id
		}
		return now
	}
	ids := gear.IDs{Brewer: chosen("brewer", g.Brewer.ID), Grinder: chosen("grinder", g.Grinder.ID), Kettle: chosen("kettle", g.Kettle.ID),
		Water: chosen("of_water", g.Water.ID)}
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
		servingField(f, sc.Recipe),
		list("of_water", "waters", "Water", store.Thing{ID: g.Water.ID, Name: cmp.Or(g.Water.Name, "not named")}),
	}, nil
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
