// Package station provides the shared parts of the six stations of the line: the scene of one brew, the line above
// the page, the path of a bag, and the display of advice.
package station

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/yard"
)

// A Scene is the data for a request about one brew: the draft or the brew, and its bag.
type Scene struct {
	*brew.Sheet
	Draft *brew.Draft // nil once it has begun
	Brew  *brew.Brew  // nil before
	Shelf store.Bag   // the present bag
	Now   time.Time
}

type sceneKey struct{}

// WithScene loads the scene of /brews/{id} into the request.
func WithScene(site *page.Site, y *yard.Yard) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			id, err := page.ID(r)
			var sc *Scene
			if err == nil {
				sc, err = Load(y, r, id)
			}
			if err != nil {
				site.Fail(w, r, err)
				return
			}
			if set := page.Settings(r); set.Spoons { // also fields are in spoons of this coffee
				set.SpoonWeight = sc.Prefs.Spoon
				r = page.WithSettings(r, set)
			}
			next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), sceneKey{}, sc)))
		})
	}
}

// Of returns the scene of a request.
func Of(r *http.Request) *Scene { return r.Context().Value(sceneKey{}).(*Scene) }

// Load loads the scene of a draft or a brew; store.ErrNotFound if there is neither.
func Load(y *yard.Yard, r *http.Request, id string) (*Scene, error) {
	sc := &Scene{Now: y.Now()}
	d, bag, err := y.Store.Draft(r.Context(), id)
	if err == nil {
		y.CompleteSheet(&d.Sheet, page.Settings(r))
		sc.setDraft(d)
		sc.Shelf = bag
		return sc, nil
	}
	if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	b, err := y.Store.Brew(r.Context(), id)
	if err != nil {
		return nil, err
	}
	sc.setBrew(y, r, b)
	sc.Shelf, err = y.Store.Bag(r.Context(), b.BagID)
	return sc, err
}

func (sc *Scene) setDraft(d brew.Draft) { sc.Draft, sc.Sheet = &d, &d.Sheet }

// WithBrew returns the scene with a changed brew.
func (sc *Scene) WithBrew(y *yard.Yard, r *http.Request, b brew.Brew) *Scene {
	next := *sc
	next.setBrew(y, r, b)
	return &next
}

// setBrew sets a brew as the person at the screen sees it. A person who has not tasted it sees its first tasting.
func (sc *Scene) setBrew(y *yard.Yard, r *http.Request, b brew.Brew) {
	if who := page.PersonID(r); len(b.Tastings) == 0 {
		b = b.For(who)
	} else {
		b = b.Preferring(who)
	}
	y.CompleteSheet(&b.Sheet, page.Settings(r))
	sc.Brew, sc.Sheet = &b, &b.Sheet
}

// See shows the brew of a scene as another taster sees it.
func (sc *Scene) See(taster string) {
	b := sc.Brew.For(taster)
	sc.Brew, sc.Sheet = &b, &b.Sheet
}

// Editable reports whether the recipe can be changed: it has not begun and is not a kept one.
func (sc *Scene) Editable() bool { return sc.Draft != nil && sc.Draft.Name == "" }

// AgedAt returns the moment at which the age of the coffee counts: the start of the brew, or now.
func (sc *Scene) AgedAt() time.Time {
	if sc.Brew != nil {
		return sc.Brew.Started
	}
	return sc.Now
}

// Ratio returns the ratio that was typed, or that was poured.
func (sc *Scene) Ratio() float64 {
	if sc.Draft != nil {
		return sc.Draft.Ratio()
	}
	return sc.Recipe.Ratio()
}

// Value returns the value of the recipe at an address.
func (sc *Scene) Value(a recipe.Address) float64 {
	if a == recipe.AddressOf(recipe.Ratio) {
		return sc.Ratio()
	}
	return sc.Recipe.Value(a)
}

// Plan returns the schedule with which the brew began, or that of the recipe.
func (sc *Scene) Plan() recipe.Plan {
	if sc.Brew != nil {
		return sc.Brew.Plan
	}
	return sc.Recipe.Plan()
}

// Setup returns what to prepare for.
func (sc *Scene) Setup() brew.Setup {
	return brew.Setup{Recipe: sc.Recipe, Set: sc.Gear, Prefs: sc.Prefs, Level: sc.Habits.LevelBed}
}

// StockNote tells if the bag runs out with this recipe; empty if it does not.
func (sc *Scene) StockNote() string {
	if !sc.Shelf.StockKnown() {
		return ""
	}
	switch n := coffee.BrewsLeft(sc.Shelf.Left(), sc.Recipe.Dose, sc.Gear.Grinder.Loss); n {
	case 0:
		return "The bag does not have enough for this dose: use a smaller dose, or another bag."
	case 1:
		return "This is the last brew in the bag."
	}
	return ""
}

// BagGone returns a problem if the bag of a draft was deleted.
func (sc *Scene) BagGone() error {
	if sc.Draft != nil && sc.Shelf.Deleted {
		return BagGoneProblem(sc.Shelf)
	}
	return nil
}

// BagGoneProblem returns the problem of a deleted bag.
func BagGoneProblem(b store.Bag) error {
	return page.Problem{Status: http.StatusGone, Title: "This bag was removed",
		Text: fmt.Sprintf("%s was removed. Its brews stay in the log.", b.Name)}
}

// Change applies a change to the draft of the request and stores it. If another request saved it
// meanwhile, the change is applied to the newer version.
func Change(y *yard.Yard, r *http.Request, change func(*brew.Draft) error) (*Scene, error) {
	const attempts = 8
	sc := Of(r)
	for range attempts {
		if err := sc.BagGone(); err != nil {
			return sc, err
		}
		if !sc.Editable() {
			return sc, brew.ErrStatus
		}
		d := *sc.Draft
		if err := change(&d); err != nil {
			return sc, err
		}
		d.By = cmp.Or(page.PersonID(r), d.By)
		saved, err := y.Store.SaveDraft(r.Context(), d, y.Now())
		if err == nil {
			y.CompleteSheet(&saved.Sheet, page.Settings(r)) // its gear may have changed
			sc.setDraft(saved)
			return sc, nil
		}
		if !errors.Is(err, store.ErrConflict) {
			return sc, err
		}
		if sc, err = Load(y, r, d.ID); err != nil {
			return sc, err
		}
	}
	return sc, store.ErrConflict
}

// OpenDraft stores a new draft and redirects to it, or to an equal one.
func OpenDraft(y *yard.Yard, w http.ResponseWriter, r *http.Request, d brew.Draft) error {
	id, err := y.OpenDraft(r.Context(), d, page.Settings(r))
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/recipe", id)
}
