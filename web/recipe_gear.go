package web

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/store"
	"yardbloom/web/form"
)

// usualGear is the gear that was used last, or else the first of each kind.
func (s *Server) usualGear(r *http.Request) (gear.Set, error) {
	set := settingsOf(r)
	things, err := s.Store.Things(r.Context())
	if err != nil {
		return gear.Set{}, err
	}
	ids := map[string]string{}
	for _, wanted := range []struct{ kind, id string }{{"brewers", set.Brewer}, {"grinders", set.Grinder}, {"kettles", set.Kettle}, {"waters", set.Water}} {
		for _, t := range things {
			if t.Kind == wanted.kind && (t.ID == wanted.id || ids[t.Kind] == "") {
				ids[t.Kind] = t.ID
			}
		}
		if ids[wanted.kind] == "" && wanted.kind != "waters" {
			return gear.Set{}, problem{http.StatusConflict, "A recipe needs gear", "Add a brewer, a grinder and a kettle under Gear first; then come back to the bag."}
		}
	}
	return s.Store.Gear(r.Context(), gear.IDs{Brewer: ids["brewers"], Grinder: ids["grinders"], Kettle: ids["kettles"], Water: ids["waters"]})
}

// chosenGear reads which brewer, grinder and kettle the form names. What it does not name stays.
func (s *Server) chosenGear(r *http.Request, f *form.Form, g gear.Set) (gear.Set, error) {
	touched := touchedSince(f)
	chosen := func(name, now string) string {
		if id := f.Values[name]; id != "" && touched(name) {
			return id
		}
		return now
	}
	ids := gear.IDs{Brewer: chosen("brewer", g.Brewer.ID), Grinder: chosen("grinder", g.Grinder.ID), Kettle: chosen("kettle", g.Kettle.ID), Water: chosen("of_water", g.Water.ID)}
	if ids == g.IDs() {
		return g, nil
	}
	other, err := s.Store.Gear(r.Context(), ids)
	if errors.Is(err, store.ErrNotFound) {
		return g, problem{http.StatusBadRequest, "There is no such gear", "Load the page again and choose from its lists."}
	}
	return other, err
}

// gearFields are the lists of gear and of the styles that suit the brewer.
func (s *Server) gearFields(r *http.Request, f *form.Form, sc *scene) ([]form.Field, error) {
	things, err := s.Store.Things(r.Context())
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
			e.Hint = outOfLists
		}
		return e
	}
	g := sc.Gear
	return []form.Field{
		list("brewer", "brewers", "Brewer", store.Thing{ID: g.Brewer.ID, Name: g.Brewer.Name}),
		form.Select(f, "style", "Style", recipe.Styles(g.Brewer.Kind), func(v recipe.Style) (string, string) { return string(v.ID), v.Name }),
		list("grinder", "grinders", "Grinder", store.Thing{ID: g.Grinder.ID, Name: g.Grinder.Name}),
		list("kettle", "kettles", "Kettle", store.Thing{ID: g.Kettle.ID, Name: g.Kettle.Name}),
		servingField(f, sc.Recipe),
		list("of_water", "waters", "Water", store.Thing{ID: g.Water.ID, Name: cmp.Or(g.Water.Name, "not named")}),
	}, nil
}

// outOfLists is said beside gear that was retired.
const outOfLists = "It is out of the lists, and stays with this recipe."

// servingField lists how a style can be served.
func servingField(f *form.Form, r recipe.Recipe) form.Field {
	style := r.Style.Style()
	var takes []string
	out := ""
	for _, v := range recipe.Servings() {
		if why := style.NotServed(v); why == "" {
			takes = append(takes, string(v))
		} else if out == "" {
			out = fmt.Sprintf("Not otherwise: %s.", why)
		}
	}
	e := form.Select(f, string(recipe.Served), recipe.Served.Label(), takes, form.Plain)
	e.Hint = out
	return e
}
