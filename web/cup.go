package web

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// cupBody is the Cup station.
type cupBody struct {
	ID        string
	Name      string
	Weighed   []form.Field // dose, water, drawdown
	Measured  []form.Field // on the scale, its carafe, TDS
	Yield     string
	HowYield  string
	Estimated bool   // the yield is the model's
	Meter     *meter // nil: no "Take a reading" button
	Made      string // simulated readings in the form
	Simulated bool   // a simulated device measured a figure
	LeftOut   string // the reading that was left out of the mean
	Stages    []stageView
	Cooling   *coolingView
	Bed       template.HTML
	Spots     []spotView
	Shape     form.Field
	Seen      []form.Option
	Faults    []lessonView
	Flavours  []plotView
	OwnWords  form.Field // flavours that are not on the list
	Overall   form.Field
	Serve     form.Field
	Notes     form.Field
	Errors    int
	Kept      bool
	Version   int64
	Theirs    string // what another window kept meanwhile
}

// stageView is one stage of tasting.
type stageView struct {
	Stage  cup.Stage
	Open   bool
	Said   int // senses that were judged
	Scales []scaleView
}

type scaleView struct {
	Name    string // of the entry
	Label   string
	Lesson  string
	Error   string
	Options []form.Option
	Like    string
}

// lessonView is something to tick with how to tell it.
type lessonView struct {
	form.Option
	Lesson string
}

type spotView struct {
	Place cup.Place
	Value string
}

// plotView is a group of flavours.
type plotView struct {
	Name     string
	Flavours []form.Option
}

// coolingView says how warm the cup is by now, and when it comes to the next stages.
type coolingView struct {
	Now    string
	Scalds string // caution while the cup is above 60 °C
	Next   []dueView
}

type dueView struct {
	Stage cup.Stage
	Clock string
	At    int64 // Unix seconds
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
	f := fillCup(*sc.brew, sc.prefs)
	s.asWeighed(r, f, *sc.brew)
	return s.showCup(w, r, http.StatusOK, f, *sc.brew, "")
}

// asWeighed fills in what the scale under a brew saw of its cup, until somebody says otherwise.
func (s *Server) asWeighed(r *http.Request, f *form.Form, b brew.Brew) {
	if b.Status == brew.Done {
		return
	}
	state, water := b.At(b.Ended), prefsOf(r).Unit(units.Water)
	if carafe, ok := state.Carafe(); ok {
		f.Values["beverage"] = water.Number(float64(carafe))
		empty := device.CarafeWeight
		if state.Scale != standInScale {
			d, err := s.Store.Device(r.Context(), state.Scale)
			if err != nil {
				s.Log.Error("the scale of a brew", "brew", b.ID, "err", err)
			}
			empty = d.Carafe
		}
		if empty > 0 {
			f.Values["carafe"] = water.Number(float64(empty))
		}
	}
	if n := len(state.Stages); state.Weight > 0 && n > 0 && state.Scale != "" {
		f.Values["water"] = water.Number(float64(state.Weight))
	}
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
	if f.Values["preview"] == "reading" {
		s.takeReading(f, *sc.brew)
	}
	if f.Values["preview"] == "yes" {
		f.Values["tds"] = finishedReadings(f.Values["tds"])
	}
	c := readCup(f, sc.Recipe, sc.prefs)
	c.Simulated = s.simulated(f, *sc.brew)
	if f.Flag("preview") || !f.OK() {
		status := http.StatusOK
		if !f.OK() {
			status = http.StatusUnprocessableEntity
		}
		shown := *sc.brew
		shown.Cup = c
		return s.showCup(w, r, status, f, shown, "")
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
	if state := sc.brew.At(sc.brew.Ended); c.Carafe > 0 && state.Scale != "" && state.Scale != standInScale { // asked once
		if err := s.Store.SaveCarafe(r.Context(), state.Scale, c.Carafe); err != nil {
			return err
		}
	}
	return seeOther(w, r, "/brews/%s/next", sc.ID)
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
	return s.showCup(w, r, http.StatusConflict, f, b, theirs)
}

func (s *Server) showCup(w http.ResponseWriter, r *http.Request, status int, f *form.Form, b brew.Brew, theirs string) error {
	sc := sceneOf(r)
	water := sc.prefs.Unit(units.Water)
	dose, poured := f.Stepper("dose", "Dose, as it was", sc.prefs.Unit(units.Dose)), f.Stepper("water", "Water, as it was", water)
	beverage := f.Stepper("beverage", "On the scale", water)
	beverage.Hint = "What the carafe holds. The recipe expects about " + water.Format(float64(b.Recipe.Amounts(b.Gear.Brewer.Retained).Cup)) + "."
	carafe := f.Stepper("carafe", "Less the empty carafe", water)
	carafe.Hint = "Where it stood on the scale."
	tds := f.Entry("tds", "TDS")
	tds.Unit = tdsUnit.Symbol
	tds.Hint = "From a refractometer, several readings separated by spaces or commas. Leave it empty if you have none."
	drawdown := f.Stepper("drawdown", "Drawdown", clock)
	window := b.Window()
	drawdown.Hint = fmt.Sprintf("Wanted: %s to %s.", window.From, window.To)
	body := cupBody{ID: b.ID, Name: b.Bag.Name, Weighed: []form.Field{dose, poured, drawdown}, Measured: []form.Field{beverage, carafe, tds}, Errors: len(f.Errors), Kept: b.Status == brew.Done, Version: b.Version, Theirs: theirs,
		Shape:   form.Select(f, "bed", "Or in a word", append([]cup.Bed{""}, cup.Beds()...), form.Plain),
		Overall: f.Stepper("overall", "Overall, 1 to 10", markUnit), OwnWords: f.Entry("own_flavours", "Your own, with commas"),
		Serve: form.Select(f, "serve", "Would you serve it?", []string{"yes", "no"}, form.Plain),
		Notes: f.Entry("notes", "Notes")}
	body.Notes.Kind = "area"
	body.Meter, body.Made, body.Simulated = s.meter(), f.Values["simulated"], b.Cup.Simulated
	body.Yield, body.HowYield = words.Yield(b)
	if _, out := cup.Average(b.Cup.Readings); out > 0 {
		body.LeftOut = fmt.Sprintf("%.2f lies far from the others and was left out: a bubble, or a warm drop?", out)
	}
	if body.Yield == "" && b.Forecast != nil && b.Forecast.Yield.Value > 0 {
		body.Yield, body.Estimated = b.Forecast.Yield.String(), true
	}
	offered, err := s.Store.OwnFlavours(r.Context())
	if err != nil {
		return err
	}
	body.taste(f, b, offered, s.Now())
	if theirs == "" {
		body.Version = f.VersionOr(b.Version)
	}
	p := page{Title: "Cup of " + b.Bag.Name, Station: "Cup", Line: lineOf(sc, "Cup"), Body: body}
	if b.Status == brew.Poured && s.Now().Sub(b.Ended) < brew.LateBy && brew.HasUndo(b.Events) {
		p.Notice = &notice{fmt.Sprintf("The last tap ended the brew at %s.", b.At(b.Ended).Drawdown), "/brews/" + b.ID + "/undo"}
	}
	s.render(w, r, status, "cup", p)
	return nil
}

// taste fills in what is asked of tongue and eye; offered are the notes that somebody here has added.
func (body *cupBody) taste(f *form.Form, b brew.Brew, offered []string, now time.Time) {
	open := cup.Cool // a cup that is long poured
	if b.Recipe.Ice.Mass == 0 && b.Status != brew.Done {
		body.Cooling, open = coolingOf(b, now)
	}
	chosen := open
	for _, stage := range cup.Stages() {
		v := stageView{Stage: stage}
		for _, sc := range cup.Scales() {
			name := tasteName(stage, sc.Sense)
			row := scaleView{Name: name, Label: sc.Name, Lesson: sc.Lesson, Error: f.Errors[name]}
			if said := f.All[name+".like"]; len(said) > 0 {
				row.Like = said[0]
			}
			for i, word := range sc.Words {
				step := strconv.Itoa(i + 1)
				row.Options = append(row.Options, form.Option{Value: step, Label: word, Selected: f.Values[name] == step})
			}
			if f.Values[name] != "" {
				v.Said++
			}
			v.Scales = append(v.Scales, row)
		}
		if v.Said > 0 && b.Status == brew.Done {
			chosen = stage
		}
		body.Stages = append(body.Stages, v)
	}
	for i := range body.Stages {
		body.Stages[i].Open = body.Stages[i].Stage == chosen
	}
	spots := map[cup.Place]cup.Look{}
	for _, p := range cup.Places() {
		value := f.Values["spot."+string(p)]
		spots[p] = cup.Look(value)
		body.Spots = append(body.Spots, spotView{p, value})
	}
	body.Bed = figure.Bed(spots)
	tick := func(name, value string) form.Option {
		return form.Option{Value: value, Label: value, Selected: slices.Contains(f.All[name], value)}
	}
	for _, seen := range cup.Sights() {
		if seen != cup.IceLeft || b.Recipe.Ice.Mass > 0 {
			body.Seen = append(body.Seen, tick("seen", string(seen)))
		}
	}
	for _, fault := range cup.Faults() {
		body.Faults = append(body.Faults, lessonView{tick("fault", string(fault)), fault.Lesson()})
	}
	own := plotView{Name: "Your own"}
	for _, flavour := range append(slices.Clone(f.All["flavour"]), offered...) {
		known := slices.ContainsFunc(own.Flavours, func(o form.Option) bool { return o.Value == flavour })
		if !cup.Listed(flavour) && !known {
			own.Flavours = append(own.Flavours, tick("flavour", flavour))
		}
	}
	if len(own.Flavours) > 0 {
		body.Flavours = append(body.Flavours, own)
	}
	for _, plot := range cup.Plots() {
		v := plotView{Name: plot.Name}
		for _, flavour := range plot.Flavours {
			v.Flavours = append(v.Flavours, tick("flavour", flavour))
		}
		body.Flavours = append(body.Flavours, v)
	}
}

// inACup is how much coffee stands in one cup, g, where there is more in the carafe.
const inACup = 200

// scalds is the caution for a hot cup; see units.Prefs.Say.
const scalds = "Above about {60 °C} coffee scalds: let it cool."

// coolingOf says how a cup that was just poured cools, and which stage it is at.
func coolingOf(b brew.Brew, now time.Time) (*coolingView, cup.Stage) {
	var f forecast.Forecast
	q := b.Sheet.Question(b.Started)
	if f.Ask(q) != nil {
		return nil, cup.Hot
	}
	cooling := cup.Cooling{Volume: min(inACup, f.Beverage), From: f.CupTemp, Room: q.Air()}
	celsius := cooling.At(now.Sub(b.Ended))
	v := &coolingView{Now: "about " + b.Prefs.Unit(units.Temperature).Format(float64(celsius))}
	if celsius > cup.Scalds {
		v.Scalds = b.Prefs.Say(scalds)
	}
	at := cup.Hot
	for _, stage := range cup.Stages()[1:] {
		after, ok := cooling.Reaches(stage)
		due := b.Ended.Add(after)
		switch {
		case !ok:
		case due.Before(now):
			at = stage
		default:
			v.Next = append(v.Next, dueView{stage, due.Format("15:04"), due.Unix()})
		}
	}
	return v, at
}

// A meter is the refractometer that the Cup station reads.
type meter struct {
	Name      string
	Simulated bool
	read      func(b brew.Brew, taken int) (float64, error)
}

// meter returns the first connected refractometer, a stand-in in a demo yard, or nil.
func (s *Server) meter() *meter {
	if links := s.bench.Of(gear.Refractometer); len(links) > 0 {
		l := links[0]
		return &meter{l.Device.Name, l.Simulated(), func(brew.Brew, int) (float64, error) { return l.ReadTDS(s.live.Context()) }}
	}
	if !s.Demo {
		return nil
	}
	return &meter{"stand-in", true, func(b brew.Brew, taken int) (float64, error) {
		strength := 1.35
		if b.Forecast != nil {
			strength = b.Forecast.Strength.Value
		}
		return device.NewRefractometerStandIn(b.ID, strength, taken).Read(), nil
	}}
}

// takeReading reads the refractometer and appends the reading to the TDS field.
func (s *Server) takeReading(f *form.Form, b brew.Brew) {
	m := s.meter()
	if m == nil {
		f.Fail("tds", "No refractometer is connected. Add one under Gear, or type what yours shows.")
		return
	}
	v, err := m.read(b, len(splitReadings(f.Values["tds"])))
	if err != nil {
		f.Fail("tds", "The refractometer gave no reading. Is it connected, with a drop on it?")
		return
	}
	reading := fmt.Sprintf("%.2f", v)
	f.Values["tds"] = strings.TrimSpace(f.Values["tds"] + " " + reading)
	if m.Simulated {
		f.Values["simulated"] = strings.TrimSpace(f.Values["simulated"] + " " + reading)
	}
}

// simulated reports whether a TDS reading or the scale of a brew is simulated.
func (s *Server) simulated(f *form.Form, b brew.Brew) bool {
	made := splitReadings(f.Values["simulated"])
	if slices.ContainsFunc(splitReadings(f.Values["tds"]), func(r string) bool { return slices.Contains(made, r) }) {
		return true
	}
	scale := b.At(b.Ended).Scale
	link := s.bench.Link(scale)
	return scale == standInScale || link != nil && link.Simulated()
}
