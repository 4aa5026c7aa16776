package web

import (
	"fmt"
	"math"
	"net/http"
	"time"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// bagFacts are what follows from a bag: its age and what that means, what is left, what a cup costs.
func bagFacts(b store.Shelved, view bagView, prefs units.Prefs, now time.Time) []fact {
	out := []fact{{"Age", fmt.Sprintf("%s, %s", view.Age, view.Freshness)}}
	if b.FrozenOn != "" {
		out[0].Value += ", frozen since " + b.FrozenOn
	} else if b.FrozenDays > 0 {
		out[0].Value += fmt.Sprintf(", and %s in the freezer", words.Days(b.FrozenDays))
	}
	brews := fmt.Sprintf("%d brews", view.BrewsLeft)
	if view.BrewsLeft == 1 {
		brews = "1 brew"
	}
	by := "by the brews made of it"
	if !b.CountedAt.IsZero() {
		by = "weighed on " + words.Day(b.CountedAt.Time, now) + ", less what was brewed since"
	}
	out = append(out, fact{"Left", fmt.Sprintf("%s, enough for %s, %s", view.Left, brews, by)})
	if cost := b.Cost(view.uses); cost > 0 {
		out = append(out, fact{"A cup costs", fmt.Sprintf("%.2f %s, with what the grinder keeps", float64(cost)/minorPerMajor, b.Currency)})
	}
	return out
}

// countBag takes what the scale says is left in a bag.
func (s *Server) countBag(w http.ResponseWriter, r *http.Request) error {
	return s.weighBag(w, r, "counted", "What is left", func(b store.Shelved, g units.Grams) (string, error) {
		return b.ID, s.Store.CountBag(r.Context(), b.ID, g, s.Now())
	})
}

// freezePortion puts a part of a bag into the freezer, as a bag of its own.
func (s *Server) freezePortion(w http.ResponseWriter, r *http.Request) error {
	return s.weighBag(w, r, "portion", "The portion", func(b store.Shelved, g units.Grams) (string, error) {
		return s.Store.FreezePortion(r.Context(), b.ID, g, s.Now())
	})
}

// weighBag reads one weight and does something with it. No more can be taken out of a
// bag than is in it when full.
func (s *Server) weighBag(w http.ResponseWriter, r *http.Request, name, label string, do func(store.Shelved, units.Grams) (string, error)) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	typed, err := form.Read(r)
	if err != nil {
		return err
	}
	u := prefsOf(r).Unit(units.BagWeight)
	within := units.Range{Lo: 0, Hi: math.Max(float64(b.Weight), float64(b.Left()))}
	if name == "portion" {
		within = units.Range{Lo: 5, Hi: math.Max(5, math.Floor(float64(b.Left())))}
	}
	g := typed.Quantity(name, label, u, within, true)
	f := fillBag(b.Bag.Bag, prefsOf(r))
	if !typed.OK() {
		f.Values[name], f.Errors[name] = typed.Values[name], typed.Errors[name]
		return s.showBag(w, r, http.StatusUnprocessableEntity, f, b, "")
	}
	to, err := do(b, units.Grams(g))
	if err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%s", to)
}

// thawBag takes a bag out of the freezer.
func (s *Server) thawBag(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	if err := s.Store.ThawBag(r.Context(), b.ID, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%s", b.ID)
}
