package setup

import (
	"net/http"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// kettleView is a kettle that reports its temperature.
type kettleView struct{ Name, Now, Set, Wanted string }

// kettleOf returns the connected kettle for a recipe; nil if none reports its temperature.
func (s *Screens) kettleOf(sc *station.Scene) *kettleView {
	st, l := s.yard.KettleState()
	if l == nil {
		return nil
	}
	t := sc.Prefs.Unit(units.Temperature)
	v := &kettleView{Name: l.Title(), Now: t.Format(float64(st.Celsius)), Wanted: t.Format(float64(sc.Recipe.Temperature()))}
	if st.Set > 0 {
		v.Set = t.Format(float64(st.Set))
	}
	return v
}

// heat sets the kettles to the first temperature of the recipe.
func (s *Screens) heat(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	s.yard.HeatTo(min(sc.Recipe.Temperature(), gear.MaxTemperature(sc.Gear.Boiling)))
	return page.SeeOther(w, r, "/brews/%s/setup", sc.ID)
}
