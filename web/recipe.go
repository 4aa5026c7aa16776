package web

import (
	"context"
	"crypto/rand"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strconv"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
)

// recipeBody is the Recipe station.
type recipeBody struct {
	ID        int64
	Version   int64
	Tab       string
	Shown     string // what the page shows, to tell later what was touched
	Locked    bool   // poured already: shown, not changed
	Theirs    string // another window changed it meanwhile
	Gear      []field
	Style     recipe.Style
	Amounts   []field
	Heat      []field
	Grind     []field
	Finer     []field
	FinerOpen bool
	Rinse     bool
	// RinseMarked says that it is changed against the brew before.
	RinseMarked string
	Asked       *brew.Asked
	Ribbons     []template.HTML
	Steps       []stepView
	Aim         string
	Window      string
	Stock       string // a word where the bag runs out
	Forecast    forecastView
	Goals       []field // what the recipe can be solved for
	Ways        *waysView
}

type stepView struct {
	At, What, Total, Detail string
	Hand                    bool
}

// load reads the brew of the request with the yard's settings.
func (s *Server) load(r *http.Request) (brew.Brew, store.Settings, units.Prefs, error) {
	brewID, err := id(r)
	if err != nil {
		return brew.Brew{}, store.Settings{}, units.Prefs{}, err
	}
	set, prefs, err := s.yard(r)
	if err != nil {
		return brew.Brew{}, set, prefs, err
	}
	b, err := s.Store.Brew(r.Context(), brewID)
	if err == nil && b.Status == brew.Planned {
		b.Gear.Boiling = set.Boiling()
	}
	return b, set, prefs, err
}

// loadOnLine reads the brew of the request for a station of the line, which
// does not go on with a recipe whose bag was deleted.
func (s *Server) loadOnLine(r *http.Request) (brew.Brew, store.Settings, units.Prefs, error) {
	b, set, prefs, err := s.load(r)
	if err != nil || !b.Editable() {
		return b, set, prefs, err
	}
	bag, err := s.Store.Bag(r.Context(), b.BagID)
	if err == nil && bag.Deleted {
		err = gone(bag)
	}
	return b, set, prefs, err
}

// loadRecipe reads the brew of the request and its form, to change the recipe.
func (s *Server) loadRecipe(r *http.Request) (b brew.Brew, set store.Settings, prefs units.Prefs, f *form, err error) {
	if b, set, prefs, err = s.loadOnLine(r); err != nil {
		return
	}
	if !b.Editable() {
		err = store.ErrStatus
		return
	}
	f, err = readForm(r)
	return
}

// first begins the recipe of a coffee never brewed here.
func (s *Server) first(r *http.Request, b store.Bag) (int64, error) {
	set, _, err := s.yard(r)
	if err != nil {
		return 0, err
	}
	g, err := s.usualGear(r.Context(), set)
	if err != nil {
		return 0, err
	}
	return s.Store.PlanBrew(r.Context(), brew.Brew{BagID: b.ID, Status: brew.Planned, Bag: b.Bag, Gear: g, Created: s.Now(),
		Recipe: recipe.Suggest("", situation(b.Bag, g, s.Now())), Draft: brew.Draft{Held: startHeld}})
}

// startHeld: the ratio is what people keep in mind, and the dose what they weigh.
var startHeld = [2]recipe.Field{recipe.Ratio, recipe.Dose}

// follow begins a recipe that goes on from an earlier brew of the bag, with the
// gear of today and, where it was advised, one change.
func (s *Server) follow(r *http.Request, on brew.Brew, change *brew.Asked) (int64, error) {
	next := brew.Brew{BagID: on.BagID, Parent: on.ID, Status: brew.Planned, Recipe: on.Recipe, Bag: on.Bag, Gear: on.Gear,
		Asked: change, Created: s.Now(), Draft: brew.Draft{Held: startHeld}}
	if change != nil {
		next.Recipe = next.Recipe.With(change.Knob, change.To)
	}
	return s.Store.PlanBrew(r.Context(), next)
}

func (s *Server) recipe(w http.ResponseWriter, r *http.Request) error {
	b, _, prefs, err := s.loadOnLine(r)
	if err != nil {
		return err
	}
	f := fillRecipe(b, prefs)
	reread(f, b, prefs)
	if b.Draft.Tab = rand.Text()[:12]; !b.Editable() {
		b.Draft.Tab = ""
	}
	return s.showRecipe(w, r, http.StatusOK, f, b, prefs, "")
}

func (s *Server) saveRecipe(w http.ResponseWriter, r *http.Request) error {
	b, set, prefs, f, err := s.loadRecipe(r)
	if err != nil {
		return err
	}
	tab := f.text("tab", "Tab", 40, false)
	version, _ := strconv.ParseInt(f.Values["version"], 10, 64) // nought is no version
	if version != b.Version && tab != b.Draft.Tab {
		b.Draft.Tab = tab
		theirs := "Another window changed this recipe meanwhile. Here it is as it stands now; your last change was not kept: make it again if you still want it."
		return s.showRecipe(w, r, http.StatusConflict, fillRecipe(b, prefs), b, prefs, theirs)
	}
	g, err := s.chosenGear(r.Context(), f, b.Gear)
	if err != nil {
		return err
	}
	now := s.Now()
	saved, err := s.Store.ChangeBrew(r.Context(), b.ID, func(b *brew.Brew) error {
		if !b.Editable() {
			return store.ErrStatus
		}
		b.Gear.Boiling = set.Boiling()
		turn(b, f, g, prefs, now)
		b.Draft.Tab = tab
		return nil
	})
	if err != nil {
		return err
	}
	saved.Gear.Boiling = set.Boiling()
	shown := fillRecipe(saved, prefs)
	shown.Errors = f.Errors
	status := http.StatusOK
	if !f.ok() {
		status = http.StatusUnprocessableEntity
	}
	return s.showRecipe(w, r, status, shown, saved, prefs, "")
}

func (s *Server) showRecipe(w http.ResponseWriter, r *http.Request, status int, f *form, b brew.Brew, prefs units.Prefs, theirs string) error {
	body, err := s.recipeBody(r.Context(), f, b, prefs)
	if err != nil {
		return err
	}
	body.Theirs = theirs
	s.renderRecipe(w, r, status, b, prefs, body)
	return nil
}

func (s *Server) renderRecipe(w http.ResponseWriter, r *http.Request, status int, b brew.Brew, prefs units.Prefs, body recipeBody) {
	s.render(w, r, status, "recipe", page{Title: "Recipe for " + b.Bag.Name, Station: "Recipe", Line: lineOf(b, prefs, "Recipe"), Body: body})
}

func (s *Server) recipeBody(ctx context.Context, f *form, b brew.Brew, prefs units.Prefs) (recipeBody, error) {
	foreseen := foresee(b, prefs, s.Now())
	plan := b.Schedule()
	if b.Editable() && foreseen.Sorry == "" {
		plan = foreseen.Expect(plan)
	}
	window := b.Bag.Wanted(plan.Window)
	body := recipeBody{ID: b.ID, Version: b.Version, Tab: b.Draft.Tab, Shown: showing(f), Locked: !b.Editable(), Style: b.Recipe.Style.Style(),
		Rinse: b.Recipe.Rinse, Asked: standing(b), Aim: plan.Finish.String(),
		Window: fmt.Sprintf("%s to %s", window.From, window.To), Steps: stepViews(plan, prefs), Forecast: foreseen}
	ribbon := figure.Ribbon{Plan: plan, Prefs: prefs}
	if body.Forecast.Sorry == "" {
		ribbon.Forecast = &body.Forecast.Result
	}
	body.Ribbons = ribbon.Both()
	if b.Editable() {
		if err := s.planningNotes(ctx, &body, b); err != nil {
			return body, err
		}
	}
	var marked map[recipe.Knob]string
	if b.Parent != 0 {
		if before, err := s.Store.Brew(ctx, b.Parent); err == nil {
			marked = changedFrom(before, b, prefs)
		}
	}
	d := newDecorator(f, b, marked, prefs, s.Now())
	d.foreseen(body.Forecast)
	if err := s.gearFields(ctx, &body, d, b); err != nil {
		return body, err
	}
	d.recipeFields(&body)
	if b.Editable() && body.Forecast.Sorry == "" {
		body.Goals = goalFields(f, body.Forecast.Forecast)
	}
	return body, nil
}

// standing is the change that was advised, as long as the recipe still makes it.
func standing(b brew.Brew) *brew.Asked {
	if b.Asked == nil || math.Abs(b.Recipe.Value(b.Asked.Knob)-b.Asked.To) > 0.05 {
		return nil
	}
	return b.Asked
}

// planningNotes says what the bag has to say to the recipe: whether it still holds a dose.
func (s *Server) planningNotes(ctx context.Context, body *recipeBody, b brew.Brew) error {
	bag, err := s.Store.Bag(ctx, b.BagID)
	if err != nil {
		return err
	}
	switch n := coffee.BrewsLeft(bag.Left(), b.Recipe.Dose, b.Gear.Grinder.Loss); n {
	case 0:
		body.Stock = "The bag no longer holds this dose: take a smaller one, or another bag."
	case 1:
		body.Stock = "This is the last brew in the bag."
	}
	return nil
}

// changedFrom marks, by knob, what a recipe changes against the brew it follows on.
func changedFrom(before, b brew.Brew, prefs units.Prefs) map[recipe.Knob]string {
	out := map[recipe.Knob]string{}
	if before.Recipe.Style != b.Recipe.Style { // all of it is another way of pouring
		return out
	}
	as := coach.Of(b, prefs)
	for _, c := range recipe.Changes(before.Recipe, b.Recipe) {
		say, _ := coach.Describe(as, c)
		out[c.Knob] = say
	}
	return out
}

// stepViews is the schedule as a table. Where the kettle cools, each pour has the
// temperature that is expected of it by then.
func stepViews(p recipe.Plan, prefs units.Prefs) []stepView {
	u, t := prefs.Unit(units.Water), prefs.Unit(units.Temperature)
	var out []stepView
	for _, st := range p.Steps {
		v := stepView{At: st.Start.String(), Total: u.Format(float64(st.Total))}
		switch st.Act {
		case recipe.Pour:
			v.What = "Pour"
			if st.Bloom {
				v.What = "Bloom"
			}
			if st.WhenDrained {
				v.At = "≈ " + v.At
				v.Detail = "when the water has reached the bed: "
			}
			heat := t.Format(float64(st.Temperature))
			if st.Temperature != p.Steps[0].Temperature { // in a kettle that cools: expected, not set
				heat = "about " + heat
			}
			v.Detail += fmt.Sprintf("%s in %.0f s, %s, %s, %s", u.Format(float64(st.Water)), float64(st.Lasts), st.Pattern, st.Height, heat)
			if st.Then != recipe.NoHand {
				v.Detail += ", then " + st.Then.String()
			}
		case recipe.Stir:
			v.What, v.Detail, v.Hand, v.Total = "Break the crust", "a few slow strokes", true, ""
		case recipe.Release:
			v.What, v.Detail, v.Hand, v.Total = "Open the valve", "onto the carafe", true, ""
		}
		out = append(out, v)
	}
	return append(out, stepView{At: p.Finish.String(), What: "Last steady stream", Detail: "the aim", Hand: true})
}
