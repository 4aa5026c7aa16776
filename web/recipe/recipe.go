package recipe

import (
	"crypto/rand"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// recipeBody is the data of the Recipe station.
type recipeBody struct {
	ID       string
	Name     string // of a kept recipe
	Version  int64
	Tab      string
	Shown    string // values of the page, to detect later which were changed
	Locked   bool   // poured or kept: read-only
	Theirs   string // another window changed it meanwhile
	Reground string // set if the grind was recalculated for other gear
	Made     string // gear and serving in one line
	Gear     []form.Field
	GearOpen bool
	Cannot   []string // styles that do not suit this brewer, with reasons
	Style    recipe.Style
	// OutflowTop is the outflow at the top of the ribbon, MugsSaid an example of a cup size.
	OutflowTop, MugsSaid string
	Main                 []knobView
	Finer                []knobView
	FinerOpen            bool
	Warnings             []warning
	Columns              []string // of the pours
	Pours                []pourRow
	PourError            string   // why an edit of the pours failed
	PourMarks            []string // differences of single pours from the previous brew
	CanUndo              bool
	CanRedo              bool
	Rinse                bool
	// RinseMarked describes the change of the rinse from the previous brew.
	RinseMarked string
	Asked       *coach.Proposal
	Ribbons     []template.HTML
	Steps       []stepView // of a read-only recipe
	Aim         string
	Window      string
	Notes       []string // stock, retired gear, changes by scaling
	Forecast    forecastView
	Goals       []form.Field // figures the recipe can be solved for
	Joints      []form.Option
	Ways        *waysView
	Keep        form.Field // name for the book
	Scale       []form.Field
	Spoons      string // amounts without a scale
	// Simple is true if only the ribbon, the prediction and four knobs are shown. Why holds the reasons of the recipe, open at first.
	Simple  bool
	Why     []page.Fact
	WhyOpen bool // right after the first run
	// ByHand holds amounts and times without instruments, and ByHandError their error.
	ByHand      []byHand
	ByHandError string
}

type stepView struct {
	At, What, Total, Detail string
	Hand                    bool
}

func (s *Screens) recipe(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := sc.BagGone(); err != nil {
		return err
	}
	f := fillRecipe(sc)
	if sc.Editable() {
		restoreErrors(f, sc)
		sc.Draft.Tab = rand.Text()[:12]
	}
	return s.showRecipe(w, r, http.StatusOK, f, sc, "")
}

func (s *Screens) saveRecipe(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sc := station.Of(r)
	tab := f.Text("tab", "Tab", 40, false)
	if sc.Editable() && f.Version() != sc.Draft.Version && tab != sc.Draft.Tab {
		sc.Draft.Tab = tab
		theirs := "Another window changed this recipe meanwhile. Here is the current version. Your last change was not saved; make it again if " +
			"you still want it."
		return s.showRecipe(w, r, http.StatusConflict, fillRecipe(sc), sc, theirs)
	}
	reground := false
	sc, err = station.Change(s.yard, r, func(d *brew.Draft) error {
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
		to.Beliefs = s.yard.BeliefsOf(to)
		reground = applyForm(d, f, to, page.Prefs(r), s.yard.Now())
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

// grindContext names what the grind depends on: grinder, brewer and filter.
func grindContext(sc *station.Scene) string {
	g := sc.Gear
	return fmt.Sprintf("%s in %s with %s", g.Grinder.Name, g.Brewer.Name, g.Brewer.Filter)
}

// swapGear undoes or redoes a change of a recipe, with the gear that it had.
func (s *Screens) swapGear(r *http.Request, d *brew.Draft, swap func(*brew.Draft) (brew.UndoStep, bool)) error {
	t, ok := swap(d)
	if !ok {
		return nil
	}
	var err error
	d.Gear, err = s.yard.Store.Gear(r.Context(), t.Gear)
	return err
}

func (s *Screens) showRecipe(w http.ResponseWriter, r *http.Request, status int, f *form.Form, sc *station.Scene, theirs string) error {
	body, err := s.recipeBody(r, f, sc)
	if err != nil {
		return err
	}
	body.Theirs = theirs
	s.renderRecipe(w, r, status, sc, body)
	return nil
}

func (s *Screens) renderRecipe(w http.ResponseWriter, r *http.Request, status int, sc *station.Scene, body recipeBody) {
	s.Render(w, r, status, "recipe", page.Page{Title: "Recipe for " +
		sc.Bag.Name, Station: "Recipe", Line: station.Line(sc, "Recipe"), Body: body})
}

func (s *Screens) recipeBody(r *http.Request, f *form.Form, sc *station.Scene) (recipeBody, error) {
	foreseen := predict(sc)
	plan := sc.Plan()
	if sc.Draft != nil && foreseen.Sorry == "" {
		plan = foreseen.Plan
	}
	window := sc.Bag.TargetWindow(plan.Window)
	fillPours(f, sc.Recipe, plan, sc.Prefs)
	body := recipeBody{ID: sc.ID, Shown: shownValues(f), Made: madeWith(sc), Locked: !sc.Editable(), Style: sc.Recipe.Style.Style().In(sc.Prefs),
		OutflowTop: sc.Prefs.Unit(units.Rate).Format(10), MugsSaid: mugsSaid[sc.Prefs.Ounces], Rinse: sc.Recipe.Rinse,
		Asked: station.Described(advisedChange(*sc.Sheet), *sc.Sheet, sc.Prefs),
		Aim:   plan.Finish.String(), Window: fmt.Sprintf("%s to %s", window.From, window.To), Forecast: foreseen, Keep: keepField(f, sc)}
	if sc.Draft != nil {
		body.Name, body.Version, body.Tab = sc.Draft.Name, sc.Draft.Version, sc.Draft.Tab
	}
	marked, err := s.changedSince(r, sc)
	if err != nil {
		return body, err
	}
	if body.Gear, err = s.gearFields(r, f, sc); err != nil {
		return body, err
	}
	body.Simple = isSimpleFor(r, f) && body.Name == ""
	body.addSchedule(f, sc, plan)
	body.addRest(f, sc)
	newDecorator(f, sc, marked, foreseen).fields(&body)
	body.addByHand(sc)
	if body.Simple {
		body.simplify(r)
	}
	return body, nil
}

// mugsSaid holds examples of cup sizes, by whether ounces are preferred.
var mugsSaid = map[bool]string{false: "two mugs of 250 ml, 0.5 l", true: "two mugs of 8 fl oz, 12 oz"}

// addSchedule adds the ribbon and the pours, editable or as poured.
func (b *recipeBody) addSchedule(f *form.Form, sc *station.Scene, plan recipe.Plan) {
	ribbon := figure.Ribbon{Plan: plan, Prefs: sc.Prefs, Large: true, Additions: words.Additions(sc.Recipe, sc.Prefs)}
	if b.Forecast.Sorry == "" {
		ribbon.Forecast = &b.Forecast.Result
	}
	if sc.Editable() {
		b.CanUndo, b.CanRedo = len(sc.Draft.UndoSteps) > 0, len(sc.Draft.RedoSteps) > 0
		if !b.Simple {
			ribbon.Limits = sc.Recipe.RangeAt
			b.Columns, b.Pours, b.PourError = pourColumns(), pourRows(f, sc, plan), f.Errors["edit"]
		}
	} else {
		b.Steps = stepViews(plan, sc.Prefs)
	}
	b.Ribbons = ribbon.Both()
}

// addRest adds everything other than the knobs: stock, retired gear, unsuitable styles, goals, scaling.
func (b *recipeBody) addRest(f *form.Form, sc *station.Scene) {
	for _, st := range recipe.Schools() {
		if why := st.WhyNotIn(sc.Gear.Brewer.Kind); why != "" {
			b.Cannot = append(b.Cannot, fmt.Sprintf("%s: %s.", st.Name, why))
		}
	}
	if !sc.Editable() {
		return
	}
	if say := sc.StockNote(); say != "" {
		b.Notes = append(b.Notes, say)
	}
	for _, e := range b.Gear {
		if e.Hint == retiredHint {
			b.Notes = append(b.Notes, fmt.Sprintf("The %s of this recipe is retired; the recipe keeps it until you choose another.",
				strings.ToLower(e.Label)))
		}
	}
	b.Spoons, b.Scale = spoons(sc), scaleFields(f, sc, b.Gear)
	if b.Forecast.Sorry == "" {
		b.Goals, b.Joints = goalFields(f, b.Forecast.Forecast), jointButtons(sc.Recipe)
	}
}

// keepField returns the field for the name in the book. The name of the original gives its next version,
// another name a fork.
func keepField(f *form.Form, sc *station.Scene) form.Field {
	e := f.Entry("name", "Keep it as")
	if sc.Draft != nil && sc.Draft.Name == "" && sc.Draft.Forked != "" && e.Error == "" {
		e.Value = sc.Draft.Forked
		e.Hint = "Under this name it becomes the next version, under another name a fork."
	}
	return e
}

// madeWith describes the gear and serving of a recipe in one line.
func madeWith(sc *station.Scene) string {
	g := sc.Gear
	parts := []string{g.Brewer.Name, string(g.Brewer.Filter), g.Grinder.Name, g.Kettle.Name}
	if g.Second.ID != "" {
		parts = append(parts, g.Second.Name)
	}
	if g.Water.Name != "" {
		parts = append(parts, g.Water.Name)
	}
	if r := sc.Recipe; r.Steeps() {
		parts = append(parts, "steeped")
	} else if g.Brewer.Kind == gear.ValveSteeper {
		parts = append(parts, "valve left open")
	}
	if sc.Recipe.Serving() != recipe.Hot {
		parts = append(parts, words.Serving(sc.Recipe, sc.Prefs))
	}
	return strings.Join(parts, " · ")
}

// advisedChange returns the advised change, if the recipe still has it.
func advisedChange(sheet brew.Sheet) *coach.Proposal {
	const slack = 0.05
	if a := sheet.Advised; a != nil && math.Abs(sheet.Recipe.Value(a.Address)-a.To) <= slack {
		return a
	}
	return nil
}

// changedSince describes, by address, the changes from the previous brew.
func (s *Screens) changedSince(r *http.Request, sc *station.Scene) (map[recipe.Address]string, error) {
	if sc.Parent == "" {
		return nil, nil
	}
	before, err := s.yard.Store.Brew(r.Context(), sc.Parent)
	if err != nil {
		return nil, err
	}
	return station.Changes(before.Recipe, *sc.Sheet, sc.Prefs), nil
}

// stepViews returns the schedule as a table. With a kettle that cools, each pour has its expected
// temperature.
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
			if st.Cue.ByEye() {
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

// pourDetail describes one pour. A temperature that differs from that of the first pour is expected or set
// lower, and marked as such.
func pourDetail(st, first recipe.Step, prefs units.Prefs) string {
	detail := ""
	if st.Cue.ByEye() {
		detail = st.Cue.String() + ": "
	}
	heat := prefs.Unit(units.Temperature).Format(float64(st.Temperature))
	if st.Temperature != first.Temperature {
		heat = "about " + heat
	}
	detail += fmt.Sprintf("%s in %.0f s, %s, %s, %s", prefs.Unit(units.Water).Format(float64(st.Water)), float64(st.Lasts), st.Pattern,
		st.Height, heat)
	if st.Level > 0 {
		detail += ", to " + words.Level(st.Level)
	}
	if st.Second {
		detail += ", from the second kettle"
	}
	if st.Then != recipe.NoHand {
		detail += ", then " + st.Then.String()
	}
	return detail
}
