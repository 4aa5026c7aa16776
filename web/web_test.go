package web

import (
	"bufio"
	"context"
	"fmt"
	"html"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"yardbloom/demo"
	"yardbloom/store"
)

var morning = time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)

// The demo brews that tests start from.
const (
	slateTerrace = 1  // bag
	tasted       = 4  // brew, done
	untasted     = 11 // brew, poured
	planned      = 17 // brew, a recipe in the making on bag 5
)

// A visitor sends requests to a server over the demo data.
type visitor struct {
	t     *testing.T
	s     *Server
	store *store.Store
	now   time.Time
	log   *strings.Builder
}

func visit(t *testing.T) *visitor {
	t.Helper()
	st, err := store.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	if err := demo.Fill(context.Background(), st, morning); err != nil {
		t.Fatal(err)
	}
	v := &visitor{t: t, store: st, now: morning, log: &strings.Builder{}}
	v.s, err = New(Config{Store: st, Log: slog.New(slog.NewTextHandler(v.log, nil)), Now: func() time.Time { return v.now }})
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func (v *visitor) send(method, path string, form url.Values, header ...string) (int, string, http.Header) {
	v.t.Helper()
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r := httptest.NewRequest(method, "http://yard.test"+path, body)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	w := httptest.NewRecorder()
	v.s.ServeHTTP(w, r)
	if w.Code >= 500 {
		v.t.Errorf("%s %s: status %d\n%s", method, path, w.Code, v.log)
	}
	return w.Code, strings.ReplaceAll(w.Body.String(), "\u00a0", " "), w.Header()
}

func (v *visitor) get(path string) (int, string) {
	v.t.Helper()
	code, body, _ := v.send("GET", path, nil)
	return code, body
}

func (v *visitor) post(path string, pairs ...string) (int, string) {
	v.t.Helper()
	form := url.Values{}
	for i := 0; i+1 < len(pairs); i += 2 {
		form.Add(pairs[i], pairs[i+1])
	}
	code, body, _ := v.send("POST", path, form)
	return code, body
}

var inputs = regexp.MustCompile(`<input[^>]*\bname="([^"]+)"[^>]*\bvalue="([^"]*)"`)
var selects = regexp.MustCompile(`(?s)<select[^>]*\bname="([^"]+)".*?<option value="([^"]*)" selected`)

// fields are the entries of a page as a browser would post them.
func fields(page string) url.Values {
	out := url.Values{}
	for _, m := range inputs.FindAllStringSubmatch(page, -1) {
		if !strings.Contains(m[0], `type="checkbox"`) && !strings.Contains(m[0], `type="radio"`) || strings.Contains(m[0], " checked") {
			out.Add(m[1], html.UnescapeString(m[2]))
		}
	}
	for _, m := range selects.FindAllStringSubmatch(page, -1) {
		out.Set(m[1], m[2])
	}
	return out
}

// recipe posts the Recipe station as it stands, with some fields typed anew.
func (v *visitor) recipe(typed ...string) (int, url.Values, string) {
	v.t.Helper()
	path := fmt.Sprintf("/brews/%d/recipe", planned)
	_, page := v.get(path)
	form := fields(page)
	for i := 0; i+1 < len(typed); i += 2 {
		form.Set(typed[i], typed[i+1])
	}
	code, body, _ := v.send("POST", path, form, "HX-Request", "true")
	return code, fields(body), body
}

func TestEveryPageAnswersAndSetsAStrictPolicy(t *testing.T) {
	v := visit(t)
	for _, path := range []string{"/", "/bags/new", "/bags/1", "/bags/6", "/brews/4", "/brews/4/recipe", "/brews/4/setup", "/brews/4/cup", "/brews/4/next",
		"/brews/11", "/brews/17/recipe", "/brews/17/setup", "/brews/17/brew", "/log", "/log?bag=2", "/gear", "/gear/grinders/1", "/gear/kettles/new", "/settings", "/keys"} {
		code, body, header := v.send("GET", path, nil)
		if code != http.StatusOK || !strings.Contains(body, "</html>") {
			t.Errorf("%s: status %d", path, code)
		}
		policy := header.Get("Content-Security-Policy")
		if !strings.Contains(policy, "script-src 'self';") || !strings.Contains(policy, "style-src 'self';") || strings.Contains(policy, "unsafe") {
			t.Errorf("%s: policy %q", path, policy)
		}
		if m := regexp.MustCompile(`<[^>]+\s(style|on\w+)="|<script>|<style`).FindString(body); m != "" {
			t.Errorf("%s has something inline: %s", path, m)
		}
	}
}

func TestAnyTwoAmountsGiveTheRestOnThePage(t *testing.T) {
	v := visit(t)
	for _, step := range []struct{ name, typed, dose, water, ratio string }{
		{"dose", "20", "20", "330", "16.5"},   // ratio and dose are held: the water follows
		{"water", "300", "20", "300", "15"},   // dose and water are what was typed last
		{"ratio", "16", "18.8", "300", "16"},  // now water and ratio
		{"dose", "18,5", "18.5", "296", "16"}, // a comma is a decimal sign
	} {
		code, got, body := v.recipe(step.name, step.typed)
		if code != http.StatusOK || got.Get("dose") != step.dose || got.Get("water") != step.water || got.Get("ratio") != step.ratio {
			t.Errorf("%s %s: status %d gives dose %s, water %s, ratio %s; want %s, %s, %s\n%s", step.name, step.typed, code,
				got.Get("dose"), got.Get("water"), got.Get("ratio"), step.dose, step.water, step.ratio, errorsIn(body))
		}
	}
}

func errorsIn(body string) []string {
	return regexp.MustCompile(`class="error"[^>]*>[^<]*`).FindAllString(body, -1)
}

func TestSteppingADoseDoesNotWearTheRatioAway(t *testing.T) {
	v := visit(t)
	var got url.Values
	for dose := 18.0; dose <= 30; dose += 0.5 {
		_, got, _ = v.recipe("dose", fmt.Sprint(dose))
	}
	if got.Get("ratio") != "16.5" || got.Get("water") != "495" {
		t.Errorf("after 24 steps the ratio is %s with %s g of water", got.Get("ratio"), got.Get("water"))
	}
}

func TestWhatCannotBeBrewedStaysAsTypedWithASentence(t *testing.T) {
	for _, c := range []struct{ name, typed, says string }{
		{"ratio", "0", "can be 6 to 25"},
		{"dose", "-3", "The dose can be 5 to 120 g"},
		{"dose", "eighteen", "is not a number"},
		{"dose", "10000", "The dose can be 5 to 120 g"},
		{"water", "10 kg", "is not a number"},
		{"cup", "", "Type a number"},
		{"temperature", "120", "can be 70 to 100 °C"},
		{"setting", "900", "coffee is ground at"},
		{"grind", "<script>alert(1)</script>", "is not a number"},
		{"bloom_time", strings.Repeat("9", 5000), "is not a number"},
	} {
		v := visit(t)
		_, before, _ := v.recipe()
		code, got, body := v.recipe(c.name, c.typed)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s %q: status %d, errors %v; want %q", c.name, short(c.typed), code, errorsIn(body), c.says)
		}
		// It is still there after a reload, and the brew cannot begin.
		_, page := v.get(fmt.Sprintf("/brews/%d/recipe", planned))
		if kept := fields(page).Get(c.name); kept != c.typed {
			t.Errorf("%s %q: after a reload it reads %q", c.name, short(c.typed), short(kept))
		}
		if code, _ := v.post(fmt.Sprintf("/brews/%d/start", planned)); code != http.StatusUnprocessableEntity {
			t.Errorf("%s %q: the brew began with status %d", c.name, short(c.typed), code)
		}
		// Mending the one field makes everything right again; the rest was never lost.
		if code, mended, _ := v.recipe(c.name, before.Get(c.name)); code != http.StatusOK || mended.Get("water") != before.Get("water") {
			t.Errorf("%s: mended gives status %d and %s g of water, was %s", c.name, code, mended.Get("water"), before.Get("water"))
		}
		_ = got
	}
}

func TestAWrongFieldStaysWrongWhileAnotherIsTyped(t *testing.T) {
	v := visit(t)
	v.recipe("ratio", "sixteen")
	code, got, body := v.recipe("temperature", "95")
	if code != http.StatusUnprocessableEntity || got.Get("ratio") != "sixteen" || got.Get("temperature") != "95" || len(errorsIn(body)) != 1 {
		t.Errorf("status %d, ratio %q, temperature %s, errors %v", code, got.Get("ratio"), got.Get("temperature"), errorsIn(body))
	}
	if code, got, _ = v.recipe("ratio", "16"); code != http.StatusOK || got.Get("temperature") != "95" || got.Get("water") != "288" {
		t.Errorf("mended: status %d, %s at %s", code, got.Get("water"), got.Get("temperature"))
	}
}

// A request that was queued before the last answer came shows what its page
// showed then; only what a hand changed on that page may count.
func TestAQueuedRequestChangesOnlyWhatWasTouched(t *testing.T) {
	v := visit(t)
	path := fmt.Sprintf("/brews/%d/recipe", planned)
	_, page := v.get(path)
	first, queued := fields(page), fields(page)
	first.Set("dose", "18.5")
	queued.Set("dose", "20.5")
	v.send("POST", path, first)
	_, body, _ := v.send("POST", path, queued)
	if got := fields(body); got.Get("dose") != "20.5" || got.Get("water") != "338" || got.Get("ratio") != "16.5" {
		t.Errorf("dose %s, water %s, ratio %s; want 20.5, 338, 16.5", got.Get("dose"), got.Get("water"), got.Get("ratio"))
	}
}

func short(s string) string { // a long text would hide the message
	if len(s) > 30 {
		return s[:30] + "…"
	}
	return s
}

func TestTheGrindersOwnNumbersAndMicrometresAgree(t *testing.T) {
	v := visit(t)
	_, got, _ := v.recipe("setting", "24") // the apron mill: 60 µm at nought, 27 µm a click
	if got.Get("grind") != "708" {
		t.Errorf("24 clicks are %s µm, want 708", got.Get("grind"))
	}
	_, got, _ = v.recipe("grind", "600")
	if got.Get("setting") != "20" || got.Get("grind") != "600" {
		t.Errorf("600 µm are %s clicks (%s µm), want 20", got.Get("setting"), got.Get("grind"))
	}
	_, got, _ = v.recipe("grinder", "1") // the bench grinder: 290 µm at nought, 24 µm a half
	if got.Get("setting") != "6.5" || got.Get("grind") != "602" {
		t.Errorf("on the other grinder: %s (%s µm), want 6.5 (602 µm)", got.Get("setting"), got.Get("grind"))
	}
}

func TestAnotherBrewerBringsItsStyle(t *testing.T) {
	v := visit(t)
	_, got, body := v.recipe("brewer", "3")
	if got.Get("style") != "steep-and-release" || got.Get("steep") == "" || !strings.Contains(body, "Open the valve") {
		t.Errorf("a valve steeper is poured as %q", got.Get("style"))
	}
	_, got, body = v.recipe("brewer", "1")
	if got.Get("style") != "three-rounds" || got.Get("bloom") != "3" || strings.Contains(body, "Open the valve") {
		t.Errorf("back on the cone it is poured as %q with a bloom of %q", got.Get("style"), got.Get("bloom"))
	}
}

func TestARecipeIsSolvedForAFigure(t *testing.T) {
	v := visit(t)
	path := fmt.Sprintf("/brews/%d/solve", planned)
	code, body := v.post(path, "goal", "goal_drain", "goal_drain", "3:10")
	if code != http.StatusOK || fields(body).Get("setting") == "22" || !strings.Contains(body, "3:0") && !strings.Contains(body, "3:1") {
		t.Errorf("drain in 3:10: status %d, %s clicks", code, fields(body).Get("setting"))
	}
	_, before, _ := v.recipe()
	code, body = v.post(path, "goal", "goal_strength", "goal_strength", "1,30")
	if got := fields(body); code != http.StatusOK || got.Get("cup") != before.Get("cup") || got.Get("ratio") == before.Get("ratio") {
		t.Errorf("1.30 %% at this cup: status %d, cup %s, ratio %s", code, got.Get("cup"), got.Get("ratio"))
	}
	_, before, _ = v.recipe()
	for _, c := range []struct{ goal, value, says string }{
		{"goal_drain", "0:40", "No grind drains in 0:40"}, {"goal_yield", "34", "No grind gives 34.0"}, {"goal_strength", "much", "is not a number"}, {"goal_drain", "", "Type a time"},
	} {
		code, body := v.post(path, "goal", c.goal, c.goal, c.value)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) || fields(body).Get("dose") != before.Get("dose") {
			t.Errorf("%s %q: status %d, %v", c.goal, c.value, code, errorsIn(body))
		}
	}
	if code, _ := v.post(path, "goal", "gold"); code != http.StatusBadRequest {
		t.Errorf("an unknown goal: status %d", code)
	}
	if code, _ := v.post("/brews/4/solve", "goal", "goal_drain", "goal_drain", "3:10"); code != http.StatusConflict {
		t.Errorf("a poured recipe was solved: status %d", code)
	}
}

func TestTwoWindowsOnOneRecipe(t *testing.T) {
	v := visit(t)
	path := fmt.Sprintf("/brews/%d/recipe", planned)
	_, a := v.get(path)
	_, b := v.get(path)
	first, second := fields(a), fields(b)
	first.Set("dose", "20")
	if code, _, _ := v.send("POST", path, first); code != http.StatusOK {
		t.Fatalf("the first window: status %d", code)
	}
	second.Set("dose", "24")
	code, body, _ := v.send("POST", path, second)
	if code != http.StatusConflict || fields(body).Get("dose") != "20" {
		t.Errorf("the second window: status %d, dose %s", code, fields(body).Get("dose"))
	}
	again := fields(body)
	again.Set("dose", "24")
	if code, body, _ := v.send("POST", path, again); code != http.StatusOK || fields(body).Get("dose") != "24" {
		t.Errorf("made again: status %d, dose %s", code, fields(body).Get("dose"))
	}
	// One window that sends faster than it is answered has no quarrel with itself.
	quick := fields(body)
	for _, dose := range []string{"25", "26", "27"} {
		quick.Set("dose", dose)
		if code, _, _ := v.send("POST", path, quick); code != http.StatusOK {
			t.Errorf("dose %s: status %d", dose, code)
		}
	}
}

func TestTwoWindowsOnOneBag(t *testing.T) {
	v := visit(t)
	_, page := v.get("/bags/1")
	mine, theirs := fields(page), fields(page)
	theirs.Set("name", "Slate Terrace 2")
	if code, _, _ := v.send("POST", "/bags/1", theirs); code != http.StatusSeeOther {
		t.Fatalf("the first window: status %d", code)
	}
	mine.Set("roaster", "Somebody else")
	code, body, _ := v.send("POST", "/bags/1", mine)
	if code != http.StatusConflict || !strings.Contains(body, "Slate Terrace 2") || fields(body).Get("roaster") != "Somebody else" {
		t.Errorf("the second window: status %d", code)
	}
	if code, _, _ := v.send("POST", "/bags/1", fields(body)); code != http.StatusSeeOther {
		t.Errorf("saved again: status %d", code)
	}
}

func TestABagIsRefusedWithItsTextKept(t *testing.T) {
	v := visit(t)
	long := strings.Repeat("x", 10000)
	for _, c := range []struct{ name, typed, says string }{
		{"name", long, "can have up to 80 letters"}, {"name", "  ", "cannot be empty"}, {"weight", "10 stone", "is not a number"},
		{"weight", "900000", "can be 10 to 20000 g"}, {"roasted_on", "last week", "is a date"}, {"process", "magic", "Choose one"},
		{"roast", "9", "Choose a roast"}, {"window_from", "3:10", "two ends"}, {"price", "-4", "can be 0 to 9999"},
	} {
		form := url.Values{"name": {"Test"}, "process": {"washed"}, "roast": {"3"}, "weight": {"250"}}
		form.Set(c.name, c.typed)
		code, body, _ := v.send("POST", "/bags", form)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s %q: status %d, %v; want %q", c.name, short(c.typed), code, errorsIn(body), c.says)
		}
		if c.name == "name" && !strings.Contains(body, c.typed) {
			t.Error("the long name was lost")
		}
	}
	if bags, _ := v.store.Bags(context.Background()); len(bags) != 6 {
		t.Errorf("%d bags; something was half saved", len(bags))
	}
}

func TestADeletedBagCanComeBackAndCannotBeBrewedMeanwhile(t *testing.T) {
	v := visit(t)
	if code, _ := v.post("/bags/5/delete"); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	for _, path := range []string{"/bags/5", "/brews/17/recipe", "/brews/17/setup", "/brews/17/brew"} {
		if code, body := v.get(path); code != http.StatusGone || !strings.Contains(body, "off the shelf") {
			t.Errorf("%s: status %d", path, code)
		}
	}
	for _, path := range []string{"/bags/5/brew", "/brews/17/start"} {
		if code, _ := v.post(path); code != http.StatusGone {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, _ := v.post("/brews/16/again", "choice", "first"); code != http.StatusGone {
		t.Error("a deleted bag can be brewed again")
	}
	if code, body := v.get("/brews/16"); code != http.StatusOK || !strings.Contains(body, "Evening Seed") {
		t.Errorf("its brew left the log: status %d", code)
	}
	if _, body := v.get("/?removed=5"); !strings.Contains(body, `action="/bags/5/restore"`) {
		t.Error("nothing to undo it with")
	}
	v.post("/bags/5/restore")
	if code, _ := v.get("/brews/17/recipe"); code != http.StatusOK {
		t.Errorf("after the undo: status %d", code)
	}
}

func TestWhatIsNotThereIsSaidSo(t *testing.T) {
	v := visit(t)
	for _, path := range []string{"/brews/999", "/brews/999/recipe", "/bags/0", "/bags/-1", "/bags/abc", "/brews/99999999999999999999", "/nothing", "/gear/spoons/1", "/log?bag=x", "/static/none.css"} {
		if code, _ := v.get(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, body := v.get("/brews/17/cup"); code != http.StatusConflict || !strings.Contains(body, "Nothing is in the cup yet") {
		t.Errorf("a cup before the pour: status %d", code)
	}
	if code, _, _ := v.send("PUT", "/bags/1", nil); code != http.StatusMethodNotAllowed {
		t.Errorf("PUT: status %d", code)
	}
	if code, _ := v.post("/bags", "notes", strings.Repeat("y", maxBody+10)); code != http.StatusRequestEntityTooLarge {
		t.Errorf("a huge form: status %d", code)
	}
}

func TestAFormFromAnotherSiteIsRefused(t *testing.T) {
	v := visit(t)
	code, _, _ := v.send("POST", "/bags/1/delete", url.Values{}, "Origin", "http://elsewhere.test", "Sec-Fetch-Site", "cross-site")
	if code != http.StatusForbidden {
		t.Errorf("status %d", code)
	}
	if code, _ := v.get("/bags/1"); code != http.StatusOK {
		t.Error("the bag is gone")
	}
	if code, _, header := v.send("POST", "/theme", url.Values{"theme": {"night"}, "back": {"//elsewhere.test/"}}); code != http.StatusSeeOther || header.Get("Location") != "/" {
		t.Errorf("the theme leads to %s", header.Get("Location"))
	}
}

func TestABrewFromTapToTap(t *testing.T) {
	v := visit(t)
	path := fmt.Sprintf("/brews/%d", planned)
	if code, _ := v.post(path+"/touch", "key", "x", "kind", "advance"); code != http.StatusConflict {
		t.Errorf("a touch before the start: status %d", code)
	}
	v.post(path + "/start")
	if code, _ := v.post(path + "/start"); code != http.StatusSeeOther {
		t.Errorf("started twice: status %d", code)
	}
	if code, _ := v.post(path+"/recipe", "dose", "30"); code != http.StatusConflict {
		t.Errorf("a running recipe was changed: status %d", code)
	}
	began := v.now
	for i, at := range []int{14, 45, 62, 85, 102, 125, 142, 195} {
		v.now = began.Add(time.Duration(at) * time.Second)
		if code, _ := v.post(path+"/touch", "key", fmt.Sprint("k", i), "kind", "advance"); code != http.StatusSeeOther {
			t.Fatalf("touch %d: status %d", i, code)
		}
	}
	if code, body := v.post(path+"/touch", "key", "late", "kind", "advance"); code != http.StatusConflict || !strings.Contains(body, "not at that point") {
		t.Errorf("finished twice: status %d", code)
	}
	if code, _ := v.post(path+"/touch", "key", "odd", "kind", "dance"); code != http.StatusBadRequest {
		t.Errorf("an unknown touch: status %d", code)
	}
	if _, body := v.get(path + "/cup"); fields(body).Get("drawdown") != "3:15" {
		t.Errorf("the drawdown reads %q", fields(body).Get("drawdown"))
	}
}

func TestTheCupGivesTheYieldAndTheNextChange(t *testing.T) {
	v := visit(t)
	path := fmt.Sprintf("/brews/%d", untasted) // immersion, 16 g; its brewer keeps about 1.96 g/g
	for _, c := range []struct{ name, typed, says string }{
		{"tds", "14", "can be 0.2 to 6 %"}, {"beverage", "900", "is more than the"}, {"drawdown", "3.4", "is not a time"}, {"acidity", "7", "one of the five words"}, {"overall", "11", "can be 1 to 10"},
	} {
		code, body := v.post(path+"/cup", c.name, c.typed, "notes", "kept text")
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) || !strings.Contains(body, "kept text") {
			t.Errorf("%s %q: status %d, %v", c.name, c.typed, code, errorsIn(body))
		}
	}
	_, preview := v.post(path+"/cup", "beverage", "209", "tds", "1,30", "preview", "yes")
	if !strings.Contains(preview, "Immersion:") || !strings.Contains(preview, "± 0.5 %") {
		t.Error("the preview shows no yield of an immersion brew")
	}
	if b, _ := v.store.Brew(context.Background(), untasted); b.Status != "poured" {
		t.Error("the preview was kept")
	}
	if code, _ := v.post(path+"/cup", "beverage", "209", "tds", "1,30", "drawdown", "3:36", "acidity", "5", "sweetness", "2"); code != http.StatusSeeOther {
		t.Fatalf("saving: status %d", code)
	}
	_, next := v.get(path + "/next")
	if !strings.Contains(next, "Too little came out") || !strings.Contains(next, "1 click finer") {
		t.Error("a sour cup is not told to be ground finer")
	}
	code, _, header := v.send("POST", path+"/again", url.Values{"choice": {"first"}})
	if code != http.StatusSeeOther {
		t.Fatalf("again: status %d", code)
	}
	_, recipe := v.get(header.Get("Location"))
	if !strings.Contains(recipe, "1 click finer") || fields(recipe).Get("setting") != "26" {
		t.Errorf("the next recipe is set to %s clicks and marks nothing", fields(recipe).Get("setting"))
	}
}

func TestUnitsAreAPreference(t *testing.T) {
	v := visit(t)
	if code, _ := v.post("/settings", "mass", "oz", "heat", "°F", "altitude", "1500"); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	_, got, body := v.recipe()
	if got.Get("dose") != "0.63" || got.Get("temperature") != "196" || !strings.Contains(body, "fl oz") {
		t.Errorf("dose %s, water at %s", got.Get("dose"), got.Get("temperature"))
	}
	// Touching one field in ounces must not wear the others, which are shown rounded.
	v.recipe("temperature", "198")
	if b, _ := v.store.Brew(context.Background(), planned); b.Recipe.Dose != 18 || b.Recipe.Water != 297 {
		t.Errorf("the dose became %v g and the water %v g", b.Recipe.Dose, b.Recipe.Water)
	}
	if _, got, _ := v.recipe("dose", "0,7"); got.Get("dose") != "0.7" {
		t.Errorf("0.7 oz reads %s", got.Get("dose"))
	}
	if code, _ := v.post("/settings", "mass", "stone", "heat", "°C"); code != http.StatusUnprocessableEntity {
		t.Errorf("stones: status %d", code)
	}
}

// firstOfStream reads the first line of a stream while it stays open.
func firstOfStream(t *testing.T, address, cookie string) string {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, "GET", address, nil)
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Cookie", cookie)
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	line, err := bufio.NewReader(resp.Body).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	return line
}

// A stop by mistake, with a wet thumb, can be taken back.
func TestAStoppedBrewCanGoOn(t *testing.T) {
	v := visit(t)
	v.post("/brews/17/start")
	v.now = v.now.Add(50 * time.Second)
	v.post("/brews/17/abandon")
	if _, body := v.get("/brews/17"); !strings.Contains(body, "stopped before the end") || !strings.Contains(body, "at 0:50") {
		t.Error("the stopped brew is not in the log as far as it came")
	}
	if code, _ := v.post("/brews/17/touch", "key", "x", "kind", "advance"); code != http.StatusConflict {
		t.Errorf("a touch on a stopped brew: status %d", code)
	}
	v.now = v.now.Add(10 * time.Second)
	v.post("/brews/17/resume")
	if _, body := v.get("/brews/17/brew"); !strings.Contains(body, `data-elapsed="60"`) {
		t.Error("the clock did not go on with the water")
	}
	if code, _ := v.post("/brews/4/resume"); code != http.StatusConflict {
		t.Errorf("going on with a finished brew: status %d", code)
	}
}

func TestOnOtherAddressesAPasswordIsAskedFor(t *testing.T) {
	v := visit(t)
	if err := v.store.SavePassword(context.Background(), HashPassword("under the flower pot")); err != nil {
		t.Fatal(err)
	}
	var err error
	v.s, err = New(Config{Store: v.store, Log: v.s.Log, Now: v.s.Now, SignIn: true})
	if err != nil {
		t.Fatal(err)
	}
	for _, path := range []string{"/", "/log", "/brews/17/live", "/bags/1"} {
		if code, _, h := v.send("GET", path, nil); code != http.StatusSeeOther || h.Get("Location") != "/sign-in" {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, _ := v.post("/sign-in", "password", "guess"); code != http.StatusUnauthorized {
		t.Errorf("a wrong password: status %d", code)
	}
	code, _, header := v.send("POST", "/sign-in", url.Values{"password": {"under the flower pot"}})
	cookie, _, _ := strings.Cut(header.Get("Set-Cookie"), ";")
	if code != http.StatusSeeOther || cookie == "" {
		t.Fatalf("the right password: status %d", code)
	}
	if code, _, _ := v.send("GET", "/log", nil, "Cookie", cookie); code != http.StatusOK {
		t.Errorf("signed in: status %d", code)
	}
	// The stream to a running brew goes through the session too.
	srv := httptest.NewServer(v.s)
	t.Cleanup(srv.Close)
	t.Cleanup(v.s.Close)
	v.send("POST", "/brews/17/start", url.Values{}, "Cookie", cookie)
	if first := firstOfStream(t, srv.URL+"/brews/17/live", cookie); !strings.HasPrefix(first, "data: ") {
		t.Errorf("the stream begins with %q", first)
	}
	tries := 0
	for range 20 {
		if code, _ := v.post("/sign-in", "password", "guess"); code == http.StatusTooManyRequests {
			break
		}
		tries++
	}
	if tries >= 20 {
		t.Error("a password can be guessed without end")
	}
}
