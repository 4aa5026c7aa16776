package web

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
)

// scaleFields ask for which dose and brewer the recipe is to be made.
func scaleFields(f *form.Form, sc *scene, gear []form.Field) []form.Field {
	dose := sc.prefs.Unit(units.Dose)
	if f.Values["scale_dose"] == "" {
		f.Values["scale_dose"] = dose.Number(float64(sc.Recipe.Dose))
	}
	brewer := gear[0]
	brewer.Name, brewer.Label, brewer.Error = "scale_brewer", "In", ""
	return []form.Field{f.Stepper("scale_dose", "For", dose), brewer}
}

// spoons are the recipe's amounts for somebody without a scale, with their honest error.
func spoons(sc *scene) string {
	by := sc.Recipe.BySpoon(sc.Bag.Roast)
	spoons := units.Trim(math.Floor(by.Level), 0)
	if by.Level != math.Floor(by.Level) {
		spoons = strings.TrimPrefix(spoons, "0") + "½"
	}
	return fmt.Sprintf("Without a scale: %s level tablespoons of ground coffee, and water to the %s mark of the kettle, all of it poured. The ratio is then good to about ± %.0f %%, and the strength with it.",
		spoons, sc.prefs.Unit(units.Cup).Format(float64(by.Kettle)), 100*by.Off)
}

// scale makes the recipe for another dose or another brewer, so that the cup stays the same.
func (s *Server) scale(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	prefs := prefsOf(r)
	sc := sceneOf(r)
	dose := units.Grams(f.Quantity("scale_dose", "The dose", prefs.Unit(units.Dose), recipe.Dose.Range(), true))
	if !f.OK() {
		shown := fillRecipe(sc)
		shown.Values["scale_dose"], shown.Errors["scale_dose"] = f.Values["scale_dose"], f.Errors["scale_dose"]
		return s.showRecipe(w, r, http.StatusUnprocessableEntity, shown, sc, "")
	}
	said := ""
	sc, err = s.changeDraft(r, func(d *brew.Draft) error {
		ids := d.Gear.IDs()
		if id := f.Values["scale_brewer"]; id != "" {
			ids.Brewer = id
		}
		g, err := s.Store.Gear(r.Context(), ids)
		if errors.Is(err, store.ErrNotFound) {
			return problem{http.StatusBadRequest, "There is no such brewer", "Load the page again and choose from its list."}
		}
		if err != nil {
			return err
		}
		before := *d
		to := d.Sheet
		to.Gear = g
		to.Beliefs = s.teacher.Believe(to)
		scaled, err := forecast.Scale(d.Question(s.Now()), to.Question(s.Now()), dose)
		if err != nil {
			return err
		}
		d.Gear, d.Recipe, d.Typed, d.Held, d.SetRatio = g, scaled.Recipe, nil, brew.StartHeld, 0
		d.Remember(before)
		said = scaledSays(before, *d, scaled, prefs)
		return nil
	})
	if err != nil {
		return err
	}
	body, err := s.recipeBody(r, fillRecipe(sc), sc)
	if err != nil {
		return err
	}
	body.Notes = append(body.Notes, said)
	s.renderRecipe(w, r, http.StatusOK, sc, body)
	return nil
}

// scaledSays tells what was changed so that the cup stays, and how near it comes.
func scaledSays(before, after brew.Draft, s forecast.Scaling, prefs units.Prefs) string {
	said := differences(before, after, prefs)
	if said == "" {
		said = "nothing had to change"
	}
	said += fmt.Sprintf("; aim %s", after.Recipe.Plan().Finish)
	near := fmt.Sprintf("Predicted: EY %.1f %% (was %.1f), TDS %.2f %% (was %.2f).", s.Is.Yield.Value, s.Was.Yield.Value, s.Is.TDS, s.Was.TDS)
	why := "A deeper bed drains more slowly, and is ground coarser for it; a shallower one finer."
	switch {
	case s.Unreachable:
		why = "No grind gives the same yield here: this is as near as it comes."
	case s.OtherStyle:
		why = "This brewer cannot do the style, so its own is used, ground for the same yield."
	case before.Gear.Brewer.ID != after.Gear.Brewer.ID:
		why = "Another brewer lets the water through in another time: the grind makes up for it."
	}
	return fmt.Sprintf("So that the cup stays the same: %s. %s %s", said, why, near)
}
