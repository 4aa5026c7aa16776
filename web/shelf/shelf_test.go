package shelf_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"yardbloom/web/webtest"
)

// The weighed contents replace the calculated ones, and a frozen portion leaves the bag and does not age.
func TestWeighAndFreezeABag(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if code, _ := v.Post("/bags/slate-terrace/count", "counted", "120"); code != http.StatusSeeOther {
		t.Fatalf("weighed: status %d", code)
	}
	if _, page := v.Get("/bags/slate-terrace"); !strings.Contains(page, "120 g, enough for 6 brews, weighed on") ||
		!strings.Contains(page, "A cup costs") {
		t.Error("the bag does not have the weighed contents")
	}
	for _, typed := range []string{"9000", "much", ""} {
		if code, page := v.Post("/bags/slate-terrace/count", "counted", typed); code != http.StatusUnprocessableEntity ||
			len(webtest.ErrorsIn(page)) == 0 {
			t.Errorf("a bag of %q: status %d", typed, code)
		}
	}
	_, _, header := v.Send("POST", "/bags/slate-terrace/freeze", url.Values{"portion": {"60"}})
	frozen := header.Get("Location")
	if _, page := v.Get("/bags/slate-terrace"); !strings.Contains(page, "60 g, enough for 3 brews") {
		t.Error("the frozen portion is still in the bag")
	}
	v.SetNow(v.Now().Add(30 * 24 * time.Hour))
	if _, page := v.Get(frozen); !strings.Contains(page, "31 days old, in its window, frozen since") {
		t.Errorf("after a month in the freezer it aged: %.200s", page[strings.Index(page, "<dt>"):])
	}
	if code, page := v.Post(frozen+"/freeze", "portion", "500"); code != http.StatusUnprocessableEntity {
		t.Errorf("more is frozen than there is: status %d, %v", code, webtest.ErrorsIn(page))
	}
	v.Post(frozen + "/thaw")
	v.SetNow(v.Now().Add(2 * 24 * time.Hour))
	if _, page := v.Get(frozen); !strings.Contains(page, "33 days old") || !strings.Contains(page, "30 days in the freezer") {
		t.Error("taken out it does not age on")
	}
	if _, page := v.Get("/bags/slate-terrace"); !strings.Contains(page, "63 days old") {
		t.Error("the rest of the bag did not age")
	}
}

// The person's defaults apply to every new coffee.
func TestDefaultsApplyToANewCoffee(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/schools")
	form := webtest.Fields(page)
	form.Set("style", "two-centred-pours")
	form.Set("rinse", "never")
	form.Set("hotter", "99")
	if code, body, _ := v.Send("POST", "/schools", form); code != http.StatusUnprocessableEntity ||
		webtest.Fields(body).Get("hotter") != "99" {
		t.Errorf("99 K hotter: status %d, %v", code, webtest.ErrorsIn(body))
	}
	form.Set("hotter", "1")
	form.Set("bloom", "2.5")
	if code, body, _ := v.Send("POST", "/schools", form); code != http.StatusSeeOther {
		t.Fatalf("status %d, %v", code, webtest.ErrorsIn(body))
	}
	v.Post("/bags/first-frost/wish", "brewer", "window-cone", "grinder", "apron-mill", "style", "")
	_, _, header := v.Send("POST", "/bags/first-frost/brew", url.Values{"go": {"on"}})
	_, page = v.Get(header.Get("Location"))
	got := webtest.Fields(page)
	if got.Get("style") != "two-centred-pours" || got.Get("bloom") != "2.5" || strings.Contains(page, `name="rinse" value="yes" checked`) {
		t.Errorf("begins with %s, a bloom of %s", got.Get("style"), got.Get("bloom"))
	}
	old := form // an old page: saved by another window meanwhile
	old.Set("hotter", "3")
	if code, body, _ := v.Send("POST", "/schools", old); code != http.StatusConflict ||
		!strings.Contains(body, "hanged in another window") {
		t.Errorf("from an older page: status %d", code)
	}
}

// Every wish gets a recipe for gear of the yard.
func TestRecipeFromAWish(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/bags/first-frost/wish?clear=-2&cold=yes")
	if !strings.Contains(page, "Over ice") || !strings.Contains(page, "Predicted: ") {
		t.Error("a cold cup is not offered over ice")
	}
	_, _, header := v.Send("POST", "/bags/first-frost/wish",
		url.Values{"brewer": {"carafe-cone"}, "grinder": {"bench-grinder"}, "style": {"ice-hot-and-slow"}})
	_, recipe := v.Get(header.Get("Location"))
	if got := webtest.Fields(recipe); got.Get("brewer") != "carafe-cone" || got.Get("serving") != "over ice" || got.Get("ice") != "42" {
		t.Errorf("became %v", got)
	}
	if code, _ := v.Post("/bags/first-frost/wish", "brewer", "nobody", "grinder", "bench-grinder"); code != http.StatusBadRequest {
		t.Errorf("gear that is not there: status %d", code)
	}
	if code, _ := v.Get("/bags/first-frost/wish?clear=lots&quick=77"); code != http.StatusOK {
		t.Errorf("nonsense in the address: status %d", code)
	}
}

// The wanted amount decides brewer, number of brews and dose, and a wrong one gets a sentence. Mutations caught: an amount that
// changes nothing, a dose that is lost on the way to the recipe, nonsense that fails.
func TestAmountDecidesTheBrewer(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/bags/first-frost/wish?in_cup=two+mugs")
	if !strings.Contains(page, "In one brew, with 3") || !strings.Contains(page, "a light coffee is usually brewed clear and bright") {
		t.Error("two mugs are not made in one brew of a large brewer, or the bag does not decide")
	}
	_, page = v.Get("/bags/first-frost/wish?in_cup=1700&clear=-2&bright=-2")
	if !strings.Contains(page, "brews, each with") || strings.Contains(page, "follows the bag") {
		t.Error("1.7 l are not made in several brews, or the bag decides against the person")
	}
	code, page := v.Get("/bags/first-frost/wish?in_cup=lots")
	if code != http.StatusUnprocessableEntity || len(webtest.ErrorsIn(page)) != 1 || webtest.Fields(page).Get("in_cup") != "lots" {
		t.Errorf("lots: status %d, %v", code, webtest.ErrorsIn(page))
	}
	_, _, header := v.Send("POST", "/bags/first-frost/wish",
		url.Values{"brewer": {"carafe-cone"}, "grinder": {"bench-grinder"}, "style": {"three-rounds"}, "dose": {"34.5"}})
	_, recipe := v.Get(header.Get("Location"))
	if got := webtest.Fields(recipe).Get("dose"); got != "34.5" {
		t.Errorf("34.5 g became %s g", got)
	}
}
