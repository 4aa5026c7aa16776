package web

import (
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
)

// bagView is a bag as the shelf shows it.
type bagView struct {
	store.Bag
	Age       string
	Freshness coffee.Freshness
	Left      string
	LeftShare int // of the full bag, %
	BrewsLeft int
	Low       bool // no more than two brews
	Planned   int64
	Last      template.HTML // the flower of the last brew
	LastFact  string
}

type shelfBody struct {
	Bags []bagView
}

// shelf is the Coffee station: the bags, their age and what is left of them.
func (s *Server) shelf(w http.ResponseWriter, r *http.Request) error {
	_, prefs, err := s.yard(r)
	if err != nil {
		return err
	}
	bags, err := s.Store.Bags(r.Context())
	if err != nil {
		return err
	}
	var body shelfBody
	for _, b := range bags {
		v, err := s.bagView(r, b, prefs)
		if err != nil {
			return err
		}
		body.Bags = append(body.Bags, v)
	}
	p := page{Title: "Coffee", Station: "Coffee", Line: emptyLine("Coffee"), Body: body}
	if p.Untasted, err = s.untasted(r); err != nil {
		return err
	}
	if removed, err := strconv.ParseInt(r.URL.Query().Get("removed"), 10, 64); err == nil {
		if b, err := s.Store.Bag(r.Context(), removed); err == nil && b.Deleted {
			p.Notice = &notice{fmt.Sprintf("%s is off the shelf. Its brews stay in the log.", b.Name), fmt.Sprintf("/bags/%d/restore", removed)}
		}
	}
	s.render(w, r, http.StatusOK, "shelf", p)
	return nil
}

// untasted is the latest brew whose cup still waits to be measured or tasted, if it was poured today.
func (s *Server) untasted(r *http.Request) (*runningView, error) {
	poured, err := s.Store.Log(r.Context(), store.Filter{Statuses: []brew.Status{brew.Poured}, Limit: 1})
	if err != nil || len(poured) == 0 || s.Now().Sub(poured[0].Started) > 24*time.Hour {
		return nil, err
	}
	return &runningView{poured[0].ID, poured[0].Bag.Name}, nil
}

func (s *Server) bagView(r *http.Request, b store.Bag, prefs units.Prefs) (bagView, error) {
	now := s.Now()
	v := bagView{Bag: b, Freshness: b.Freshness(now), Age: "roast date unknown", Left: prefs.Unit(units.BagWeight).Format(float64(b.Left()))}
	if days, known := b.Age(now); known {
		v.Age = dayCount(days)
	}
	if b.Weight > 0 {
		v.LeftShare = int(float64(b.Left()/b.Weight)*100 + 0.5)
	}
	dose, loss := units.Grams(18), units.Grams(0)
	brews, err := s.Store.Log(r.Context(), store.Filter{Bag: b.ID, Limit: 1})
	if err != nil {
		return v, err
	}
	if len(brews) > 0 {
		last := brews[0]
		dose, loss = last.Recipe.Dose, last.Gear.Grinder.Loss
		v.Last, v.LastFact = flowerOf(last), fmt.Sprintf("%s · %s", last.Recipe.Style.Style().Name, shortDay(last.Started))
	}
	v.BrewsLeft = coffee.BrewsLeft(b.Left(), dose, loss)
	v.Low = v.BrewsLeft <= 2
	v.Planned, err = s.Store.PlannedFor(r.Context(), b.ID)
	return v, err
}

func dayCount(days int) string {
	switch {
	case days < 0:
		return "not roasted yet"
	case days == 0:
		return "roasted today"
	case days == 1:
		return "1 day old"
	default:
		return fmt.Sprintf("%d days old", days)
	}
}

func flowerOf(b brew.Brew) template.HTML {
	return figure.Flower(b.Recipe.Dose, b.Schedule().Steps, b.Cup.Drawdown)
}
