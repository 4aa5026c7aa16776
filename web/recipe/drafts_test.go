package recipe_test

import (
	"cmp"
	"context"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/web/webtest"
)

// A new recipe never overwrites a draft. Requesting the same one twice creates one.
func TestBrewingAgainKeepsTheDraft(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Recipe("dose", "19")
	for _, from := range []string{"/brews/evening-seed-1/again", "/brews/evening-seed-1/again"} {
		if code, _, header := v.Send("POST", from, map[string][]string{"choice": {"same"}}); code != http.StatusSeeOther ||
			strings.Contains(header.Get("Location"), webtest.Planned) {
			t.Errorf("brewing again: status %d, to %s", code, header.Get("Location"))
		}
	}
	if _, page := v.Get("/brews/" + webtest.Planned + "/recipe"); webtest.Fields(page).Get("dose") != "19" {
		t.Errorf("the draft has a dose of %s", webtest.Fields(page).Get("dose"))
	}
	if _, page := v.Get("/bags/evening-seed"); strings.Count(page, "<strong>Draft from") != 2 {
		t.Errorf("%d recipes on the bag", strings.Count(page, "Draft from"))
	}
}

// Twenty tablets that press the same button at once get the same recipe, and then the same brew.
func TestTwentyAtOnceGetOneRecipeAndOneBrew(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	led := func(path string) (to string) {
		answers := make(chan *httptest.ResponseRecorder, 20)
		for range cap(answers) {
			go func() {
				r := httptest.NewRequest(http.MethodPost, "http://yard.test"+path, strings.NewReader("choice=same"))
				r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				w := httptest.NewRecorder()
				v.Server.ServeHTTP(w, r)
				answers <- w
			}()
		}
		for range cap(answers) {
			w := <-answers
			at := w.Header().Get("Location")
			if to = cmp.Or(to, at); w.Code != http.StatusSeeOther || at != to {
				t.Errorf("%s: status %d to %q, others went to %q", path, w.Code, at, to)
			}
		}
		return to
	}
	if to := led("/bags/evening-seed/brew"); to != "/brews/"+webtest.Planned+"/recipe" {
		t.Errorf("a bag with a draft led to %q", to)
	}
	for _, path := range []string{"/bags/slate-terrace/brew", "/brews/orchard-wall-1/again"} {
		recipe := led(path)
		brew := led(strings.TrimSuffix(recipe, "/recipe") + "/start")
		if code, _ := v.Get(brew); code != http.StatusOK {
			t.Errorf("%s: %s answers %d", path, brew, code)
		}
	}
}

func TestRecipeIsKeptAndBrewedFromAgain(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if code, body := v.Post("/brews/slate-terrace-4/keep", "name", " "); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "cannot be empty") {
		t.Errorf("without a name: status %d", code)
	}
	if code, _ := v.Post("/brews/slate-terrace-4/keep", "name", "The <one>"); code != http.StatusSeeOther {
		t.Fatalf("keeping: status %d", code)
	}
	v.Post("/gear/grinders/bench-grinder/retire") // the gear of a kept recipe may be retired
	drafts, err := v.Store.Drafts(context.Background(), "slate-terrace", 10)
	at := slices.IndexFunc(drafts, func(d brew.Draft) bool { return d.Name == "The <one>" })
	if err != nil || at < 0 {
		t.Fatalf("kept: %+v, %v", drafts, err)
	}
	kept := "/brews/" + drafts[at].ID
	_, page := v.Get("/bags/slate-terrace")
	if !strings.Contains(page, "The &lt;one&gt;") || !strings.Contains(page, kept+"/copy") {
		t.Error("the bag does not offer the kept recipe")
	}
	for _, path := range []string{"/setup", "/brew"} {
		if code, _, header := v.Send("GET", kept+path, nil); code != http.StatusSeeOther || header.Get("Location") != kept+"/recipe" {
			t.Errorf("%s of a kept recipe: status %d", path, code)
		}
	}
	for _, path := range []string{"/recipe", "/start", "/setup", "/solve"} {
		if code, _ := v.Post(kept+path, "goal", "goal_drain", "goal_drain", "3:00", "list", "shown"); code != http.StatusConflict {
			t.Errorf("%s changes a kept recipe: status %d", path, code)
		}
	}
	_, _, header := v.Send("POST", kept+"/copy", map[string][]string{})
	copied := header.Get("Location")
	code, page := v.Get(copied)
	if code != http.StatusOK || webtest.Fields(page).Get("grinder") != "bench-grinder" || !strings.Contains(page, "Bench grinder") {
		t.Errorf("brewing from it: status %d with the grinder %s", code, webtest.Fields(page).Get("grinder"))
	}
	if code, _ := v.Post(strings.TrimSuffix(copied, "/recipe") + "/start"); code != http.StatusSeeOther {
		t.Errorf("beginning it: status %d", code)
	}
	if drafts, _ := v.Store.Drafts(context.Background(), "slate-terrace", 10); slices.ContainsFunc(drafts,
		func(d brew.Draft) bool { return d.Name == "" }) {
		t.Errorf("afterwards the bag has %+v", drafts)
	}
}

func TestArchivedRecipeIsRestored(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, _, header := v.Send("POST", "/brews/"+webtest.Planned+"/discard", map[string][]string{})
	_, page := v.Get(header.Get("Location"))
	if !strings.Contains(page, `action="/recipes/`+webtest.Planned+`/restore"`) {
		t.Error("nothing to undo it with")
	}
	if code, _ := v.Get("/brews/" + webtest.Planned + "/recipe"); code != http.StatusNotFound {
		t.Errorf("archived, but still there: status %d", code)
	}
	if code, _ := v.Post("/recipes/" + webtest.Planned + "/restore"); code != http.StatusSeeOther {
		t.Errorf("taking it back: status %d", code)
	}
	if code, _ := v.Get("/brews/" + webtest.Planned + "/recipe"); code != http.StatusOK {
		t.Errorf("taken back: status %d", code)
	}
}

// upload sends a file to a bag as a browser does.
func upload(v *webtest.Visitor, bag, name string, content []byte) (int, string, string) {
	v.T.Helper()
	code, page, header := v.Upload("/bags/"+bag+"/recipes", "file", name, content)
	return code, page, header.Get("Location")
}

// An exported recipe file can be imported for another bag.
func TestRecipeFileImport(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Recipe("pours.3.temperature", "88", "bloom", "2.5")
	_, file := v.Get("/brews/" + webtest.Planned + "/recipe.json")
	code, body, to := upload(v, "first-frost", "recipe.json", []byte(file))
	if code != http.StatusSeeOther {
		t.Fatalf("status %d: %v", code, webtest.ErrorsIn(body))
	}
	_, page := v.Get(to)
	id := strings.TrimSuffix(strings.TrimPrefix(to, "/brews/"), "/recipe")
	d, _, err := v.Store.Draft(context.Background(), id)
	if err != nil || d.BagID != "first-frost" || d.Recipe.Pours[2].Temperature != 88 || d.Recipe.Value(recipe.AddressOf(recipe.Bloom)) != 2.5 ||
		webtest.Fields(page).Get("bloom") != "2.5" {
		t.Errorf("came in as %+v (%v)", d.Recipe, err)
	}
	for name, c := range map[string]struct {
		content, says string
		status        int
	}{
		"no json":      {"once upon a time", "This is not a recipe file", http.StatusUnprocessableEntity},
		"other format": {`{"format": "x"}`, "another kind of file", http.StatusUnprocessableEntity},
		"does not add": {strings.Replace(file, `"water_g": 297`, `"water_g": 397`, 1), "water_g: ", http.StatusUnprocessableEntity},
		"hostile text": {strings.Replace(file, `"spiral"`, `"<script>alert(1)</script>"`, 1), "&lt;script&gt;",
			http.StatusUnprocessableEntity},
		"no such gear":  {strings.Replace(file, `"open-cone"`, `"heavy-paper-cone"`, 1), "", http.StatusSeeOther},
		"too much text": {strings.Repeat("x", 2<<20), "", http.StatusRequestEntityTooLarge},
	} {
		code, body, _ := upload(v, "first-frost", "recipe.json", []byte(c.content))
		if code != c.status || !strings.Contains(body, c.says) {
			t.Errorf("%s: status %d, %v", name, code, webtest.ErrorsIn(body))
		}
	}
	if code, body, _ := upload(v, "first-frost", "", nil); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "Choose a recipe file first") {
		t.Errorf("no file: status %d", code)
	}
}

// A single pour is set by its address, like everything else.
func TestSinglePourIsSetByItsAddress(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, got, _ := v.Recipe("pours.4.temperature", "86", "pours.2.then", "x", "pours.2.hand", "tap")
	if got.Get("pours.4.temperature") != "86" || got.Get("pours.2.hand") != "tap" || got.Get("pours.3.temperature") != "91" {
		t.Errorf("the schedule does not show the two pours: %v", got)
	}
	if code, _, body := v.Recipe("pours.4.rate", "90"); code != http.StatusUnprocessableEntity {
		t.Errorf("a rate of 90 g/s in one pour: status %d, %v", code, webtest.ErrorsIn(body))
	}
}
