package cup

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
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// cupBody is the data of the Cup station.
type cupBody struct {
	Photos    page.Photos
	ID        string
	Name      string
	Weighed   []form.Field // dose, water, drawdown
	Measured  []form.Field // scale reading, carafe, TDS
	Yield     string
	HowYield  string
	Estimated bool        // the yield is an estimate of the model
	Meter     *yard.Meter // nil: no "Take a reading" button
	Made      string      // simulated readings in the form
	Simulated bool        // a simulated device measured a figure
	LeftOut   string      // the outlier excluded from the mean
	Rivals    []station.RivalView
	Stages    []stageView
	Cooling   *coolingView
	Bed       template.HTML
	Looks     []cup.Look // of a region of the bed, in the order of taps
	Spots     []spotView
	Shape     form.Field
	Seen      []form.Option
	Faults    []lessonView
	Flavours  []plotView
	OwnWords  form.Field // flavours not in the list
	Overall   form.Field
	Serve     form.Field
	Better    *form.Field // than the last one; nil for the first of a coffee
	ServedTo  form.Field
	Notes     form.Field
	Errors    int
	Kept      bool
	Version   int64
	Theirs    string // saved by another window meanwhile
	As        string // the query that names the taster
	Tasters   []station.Taster
}

// stageView is a stage of the tasting.
type stageView struct {
	Stage  cup.Stage
	Open   bool
	Said   int // number of judged senses
	Scales []scaleView
	Found  form.Field // flavours at this stage
}

type scaleView struct {
	Name    string // name of the field
	Label   string
	Lesson  string
	Error   string
	Options []form.Option
	Like    string
}

// lessonView is a tick box with its lesson.
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

// coolingView shows the present temperature of the cup, and the times of later stages.
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

func (s *Screens) cup(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := requirePoured(sc); err != nil {
		return err
	}
	if err := seeTaster(r, sc); err != nil {
		return err
	}
	f := fillCup(*sc.Brew, sc.Prefs)
	s.fillFromScale(r, f, *sc.Brew)
	return s.showCup(w, r, http.StatusOK, f, *sc.Brew, "")
}

// fillFromScale adds the weight measured by the scale under a brew, unless it was typed.
func (s *Screens) fillFromScale(r *http.Request, f *form.Form, b brew.Brew) {
	if b.Status == brew.Done {
		return
	}
	state, water := b.At(b.Ended), page.Prefs(r).Unit(units.Water)
	if carafe, ok := state.Carafe(); ok {
		f.Values["beverage"] = water.Number(float64(carafe))
		empty := device.CarafeWeight
		if state.Scale != yard.SimulatedScale {
			d, err := s.yard.Store.Device(r.Context(), state.Scale)
			if err != nil {
				s.yard.Log.Error("the scale of a brew", "brew", b.ID, "err", err)
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

// requirePoured returns a problem for a brew that has not finished.
func requirePoured(sc *station.Scene) error {
	if sc.Brew != nil && sc.Brew.Over() {
		return nil
	}
	return page.Problem{Status: http.StatusConflict, Title: "No cup yet",
		Text: "This brew is not finished, so there is nothing to measure. Go to its Brew station."}
}

// saveCup stores the measurements and the tasting. With preview it only computes the yield for an
// unfinished form.
func (s *Screens) saveCup(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := requirePoured(sc); err != nil {
		return err
	}
	if err := seeTaster(r, sc); err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	f.FillMissing(fillCup(*sc.Brew, sc.Prefs), "faults")
	if f.Values["preview"] == "reading" {
		s.takeReading(f, *sc.Brew)
	}
	if f.Values["preview"] == "yes" {
		f.Values["tds"] = finishedReadings(f.Values["tds"])
	}
	c := readCup(f, sc.Recipe, sc.Gear.Grinder, sc.Prefs)
	c.Simulated = simulatedReading(f) || s.yard.WeighedBySimulation(*sc.Brew)
	if f.Flag("preview") || !f.OK() {
		status := http.StatusOK
		if !f.OK() {
			status = http.StatusUnprocessableEntity
		}
		shown := *sc.Brew
		shown.Cup = c
		return s.showCup(w, r, status, f, shown, "")
	}
	err = s.yard.Taste(r.Context(), *sc.Sheet, sc.Brew.Taster, page.Settings(r), func(was brew.Brew) (cup.Cup, error) {
		if v := f.Version(); v != 0 && v != was.Version {
			return was.Cup, store.ErrConflict
		}
		c.Wants, c.BadPour, c.SkippedChange = was.Cup.Wants, was.Cup.BadPour, was.Cup.SkippedChange
		return keepExact(c, was.Cup, sc.Prefs), nil
	})
	if errors.Is(err, store.ErrConflict) {
		return s.showConflict(w, r, f)
	}
	if err != nil {
		return err
	}
	if state := sc.Brew.At(sc.Brew.Ended); c.Carafe > 0 && state.Scale != "" && state.Scale != yard.SimulatedScale { // asked only once
		if err := s.yard.Store.SaveCarafe(r.Context(), state.Scale, c.Carafe); err != nil {
			return err
		}
	}
	return page.SeeOther(w, r, "/brews/%s/next%s", sc.ID, sc.As(r))
}

// keepExact returns a cup with the exact values of the former one where the form shows them alike: a rounded number is no correction.
func keepExact(c, was cup.Cup, prefs units.Prefs) cup.Cup {
	alike := func(u units.Unit, a, b float64) bool { return u.Number(a) == u.Number(b) }
	water, dose := prefs.Unit(units.Water), prefs.Unit(units.Dose)
	if c.Drawdown.String() == was.Drawdown.String() {
		c.Drawdown = was.Drawdown
	}
	if alike(dose, float64(c.Dose), float64(was.Dose)) {
		c.Dose = was.Dose
	}
	if alike(water, float64(c.Water), float64(was.Water)) {
		c.Water = was.Water
	}
	if alike(water, float64(c.Beverage+c.Carafe), float64(was.Beverage+was.Carafe)) && alike(water, float64(c.Carafe), float64(was.Carafe)) {
		c.Beverage, c.Carafe = was.Beverage, was.Carafe
	}
	return c
}

// seeTaster shows the cup of the taster that the address names, or else of the person at the screen.
func seeTaster(r *http.Request, sc *station.Scene) error {
	if id := page.PersonID(r); id != "" {
		sc.See(id)
	}
	return sc.SeeTaster(r)
}

// showConflict shows the values saved by another window beside the typed ones, which stay in the form;
// saving again overwrites.
func (s *Screens) showConflict(w http.ResponseWriter, r *http.Request, f *form.Form) error {
	b, err := s.yard.Store.Brew(r.Context(), station.Of(r).ID)
	if err != nil {
		return err
	}
	b = b.For(station.Of(r).Brew.Taster)
	theirs := words.ResultOf(b)
	if taste := words.Taste(b.Cup.Taste); taste != "" {
		theirs += "; " + taste
	}
	return s.showCup(w, r, http.StatusConflict, f, b, theirs)
}

func (s *Screens) showCup(w http.ResponseWriter, r *http.Request, status int, f *form.Form, b brew.Brew, theirs string) error {
	sc := station.Of(r)
	water := sc.Prefs.Unit(units.Water)
	dose, poured := f.Stepper("dose", "Actual dose", sc.Prefs.Unit(units.Dose)), f.Stepper("water", "Actual water", water)
	beverage := f.Stepper("beverage", "On the scale", water)
	beverage.Hint = "Weight of the coffee in the carafe. The recipe expects about " +
		water.Format(float64(b.Recipe.Amounts(b.Gear.Brewer.Retained).Cup)) + "."
	carafe := f.Stepper("carafe", "Empty carafe", water)
	carafe.Hint = "If it was on the scale too."
	tds := f.Entry("tds", "TDS")
	tds.Unit = form.Strength.Symbol
	tds.Hint = "From a refractometer, several readings separated by spaces or commas; empty if you have none. Swirl the carafe first, because its " +
		"layers differ. Set the zero with clean water, then stir the sample and let it cool on the prism."
	drawdown := f.Stepper("drawdown", "Drawdown", form.Clock)
	window := b.Window()
	drawdown.Hint = fmt.Sprintf("Wanted: %s to %s.", window.From, window.To)
	body := cupBody{ID: b.ID, Name: b.Bag.Name, Weighed: []form.Field{dose, poured, grindField(f, b), drawdown},
		Measured: []form.Field{beverage, carafe, tds}, Errors: len(f.Errors), Kept: b.Status == brew.Done, Version: b.Version,
		Theirs: theirs, As: sc.As(r), Tasters: sc.Tasters(r, "/brews/"+b.ID+"/cup"),
		Shape:   form.Select(f, "bed", "Or in a word", append([]cup.Bed{""}, cup.Beds()...), form.Plain),
		Overall: f.Stepper("overall", "Overall, 1 to 10", form.Count), OwnWords: f.Entry("own_flavours", "Your own, separated by commas"),
		Serve: form.Select(f, "serve", "Would you serve it?", []string{"yes", "no"}, form.Plain),
		Notes: f.Entry("notes", "Notes"), ServedTo: f.Entry("served_to", "Served to")}
	body.Notes.Kind = "area"
	if b.Parent != "" {
		better := form.Select(f, "better", "Against the last one", cup.Thans(), form.Plain)
		body.Better = &better
	}
	body.Meter, body.Made, body.Simulated = s.yard.Meter(), f.Values["simulated"], b.Cup.Simulated
	body.Yield, body.HowYield = words.Yield(b)
	if _, out := cup.Average(b.Cup.Readings); out > 0 {
		body.LeftOut = fmt.Sprintf("%.2f is an outlier and was left out: a bubble or a warm sample?", out)
	}
	if body.Yield == "" && b.Forecast != nil && b.Forecast.Yield.Value > 0 {
		body.Yield, body.Estimated = b.Forecast.Yield.String(), true
	}
	offered, err := s.yard.Store.OwnFlavours(r.Context())
	if err != nil {
		return err
	}
	body.taste(f, b, offered, s.yard.Now())
	if theirs == "" {
		body.Version = f.VersionOr(b.Version)
	}
	body.Rivals = station.Rivals(r, sc)
	if body.Photos, err = station.PhotosOf(r.Context(), s.yard, b.ID); err != nil {
		return err
	}
	p := page.Page{Title: "Cup of " + b.Bag.Name, Station: "Cup", Line: station.Line(sc, "Cup"), Body: body}
	const undoable = 30 * time.Minute // after the end
	if b.Status == brew.Poured && s.yard.Now().Sub(b.Ended) < undoable && b.LastTap() != "" {
		p.Notice = &page.Notice{Text: fmt.Sprintf("The last tap ended the brew at %s.", b.At(b.Ended).Drawdown), Undo: "/brews/" + b.ID +
			"/undo"}
	}
	s.Render(w, r, status, "cup", p)
	return nil
}

// grindField returns the field of the setting to which the grinder was really set.
func grindField(f *form.Form, b brew.Brew) form.Field {
	e := f.Entry("grind", "Actual grind ("+b.Gear.Grinder.Name+")")
	e.Hint = "If the dial stood elsewhere than in the recipe."
	return e
}

// taste adds the form of the tasting; offered are the flavours that people of this yard have added.
func (body *cupBody) taste(f *form.Form, b brew.Brew, offered []string, now time.Time) {
	open := cup.Cool // poured long ago
	if b.Recipe.Ice.Mass == 0 && b.Status != brew.Done {
		body.Cooling, open = coolingOf(b, now)
	}
	chosen := open
	for _, stage := range cup.Stages() {
		v := stageView{Stage: stage, Found: f.Entry(string(stage)+".flavours", "Flavours while "+string(stage))}
		v.Found.Hint = "Separated by commas, such as pear, honey. They are printed on the flavour card."
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
	body.Bed, body.Looks = figure.Bed(spots), cup.Looks()
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
		if !cup.IsListed(flavour) && !known {
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

// takeReading reads the refractometer and appends the reading to the TDS field.
func (s *Screens) takeReading(f *form.Form, b brew.Brew) {
	m := s.yard.Meter()
	if m == nil {
		f.Fail("tds", "No refractometer is connected. Add one under Gear, or type what yours shows.")
		return
	}
	v, err := m.Read(b, len(splitReadings(f.Values["tds"])))
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

// coolingOf shows the cooling of a cup that was just poured, and returns its present stage.
func coolingOf(b brew.Brew, now time.Time) (*coolingView, cup.Stage) {
	c, ok := yard.Cool(b, now)
	if !ok {
		return nil, c.Stage
	}
	v := &coolingView{Now: "about " + b.Prefs.Unit(units.Temperature).Format(float64(c.Now))}
	if c.Now > cup.ScaldTemperature {
		v.Scalds = b.Prefs.Localize(cup.Caution)
	}
	for _, due := range c.Next {
		v.Next = append(v.Next, dueView{due.Stage, due.At.Format("15:04"), due.At.Unix()})
	}
	return v, c.Stage
}

// simulatedReading reports whether one of the TDS readings was simulated.
func simulatedReading(f *form.Form) bool {
	simulated := splitReadings(f.Values["simulated"])
	return slices.ContainsFunc(splitReadings(f.Values["tds"]), func(r string) bool { return slices.Contains(simulated, r) })
}
