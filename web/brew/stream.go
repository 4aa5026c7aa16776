package brew

import (
	"fmt"
	"net/http"

	"yardbloom/web/station"
	"yardbloom/web/stream"
	"yardbloom/yard"
)

// stream sends the live part of the Brew station at once and after each change, and the numbers
// of the scale in between.
func (s *Screens) stream(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	numbers, cancel, err := s.yard.Follow(sc.ID)
	if err != nil {
		return err
	}
	defer cancel()
	changed := func() (string, error) {
		html, err := s.liveHTML(r, sc.ID)
		return stream.HTML(html), err
	}
	first, topics := changed, []string{sc.ID}
	if sc.Brew == nil { // before the first water only the scale changes
		first, topics = stream.StillHere, append(topics, yard.ScalesTopic)
	}
	return s.streams.Serve(w, r, stream.Source{Topics: topics, Numbers: numbers, First: first, Changed: changed, View: sc.ID})
}

// liveHTML returns the live part of the Brew station.
func (s *Screens) liveHTML(r *http.Request, brewID string) (string, error) {
	sc, err := station.Load(s.yard, r, brewID)
	if err != nil {
		return "", err
	}
	body := s.pourBody(r, sc)
	if sc.Brew == nil { // its start was undone, or a scale was armed or taken: reload the page for the first water
		body.Done = fmt.Sprintf("/brews/%s/brew", brewID)
	}
	return s.Block("pour", "live", body)
}
