package station

import (
	"fmt"
	"net/http"

	"yardbloom/web/page"
)

// RivalView is a second first water of a brew, with the question whether it was the same brew.
type RivalView struct {
	ID         string // of the brew
	Key        string // of the start
	First, Now string // times of the day of the first water that counts, and of this one
	Taps       string
}

// Rivals returns the second first waters of a brew about which a person has to be asked.
func Rivals(r *http.Request, sc *Scene) (out []RivalView) {
	if sc.Brew == nil {
		return nil
	}
	const clock = "15:04:05"
	for _, one := range sc.Brew.Rivals() {
		v := RivalView{ID: sc.ID, Key: one.Start.Key, First: sc.Brew.Started.Format(clock), Now: one.Start.Instant.Format(clock),
			Taps: fmt.Sprintf("%d taps count from it", one.Taps)}
		if name := page.NameOf(r, one.Start.By); page.Settings(r).ByName() && one.Start.By != "" {
			v.Now += " (" + name + ")"
		}
		out = append(out, v)
	}
	return out
}
