package web

import (
	"crypto/rand"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// recipeBody is the Recipe station.
type recipeBody struct {
	ID       string
	Name     string // of a kept recipe
	Version  int64
	Tab      string
	Shown    string // what the page shows, to tell later what was touched
	Locked   bool   // poured already, or kept: shown, not changed
	Theirs   string // another window changed it meanwhile
	Reground string // set if the grind was recalculated for other gear
	Made     string // the gear and the serving in one line
	Gear     []form.Field
	GearOpen bool
	Cannot   []string // the styles that this brewer cannot do, each with the reason
	Style    recipe.Style
	// OutflowTop is the outflow at the top of the ribbon, MugsSaid an example of a cup size.
	OutflowTop, MugsSaid string
	Main                 []knobView
	Finer                []knobView
	FinerOpen            bool
	Warnings             []warning
	Columns              []string // of the pours
	Pours                []pourRow
	PourError            string   // what could not be done to the pours
	PourMarks            []string // what differs in single pours from the brew before
	CanUndo              bool
	CanRedo              bool
	Rinse                bool
	// RinseMarked says that it is changed against the brew before.
	RinseMarked string
	Asked       *coach.Proposal
	Ribbons     []template.HTML
	Steps       []stepView // of a recipe that is not changed any more
	Aim         string
	Window      string
	Notes       []string // where the bag runs out, gear that was retired, what a scaling changed
	Forecast    forecastView
	Goals       []form.Field // what the recipe can be solved for
	Ways        *waysView
	Keep        form.Field // the name to keep it under
	Scale       []form.Field
	Spoons      string // the amounts without a scale
}

type stepView struct {
	At, What, Total, Detail string
	Hand                    bool
}

func (s *Server) recipe(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := sc.onLine(); err != nil {
		return err
	}
	f := fillRecipe(sc)
	if sc.editable() {
		reread(f, sc)
		sc.draft.Tab = rand.Text()[:12]
	}
	return s.showRecipe(w, r, http.StatusOK, f, sc, "")
}

func (s *Server) saveRecipe(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sc := sceneOf(r)
	tab := f.Text("tab", "Tab", 40, false)
	if sc.editable() && f.Version() != sc.draft.Version && tab != sc.draft.Tab {
		sc.draft.Tab = tab
		theirs := "Another window changed this recipe meanwhile. Here it is as it stands now; your last change was not kept: make it again if you still want it."
		return s.showRecipe(w, r, http.StatusConflict, fillRecipe(sc), sc, theirs)
	}
	reground := false
	sc, err = s.changeDraft(r, func(d *brew.Draft) error {
		f.Errors, reground = map[string]string{}, false
		g, err := s.chosenGear(r, f, d.Gear)
		if err != nil {
			return err
		}
		d.Tab = tab
		switch f.Values["edit"] {
		case "undo":
			return s.swapGear(r, d, (*brew.Draft).Undo)
		case "redo":
			return s.swapGear(r, d, (*brew.Draft).Redo)
		}
		before, to := *d, d.Sheet
		to.Gear = g
		to.Beliefs = s.teacher.Believe(to)
		reground = turn(d, f, to, prefsOf(r), s.Now())
		d.Remember(before)
		return nil
	})
	if err != nil {
		return err
	}
	shown, status := fillRecipe(sc), http.StatusOK
	if shown.Errors = f.Errors; !f.OK() {
		status = http.StatusUnprocessableEntity
	}
	body, err := s.recipeBody(r, shown, sc)
	if err != nil {
		return err
	}
	if reground {
		body.Reground = fmt.Sprintf("The grind was recalculated for %s: %s.", grindContext(sc), sc.Gear.Grinder.Setting(sc.Recipe.Grind))
	}
	s.renderRecipe(w, r, status, sc, body)
	return nil
}

// grindContext names what a grind depends on: grinder, brewer and filter.
func grindContext(sc *scene) string {
	g := sc.Gear
	return fmt.Sprintf("%s in %s with %s", g.Grinder.Name, g.Brewer.Name, g.Brewer.Filter)
}

// swapGear takes back a change of a recipe, or does it again, with the gear that it had.
func (s *Server) swapGear(r *http.Request, d *brew.Draft, swap func(*brew.Draft) (brew.Turn, bool)) error {
	t, any := swap(d)
	if !any {
		return nil
	}
	var err error
	d.Gear, err = s.Store.Gear(r.Context(), t.Gear)
	return err
}

func (s *Server) showRecipe(w http.ResponseWriter, r *http.Request, status int, f *form.Form, sc *scene, theirs string) error {
	body, err := s.recipeBody(r, f, sc)
	if err != nil {
		return err
	}
	body.Theirs = theirs
	s.renderRecipe(w, r, status, sc, body)
	return nil
}

func (s *Server) renderRecipe(w http.ResponseWriter, r *http.Request, status int, sc *scene, body recipeBody) {
	s.render(w, r, status, "recipe", page{Title: "Recipe for " + sc.Bag.Name, Station: "Recipe", Line: lineOf(sc, "Recipe"), Body: body})
}

func (s *Server) recipeBody(r *http.Request, f *form.Form, sc *scene) (recipeBody, error) {
	foreseen := foresee(sc)
	plan := sc.plan()
	if sc.draft != nil && foreseen.Sorry == "" {
		plan = foreseen.Plan
	}
	window := sc.Bag.Wanted(plan.Window)
	fillPours(f, sc.Recipe, plan, sc.prefs)
	body := recipeBody{ID: sc.ID, Shown: showing(f), Made: made(sc), Locked: !sc.editable(), Style: sc.Recipe.Style.Style().In(sc.prefs), OutflowTop: sc.prefs.Unit(units.Rate).Format(10), MugsSaid: mugsSaid[sc.prefs.Ounces], Rinse: sc.Recipe.Rinse, Asked: describedIn(stillAsked(*sc.Sheet), *sc.Sheet, sc.prefs),
		Aim: plan.Finish.String(), Window: fmt.Sprintf("%s to %s", window.From, window.To), Forecast: foreseen, Keep: keepField(f, sc)}
	if sc.draft != nil {
		body.Name, body.Version, body.Tab = sc.draft.Name, sc.draft.Version, sc.draft.Tab
	}
	marked, err := s.changedSince(r, sc)
	if err != nil {
		return body, err
	}
	if body.Gear, err = s.gearFields(r, f, sc); err != nil {
		return body, err
	}
	body.overTime(f, sc, plan)
	body.besides(f, sc)
	newDecorator(f, sc, marked, foreseen).fields(&body)
	return body, nil
}

// mugsSaid are examples of cup sizes, by whether ounces are preferred.
var mugsSaid = map[bool]string{false: "two mugs of 250 ml, 0.5 l", true: "two mugs of 8 fl oz, 12 oz"}

// overTime fills in the ribbon and the pours, to be taken hold of or as they were.
func (b *recipeBody) overTime(f *form.Form, sc *scene, plan recipe.Plan) {
	ribbon := figure.Ribbon{Plan: plan, Prefs: sc.prefs, Large: true, Beside: words.Beside(sc.Recipe, sc.prefs)}
	if b.Forecast.Sorry == "" {
		ribbon.Forecast = &b.Forecast.Result
	}
	if sc.editable() {
		ribbon.Hold = sc.Recipe.Allows
		b.Columns, b.Pours = pourColumns(), pourRows(f, sc, plan)
		b.PourError, b.CanUndo, b.CanRedo = f.Errors["edit"], len(sc.draft.Past) > 0, len(sc.draft.Future) > 0
	} else {
		b.Steps = stepViews(plan, sc.prefs)
	}
	b.Ribbons = ribbon.Both()
}

// besides fills in what is said and offered besides the knobs: the stock, gear that was
// retired, styles that the brewer cannot do, goals, other amounts.
func (b *recipeBody) besides(f *form.Form, sc *scene) {
	for _, st := range recipe.Schools() {
		if why := st.NotIn(sc.Gear.Brewer.Kind); why != "" {
			b.Cannot = append(b.Cannot, fmt.Sprintf("%s: %s.", st.Name, why))
		}
	}
	if !sc.editable() {
		return
	}
	if say := stock(sc); say != "" {
		b.Notes = append(b.Notes, say)
	}
	for _, e := range b.Gear {
		if e.Hint == outOfLists {
			b.Notes = append(b.Notes, fmt.Sprintf("The %s of this recipe is out of the lists; the recipe keeps it until you choose another.", strings.ToLower(e.Label)))
		}
	}
	b.Spoons, b.Scale = spoons(sc), scaleFields(f, sc, b.Gear)
	if b.Forecast.Sorry == "" {
		b.Goals = goalFields(f, b.Forecast.Forecast)
	}
}

// keepField asks for the name to keep a recipe under: that of the kept one that it began
// as is its next version, another name a fork of it.
func keepField(f *form.Form, sc *scene) form.Field {
	e := f.Entry("name", "Keep it as")
	if sc.draft != nil && sc.draft.Name == "" && sc.draft.Forked != "" && e.Error == "" {
		e.Value = sc.draft.Forked
		e.Hint = "Under this name it becomes its next version; under another one, a fork of it."
	}
	return e
}

// made is what a recipe is made with and how it is served, in one line.
func made(sc *scene) string {
	g := sc.Gear
	parts := []string{g.Brewer.Name, string(g.Brewer.Filter), g.Grinder.Name, g.Kettle.Name}
	if g.Water.Name != "" {
		parts = append(parts, g.Water.Name)
	}
	if r := sc.Recipe; r.Steeps() {
		parts = append(parts, "steeped")
	} else if g.Brewer.Kind == gear.ValveSteeper {
		parts = append(parts, "valve left open")
	}
	if sc.Recipe.Serving() != recipe.Hot {
		parts = append(parts, words.Serving(sc.Recipe, sc.prefs))
	}
	return strings.Join(parts, " · ")
}

// stillAsked is the change that was advised, as long as the recipe still makes it.
func stillAsked(sheet brew.Sheet) *coach.Proposal {
	const slack = 0.05
	if a := sheet.Asked; a != nil && math.Abs(sheet.Recipe.Value(a.Address)-a.To) <= slack {
		return a
	}
	return nil
}

// stock says where the bag runs out with this recipe.
func stock(sc *scene) string {
	switch n := coffee.BrewsLeft(sc.shelf.Left(), sc.Recipe.Dose, sc.Gear.Grinder.Loss); n {
	case 0:
		return "The bag no longer holds this dose: take a smaller one, or another bag."
	case 1:
		return "This is the last brew in the bag."
	}
	return ""
}

// changedSince says, by address, what the recipe changes against the brew it follows on.
func (s *Server) changedSince(r *http.Request, sc *scene) (map[recipe.Address]string, error) {
	if sc.Parent == "" {
		return nil, nil
	}
	before, err := s.Store.Brew(r.Context(), sc.Parent)
	if err != nil {
		return nil, err
	}
	return changed(before.Recipe, *sc.Sheet, sc.prefs), nil
}

// changed says, by address, what a sheet changes against the recipe of another brew.
func changed(before recipe.Recipe, sheet brew.Sheet, prefs units.Prefs) map[recipe.Address]string {
	out := map[recipe.Address]string{}
	if before.Style != sheet.Recipe.Style { // all of it is another way of pouring
		return out
	}
	for _, c := range recipe.Changes(before, sheet.Recipe) {
		out[c.Address], _ = coach.Describe(sheet.Recipe, sheet.Gear.Grinder, c, prefs)
	}
	return out
}

// stepViews is the schedule as a table. Where the kettle cools, each pour has the
// temperature that is expected of it by then.
func stepViews(p recipe.Plan, prefs units.Prefs) []stepView {
	u := prefs.Unit(units.Water)
	var out []stepView
	for _, st := range p.Steps {
		v := stepView{At: st.Start.String(), Total: u.Format(float64(st.Total))}
		switch st.Act {
		case recipe.PourWater:
			v.What, v.Detail = "Pour", pourDetail(st, p.Steps[0], prefs)
			if st.Bloom {
				v.What = "Bloom"
			}
			if st.WhenDrained {
				v.At = "≈ " + v.At
			}
		case recipe.BreakCrust:
			v.What, v.Detail, v.Hand, v.Total = "Break the crust", "a few slow strokes", true, ""
		case recipe.OpenValve:
			v.What, v.Detail, v.Hand, v.Total = "Open the valve", "onto the carafe", true, ""
		}
		out = append(out, v)
	}
	return append(out, stepView{At: p.Finish.String(), What: "Last steady stream", Detail: "the aim", Hand: true})
}

// pourDetail says how one pour is poured. A temperature that differs from that of
// the first pour is expected or set lower, and said so.
func pourDetail(st, first recipe.Step, prefs units.Prefs) string {
	detail := ""
	if st.WhenDrained {
		detail = "when the water has reached the bed: "
	}
	heat := prefs.Unit(units.Temperature).Format(float64(st.Temperature))
	if st.Temperature != first.Temperature {
		heat = "about " + heat
	}
	detail += fmt.Sprintf("%s in %.0f s, %s, %s, %s", prefs.Unit(units.Water).Format(float64(st.Water)), float64(st.Lasts), st.Pattern, st.Height, heat)
	if st.Then != recipe.NoHand {
		detail += ", then " + st.Then.String()
	}
	return detail
}
