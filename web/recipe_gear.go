package web

import (
	"context"
	"net/http"
	"strconv"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/store"
)

// usualGear is the gear that was used last, or else the first of each kind.
func (s *Server) usualGear(ctx context.Context, set store.Settings) (brew.Gear, error) {
	g := brew.Gear{Boiling: set.Boiling()}
	brewers, grinders, kettles, err := s.owned(ctx)
	if err != nil {
		return g, err
	}
	if len(brewers) == 0 || len(grinders) == 0 || len(kettles) == 0 {
		return g, problem{http.StatusConflict, "A recipe needs gear", "Add a brewer, a grinder and a kettle under Gear first; then come back to the bag."}
	}
	g.Brewer = pick(brewers, set.Brewer, func(b gear.Brewer) int64 { return b.ID })
	g.Grinder = pick(grinders, set.Grinder, func(b gear.Grinder) int64 { return b.ID })
	g.Kettle = pick(kettles, set.Kettle, func(b gear.Kettle) int64 { return b.ID })
	return g, nil
}

// pick returns the thing with an id, or else the first.
func pick[T any](all []T, wanted int64, id func(T) int64) T {
	for _, v := range all {
		if id(v) == wanted {
			return v
		}
	}
	return all[0]
}

func situation(b coffee.Bag, g brew.Gear, now time.Time) recipe.Situation {
	return recipe.Situation{Bag: b, Brewer: g.Brewer, Grinder: g.Grinder, Boiling: g.Boiling, Now: now}
}

// chosenGear reads which brewer, grinder and kettle the form names. What it does not name stays.
func (s *Server) chosenGear(ctx context.Context, f *form, g brew.Gear) (brew.Gear, error) {
	touched := touchedSince(f)
	chosen := func(name string, old int64) (int64, bool) {
		n, err := strconv.ParseInt(f.Values[name], 10, 64)
		return n, err == nil && n != old && touched(name)
	}
	var err error
	if n, other := chosen("brewer", g.Brewer.ID); other {
		if g.Brewer, err = s.Store.Brewer(ctx, n); err != nil {
			return g, err
		}
	}
	if n, other := chosen("grinder", g.Grinder.ID); other {
		if g.Grinder, err = s.Store.Grinder(ctx, n); err != nil {
			return g, err
		}
	}
	if n, other := chosen("kettle", g.Kettle.ID); other {
		if g.Kettle, err = s.Store.Kettle(ctx, n); err != nil {
			return g, err
		}
	}
	return g, nil
}

func (s *Server) gearFields(ctx context.Context, body *recipeBody, d decorator, b brew.Brew) error {
	brewers, grinders, kettles, err := s.owned(ctx)
	if err != nil {
		return err
	}
	idOf := func(n int64) string { return strconv.FormatInt(n, 10) }
	body.Gear = []field{
		selectOf(d.form, "brewer", "Brewer", with(brewers, b.Gear.Brewer, func(v gear.Brewer) int64 { return v.ID }), func(v gear.Brewer) (string, string) { return idOf(v.ID), v.Name }),
		selectOf(d.form, "style", "Style", recipe.Styles(b.Gear.Brewer.Kind), func(v recipe.Style) (string, string) { return string(v.ID), v.Name }),
		selectOf(d.form, "grinder", "Grinder", with(grinders, b.Gear.Grinder, func(v gear.Grinder) int64 { return v.ID }), func(v gear.Grinder) (string, string) { return idOf(v.ID), v.Name }),
		selectOf(d.form, "kettle", "Kettle", with(kettles, b.Gear.Kettle, func(v gear.Kettle) int64 { return v.ID }), func(v gear.Kettle) (string, string) { return idOf(v.ID), v.Name }),
	}
	return nil
}

// with makes sure that the thing in use is offered, though it may have left the lists.
func with[T any](all []T, used T, id func(T) int64) []T {
	for _, v := range all {
		if id(v) == id(used) {
			return all
		}
	}
	return append([]T{used}, all...)
}

// owned is all of the gear in the lists.
func (s *Server) owned(ctx context.Context) (brewers []gear.Brewer, grinders []gear.Grinder, kettles []gear.Kettle, err error) {
	if brewers, err = s.Store.Brewers(ctx); err != nil {
		return
	}
	if grinders, err = s.Store.Grinders(ctx); err != nil {
		return
	}
	kettles, err = s.Store.Kettles(ctx)
	return
}
