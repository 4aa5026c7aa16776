package recipe_test

import (
	"context"
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/web/webtest"
)

// A brew made away from the screen is recorded once, at its time, and goes on to the cup; nothing wrong is recorded. Mutations caught: a
// brew of the future, typed figures that are lost, a draft that stays.
func TestRecordABrewMadeAway(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, _, header := v.Send("POST", "/bags/first-frost/brew", map[string][]string{"go": {"on"}})
	path := strings.TrimSuffix(header.Get("Location"), "/recipe")
	id := strings.TrimPrefix(path, "/brews/")
	now := v.Yard.Now()
	when := now.Add(-26 * time.Hour).Format("2006-01-02T15:04")
	for _, c := range []struct{ when, drawdown, says string }{
		{when, "", "Drawdown"}, {when, "9:00:00", "Drawdown"}, {"yesterday", "3:15", "First water is a day and a time"},
		{now.Add(time.Hour).Format("2006-01-02T15:04"), "3:15", "It must have ended by now"}, {"1999-01-01T10:00", "3:15", "at most five years ago"},
	} {
		code, page := v.Post(path+"/record", "when", c.when, "drawdown", c.drawdown)
		if code != http.StatusUnprocessableEntity || !strings.Contains(page, c.says) || c.when == when && !strings.Contains(page, when) {
			t.Errorf("%q, %q: status %d, %.1500s", c.when, c.drawdown, code, page)
		}
	}
	code, _, header := v.Send("POST", path+"/record", map[string][]string{"when": {when}, "drawdown": {"3:15"}})
	if code != http.StatusSeeOther || header.Get("Location") != path+"/cup" {
		t.Fatalf("status %d, to %s", code, header.Get("Location"))
	}
	b, err := v.Store.Brew(context.Background(), id)
	if err != nil || b.Status != brew.Poured || b.Cup.Drawdown != 195 || b.Started.Format("2006-01-02T15:04") != when {
		t.Errorf("%v: %s, %v at %v", err, b.Status, b.Cup.Drawdown, b.Started)
	}
	if code, _ := v.Post(path+"/record", "when", when, "drawdown", "3:15"); code == http.StatusSeeOther {
		t.Error("it is recorded twice")
	}
	if code, page := v.Get(path + "/cup"); code != http.StatusOK || !strings.Contains(page, "3:15") {
		t.Errorf("the cup: status %d", code)
	}
}
