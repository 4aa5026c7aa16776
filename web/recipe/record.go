package recipe

import (
	"net/http"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// recordBody is the data of the page that records a brew made away from the screen.
type recordBody struct {
	ID             string
	When, Drawdown form.Field
}

// minuteOf is the format of a moment in a form.
const minuteOf = "2006-01-02T15:04"

// recordPage shows the page.
func (s *Screens) recordPage(w http.ResponseWriter, r *http.Request) error {
	if !station.Of(r).Editable() {
		return brew.ErrStatus
	}
	f := form.New()
	f.Values["when"] = s.yard.Now().Add(-10 * time.Minute).Format(minuteOf)
	return s.showRecord(w, r, http.StatusOK, f)
}

// record turns the recipe into a brew of the past, and goes on to its cup.
func (s *Screens) record(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if !sc.Editable() {
		return brew.ErrStatus
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	const least, most = 20, 3600 // s
	drawdown := f.Quantity("drawdown", "Drawdown", page.Prefs(r).Unit(units.Time), units.Range{Lo: least, Hi: most}, true)
	at := s.pastMinute(f, units.Seconds(drawdown))
	if !f.OK() {
		return s.showRecord(w, r, http.StatusUnprocessableEntity, f)
	}
	b, err := s.yard.Record(r.Context(), sc.ID, page.PersonID(r), at, units.Seconds(drawdown))
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/cup", b.ID)
}

// pastMinute parses the moment of the first water of a brew that took a drawdown and has ended.
func (s *Screens) pastMinute(f *form.Form, drawdown units.Seconds) time.Time {
	const oldest = 5 * 365 * 24 * time.Hour
	now := s.yard.Now()
	at, err := time.ParseInLocation(minuteOf, strings.TrimSpace(f.Values["when"]), now.Location())
	ended := at.Add(time.Duration(float64(drawdown) * float64(time.Second)))
	switch {
	case err != nil:
		f.Fail("when", "First water is a day and a time, such as 2026-04-18 09:30.")
	case ended.After(now):
		f.Fail("when", "It must have ended by now: with this drawdown, the first water was at %s or before.",
			now.Add(-time.Duration(float64(drawdown)*float64(time.Second))).Format("15:04"))
	case now.Sub(at) > oldest:
		f.Fail("when", "First water is at most five years ago.")
	}
	return at
}

func (s *Screens) showRecord(w http.ResponseWriter, r *http.Request, status int, f *form.Form) error {
	sc := station.Of(r)
	body := recordBody{sc.ID, f.Entry("when", "First water"), f.Stepper("drawdown", "Drawdown", page.Prefs(r).Unit(units.Time))}
	body.When.Kind, body.When.Hint = "datetime-local", "When it was brewed."
	body.Drawdown.Hint = "From the first water to the end of the last steady stream, such as 3:15."
	s.Render(w, r, status, "record", page.Page{Title: "Record a brew of " + sc.Bag.Name, Station: "Recipe", Line: station.Line(sc, "Recipe"), Body: body})
	return nil
}
