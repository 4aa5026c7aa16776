package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
)

type contextKey int

const (
	settingsKey contextKey = iota
	sceneKey
)

// withSettings loads what holds for every page once.
func (s *Server) withSettings(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		r, err := s.reread(r)
		if err != nil {
			s.fail(w, r, err)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// reread puts the settings as they are now into a request.
func (s *Server) reread(r *http.Request) (*http.Request, error) {
	set, err := s.Store.Settings(r.Context())
	if err != nil {
		return r, fmt.Errorf("settings: %w", err)
	}
	return r.WithContext(context.WithValue(r.Context(), settingsKey, set)), nil
}

// settingsOf returns the settings of the request, or the zero Settings where loading them failed.
func settingsOf(r *http.Request) store.Settings {
	set, _ := r.Context().Value(settingsKey).(store.Settings)
	return set
}

// prefsOf is how the person reads quantities.
func prefsOf(r *http.Request) units.Prefs { return settingsOf(r).Prefs() }

// A scene is all that a request about one brew needs: the recipe in the making or
// the brew, and its bag as it stands on the shelf.
type scene struct {
	*brew.Sheet
	draft *brew.Draft // nil once it is begun
	brew  *brew.Brew  // nil before
	shelf store.Bag
	prefs units.Prefs
	now   time.Time
}

// withScene loads the scene of /brews/{id} once.
func (s *Server) withScene(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		brewID, err := id(r)
		var sc *scene
		if err == nil {
			sc, err = s.loadScene(r, brewID)
		}
		if err != nil {
			s.fail(w, r, err)
			return
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), sceneKey, sc)))
	})
}

func sceneOf(r *http.Request) *scene { return r.Context().Value(sceneKey).(*scene) }

func (s *Server) loadScene(r *http.Request, brewID string) (*scene, error) {
	sc := &scene{prefs: prefsOf(r), now: s.Now()}
	d, on, err := s.Store.Draft(r.Context(), brewID)
	if err == nil {
		s.attend(r, &d.Sheet)
		sc.show(d)
		sc.shelf = on
		return sc, nil
	}
	if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	b, err := s.Store.Brew(r.Context(), brewID)
	if err != nil {
		return nil, err
	}
	s.attend(r, &b.Sheet)
	sc.brew, sc.Sheet = &b, &b.Sheet
	sc.shelf, err = s.Store.Bag(r.Context(), b.BagID)
	return sc, err
}

// attend puts on a sheet what is not kept with it: what the yard believes of its gear and
// coffee, and how the person begins and reads.
func (s *Server) attend(r *http.Request, sheet *brew.Sheet) {
	sheet.Beliefs, sheet.Habits, sheet.Prefs = s.teacher.Believe(*sheet), settingsOf(r).Habits(), prefsOf(r)
}

// show puts a recipe in the making into the scene.
func (sc *scene) show(d brew.Draft) { sc.draft, sc.Sheet = &d, &d.Sheet }

// editable says that the recipe can still be changed: it is not poured, and not
// one that is kept to be brewed from.
func (sc *scene) editable() bool { return sc.draft != nil && sc.draft.Name == "" }

// begun is the moment that the coffee's age counts at: the start, or now.
func (sc *scene) begun() time.Time {
	if sc.brew != nil {
		return sc.brew.Started
	}
	return sc.now
}

// ratio is the ratio as it was set, or as it was poured.
func (sc *scene) ratio() float64 {
	if sc.draft != nil {
		return sc.draft.Ratio()
	}
	return sc.Recipe.Ratio()
}

// value reads the recipe at an address; the ratio as it was set.
func (sc *scene) value(a recipe.Address) float64 {
	if a == recipe.Of(recipe.Ratio) {
		return sc.ratio()
	}
	return sc.Recipe.Value(a)
}

// plan is the schedule as it was begun, or as the recipe makes it.
func (sc *scene) plan() recipe.Plan {
	if sc.brew != nil {
		return sc.brew.Plan
	}
	return sc.Recipe.Plan()
}

// onLine refuses to go on with a recipe whose bag was deleted, and leads from one
// that is kept to its page.
func (sc *scene) onLine() error {
	if sc.draft != nil && sc.shelf.Deleted {
		return gone(sc.shelf)
	}
	return nil
}

// changeDraft applies a change to the recipe in the making and keeps it. Where
// somebody else saved since it was loaded, the change is applied to theirs.
func (s *Server) changeDraft(r *http.Request, change func(*brew.Draft) error) (*scene, error) {
	sc := sceneOf(r)
	const tries = 8
	for range tries {
		if err := sc.onLine(); err != nil {
			return sc, err
		}
		if !sc.editable() {
			return sc, brew.ErrStatus
		}
		d := *sc.draft
		if err := change(&d); err != nil {
			return sc, err
		}
		saved, err := s.Store.SaveDraft(r.Context(), d, s.Now())
		if err == nil {
			s.attend(r, &saved.Sheet) // its gear may be another
			sc.show(saved)
			return sc, nil
		}
		if !errors.Is(err, store.ErrConflict) {
			return sc, err
		}
		if sc, err = s.loadScene(r, d.ID); err != nil {
			return sc, err
		}
	}
	return sc, store.ErrConflict
}
