package web

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/words"
)

// bagView is a bag as the shelf shows it.
type bagView struct {
	store.Shelved
	Age       string
	Freshness coffee.Freshness
	Left      string
	LeftShare int // of the full bag, %
	BrewsLeft int
	Low       bool          // no more than two brews
	uses      units.Grams   // of one brew, with the grinder's loss
	Flower    template.HTML // of the last brew
}

type shelfBody struct {
	Bags  []bagView
	Older string // the address of the next page; empty on the last
	First bool
}

// shelfPage is how many bags one page of the shelf holds.
const shelfPage = 30

// shelf is the Coffee station: the bags, their age and what is left of them.
func (s *Server) shelf(w http.ResponseWriter, r *http.Request) error {
	day, after, paged := strings.Cut(r.URL.Query().Get("after"), "~")
	if paged && !store.ValidID(after) {
		return store.ErrNotFound
	}
	bags, err := s.Store.Shelf(r.Context(), day, after, shelfPage+1)
	if err != nil {
		return err
	}
	body := shelfBody{First: !paged}
	if len(bags) > shelfPage {
		bags = bags[:shelfPage]
		last := bags[shelfPage-1]
		body.Older = fmt.Sprintf("/?after=%s~%s", last.RoastedOn, last.ID)
	}
	for _, b := range bags {
		body.Bags = append(body.Bags, viewOfBag(b, prefsOf(r), s.Now()))
	}
	p := page{Title: "Coffee", Station: "Coffee", Line: emptyLine("Coffee"), Body: body}
	if p.Untasted, err = s.untasted(r); err != nil {
		return err
	}
	if p.Notice, err = s.removed(r); err != nil {
		return err
	}
	s.render(w, r, http.StatusOK, "shelf", p)
	return nil
}

// removed says which bag was just taken off the shelf, with the way to get it back.
func (s *Server) removed(r *http.Request) (*notice, error) {
	bagID := r.URL.Query().Get("removed")
	if !store.ValidID(bagID) {
		return nil, nil
	}
	b, err := s.Store.Bag(r.Context(), bagID)
	if errors.Is(err, store.ErrNotFound) || err == nil && !b.Deleted {
		return nil, nil
	}
	return &notice{fmt.Sprintf("%s is off the shelf. Its brews stay in the log.", b.Name), fmt.Sprintf("/bags/%s/restore", bagID)}, err
}

// untasted is the latest brew of the last day whose cup still waits to be measured or tasted.
func (s *Server) untasted(r *http.Request) (*waiting, error) {
	brewID, name, err := s.Store.Untasted(r.Context(), s.Now().Add(-24*time.Hour))
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	return &waiting{brewID, name}, err
}

func viewOfBag(b store.Shelved, prefs units.Prefs, now time.Time) bagView {
	v := bagView{Shelved: b, Freshness: b.Freshness(now), Age: "roast date unknown", Left: prefs.Unit(units.BagWeight).Format(float64(b.Left()))}
	if days, known := b.Age(now); known {
		v.Age = words.Age(days)
	}
	if b.Weight > 0 {
		v.LeftShare = int(float64(b.Left()/b.Weight)*100 + 0.5)
	}
	dose, loss := units.Grams(18), units.Grams(0)
	if l := b.Last; l != nil {
		dose, loss = l.Dose, l.Loss
		v.Flower = figure.Flower(l.Dose, l.Steps, l.Drawdown)
	}
	v.BrewsLeft = coffee.BrewsLeft(b.Left(), dose, loss)
	v.Low, v.uses = v.BrewsLeft <= 2, dose+loss
	return v
}
