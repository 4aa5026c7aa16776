package brew

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"

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
	Lost     string // how the brew lost its scale; empty if it did not
	Others   []scaleChoice
	Ask      *scaleChoice // the scale to take from another brew, before that is confirmed
}

// scaleChoice is a scale that a brew can be put on.
type scaleChoice struct {
	ID, Name string
	From     string // ID of the brew that holds it; empty for a free one
	Coffee   string // of that brew
}

// lowBattery is the charge below which the battery is mentioned, %.
const lowBattery = 15

// noScale is the option for no scale.
const noScale = "none"

// scaleOf returns the scale under a brew and the others.
func (s *Screens) scaleOf(r *http.Request, sc *station.Scene) (v scaleView) {
	ctx := r.Context()
	under := s.yard.ScaleUnder(sc.ID)
	for _, l := range s.yard.Bench.ByKind(gear.Scale) {
		if l == under {
			v.ID, v.Name = l.Device.ID, l.Title()
			v.Says, v.Well = scaleState(l.State())
			continue
		}
		c := scaleChoice{ID: l.Device.ID, Name: l.Title()}
		if sc.Brew == nil {
			if c.From = s.yard.HolderOf(ctx, c.ID); c.From != "" {
				c.Coffee = s.yard.CoffeeOf(ctx, c.From)
			}
			if c.From != "" && c.ID == r.FormValue("take") {
				v.Ask = &c
			}
		}
		v.Others = append(v.Others, c)
	}
	if loss, ok := s.yard.LostScale(sc.ID); ok {
		v.Lost = "The scale was taken"
		if l := s.yard.Bench.Link(loss.Scale); l != nil {
			v.Lost = l.Title() + " was taken"
		}
		if to := s.yard.CoffeeOf(ctx, loss.To); to != "" {
			v.Lost += " for " + to
		}
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

// weigh puts a brew on a scale, takes it off, or tares the scale under it. Before a scale is taken from another brew, the
// page asks.
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
		err = s.yard.TakeOffScale(r.Context(), sc.ID)
	default:
		err = s.yard.PlaceOnScale(r.Context(), sc.ID, id, f.Values["from"])
		if errors.Is(err, yard.ErrScaleHeld) {
			return page.SeeOther(w, r, "/brews/%s/brew?take=%s", sc.ID, url.QueryEscape(id))
		}
	}
	if errors.Is(err, yard.ErrNoScale) {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "Unknown scale",
			Text: "Choose a scale on the page, or add it under Gear."}
	}
	if err != nil {
		return err
	}
	if page.IsPartial(r) {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return page.SeeOther(w, r, "/brews/%s/brew", sc.ID)
}
