package recipe

import (
	"fmt"
	"net/http"
	"slices"

	"yardbloom/core/recipe"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
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

// isSimpleFor reports whether a person sees the simple view. An error in a field that it lacks shows all settings.
func isSimpleFor(r *http.Request, f *form.Form) bool {
	for name := range f.Errors {
		if !isSimple(name) {
			return false
		}
	}
	return !page.Settings(r).FullRecipe
}

// addByHand adds the amounts and times without instruments: in the simple view, and for a person without a scale.
func (b *recipeBody) addByHand(sc *station.Scene) {
	scaled := sc.Prefs.Spoon == 0
	if !b.Simple && scaled {
		return
	}
	for _, item := range sc.Setup().Checklist() {
		if slices.Contains(byHandItems, item.ID) && (item.ID != "fill" || !scaled) {
			b.ByHand = append(b.ByHand, byHand{item.Do, item.Value, item.Why})
		}
	}
	if !scaled {
		b.ByHandError = fmt.Sprintf("The strength is accurate to about ± %.0f %%: a heaped spoon or a mug that is not full changes it more than a change of "+
			"the grind does.", 100*sc.Recipe.MugError())
	}
}

// simplify reduces the page to the ribbon, the prediction and four knobs with their reasons.
func (b *recipeBody) simplify(r *http.Request) {
	b.WhyOpen = r.URL.Query().Get("first") != ""
	b.Forecast.Facts = b.Forecast.Facts[:min(simpleFacts, len(b.Forecast.Facts))]
	b.Main = slices.DeleteFunc(b.Main, func(k knobView) bool { return !isSimple(k.Name) })
	for _, k := range b.Main {
		if k.Hint != "" {
			b.Why = append(b.Why, page.Fact{Name: k.Label, Value: k.Hint})
		}
	}
	if !b.Locked {
		b.Why = append(b.Why, page.Fact{Name: "Pours", Value: b.Style.Name + ". " + b.Style.Short})
	}
	for i := range b.Warnings {
		if !isSimple(b.Warnings[i].For) {
			b.Warnings[i].For = "" // its field is among all settings
		}
	}
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
