package shelf

import (
	"fmt"
	"math"
	"net/http"
	"time"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// bagFacts returns figures derived from a bag: age and its meaning, stock, price per cup.
func bagFacts(b store.Shelved, view bagView, prefs units.Prefs, now time.Time) []page.Fact {
	out := []page.Fact{{Name: "Age", Value: fmt.Sprintf("%s, %s", view.Age, view.Freshness)}}
	if b.FrozenOn != "" {
		out[0].Value += ", frozen since " + b.FrozenOn
	} else if b.FrozenDays > 0 {
		out[0].Value += fmt.Sprintf(", and %s in the freezer", words.Days(b.FrozenDays))
	}
	if day, resting := b.BestFrom(now); resting {
		out[0].Value += ", at its best from " + day.Format("Monday, 2 January")
	}
	brews := units.Plural(view.BrewsLeft, "brew")
	by := "estimated from brews"
	if !b.CountedAt.IsZero() {
		by = "weighed on " + words.Day(b.CountedAt.Time, now) + ", less what was brewed since"
	}
	left := page.Fact{Name: "Left", Value: "unknown: enter the weight of the bag, or weigh it"}
	if b.StockKnown() {
		left.Value = fmt.Sprintf("%s, enough for %s, %s", view.Left, brews, by)
	}
	out = append(out, left)
	if cost := b.Cost(view.uses); cost > 0 {
		out = append(out, page.Fact{Name: "A cup costs", Value: words.Money(float64(cost), b.Currency) + ", with what the grinder keeps"})
	}
	return out
}

// useFacts returns the coffee used and wasted from a bag, and the cost per brew.
func useFacts(b store.Bag, use store.BagUse, prefs units.Prefs) []page.Fact {
	if use.Used <= 0 {
		return nil
	}
	out := []page.Fact{{Name: "Used", Value: fmt.Sprintf("%s, of which %s in grinders, purges and stopped brews",
		prefs.Unit(units.BagWeight).Format(float64(use.Used)), prefs.Unit(units.Dose).Format(float64(use.Wasted)))}}
	if cost := b.Cost(use.Used); cost > 0 && use.Brews > 0 {
		out = append(out, page.Fact{Name: "A brew has cost", Value: words.Money(float64(cost)/float64(use.Brews), b.Currency) + " on average, with the waste"})
	}
	return out
}

// countBag stores the weighed contents of a bag.
func (s *Screens) countBag(w http.ResponseWriter, r *http.Request) error {
	return s.weighBag(w, r, "counted", "The remaining weight", func(b store.Shelved, g units.Grams) (string, error) {
		return b.ID, s.yard.Store.CountBag(r.Context(), b.ID, g, s.yard.Now())
	})
}

// freezePortion moves a part of a bag to the freezer, as its own bag.
func (s *Screens) freezePortion(w http.ResponseWriter, r *http.Request) error {
	return s.weighBag(w, r, "portion", "The portion", func(b store.Shelved, g units.Grams) (string, error) {
		return s.yard.Store.FreezePortion(r.Context(), b.ID, g, s.yard.Now())
	})
}

// weighBag parses a weight and calls do with it. It limits the weight to that of the full bag.
func (s *Screens) weighBag(w http.ResponseWriter, r *http.Request, name, label string,
	do func(store.Shelved, units.Grams) (string, error)) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	typed, err := form.Read(r)
	if err != nil {
		return err
	}
	u := page.Prefs(r).Unit(units.BagWeight)
	within := units.Range{Lo: 0, Hi: math.Max(float64(b.Weight), float64(b.Left()))}
	if name == "portion" {
		within = units.Range{Lo: 5, Hi: math.Max(5, math.Floor(float64(b.Left())))}
	}
	g := typed.Quantity(name, label, u, within, true)
	f := fillBag(b.Bag.Bag, page.Prefs(r))
	if !typed.OK() {
		f.Values[name], f.Errors[name] = typed.Values[name], typed.Errors[name]
		return s.showBag(w, r, http.StatusUnprocessableEntity, f, b, "")
	}
	to, err := do(b, units.Grams(g))
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/bags/%s", to)
}

// thawBag takes a bag out of the freezer.
func (s *Screens) thawBag(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	if err := s.yard.Store.ThawBag(r.Context(), b.ID, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/bags/%s", b.ID)
}
