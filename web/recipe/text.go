package recipe

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/recipe/written"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// textBody is the data of the page that reads a recipe in words.
type textBody struct {
	ID      string
	Text    form.Field
	Read    bool // a text was read
	Pieces  []written.Piece
	Unread  int
	Wrong   []string // contradictions
	Assumed []string
}

// textLabel is the label of the text.
const textLabel = "The recipe in words"

// recipeText shows the page for a recipe in words.
func (s *Screens) recipeText(w http.ResponseWriter, r *http.Request) error {
	if !station.Of(r).Editable() {
		return brew.ErrStatus
	}
	return s.showText(w, r, http.StatusOK, form.New(), nil)
}

// readText reads a recipe in words and shows how it was understood, or uses it if nothing in it contradicts.
func (s *Screens) readText(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if !sc.Editable() {
		return brew.ErrStatus
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	reading, err := written.Read(f.Values["text"])
	if err != nil {
		f.Fail("text", "%s", whyUnread(err))
		return s.showText(w, r, http.StatusUnprocessableEntity, f, nil)
	}
	if f.Values["do"] != "use" || len(reading.Problems) > 0 {
		status := http.StatusOK
		if len(reading.Problems) > 0 {
			status = http.StatusUnprocessableEntity
		}
		return s.showText(w, r, status, f, &reading)
	}
	_, err = station.Change(s.yard, r, func(d *brew.Draft) error {
		before := *d
		d.Recipe, _ = reading.Recipe(d.Recipe)
		d.Recipe.Grind = d.Gear.Grinder.Snap(d.Recipe.Grind)
		d.Held, d.SetRatio, d.Typed, d.Aimed = brew.DefaultHeld, 0, nil, nil
		d.Remember(before)
		return nil
	})
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/recipe", sc.ID)
}

// whyUnread says why a text is no recipe.
func whyUnread(err error) string {
	switch {
	case errors.Is(err, written.ErrTooLong):
		return fmt.Sprintf("%s is longer than %s characters. Paste the recipe alone.", textLabel, units.Trim(written.MaxLength, 0))
	case errors.Is(err, written.ErrManyPours):
		return "These are too many pours for a recipe."
	}
	return "This does not read like a recipe: it needs at least a dose and an amount of water."
}

func (s *Screens) showText(w http.ResponseWriter, r *http.Request, status int, f *form.Form, reading *written.Reading) error {
	sc := station.Of(r)
	body := textBody{ID: sc.ID, Text: f.Entry("text", textLabel)}
	body.Text.Kind, body.Text.Autofocus = "area", reading == nil
	local := page.Prefs(r).Localize
	body.Text.Hint = local("As people write it: {17 g}, {281 g of water} at {94 °C}, bloom {58 g} for 50 s, then to {169 g} at 0:50, to {281 g} at 1:40, " +
		"medium-fine.")
	if reading != nil {
		body.Read, body.Pieces, body.Wrong, body.Unread = true, reading.Pieces, reading.Problems, len(reading.Unread())
		if len(reading.Problems) == 0 {
			next, assumed := reading.Recipe(sc.Recipe)
			body.Assumed = assumed
			if snapped := sc.Gear.Grinder.Snap(next.Grind); reading.Grind > 0 {
				setting := sc.Gear.Grinder.Setting(snapped)
				body.Assumed = append(body.Assumed, fmt.Sprintf("The grind, %.0f µm, is %s on %s.", math.Round(float64(reading.Grind)), setting,
					strings.TrimSpace(sc.Gear.Grinder.Name)))
			}
		}
	}
	for _, all := range [][]string{body.Wrong, body.Assumed} {
		for i := range all {
			all[i] = local(all[i])
		}
	}
	for i := range body.Pieces {
		body.Pieces[i].Means = local(body.Pieces[i].Means)
	}
	s.Render(w, r, status, "text", page.Page{Title: "A recipe in words for " + sc.Bag.Name, Station: "Recipe", Line: station.Line(sc, "Recipe"),
		Body: body})
	return nil
}
