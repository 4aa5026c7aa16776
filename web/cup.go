package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// cupBody is the Cup station.
type cupBody struct {
	ID       string
	Name     string
	Fields   []form.Field
	Yield    string
	HowYield string
	Scales   []scaleView
	Beds     form.Field
	Faults   []form.Option
	Overall  form.Field
	Serve    form.Field
	Notes    form.Field
	Errors   int
	Kept     bool
	Version  int64
	Theirs   string // what another window kept meanwhile
}

type scaleView struct {
	Sense   cup.Sense
	Name    string
	Error   string
	Options []form.Option
}

var (
	tdsUnit  = units.Prefs{}.Unit(units.Strength)
	markUnit = units.Prefs{}.Unit(units.Count)
)

func (s *Server) cup(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := inCup(sc); err != nil {
		return err
	}
	s.showCup(w, r, http.StatusOK, fillCup(*sc.brew, sc.prefs), *sc.brew, "")
	return nil
}

// inCup refuses to measure what is not in the cup yet.
func inCup(sc *scene) error {
	if sc.brew != nil && sc.brew.Over() {
		return nil
	}
	return problem{http.StatusConflict, "Nothing is in the cup yet", "This brew was not poured to its end, so there is nothing to measure. Go to its Brew station."}
}

// pathWeighed is how many brews of a bag advice is weighed against.
const pathWeighed = 8

// saveCup keeps what was measured and tasted. With preview it only works the
// yield out, for a page that is still being filled in.
func (s *Server) saveCup(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := inCup(sc); err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	f.Keep(fillCup(*sc.brew, sc.prefs), "faults")
	c := readCup(f, sc.Recipe.Total(), sc.prefs)
	if f.Flag("preview") || !f.OK() {
		status := http.StatusOK
		if !f.OK() {
			status = http.StatusUnprocessableEntity
		}
		shown := *sc.brew
		shown.Cup = c
		s.showCup(w, r, status, f, shown, "")
		return nil
	}
	err = s.taste(r, func(was cup.Cup, version int64) (cup.Cup, error) {
		if v := f.Version(); v != 0 && v != version {
			return was, store.ErrConflict
		}
		c.Wants, c.BadPour, c.NotDone = was.Wants, was.BadPour, was.NotDone
		return c, nil
	})
	if errors.Is(err, store.ErrConflict) {
		return s.showTheirCup(w, r, f)
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/brews/%s/next", sc.ID)
}

// taste changes the cup of the request's brew, has the coach advise anew, and the yard learn.
func (s *Server) taste(r *http.Request, change func(c cup.Cup, version int64) (cup.Cup, error)) error {
	sc := sceneOf(r)
	path, err := s.Store.Past(r.Context(), sc.BagID, pathWeighed)
	if err != nil {
		return err
	}
	who, _, err := s.Store.Lately(r.Context(), sc.Bag)
	if err != nil {
		return err
	}
	who.Prefs, who.Order = sc.prefs, settingsOf(r).Habits().First
	_, err = s.Store.Change(r.Context(), sc.ID, func(b brew.Brew) (brew.Brew, error) {
		c, err := change(b.Cup, b.Version)
		if err != nil {
			return b, err
		}
		b.Beliefs = s.teacher.Believe(b.Sheet)
		return b.Taste(c, who, path...)
	})
	if err == nil {
		s.teacher.Learn()
	}
	return err
}

func readCup(f *form.Form, water units.Grams, prefs units.Prefs) cup.Cup {
	c := cup.Cup{
		Beverage: units.Grams(f.Quantity("beverage", "The beverage", prefs.Unit(units.Water), cup.BeverageRange, false)),
		TDS:      f.Quantity("tds", "The TDS", tdsUnit, cup.TDSRange, false),
		Drawdown: units.Seconds(f.Quantity("drawdown", "The drawdown", clock, cup.TimeRange, false)),
		Taste:    cup.Taste{Steps: map[cup.Sense]int{}, Faults: map[cup.Fault]bool{}, Notes: f.Text("notes", "The notes", 1000, false)},
	}
	if c.Beverage > water+5 {
		u := prefs.Unit(units.Water)
		f.Fail("beverage", "%s is more than the %s that was poured.", u.Format(float64(c.Beverage)), u.Format(float64(water)))
	}
	if f.Values["bed"] != "" {
		c.Bed = form.Choice(f, "bed", "the spent bed", cup.Beds())
	}
	for _, sc := range cup.Scales() {
		if v := f.Values[string(sc.Sense)]; v != "" {
			n, err := strconv.Atoi(v)
			if err != nil || n < 1 || n > 5 {
				f.Fail(string(sc.Sense), "Choose one of the five words for %s.", sc.Sense)
				continue
			}
			c.Steps[sc.Sense] = n
		}
	}
	for _, known := range cup.Faults() {
		if slices.Contains(f.All["fault"], string(known)) {
			c.Faults[known] = true
		}
	}
	c.Overall = int(f.Quantity("overall", "The mark", markUnit, units.Range{Lo: 1, Hi: 10}, false))
	if v := f.Values["serve"]; v == "yes" || v == "no" {
		c.Serve = v
	}
	return c
}

func fillCup(b brew.Brew, prefs units.Prefs) *form.Form {
	f := form.New()
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
		f.All["fault"] = append(f.All["fault"], string(fault))
	}
	return f
}

// showTheirCup shows what another window kept meanwhile beside what was typed, which
// stays in the form: the next save means it.
func (s *Server) showTheirCup(w http.ResponseWriter, r *http.Request, f *form.Form) error {
	b, err := s.Store.Brew(r.Context(), sceneOf(r).ID)
	if err != nil {
		return err
	}
	theirs := words.ResultOf(b)
	if taste := words.Taste(b.Cup.Taste); taste != "" {
		theirs += "; " + taste
	}
	s.showCup(w, r, http.StatusConflict, f, b, theirs)
	return nil
}

func (s *Server) showCup(w http.ResponseWriter, r *http.Request, status int, f *form.Form, b brew.Brew, theirs string) {
	sc := sceneOf(r)
	water := sc.prefs.Unit(units.Water)
	beverage := f.Stepper("beverage", "Beverage weight", water)
	beverage.Hint = "What the carafe holds. The recipe expects about " + water.Format(float64(b.Recipe.Amounts(b.Gear.Brewer.Retained).Cup)) + "."
	tds := f.Stepper("tds", "TDS", tdsUnit)
	tds.Hint = "From a refractometer. Leave it empty if you have none."
	drawdown := f.Stepper("drawdown", "Drawdown", clock)
	window := b.Window()
	drawdown.Hint = fmt.Sprintf("Wanted: %s to %s.", window.From, window.To)
	body := cupBody{ID: b.ID, Name: b.Bag.Name, Fields: []form.Field{beverage, tds, drawdown}, Errors: len(f.Errors), Kept: b.Status == brew.Done, Version: b.Version, Theirs: theirs,
		Beds:    form.Select(f, "bed", "Spent bed", cup.Beds(), form.Plain),
		Overall: f.Stepper("overall", "Overall, 1 to 10", markUnit),
		Serve:   form.Select(f, "serve", "Would you serve it?", []string{"yes", "no"}, form.Plain),
		Notes:   f.Entry("notes", "Notes"), Scales: scales(f)}
	body.Notes.Kind = "area"
	body.Yield, body.HowYield = words.Yield(b)
	for _, fault := range cup.Faults() {
		body.Faults = append(body.Faults, form.Option{Value: string(fault), Label: string(fault), Selected: slices.Contains(f.All["fault"], string(fault))})
	}
	if theirs == "" {
		body.Version = f.VersionOr(b.Version)
	}
	p := page{Title: "Cup of " + b.Bag.Name, Station: "Cup", Line: lineOf(sc, "Cup"), Body: body}
	if b.Status == brew.Poured && s.Now().Sub(b.Ended) < brew.LateBy && brew.HasUndo(b.Events) {
		p.Notice = &notice{fmt.Sprintf("The last tap ended the brew at %s.", b.At(b.Ended).Drawdown), "/brews/" + b.ID + "/undo"}
	}
	s.render(w, r, status, "cup", p)
}

// scales are the senses with their five words each.
func scales(f *form.Form) []scaleView {
	var out []scaleView
	for _, sc := range cup.Scales() {
		v := scaleView{Sense: sc.Sense, Name: sc.Name, Error: f.Errors[string(sc.Sense)]}
		for i, word := range sc.Words {
			step := strconv.Itoa(i + 1)
			v.Options = append(v.Options, form.Option{Value: step, Label: word, Selected: f.Values[string(sc.Sense)] == step})
		}
		out = append(out, v)
	}
	return out
}
