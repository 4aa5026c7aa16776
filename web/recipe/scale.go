package recipe

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
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// scaleFields returns the fields for another dose and brewer.
func scaleFields(f *form.Form, sc *station.Scene, gear []form.Field) []form.Field {
	dose := sc.Prefs.Unit(units.Dose)
	if f.Values["scale_dose"] == "" {
		f.Values["scale_dose"] = dose.Number(float64(sc.Recipe.Dose))
	}
	brewer := gear[0]
	brewer.Name, brewer.Label, brewer.Error = "scale_brewer", "In", ""
	return []form.Field{f.Stepper("scale_dose", "For", dose), brewer}
}

// spoons describes the recipe's amounts for brewing without a scale, with their error.
func spoons(sc *station.Scene) string {
	by := sc.Recipe.Spoons(sc.Bag.Roast)
	spoons := units.Trim(math.Floor(by.Level), 0)
	if by.Level != math.Floor(by.Level) {
		spoons = strings.TrimPrefix(spoons, "0") + "½"
	}
	return fmt.Sprintf("Without a scale: %s level tablespoons of ground coffee, and water to the %s mark of the kettle, all of it "+
		"poured. The ratio, and so the strength, is then accurate to about ± %.0f %%.",
		spoons, sc.Prefs.Unit(units.Cup).Format(float64(by.Kettle)), 100*by.Error)
}

// scale adapts the recipe to another dose or brewer for the same cup.
func (s *Screens) scale(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	prefs := page.Prefs(r)
	sc := station.Of(r)
	dose := units.Grams(f.Quantity("scale_dose", "The dose", prefs.Unit(units.Dose), recipe.Dose.Range(), true))
	if !f.OK() {
		shown := fillRecipe(sc)
		shown.Values["scale_dose"], shown.Errors["scale_dose"] = f.Values["scale_dose"], f.Errors["scale_dose"]
		return s.showRecipe(w, r, http.StatusUnprocessableEntity, shown, sc, "")
	}
	said := ""
	sc, err = station.Change(s.yard, r, func(d *brew.Draft) error {
		ids := d.Gear.IDs()
		if id := f.Values["scale_brewer"]; id != "" {
			ids.Brewer = id
		}
		g, err := s.yard.Store.Gear(r.Context(), ids)
		if errors.Is(err, store.ErrNotFound) {
			return page.Problem{Status: http.StatusBadRequest, Title: "Unknown brewer",
				Text: "Load the page again and choose from its list."}
		}
		if err != nil {
			return err
		}
		before := *d
		to := d.Sheet
		to.Gear = g
		to.Beliefs = s.yard.BeliefsOf(to)
		scaled, err := forecast.Scale(d.Question(s.yard.Now()), to.Question(s.yard.Now()), dose)
		if err != nil {
			return err
		}
		d.Gear, d.Recipe, d.Typed, d.Held, d.SetRatio = g, scaled.Recipe, nil, brew.DefaultHeld, 0
		d.Remember(before)
		said = scaledText(before, *d, scaled, prefs)
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

// scaledText describes the changes by a scaling, and how close the cup comes.
func scaledText(before, after brew.Draft, s forecast.Scaling, prefs units.Prefs) string {
	said := words.Differences(before, after, prefs)
	if said == "" {
		said = "no change needed"
	}
	said += fmt.Sprintf("; aim %s", after.Recipe.Plan().Finish)
	near := fmt.Sprintf("Predicted: EY %.1f %% (was %.1f), TDS %.2f %% (was %.2f).", s.Is.Yield.Value, s.Was.Yield.Value, s.Is.TDS,
		s.Was.TDS)
	why := "A deeper bed drains more slowly and is ground coarser, a shallower one finer."
	switch {
	case s.Unreachable:
		why = "No grind gives the same yield here: this is the closest."
	case s.OtherStyle:
		why = "This brewer does not support the style, so its own style is used, ground for the same yield."
	case before.Gear.Brewer.ID != after.Gear.Brewer.ID:
		why = "Brewers drain at different speeds: the grind compensates."
	}
	return fmt.Sprintf("For the same cup: %s. %s %s", said, why, near)
}
