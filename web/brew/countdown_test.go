package brew_test

import (
	"regexp"
	"strconv"
	"testing"

	"yardbloom/core/forecast"
	"yardbloom/web/webtest"
)

var until = regexp.MustCompile(`data-until="([0-9.]+)"[^>]*data-open`)

// Mutation caught: a countdown to the aim beside a ribbon that ends minutes later.
func TestCountdownEndsAtThePredictedDrawdown(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Recipe("grind", "330") // nearly clogged: drains long after its aim
	v.Post("/brews/" + webtest.Planned + "/start")
	b, err := v.Store.Brew(t.Context(), webtest.Planned)
	if err != nil {
		t.Fatal(err)
	}
	q := b.Question(b.Started)
	q.Beliefs = v.Yard.BeliefsOf(b.Sheet)
	f, err := forecast.Predict(q)
	if err != nil {
		t.Fatal(err)
	}
	_, page := v.Get("/brews/" + webtest.Planned + "/brew")
	found := until.FindStringSubmatch(page)
	if found == nil {
		t.Fatal("the page has no last stretch")
	}
	end, _ := strconv.ParseFloat(found[1], 64)
	if off := end - float64(f.Drawdown); off > 2 || off < -2 || end < float64(b.Plan.Finish)+30 {
		t.Errorf("it counts to %.0f s; the model says %.0f s, the aim is %.0f s", end, float64(f.Drawdown), float64(b.Plan.Finish))
	}
}
