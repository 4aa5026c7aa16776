package learned_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yardbloom/core/learn"
	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// A measured brew is learned in the background and shown beside its expectation. A typo is reported and
// excluded until the person decides.
func TestMeasuredCupTeachesTheYard(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	before := v.Yard.Learned().Brews()
	if _, page := v.Get("/brews/" + webtest.Planned + "/recipe"); !strings.Contains(page,
		fmt.Sprintf("from %d brews of this yard, 1 of this bag", before)) {
		t.Error("the recipe does not show the basis of its prediction")
	}
	taste := func(pairs ...string) (at learn.Seen) {
		v.Post("/brews/"+webtest.Poured+"/cup", pairs...)
		v.Yard.WaitForLearning()
		for _, b := range v.Yard.Learned().Seen {
			if b.ID == webtest.Poured {
				return b
			}
		}
		t.Fatal("the brew was not learned from")
		return at
	}
	if b := taste("tds", "1.27", "beverage", "210"); b.Out || b.TDS != 1.27 || v.Yard.Learned().Brews() != before+1 {
		t.Errorf("after the cup: %+v, %d brews", b, v.Yard.Learned().Brews())
	}
	if testing.Short() {
		return // the race detector has seen learning beside requests; each round takes it seconds
	}
	if b := taste("tds", "3.9", "beverage", "210"); !b.Odd || !b.Out {
		t.Errorf("a slip: %+v", b)
	}
	if _, page := v.Get("/brews/" + webtest.Poured + "/next"); !strings.Contains(page, "a typo") {
		t.Error("the Next station does not ask about it")
	}
	_, page := v.Get("/learned")
	if !strings.Contains(page, "a typo") || !strings.Contains(page, "/learned/"+webtest.Poured+"/in") ||
		!strings.Contains(page, "Slate Terrace") {
		t.Error("the page does not ask about it")
	}
	if !strings.Contains(page, "predicted drawdown, %") || !strings.Contains(page, "predicted TDS, %") {
		t.Error("a chart of the errors of drawdowns or strengths is missing")
	}
	taste("tds", "1.27")
	for _, c := range []struct {
		what string
		want int
	}{{"out", before}, {"in", before + 1}} {
		code, _ := v.Post("/learned/" + webtest.Poured + "/" + c.what)
		if v.Yard.WaitForLearning(); code != http.StatusSeeOther || v.Yard.Learned().Brews() != c.want {
			t.Errorf("%s: status %d, %d brews", c.what, code, v.Yard.Learned().Brews())
		}
	}
	if code, _ := v.Post("/learned/no-such-brew/out"); code != http.StatusNotFound {
		t.Errorf("a brew that is not there: status %d", code)
	}
}

// The first recipe of a new coffee uses what other brews taught about its grinder.
func TestNewCoffeeUsesLearnedGrinder(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, _, header := v.Send("POST", "/bags/first-frost/brew", url.Values{"go": {"on"}})
	_, page := v.Get(header.Get("Location"))
	if !strings.Contains(page, "brews of yours)") || !strings.Contains(page, "brews of this yard</a>") {
		t.Errorf("the suggestion says nothing of the yard's brews: %.3000s", page[strings.Index(page, "Grind ("):])
	}
}

// Knowledge is stored: a restarted server has it without learning again.
func TestKnowledgeIsStored(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	b := v.Yard.Learned()
	v.Reopen(func(*yard.Config, *web.Config) {})
	a := v.Yard.Learned()
	if a == nil || a.Brews() != b.Brews() || len(a.Seen) != len(b.Seen) ||
		fmt.Sprint(a.State().Parameters) != fmt.Sprint(b.State().Parameters) {
		t.Errorf("after a restart: %+v", a)
	}
}
