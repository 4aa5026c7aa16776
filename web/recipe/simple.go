package recipe

import (
	"fmt"
	"net/http"
	"slices"

	"yardbloom/core/recipe"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// simpleKnobs are the knobs of the simple view: amount, strength, grind and temperature.
var simpleKnobs = []recipe.Knob{recipe.Dose, recipe.Ratio, recipe.Grind, recipe.Temperature}

// simpleFacts is the number of predicted figures of the simple view: drawdown, amount, TDS and EY.
const simpleFacts = 4

// isSimple reports whether a field is shown in the simple view.
func isSimple(name string) bool {
	return name == setting || slices.ContainsFunc(simpleKnobs, func(k recipe.Knob) bool { return recipe.AddressOf(k).String() == name })
}

// byHandItems are the lines of the checklist that take the place of an instrument: a scale, a thermostat, a burr grinder.
var byHandItems = []string{"spoons", "fill", "mugs", "boil", "chop"}

// byHand is an amount or a time without an instrument.
type byHand struct{ Do, Value, Why string }

// simplify reduces the station to the ribbon, the prediction and four knobs, if that is the person's view. A value elsewhere that is wrong
// shows all settings.
func (b *recipeBody) simplify(r *http.Request, f *form.Form, sc *station.Scene) {
	b.Simple = !page.Settings(r).FullRecipe && b.Name == "" && b.Theirs == ""
	for name := range f.Errors {
		b.Simple = b.Simple && isSimple(name)
	}
	if b.Simple || sc.Prefs.Spoon > 0 {
		for _, item := range sc.Setup().Checklist() {
			if slices.Contains(byHandItems, item.ID) && (item.ID != "fill" || sc.Prefs.Spoon > 0) {
				b.ByHand = append(b.ByHand, byHand{item.Do, item.Value, item.Why})
			}
		}
	}
	if sc.Prefs.Spoon > 0 {
		b.ByHandError = fmt.Sprintf("The strength is accurate to about ± %.0f %%: a heaped spoon or a mug that is not full changes it more than a change of "+
			"the grind does.", 100*sc.Recipe.MugError())
	}
	if !b.Simple {
		return
	}
	b.WhyOpen = r.URL.Query().Get("first") != ""
	b.Forecast.Facts = b.Forecast.Facts[:min(simpleFacts, len(b.Forecast.Facts))]
	all := b.Main
	b.Main = nil
	for _, k := range all {
		if isSimple(k.Name) {
			b.Main = append(b.Main, k)
		}
		if k.Hint != "" && isSimple(k.Name) {
			b.Why = append(b.Why, page.Fact{Name: k.Label, Value: k.Hint})
		}
	}
	if style := b.Style; !b.Locked {
		b.Why = append(b.Why, page.Fact{Name: "Pours", Value: style.Name + ". " + style.Short})
	}
	for i := range b.Warnings {
		if !isSimple(b.Warnings[i].For) {
			b.Warnings[i].For = "" // its field is among all settings
		}
	}
	b.CanUndo, b.CanRedo = b.CanUndo && !b.Locked, b.CanRedo && !b.Locked
	ribbon := figure.Ribbon{Plan: sc.Plan(), Prefs: sc.Prefs, Large: true, Additions: words.Additions(sc.Recipe, sc.Prefs)}
	if b.Forecast.Sorry == "" {
		ribbon.Forecast = &b.Forecast.Result
		if sc.Draft != nil {
			ribbon.Plan = b.Forecast.Plan
		}
	}
	b.Ribbons = ribbon.Both()
	b.Pours = nil
}

// setView stores whether the person sees all settings of the Recipe station.
func (s *Screens) setView(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	if err := s.yard.Store.SaveFullRecipe(r.Context(), page.PersonID(r), f.Values["view"] == "full"); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/recipe", station.Of(r).ID)
}
