package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"
)

// What the scale says goes before what was counted down, and a frozen portion leaves the bag
// and does not age.
func TestABagIsWeighedAndFrozen(t *testing.T) {
	t.Parallel()
	v := visit(t)
	if code, _ := v.post("/bags/slate-terrace/count", "counted", "120"); code != http.StatusSeeOther {
		t.Fatalf("weighed: status %d", code)
	}
	if _, page := v.get("/bags/slate-terrace"); !strings.Contains(page, "120 g, enough for 6 brews, weighed on") || !strings.Contains(page, "A cup costs") {
		t.Error("the bag does not hold what the scale said")
	}
	for _, typed := range []string{"9000", "much", ""} {
		if code, page := v.post("/bags/slate-terrace/count", "counted", typed); code != http.StatusUnprocessableEntity || len(errorsIn(page)) == 0 {
			t.Errorf("a bag of %q: status %d", typed, code)
		}
	}
	_, _, header := v.send("POST", "/bags/slate-terrace/freeze", url.Values{"portion": {"60"}})
	frozen := header.Get("Location")
	if _, page := v.get("/bags/slate-terrace"); !strings.Contains(page, "60 g, enough for 3 brews") {
		t.Error("what was frozen is still in the bag")
	}
	v.now = v.now.Add(30 * 24 * time.Hour)
	if _, page := v.get(frozen); !strings.Contains(page, "19 days old, in its window, frozen since") {
		t.Errorf("after a month in the freezer it aged: %.200s", page[strings.Index(page, "<dt>"):])
	}
	if code, page := v.post(frozen+"/freeze", "portion", "500"); code != http.StatusUnprocessableEntity {
		t.Errorf("more is frozen than there is: status %d, %v", code, errorsIn(page))
	}
	v.post(frozen + "/thaw")
	v.now = v.now.Add(2 * 24 * time.Hour)
	if _, page := v.get(frozen); !strings.Contains(page, "21 days old") || !strings.Contains(page, "30 days in the freezer") {
		t.Error("taken out it does not age on")
	}
	if _, page := v.get("/bags/slate-terrace"); !strings.Contains(page, "51 days old") {
		t.Error("the rest of the bag did not age")
	}
}

// Habits that are set once begin every new coffee.
func TestHabitsBeginANewCoffee(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, page := v.get("/schools")
	form := fields(page)
	form.Set("style", "two-heavy-pours")
	form.Set("rinse", "never")
	form.Set("hotter", "99")
	if code, body, _ := v.send("POST", "/schools", form); code != http.StatusUnprocessableEntity || fields(body).Get("hotter") != "99" {
		t.Errorf("99 K hotter: status %d, %v", code, errorsIn(body))
	}
	form.Set("hotter", "1")
	form.Set("bloom", "2.5")
	if code, body, _ := v.send("POST", "/schools", form); code != http.StatusSeeOther {
		t.Fatalf("status %d, %v", code, errorsIn(body))
	}
	v.post("/bags/first-frost/wish", "brewer", "window-cone", "grinder", "apron-mill", "style", "")
	_, _, header := v.send("POST", "/bags/first-frost/brew", url.Values{"go": {"on"}})
	_, page = v.get(header.Get("Location"))
	got := fields(page)
	if got.Get("style") != "two-heavy-pours" || got.Get("bloom") != "2.5" || strings.Contains(page, `name="rinse" value="yes" checked`) {
		t.Errorf("begins with %s, a bloom of %s", got.Get("style"), got.Get("bloom"))
	}
	old := form // an older page: kept by another window meanwhile
	old.Set("hotter", "3")
	if code, body, _ := v.send("POST", "/schools", old); code != http.StatusConflict || !strings.Contains(body, "changed in another window") {
		t.Errorf("from an older page: status %d", code)
	}
}

// Every wish is met with gear of the yard, and can be taken.
func TestAWishBecomesARecipe(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, page := v.get("/bags/first-frost/wish?clear=-2&cold=yes")
	if !strings.Contains(page, "Over ice") || !strings.Contains(page, "Predicted: ") {
		t.Error("a cold cup is not offered over ice")
	}
	_, _, header := v.send("POST", "/bags/first-frost/wish", url.Values{"brewer": {"carafe-cone"}, "grinder": {"bench-grinder"}, "style": {"ice-hot-and-slow"}})
	_, recipe := v.get(header.Get("Location"))
	if got := fields(recipe); got.Get("brewer") != "carafe-cone" || got.Get("serving") != "over ice" || got.Get("ice") != "42" {
		t.Errorf("became %v", got)
	}
	if code, _ := v.post("/bags/first-frost/wish", "brewer", "nobody", "grinder", "bench-grinder"); code != http.StatusBadRequest {
		t.Errorf("gear that is not there: status %d", code)
	}
	if code, _ := v.get("/bags/first-frost/wish?clear=lots&quick=77"); code != http.StatusOK {
		t.Errorf("nonsense in the address: status %d", code)
	}
}

// What the mill really gave moves the water at the ratio, or leaves the cup as it was.
func TestWhatTheMillGave(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := "/brews/" + planned
	v.post(path+"/gave", "gave", "17.5", "keep", "ratio")
	_, got, _ := v.recipe()
	if got.Get("dose") != "17.5" || got.Get("ratio") != "16.5" || got.Get("water") != "289" {
		t.Errorf("the water follows: %s g, 1 : %s, %s g", got.Get("dose"), got.Get("ratio"), got.Get("water"))
	}
	cup := got.Get("cup")
	v.post(path+"/gave", "gave", "16", "keep", "cup")
	if _, got, _ = v.recipe(); got.Get("dose") != "16" || got.Get("cup") != cup {
		t.Errorf("the cup stays: %s g, %s ml, was %s", got.Get("dose"), got.Get("cup"), cup)
	}
	for _, typed := range []string{"300", "", "x"} {
		if code, page := v.post(path+"/gave", "gave", typed); code != http.StatusUnprocessableEntity || len(errorsIn(page)) != 1 {
			t.Errorf("%q: status %d", typed, code)
		}
	}
	// A timer runs on through a reload, and can be put back.
	v.recipe("kettle", "stove-kettle")
	v.post(path+"/setup", "list", "shown", "timer", "boil")
	v.now = v.now.Add(10 * time.Second)
	if _, page := v.get(path + "/setup"); !strings.Contains(page, "put back") {
		t.Error("the timer does not run any more")
	}
}

// Two mugs, and the same cup from another dose and another brewer.
func TestAmountsForPeople(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, got, body := v.recipe("cup", "two mugs of 200 ml")
	if got.Get("cup") != "400" || got.Get("ratio") != "16.5" {
		t.Errorf("two mugs: %s ml at 1 : %s, %v", got.Get("cup"), got.Get("ratio"), errorsIn(body))
	}
	code, body := v.post("/brews/"+planned+"/scale", "scale_dose", "20", "scale_brewer", "bench-flat")
	if got := fields(body); code != http.StatusOK || got.Get("dose") != "20" || got.Get("brewer") != "bench-flat" || got.Get("ratio") != "16.5" || !strings.Contains(body, "So that the cup stays the same: ") {
		t.Errorf("scaled: status %d, %v", code, got)
	}
	_, got, _ = v.recipe("edit", "undo")
	if got.Get("brewer") != "window-cone" || got.Get("cup") != "400" {
		t.Errorf("taken back: %s, %s ml", got.Get("brewer"), got.Get("cup"))
	}
	if code, body := v.post("/brews/"+planned+"/scale", "scale_dose", "1000"); code != http.StatusUnprocessableEntity || len(errorsIn(body)) != 1 {
		t.Errorf("a kilogram: status %d", code)
	}
}

// A setting reads both ways and on another grinder; one that was zeroed anew begins anew; a
// blade is never asked for clicks; a water that cannot be mixed says why.
func TestGearReadsBothWays(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, page := v.get("/gear/grinders/apron-mill?reading=22&other=bench-grinder")
	if !strings.Contains(page, "22 clicks: 654 µm, like table salt.") || !strings.Contains(page, "on Bench grinder (by how 7 brews on this one and 8 on the other") {
		t.Error("22 clicks are not read, or not matched")
	}
	if code, page := v.get("/gear/grinders/apron-mill?reading=9000"); code != http.StatusOK || !strings.Contains(page, "Type a setting of this dial") {
		t.Errorf("9000 clicks: status %d", code)
	}
	v.post("/gear/grinders/apron-mill/zero")
	if _, page := v.get("/gear/grinders/apron-mill"); !strings.Contains(page, "Zeroed anew once") || !strings.Contains(page, "one brew on the other would tell") {
		t.Error("a grinder that was zeroed anew still speaks for its brews before")
	}
	code, _ := v.post("/gear/grinders/new", "name", "Old blade", "burrs", "blade", "dial_kind", "clicks", "step", "0", "loss", "1")
	if code != http.StatusSeeOther {
		t.Errorf("a blade without a dial: status %d", code)
	}
	_, list := v.get("/gear")
	if !strings.Contains(list, "blade, 650 µm is like table salt") {
		t.Error("the blade has a setting")
	}
	if code, page := v.get("/water?hardness=900&alkalinity=40&amount=1000&salt=soda"); code != http.StatusUnprocessableEntity || !strings.Contains(page, "can be 0 to 300 mg/l") {
		t.Errorf("water that cannot be mixed: status %d", code)
	}
	if _, page := v.get("/water?hardness=70&alkalinity=40&amount=2000&salt=soda"); !strings.Contains(page, "14.00 g") || !strings.Contains(page, "Food-grade salts only") {
		t.Error("the mix, or its cautions")
	}
}
