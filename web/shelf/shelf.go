package shelf

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
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// bagView is a bag as the shelf shows it.
type bagView struct {
	store.Shelved
	Age       string
	Freshness coffee.Freshness
	Left      string
	LeftShare int           // relative to the full bag, %
	BrewsLeft int           // whole ones
	Low       bool          // at most two brews left
	uses      units.Grams   // use per brew, with the grinder's loss
	Flower    template.HTML // of the last brew
}

type shelfBody struct {
	Bags  []bagView
	Older string // the address of the next page; empty on the last
	First bool
	// Filling describes a demo yard that is still being filled; empty otherwise.
	Filling string
}

// shelfPage is the number of bags per page.
const shelfPage = 30

// shelf serves the Coffee station: the bags with their age and stock.
func (s *Screens) shelf(w http.ResponseWriter, r *http.Request) error {
	day, after, paged := strings.Cut(r.URL.Query().Get("after"), "~")
	if paged && !store.ValidID(after) {
		return store.ErrNotFound
	}
	bags, err := s.yard.Store.Shelf(r.Context(), day, after, shelfPage+1)
	if err != nil {
		return err
	}
	if len(bags) == 0 && !paged {
		things, err := s.yard.Store.Things(r.Context())
		if err != nil {
			return err
		}
		if len(things) == 0 {
			return page.SeeOther(w, r, "/first")
		}
	}
	body := shelfBody{First: !paged}
	if len(bags) > shelfPage {
		bags = bags[:shelfPage]
		last := bags[shelfPage-1]
		body.Older = fmt.Sprintf("/?after=%s~%s", last.RoastedOn, last.ID)
	}
	for _, b := range bags {
		body.Bags = append(body.Bags, viewOfBag(b, page.Prefs(r), s.yard.Now()))
	}
	if s.yard.Filling != nil {
		if made, of := s.yard.Filling(); made < of {
			body.Filling = fmt.Sprintf("The history of the demo yard is being brewed by the model: %d of %d brews.", made, of)
		}
	}
	p := page.Page{Title: "Coffee", Station: "Coffee", Line: page.Line("Coffee"), Body: body}
	if p.Untasted, err = s.untasted(r); err != nil {
		return err
	}
	if p.Notice, err = s.removed(r); err != nil {
		return err
	}
	s.Render(w, r, http.StatusOK, "shelf", p)
	return nil
}

// removed returns a notice about the bag that was just deleted, with its undo.
func (s *Screens) removed(r *http.Request) (*page.Notice, error) {
	bagID := r.URL.Query().Get("removed")
	if !store.ValidID(bagID) {
		return nil, nil
	}
	b, err := s.yard.Store.Bag(r.Context(), bagID)
	if errors.Is(err, store.ErrNotFound) || err == nil && !b.Deleted {
		return nil, nil
	}
	return &page.Notice{Text: fmt.Sprintf("%s was removed. Its brews stay in the log.", b.Name),
		Undo: fmt.Sprintf("/bags/%s/restore", bagID)}, err
}

// untasted returns the latest brew of the last day that is not measured or tasted.
func (s *Screens) untasted(r *http.Request) (*page.BrewLink, error) {
	brewID, name, err := s.yard.Store.Untasted(r.Context(), s.yard.Now().Add(-24*time.Hour))
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	return &page.BrewLink{ID: brewID, Name: name}, err
}

func viewOfBag(b store.Shelved, prefs units.Prefs, now time.Time) bagView {
	v := bagView{Shelved: b, Freshness: b.Freshness(now), Age: "roast date unknown",
		Left: prefs.Unit(units.BagWeight).Format(float64(b.Left()))}
	if days, known := b.Age(now); known {
		v.Age = words.Age(days)
	}
	if b.Weight > 0 {
		v.LeftShare = int(float64(b.Left()/b.Weight)*100 + 0.5)
	}
	if l := b.Last; l != nil {
		v.Flower = figure.Flower(l.Dose, l.Steps, l.Drawdown)
	}
	dose, loss := b.PerBrew()
	v.BrewsLeft = b.BrewsLeft()
	v.Low, v.uses = v.BrewsLeft <= 2 && b.StockKnown(), dose+loss
	return v
}
