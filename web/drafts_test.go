package web

import (
	"bytes"
	"cmp"
	"context"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/demo"
)

// Another recipe never takes the place of one that is in the making. Asking for the
// same one twice gives it once.
func TestBrewingAgainLeavesTheRecipeInTheMakingAlone(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.recipe("dose", "19")
	for _, from := range []string{"/brews/evening-seed-1/again", "/brews/evening-seed-1/again"} {
		if code, _, header := v.send("POST", from, map[string][]string{"choice": {"same"}}); code != http.StatusSeeOther || strings.Contains(header.Get("Location"), planned) {
			t.Errorf("brewing again: status %d, to %s", code, header.Get("Location"))
		}
	}
	if _, page := v.get("/brews/" + planned + "/recipe"); fields(page).Get("dose") != "19" {
		t.Errorf("the recipe in the making has a dose of %s", fields(page).Get("dose"))
	}
	if _, page := v.get("/bags/evening-seed"); strings.Count(page, "<strong>In the making since") != 2 {
		t.Errorf("%d recipes on the bag", strings.Count(page, "In the making since"))
	}
}

// Twenty tablets that press the same button at once are led to the one recipe, and then
// to the one brew, that there is.
func TestTwentyAtOnceGetOneRecipeAndOneBrew(t *testing.T) {
	t.Parallel()
	v := visit(t)
	led := func(path string) (to string) {
		answers := make(chan *httptest.ResponseRecorder, 20)
		for range cap(answers) {
			go func() {
				r := httptest.NewRequest(http.MethodPost, "http://yard.test"+path, strings.NewReader("choice=same"))
				r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				w := httptest.NewRecorder()
				v.s.ServeHTTP(w, r)
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
	if to := led("/bags/evening-seed/brew"); to != "/brews/"+planned+"/recipe" {
		t.Errorf("a bag with a recipe in the making led to %q", to)
	}
	for _, path := range []string{"/bags/slate-terrace/brew", "/brews/orchard-wall-1/again"} {
		recipe := led(path)
		brew := led(strings.TrimSuffix(recipe, "/recipe") + "/start")
		if code, _ := v.get(brew); code != http.StatusOK {
			t.Errorf("%s: %s answers %d", path, brew, code)
		}
	}
}

func TestARecipeIsKeptAndBrewedFromAgain(t *testing.T) {
	t.Parallel()
	v := visit(t)
	if code, body := v.post("/brews/slate-terrace-4/keep", "name", " "); code != http.StatusUnprocessableEntity || !strings.Contains(body, "cannot be empty") {
		t.Errorf("without a name: status %d", code)
	}
	if code, _ := v.post("/brews/slate-terrace-4/keep", "name", "The <one>"); code != http.StatusSeeOther {
		t.Fatalf("keeping: status %d", code)
	}
	v.post("/gear/grinders/bench-grinder/retire") // what a kept recipe needs may leave the lists
	drafts, err := v.store.Drafts(context.Background(), "slate-terrace", 10)
	at := slices.IndexFunc(drafts, func(d brew.Draft) bool { return d.Name == "The <one>" })
	if err != nil || at < 0 {
		t.Fatalf("kept: %+v, %v", drafts, err)
	}
	kept := "/brews/" + drafts[at].ID
	_, page := v.get("/bags/slate-terrace")
	if !strings.Contains(page, "The &lt;one&gt;") || !strings.Contains(page, kept+"/copy") {
		t.Error("the bag does not offer the kept recipe")
	}
	for _, path := range []string{"/setup", "/brew"} {
		if code, _, header := v.send("GET", kept+path, nil); code != http.StatusSeeOther || header.Get("Location") != kept+"/recipe" {
			t.Errorf("%s of a kept recipe: status %d", path, code)
		}
	}
	for _, path := range []string{"/recipe", "/start", "/setup", "/solve"} {
		if code, _ := v.post(kept+path, "goal", "goal_drain", "goal_drain", "3:00", "list", "shown"); code != http.StatusConflict {
			t.Errorf("%s changes a kept recipe: status %d", path, code)
		}
	}
	_, _, header := v.send("POST", kept+"/copy", map[string][]string{})
	copied := header.Get("Location")
	code, page := v.get(copied)
	if code != http.StatusOK || fields(page).Get("grinder") != "bench-grinder" || !strings.Contains(page, "Bench grinder") {
		t.Errorf("brewing from it: status %d with the grinder %s", code, fields(page).Get("grinder"))
	}
	if code, _ := v.post(strings.TrimSuffix(copied, "/recipe") + "/start"); code != http.StatusSeeOther {
		t.Errorf("beginning it: status %d", code)
	}
	if drafts, _ := v.store.Drafts(context.Background(), "slate-terrace", 10); slices.ContainsFunc(drafts, func(d brew.Draft) bool { return d.Name == "" }) {
		t.Errorf("afterwards the bag has %+v", drafts)
	}
}

func TestARecipePutAsideIsTakenBack(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, _, header := v.send("POST", "/brews/"+planned+"/discard", map[string][]string{})
	_, page := v.get(header.Get("Location"))
	if !strings.Contains(page, `action="/recipes/`+planned+`/restore"`) {
		t.Error("nothing to undo it with")
	}
	if code, _ := v.get("/brews/" + planned + "/recipe"); code != http.StatusNotFound {
		t.Errorf("put aside it is still there: status %d", code)
	}
	if code, _ := v.post("/recipes/" + planned + "/restore"); code != http.StatusSeeOther {
		t.Errorf("taking it back: status %d", code)
	}
	if code, _ := v.get("/brews/" + planned + "/recipe"); code != http.StatusOK {
		t.Errorf("taken back: status %d", code)
	}
}

// upload sends a file to a bag as a browser does.
func (v *visitor) upload(bag, name string, content []byte) (int, string, string) {
	v.t.Helper()
	var body bytes.Buffer
	m := multipart.NewWriter(&body)
	if name != "" {
		part, _ := m.CreateFormFile("file", name)
		_, _ = part.Write(content)
	}
	m.Close()
	code, page, header := v.sendBody("/bags/"+bag+"/recipes", m.FormDataContentType(), body.String())
	return code, page, header.Get("Location")
}

// A recipe goes out as a file and comes in again, on another bag.
func TestARecipeFileComesInAgain(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.recipe("pours.3.temperature", "88", "bloom", "2.5")
	_, file := v.get("/brews/" + planned + "/recipe.json")
	code, body, to := v.upload("first-frost", "recipe.json", []byte(file))
	if code != http.StatusSeeOther {
		t.Fatalf("status %d: %v", code, errorsIn(body))
	}
	_, page := v.get(to)
	id := strings.TrimSuffix(strings.TrimPrefix(to, "/brews/"), "/recipe")
	d, _, err := v.store.Draft(context.Background(), id)
	if err != nil || d.BagID != "first-frost" || d.Recipe.Pours[2].Temperature != 88 || d.Recipe.Value(recipe.Of(recipe.Bloom)) != 2.5 || fields(page).Get("bloom") != "2.5" {
		t.Errorf("came in as %+v (%v)", d.Recipe, err)
	}
	for name, c := range map[string]struct {
		content, says string
		status        int
	}{
		"no json":       {"once upon a time", "This is not a recipe file", http.StatusUnprocessableEntity},
		"other format":  {`{"format": "x"}`, "another kind of file", http.StatusUnprocessableEntity},
		"does not add":  {strings.Replace(file, `"water_g": 297`, `"water_g": 397`, 1), "water_g: ", http.StatusUnprocessableEntity},
		"hostile text":  {strings.Replace(file, `"spiral"`, `"<script>alert(1)</script>"`, 1), "&lt;script&gt;", http.StatusUnprocessableEntity},
		"no such gear":  {strings.Replace(file, `"open-cone"`, `"heavy-paper-cone"`, 1), "", http.StatusSeeOther},
		"too much text": {strings.Repeat("x", maxBody+1), "", http.StatusRequestEntityTooLarge},
	} {
		code, body, _ := v.upload("first-frost", "recipe.json", []byte(c.content))
		if code != c.status || !strings.Contains(body, c.says) {
			t.Errorf("%s: status %d, %v", name, code, errorsIn(body))
		}
	}
	if code, body, _ := v.upload("first-frost", "", nil); code != http.StatusUnprocessableEntity || !strings.Contains(body, "Choose a recipe file first") {
		t.Errorf("no file: status %d", code)
	}
}

// A single pour is set by its address, like everything else.
func TestASinglePourIsSetByItsAddress(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, got, _ := v.recipe("pours.4.temperature", "86", "pours.2.then", "x", "pours.2.hand", "tap")
	if got.Get("pours.4.temperature") != "86" || got.Get("pours.2.hand") != "tap" || got.Get("pours.3.temperature") != "91" {
		t.Errorf("the schedule does not show the two pours: %v", got)
	}
	if code, _, body := v.recipe("pours.4.rate", "90"); code != http.StatusUnprocessableEntity {
		t.Errorf("a rate of 90 g/s in one pour: status %d, %v", code, errorsIn(body))
	}
}

// Each page of a long history stays small, and leads on to the next.
func TestPagesOfALongHistoryStaySmall(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	v := visit(t)
	if err := demo.FillLarge(context.Background(), v.store, morning, 1800, 7); err != nil {
		t.Fatal(err)
	}
	seen := map[string]int{}
	for _, start := range []string{"/", "/log", "/log?bag=" + demo.LargeBag} {
		for path := start; path != ""; seen[start]++ {
			code, body := v.get(path)
			if code != http.StatusOK || len(body) > 60_000 {
				t.Fatalf("%s: status %d, %d bytes", path, code, len(body))
			}
			path = ""
			for _, word := range []string{"Older bags", "Earlier brews"} {
				if before, _, more := strings.Cut(body, `">`+word); more {
					path = strings.ReplaceAll(before[strings.LastIndex(before, `href="`)+len(`href="`):], "&amp;", "&")
				}
			}
		}
	}
	if seen["/"] != 2 || seen["/log"] != 76 || seen["/log?bag="+demo.LargeBag] != 3 {
		t.Errorf("pages: %v", seen)
	}
	for _, path := range []string{"/bags/" + demo.LargeBag, "/brews/" + demo.LargeBrew, "/brews/" + demo.LargeBrew + "/next"} {
		if code, body := v.get(path); code != http.StatusOK || len(body) > 60_000 {
			t.Errorf("%s: status %d, %d bytes", path, code, len(body))
		}
	}
}
