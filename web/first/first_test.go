package first_test

import (
	"context"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/yard"
)

var ctx = context.Background()

// A newYard is an empty yard with a server.
type newYard struct {
	*testing.T
	store  *store.Store
	server *web.Server
}

func begin(t *testing.T) newYard {
	t.Helper()
	st, err := store.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	y, err := yard.Open(ctx, yard.Config{Store: st, Log: slog.New(slog.DiscardHandler), Now: func() time.Time {
		return time.Date(2026, 5, 12, 9, 40,
			0, 0, time.UTC)
	}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(y.Close)
	s, err := web.New(web.Config{Yard: y})
	if err != nil {
		t.Fatal(err)
	}
	return newYard{t, st, s}
}

// send requests a page, or posts a form of pairs.
func (y newYard) send(path string, form ...string) (int, string, string) {
	y.Helper()
	r := httptest.NewRequest("GET", "http://yard.test"+path, nil)
	if form != nil {
		values := url.Values{}
		for i := 0; i+1 < len(form); i += 2 {
			values.Set(form[i], form[i+1])
		}
		r = httptest.NewRequest("POST", "http://yard.test"+path, strings.NewReader(values.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	w := httptest.NewRecorder()
	y.server.ServeHTTP(w, r)
	if w.Code >= 500 {
		y.Errorf("%s: status %d", path, w.Code)
	}
	return w.Code, strings.ReplaceAll(w.Body.String(), "\u00a0", " "), w.Header().Get("Location")
}

// things counts the gear and the bags.
func (y newYard) things() (gear, bags int) {
	y.Helper()
	all, err := y.store.Things(ctx)
	if err != nil {
		y.Fatal(err)
	}
	shelf, err := y.store.Shelf(ctx, "", "", 100)
	if err != nil {
		y.Fatal(err)
	}
	return len(all), len(shelf)
}

var answers = []string{"brewer", "flat-bed", "grinder", "clicks", "setting", "24", "scale", "scale", "kettle", "boil", "high", "1500", "units", "ounces",
	"coffee", "High Field", "roast", "1"}

// An empty yard leads to the first question, and nothing is stored before the last answer, whichever question it is left at. Mutations
// caught: gear that a question adds, an answer that the next address forgets.
func TestAbandonedFirstRunStoresNothing(t *testing.T) {
	t.Parallel()
	y := begin(t)
	if code, _, to := y.send("/"); code != http.StatusSeeOther || to != "/first" {
		t.Fatalf("an empty yard: status %d, to %q", code, to)
	}
	query := url.Values{}
	for i, step := range []string{"brewer", "grinder", "measure", "units", "coffee"} {
		code, page, _ := y.send("/first/" + step + "?" + query.Encode())
		if code != http.StatusOK || !strings.Contains(page, "I do not know") {
			t.Errorf("%s: status %d", step, code)
		}
		for name := range query {
			if !strings.Contains(page, name+"="+query.Get(name)) && !strings.Contains(page, `name="`+name+`" value="`+query.Get(name)+`"`) {
				t.Errorf("%s has lost %s", step, name)
			}
		}
		if 2*i+1 < len(answers) && step != "measure" {
			query.Set(answers[2*i], answers[2*i+1])
		}
	}
	if g, b := y.things(); g != 0 || b != 0 {
		t.Errorf("%d pieces of gear and %d bags were stored", g, b)
	}
}

// The answers become gear, a bag and a recipe, and nothing else. Mutations caught: a roast that nobody entered, a brewer beside the chosen
// one, an altitude that was not asked for, a dial that does not give the typed setting.
func TestAnswersAreStored(t *testing.T) {
	t.Parallel()
	y := begin(t)
	code, page, to := y.send("/first", answers...)
	if code != http.StatusSeeOther || !strings.HasSuffix(to, "/recipe?first=1") {
		t.Fatalf("status %d, to %q: %.300s", code, to, page)
	}
	if g, b := y.things(); g != 3 || b != 1 {
		t.Errorf("%d pieces of gear and %d bags", g, b)
	}
	brewers, _ := y.store.Brewers(ctx)
	grinders, _ := y.store.Grinders(ctx)
	set, err := y.store.Settings(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	if brewers[0].Kind != gear.FlatBed || grinders[0].Burrs != gear.HandMill || grinders[0].Setting(650) != "24 clicks" || set.Altitude != 1500 ||
		!set.Ounces || set.Spoons {
		t.Errorf("%+v, %+v, %+v", brewers[0], grinders[0], set)
	}
	shelf, _ := y.store.Shelf(ctx, "", "", 9)
	if b := shelf[0]; b.Name != "High Field" || b.Roast != coffee.Light || b.Process != coffee.ProcessUnknown || b.Weight != 0 || b.RoastedOn != "" {
		t.Errorf("%+v", b.Bag.Bag)
	}
	_, page, _ = y.send(to)
	for _, says := range []string{"Your first recipe", "Why it starts here", "All settings", "off the boil"} {
		if !strings.Contains(page, says) {
			t.Errorf("the recipe does not say %q", says)
		}
	}
	if strings.Contains(page, `id="finer-points"`) || strings.Contains(page, `name="pours.1.water"`) {
		t.Error("the first recipe shows all settings")
	}
	y.send(strings.TrimSuffix(to, "recipe?first=1")+"view", "view", "full")
	if _, page, _ = y.send(to); !strings.Contains(page, `name="pours.1.water"`) {
		t.Error("all settings are not shown")
	}
}

// A person who knows nothing gets a recipe, too: an open cone, texture words, spoons or a scale, and an unknown coffee.
func TestNothingIsKnown(t *testing.T) {
	t.Parallel()
	y := begin(t)
	_, _, to := y.send("/first", "roast", "0")
	code, page, _ := y.send(to)
	if code != http.StatusOK || !strings.Contains(page, yard.FirstCoffee) || !strings.Contains(page, "like ") {
		t.Errorf("status %d: %.200s", code, page)
	}
	if code, page, _ := y.send("/"); code != http.StatusOK || !strings.Contains(page, "roast unknown") || !strings.Contains(page, "weight unknown") {
		t.Errorf("the shelf: status %d", code)
	}
}

// A kettle, spoons and a blade give an honest recipe: level spoons, mugs, seconds off the boil and of grinding, and the error. Bought ground
// coffee has no grind to change. Mutations caught: a recipe in grams, an advice to grind finer what cannot be ground.
func TestRecipesWithoutInstruments(t *testing.T) {
	t.Parallel()
	y := begin(t)
	_, _, to := y.send("/first", "brewer", "open-cone", "grinder", "blade", "scale", "spoons", "kettle", "boil", "high", "0", "units", "metric", "roast", "4")
	_, page, _ := y.send(to)
	for _, says := range []string{"2.5 tbsp", "1 mug", "Without a scale", "about 2:", "about 11 s", "like coarse sand", "accurate to about ± 16 %",
		"A blade cannot repeat"} {
		if !strings.Contains(page, says) {
			t.Errorf("without a scale, the recipe does not say %q", says)
		}
	}
	y = begin(t)
	_, _, to = y.send("/first", "grinder", "bought ground", "kettle", "set", "scale", "scale", "roast", "3")
	_, page, _ = y.send(to)
	if !strings.Contains(page, "sold ground for filters") || !strings.Contains(page, "(as bought)") ||
		strings.Contains(page, "Grind finer") || strings.Contains(page, "Grind coarser") {
		t.Error("the recipe for bought ground coffee does not say why, or asks to grind it")
	}
	if _, page, _ = y.send(strings.TrimSuffix(to, "recipe?first=1") + "setup"); strings.Contains(page, "Grind last") {
		t.Error("bought ground coffee is to be ground")
	}
}

// Two screens that answer at once, and a yard that was restored in between, get no double gear or bags. Mutations caught: gear that is added
// without looking, an existing yard whose altitude is overwritten.
func TestFirstRunOfTwoScreens(t *testing.T) {
	t.Parallel()
	y := begin(t)
	var both sync.WaitGroup
	for range 2 {
		both.Go(func() { y.send("/first", answers...) })
	}
	both.Wait()
	y.send("/first", append([]string{"brewer", "valve-steeper"}, answers[2:]...)...)
	if g, b := y.things(); g != 4 || b != 1 {
		t.Errorf("%d pieces of gear and %d bags, want one brewer more and one bag", g, b)
	}
	y.send("/first", "roast", "0")
	if set, _ := y.store.Settings(ctx, ""); set.Altitude != 1500 {
		t.Errorf("the altitude is %d m", set.Altitude)
	}
}

// Bad answers get a sentence and keep what was typed. Skipping adds the usual gear once, and only to an empty yard.
func TestBadAnswersAndSkipping(t *testing.T) {
	t.Parallel()
	y := begin(t)
	code, page, _ := y.send("/first/measure?grinder=clicks&setting=many&brewer=nonsense")
	if code != http.StatusUnprocessableEntity || !strings.Contains(page, `value="many"`) || !strings.Contains(page, `class="error"`) ||
		strings.Contains(page, "nonsense") {
		t.Errorf("a wrong setting: status %d", code)
	}
	if code, page, _ := y.send("/first", "coffee", strings.Repeat("x", 81), "roast", "2"); code != http.StatusUnprocessableEntity ||
		!strings.Contains(page, "xxx") {
		t.Errorf("a long name: status %d", code)
	}
	for _, roast := range []string{"", "9", "dark"} {
		if code, _, _ := y.send("/first", "coffee", "A", "roast", roast); code != http.StatusUnprocessableEntity {
			t.Errorf("a roast of %q: status %d", roast, code)
		}
	}
	if g, b := y.things(); g+b != 0 {
		t.Fatalf("%d pieces of gear and %d bags were stored", g, b)
	}
	y.send("/first/skip", "once", "1")
	y.send("/first/skip", "once", "2")
	brewers, grinders, kettles := gear.Starter()
	if g, _ := y.things(); g != len(brewers)+len(grinders)+len(kettles) {
		t.Errorf("%d pieces of gear after skipping", g)
	}
}
