package brew

import (
	"errors"
	"fmt"
	"net/http"

	"yardbloom/core/gear"
	"yardbloom/device"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/yard"
)

// scaleView is the scale under a brew.
type scaleView struct {
	ID, Name string
	Says     string // its state or its problem; empty if there is nothing to report
	Well     bool   // connected and sending readings
	Others   []page.Choice
}

// lowBattery is the charge below which the battery is mentioned, %.
const lowBattery = 15

// noScale is the option for no scale.
const noScale = "none"

// scaleOf returns the scale under a brew and the others. A draft is put on the first free scale.
func (s *Screens) scaleOf(r *http.Request, sc *station.Scene) (v scaleView) {
	if sc.Brew == nil {
		s.yard.OfferScale(r.Context(), sc.ID)
	}
	under := s.yard.ScaleUnder(sc.ID)
	for _, l := range s.yard.Bench.ByKind(gear.Scale) {
		if l != under {
			v.Others = append(v.Others, page.Choice{ID: l.Device.ID, Name: l.Title()})
			continue
		}
		v.ID, v.Name = l.Device.ID, l.Title()
		v.Says, v.Well = scaleState(l.State())
	}
	return v
}

// scaleState puts the state of a scale into words.
func scaleState(st device.State) (says string, well bool) {
	switch {
	case !st.Connected:
		return st.Trouble, false
	case st.Silent:
		return "no readings", false
	case st.Trouble != "":
		return st.Trouble, false
	case st.HasPower && st.Battery < lowBattery:
		return fmt.Sprintf("%.0f %% battery left", st.Battery), true
	}
	return "", true
}

// weigh puts a brew on a scale, takes it off, or tares the scale under it.
func (s *Screens) weigh(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sc := station.Of(r)
	switch id := f.Values["scale"]; {
	case f.Values["do"] == device.DoTare:
		s.yard.Tare(sc.ID)
	case id == noScale:
		s.yard.TakeOffScale(sc.ID)
	default:
		err = s.yard.PlaceOnScale(sc.ID, id)
	}
	if errors.Is(err, yard.ErrNoScale) {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "Unknown scale",
			Text: "Choose a scale on the page, or add it under Gear."}
	}
	if page.IsPartial(r) {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return page.SeeOther(w, r, "/brews/%s/brew", sc.ID)
}
