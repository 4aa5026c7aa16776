package web

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/store"
)

// cupBody is the Cup station.
type cupBody struct {
	ID       int64
	Name     string
	Fields   []field
	Yield    string
	HowYield string
	Scales   []scaleView
	Beds     field
	Faults   []option
	Overall  field
	Serve    field
	Notes    field
	Errors   int
	Window   string
	Kept     bool
}

type scaleView struct {
	Sense   cup.Sense
	Name    string
	Error   string
	Options []option
}

var tdsUnit = units.Unit{Symbol: "%", Scale: 1, Decimals: 2, Step: 0.05, Fine: 0.01}

func (s *Server) cup(w http.ResponseWriter, r *http.Request) error {
	b, _, prefs, err := s.load(r)
	if err != nil {
		return err
	}
	if err := poured(b); err != nil {
		return err
	}
	s.showCup(w, r, http.StatusOK, fillCup(b, prefs), b, prefs)
	return nil
}

// poured refuses to measure what is not in the cup yet.
func poured(b brew.Brew) error {
	if b.Over() {
		return nil
	}
	return problem{http.StatusConflict, "Nothing is in the cup yet", "This brew was not poured to its end, so there is nothing to measure. Go to its Brew station."}
}

// saveCup keeps what was measured and tasted. With preview it only works the
// yield out, for a page that is still being filled in.
func (s *Server) saveCup(w http.ResponseWriter, r *http.Request) error {
	b, _, prefs, err := s.load(r)
	if err != nil {
		return err
	}
	if err := poured(b); err != nil {
		return err
	}
	f, err := readForm(r)
	if err != nil {
		return err
	}
	b.Cup = readCup(f, b.Recipe.Water, prefs)
	if f.flag("preview") || !f.ok() {
		status := http.StatusOK
		if !f.ok() {
			status = http.StatusUnprocessableEntity
		}
		s.showCup(w, r, status, f, b, prefs)
		return nil
	}
	_, err = s.Store.ChangeBrew(r.Context(), b.ID, func(kept *brew.Brew) error {
		if !kept.Over() {
			return store.ErrStatus
		}
		kept.Cup, kept.Status = b.Cup, brew.Done
		return nil
	})
	if err != nil {
		return err
	}
	return seeOther(w, r, "/brews/%d/next", b.ID)
}

func readCup(f *form, water units.Grams, prefs units.Prefs) cup.Cup {
	c := cup.Cup{
		Beverage: units.Grams(f.quantity("beverage", "The beverage", prefs.Unit(units.Water), cup.BeverageRange, false)),
		TDS:      f.quantity("tds", "The TDS", tdsUnit, cup.TDSRange, false),
		Drawdown: f.clock("drawdown", "The drawdown", cup.TimeRange, false),
		Taste:    cup.Taste{Steps: map[cup.Sense]int{}, Faults: map[cup.Fault]bool{}, Notes: f.text("notes", "The notes", 1000, false)},
	}
	if c.Beverage > water+5 {
		u := prefs.Unit(units.Water)
		f.fail("beverage", "%s is more than the %s that was poured.", u.Format(float64(c.Beverage)), u.Format(float64(water)))
	}
	if f.Values["bed"] != "" {
		c.Bed = choice(f, "bed", "the spent bed", cup.Beds())
	}
	for _, sc := range cup.Scales() {
		if v := f.Values[string(sc.Sense)]; v != "" {
			n, err := strconv.Atoi(v)
			if err != nil || n < 1 || n > 5 {
				f.fail(string(sc.Sense), "Choose one of the five words for %s.", sc.Sense)
				continue
			}
			c.Steps[sc.Sense] = n
		}
	}
	for _, known := range cup.Faults() {
		if slices.Contains(f.multi["fault"], string(known)) {
			c.Faults[known] = true
		}
	}
	c.Overall = int(f.quantity("overall", "The mark", units.Unit{Scale: 1, Step: 1, Fine: 1}, units.Range{Lo: 1, Hi: 10}, false))
	if v := f.Values["serve"]; v == "yes" || v == "no" {
		c.Serve = v
	}
	return c
}

func fillCup(b brew.Brew, prefs units.Prefs) *form {
	f := newForm()
	c := b.Cup
	if c.Beverage > 0 {
		f.Values["beverage"] = prefs.Unit(units.Water).Number(float64(c.Beverage))
	}
	if c.TDS > 0 {
		f.Values["tds"] = fmt.Sprintf("%.2f", c.TDS)
	}
	if c.Drawdown > 0 {
		f.Values["drawdown"] = c.Drawdown.String()
	}
	if c.Overall > 0 {
		f.Values["overall"] = strconv.Itoa(c.Overall)
	}
	f.Values["bed"], f.Values["serve"], f.Values["notes"] = string(c.Bed), c.Serve, c.Notes
	for sense, step := range c.Steps {
		f.Values[string(sense)] = strconv.Itoa(step)
	}
	for fault := range c.Faults {
		f.multi["fault"] = append(f.multi["fault"], string(fault))
	}
	return f
}

func (s *Server) showCup(w http.ResponseWriter, r *http.Request, status int, f *form, b brew.Brew, prefs units.Prefs) {
	aim := b.Recipe.Amounts(b.Gear.Brewer.Retained).Cup
	water := prefs.Unit(units.Water)
	beverage := f.stepper("beverage", "Beverage weight", water)
	beverage.Hint = "What the carafe holds. The recipe expects about " + water.Format(float64(aim)) + "."
	tds := f.stepper("tds", "TDS", tdsUnit)
	tds.Hint = "From a refractometer. Leave it empty if you have none."
	drawdown := f.clockEntry("drawdown", "Drawdown")
	window := coach.Window(b)
	drawdown.Hint = fmt.Sprintf("Wanted: %s to %s.", window.From, window.To)
	body := cupBody{ID: b.ID, Name: b.Bag.Name, Fields: []field{beverage, tds, drawdown}, Errors: len(f.Errors), Kept: b.Status == brew.Done,
		Beds:    selectOf(f, "bed", "Spent bed", cup.Beds(), plain),
		Overall: f.stepper("overall", "Overall, 1 to 10", units.Unit{Scale: 1, Step: 1, Fine: 1}),
		Serve:   selectOf(f, "serve", "Would you serve it?", []string{"yes", "no"}, plain),
		Notes:   f.entry("notes", "Notes")}
	body.Notes.Kind = "area"
	body.Yield, body.HowYield = yieldWords(b, prefs)
	for _, sc := range cup.Scales() {
		v := scaleView{Sense: sc.Sense, Name: sc.Name, Error: f.Errors[string(sc.Sense)]}
		for i, word := range sc.Words {
			step := strconv.Itoa(i + 1)
			v.Options = append(v.Options, option{step, word, f.Values[string(sc.Sense)] == step})
		}
		body.Scales = append(body.Scales, v)
	}
	for _, fault := range cup.Faults() {
		body.Faults = append(body.Faults, option{string(fault), string(fault), slices.Contains(f.multi["fault"], string(fault))})
	}
	s.render(w, r, status, "cup", page{Title: "Cup of " + b.Bag.Name, Station: "Cup", Line: lineOf(b, prefs, "Cup"), Body: body})
}

// yieldWords says the extraction yield and how it was worked out.
func yieldWords(b brew.Brew, prefs units.Prefs) (yield, how string) {
	c := coach.Of(b, prefs)
	y, ok := c.Yield()
	if !ok {
		return "", "With beverage weight and TDS this gives the extraction yield."
	}
	dose, beverage := units.Trim(float64(b.Recipe.Dose), 1), units.Trim(float64(b.Cup.Beverage), 0)
	if c.Method() == cup.Immersion {
		return y.String(), fmt.Sprintf("Immersion: %.2f %% × (%s g + %s × %s g kept by the grounds) / %s g", b.Cup.TDS, beverage, units.Trim(b.Gear.Brewer.Retained, 2), dose, dose)
	}
	return y.String(), fmt.Sprintf("Percolation: %.2f %% × %s g / %s g", b.Cup.TDS, beverage, dose)
}
