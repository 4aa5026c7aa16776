package station

import (
	"fmt"
	"net/http"
	"time"

	"yardbloom/web/page"
)

// RivalView is a second first water of a brew, with the question whether it was the same brew.
type RivalView struct {
	ID         string // of the brew
	Key        string // of the start
	First, Now string // the first water that counts, and this one: when, and by whom
	Taps       string
}

// Rivals returns the second first waters of a brew about which a person has to be asked.
func Rivals(r *http.Request, sc *Scene) (out []RivalView) {
	if sc.Brew == nil {
		return nil
	}
	moment := func(at time.Time, by string) string {
		says := at.Format("15:04:05")
		if page.Settings(r).ByName() && by != "" {
			says += " (" + page.NameOf(r, by) + ")"
		}
		return says
	}
	for _, one := range sc.Brew.Rivals() {
		v := RivalView{ID: sc.ID, Key: one.Start.Key, First: moment(sc.Brew.Started, sc.Brew.BrewedBy),
			Now: moment(one.Start.Instant, one.Start.By), Taps: fmt.Sprintf("%d taps", one.Taps)}
		if one.Taps == 1 {
			v.Taps = "one tap"
		}
		out = append(out, v)
	}
	return out
}
