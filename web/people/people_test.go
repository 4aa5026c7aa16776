package people_test

import (
	"encoding/json"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/web/webtest"
)

// A yard of one person shows no names, whether the person was entered or not. Mutation caught: a header, a field or
// a column that appears with the first person.
func TestOnePersonSeesNoNames(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	paths := []string{"/", "/log", "/brews/slate-terrace-4", "/brews/slate-terrace-4/cup", "/brews/slate-terrace-4/next", "/book", "/practice",
		"/side", "/trials", "/stage", "/rush", "/settings"}
	for range 2 {
		for _, path := range paths {
			_, page := v.Get(path)
			for _, name := range []string{`class="chooser"`, `class="badge"`, `class="tasters"`, "Ada", "the yard belong", `id="who-title"`, `name="taster"`} {
				if strings.Contains(page, name) {
					t.Errorf("%s shows %s", path, name)
				}
			}
		}
		if code, page := v.Post("/people", "name", "Ada", "mark", "leaf", "takes_over", "yes"); code != http.StatusSeeOther &&
			code != http.StatusUnprocessableEntity {
			t.Fatalf("adding the first person: %d, %v", code, webtest.ErrorsIn(page))
		}
	}
	// Everything entered before is hers, and her words on a cup stay.
	b, err := v.Store.Brew(t.Context(), "slate-terrace-4")
	if err != nil || b.BrewedBy == "" || b.Taster != b.BrewedBy || b.Cup.Overall != 8 {
		t.Errorf("brewed by %q, tasted by %q: %d, %v", b.BrewedBy, b.Taster, b.Cup.Overall, err)
	}
}

// Mutations caught: a name cut at 200 characters, a name of direction marks, two people of one name, typed text lost.
func TestInvalidNamesKeepTheirText(t *testing.T) {
	t.Parallel()
	v := webtest.VisitPeople(t)
	for _, c := range []struct{ field, typed, says string }{
		{"name", "", "cannot be empty"},
		{"name", "\u202e\u2066", "cannot be empty"},
		{"name", strings.Repeat("ä", 200), "up to 40 characters; this has 200"},
		{"name", "MARTA", "already a MARTA"},
		{"initials", "ABCD", "up to 3 characters; these have 4"},
		{"mark", "skull", "Choose one for the mark"},
	} {
		form := url.Values{"name": {"Nora"}, "initials": {""}, "mark": {"sun"}}
		form.Set(c.field, c.typed)
		code, page, _ := v.Send("POST", "/people", form)
		if code != http.StatusUnprocessableEntity || !strings.Contains(page, c.says) || c.field != "mark" && !strings.Contains(page, c.typed) {
			t.Errorf("%s %q: %d, %v", c.field, webtest.Short(c.typed), code, webtest.ErrorsIn(page))
		}
	}
	for _, name := range []string{"🌿", "נועה לוי", "Nora", strings.Repeat("ä", 40)} {
		if code, page := v.Post("/people", "name", name, "mark", "sun"); code != http.StatusSeeOther {
			t.Errorf("%q: %d, %v", name, code, webtest.ErrorsIn(page))
		}
		if _, page := v.Get("/people"); !strings.Contains(page, "<bdi>"+name+"</bdi>") {
			t.Errorf("%q is not shown by itself", name)
		}
	}
	if all, err := v.Store.People(t.Context()); err != nil || len(all) != 8 {
		t.Errorf("%d people, %v", len(all), err)
	}
}

// Two people taste one brew: two tastings and two pieces of advice; the Next station tells that they differ.
// Mutations caught: the second tasting replaces the first, the advice of one for both, the screen's person ignored.
func TestTwoTastingsOfOneBrew(t *testing.T) {
	t.Parallel()
	v := webtest.VisitPeople(t)
	fine := []string{"warm.acidity", "3", "warm.sweetness", "4", "overall", "9", "serve", "yes"}
	thin := []string{"warm.acidity", "3", "warm.sweetness", "4", "warm.body", "1", "overall", "5", "serve", "no"}
	path := "/brews/" + webtest.Poured
	for _, c := range []struct {
		here, query string
		typed       []string
	}{{"tilda", "", fine}, {"tilda", "?for=ivo", thin}} {
		v.Here = c.here
		code, page, header := v.Send("POST", path+"/cup"+c.query, pairs(append([]string{"tds", "1.25", "beverage", "205"}, c.typed...)...))
		if code != http.StatusSeeOther {
			t.Fatalf("%s%s: status %d, %v", c.here, c.query, code, webtest.ErrorsIn(page))
		}
		if want := map[string]string{"": "for=tilda", "?for=ivo": "for=ivo"}[c.query]; !strings.Contains(header.Get("Location"), want) {
			t.Errorf("%s leads to %s", c.query, header.Get("Location"))
		}
	}
	b, err := v.Store.Brew(t.Context(), webtest.Poured)
	if err != nil || len(b.Tastings) != 2 || b.For("tilda").Cup.Overall != 9 || b.For("ivo").Cup.Overall != 5 || b.MeasuredBy != "tilda" {
		t.Fatalf("tastings: %+v, measured by %q, %v", b.Tastings, b.MeasuredBy, err)
	}
	_, tilda := v.Get(path + "/next")
	_, ivo := v.Get(path + "/next?for=ivo")
	if !strings.Contains(tilda, "What next for <bdi>Tilda</bdi>?") || !strings.Contains(ivo, "What next for <bdi>Ivo</bdi>?") {
		t.Error("the advice does not say for whom it is")
	}
	if a, b := b.For("tilda").Advice, b.For("ivo").Advice; a.Summary() == b.Summary() || !strings.Contains(tilda, a.Verdict) ||
		!strings.Contains(ivo, b.Verdict) {
		t.Errorf("Tilda: %s; Ivo: %s", a.Summary(), b.Summary())
	}
	if !strings.Contains(tilda, "Tastes differ: fine for Tilda, stronger for Ivo") {
		t.Errorf("nothing says that tastes differ: %q, %q", b.For("tilda").Advice.Summary(), b.For("ivo").Advice.Summary())
	}
	// A wish of Ivo's changes his advice alone.
	if code, _ := v.Post(path+"/answer?for=ivo", "say", "lighter"); code != http.StatusSeeOther {
		t.Errorf("a wish: %d", code)
	}
	after, err := v.Store.Brew(t.Context(), webtest.Poured)
	if err != nil || !after.For("ivo").Cup.Wants["lighter"] || len(after.For("tilda").Cup.Wants) > 0 ||
		after.For("tilda").Advice.Summary() != b.For("tilda").Advice.Summary() {
		t.Errorf("after Ivo's wish: %+v, %v", after.Tastings, err)
	}
	// A person who has not tasted it sees the first tasting, and may add theirs.
	v.Here = "bruno"
	if _, page := v.Get(path + "/next"); !strings.Contains(page, "You have not tasted this cup.") || !strings.Contains(page, "for <bdi>Tilda</bdi>") {
		t.Error("Bruno is not asked to taste")
	}
	if _, page := v.Get(path + "/cup"); strings.Contains(page, `name="warm.acidity" value="3" checked`) || !strings.Contains(page, `value="1.25"`) {
		t.Error("Bruno's cup has Tilda's words, or lacks the TDS")
	}
	// A corrected measurement changes the advice of all tasters.
	if code, page := v.Post(path+"/cup", append([]string{"tds", "1.55", "beverage", "205 g"}, thin...)...); code != http.StatusSeeOther {
		t.Fatalf("a correction: %d, %v", code, webtest.ErrorsIn(page))
	}
	corrected, err := v.Store.Brew(t.Context(), webtest.Poured)
	if err != nil || corrected.MeasuredBy != "bruno" || corrected.For("ivo").Advice.Map.Cups[0] == after.For("ivo").Advice.Map.Cups[0] &&
		len(corrected.For("ivo").Advice.Map.Cups) == 1 {
		t.Errorf("after the correction: measured by %q, %v", corrected.MeasuredBy, err)
	}
}

func pairs(of ...string) url.Values {
	out := url.Values{}
	for i := 0; i+1 < len(of); i += 2 {
		out.Add(of[i], of[i+1])
	}
	return out
}

// Each person has their units, theme, sound and defaults; gear and altitude are the yard's. Mutations caught:
// settings of the yard for everybody; a form of one person saved for another.
func TestPreferencesBelongToThePerson(t *testing.T) {
	t.Parallel()
	v := webtest.VisitPeople(t)
	v.Here = "bruno"
	_, imperial := v.Get("/brews/slate-terrace-4")
	v.Here = "marta"
	_, metric := v.Get("/brews/slate-terrace-4")
	if !strings.Contains(imperial, " °F") || strings.Contains(metric, " °F") {
		t.Error("Bruno and Marta read the same units")
	}
	for path, form := range map[string]url.Values{"/theme": {"theme": {"night"}, "back": {"/"}}, "/people/sound": {"sound": {"voice"}}} {
		if code, _, _ := v.Send("POST", path, form); code >= 400 {
			t.Errorf("%s: %d", path, code)
		}
	}
	_, marta := v.Get("/log")
	v.Here = "ivo"
	_, ivo := v.Get("/log")
	if !strings.Contains(marta, `data-theme="night"`) || !strings.Contains(marta, `data-sound="voice"`) || strings.Contains(ivo, `data-theme="night"`) {
		t.Error("theme or sound of Marta are lost, or Ivo's too")
	}
	if code, page := v.Post("/settings", "mass", "oz", "heat", "°C", "altitude", "300", "person", "marta"); code != http.StatusConflict ||
		!strings.Contains(page, "Another person is here now") {
		t.Errorf("Marta's form at Ivo's screen: %d", code)
	}
	_, page := v.Get("/schools")
	defaults := webtest.Fields(page)
	defaults.Set("good", "6")
	if code, page, _ := v.Send("POST", "/schools", defaults); code != http.StatusSeeOther {
		t.Errorf("Ivo's defaults: %d, %v", code, webtest.ErrorsIn(page))
	}
	set, err := v.Store.Settings(t.Context(), "ivo")
	other, err2 := v.Store.Settings(t.Context(), "marta")
	if err != nil || err2 != nil || set.Habits().Good != 6 || other.Habits().Good == 6 || other.Ounces {
		t.Errorf("Ivo %+v, Marta %+v", set.Habits(), other.Habits())
	}
}

// A tablet whose person is archived or removed asks again, and its queued taps keep the name with which they were
// made. Mutations caught: a page that fails for an unknown person; a tap under the name of the present person.
func TestTabletOfAnArchivedPerson(t *testing.T) {
	t.Parallel()
	v := webtest.VisitPeople(t)
	v.Here = "tilda"
	if code, _ := v.Post("/brews/"+webtest.Planned+"/start", "key", "start", "by", "tilda"); code != http.StatusSeeOther {
		t.Fatalf("start: %d", code)
	}
	if code, _ := v.Post("/people/tilda/archive", "sure", "yes"); code != http.StatusSeeOther {
		t.Fatalf("archive: %d", code)
	}
	if _, page := v.Get("/log"); !strings.Contains(page, "Who is here?") || strings.Contains(page, `aria-label="Tilda"`) {
		t.Error("the screen of an archived person does not ask who is here")
	}
	tap := func(key, by string) {
		if code, page := v.Post("/brews/"+webtest.Planned+"/tap", "key", key, "kind", "mark", "mark", "channel", "at", "3", "by",
			by); code != http.StatusSeeOther {
			t.Errorf("a tap by %q: %d, %v", by, code, webtest.ErrorsIn(page))
		}
	}
	v.Here = "ivo"
	tap("queued", "tilda")
	if code, _ := v.Post("/people/tilda/remove", "sure", "yes"); code != http.StatusSeeOther {
		t.Fatalf("remove: %d", code)
	}
	tap("later", "tilda")
	tap("now", "ivo")
	b, err := v.Store.Brew(t.Context(), webtest.Planned)
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]string{}
	for _, e := range b.Events {
		if e.Kind != brew.Heated { // the simulated kettle's, at any time
			got[e.Key] = e.By
		}
	}
	if got["queued"] != "" || got["later"] != "" || got["now"] != "ivo" || len(got) != 4 || b.BrewedBy != "" {
		t.Errorf("taps: %v, brewed by %q", got, b.BrewedBy)
	}
	if code, _ := v.Get("/brews/" + webtest.Poured + "/cup?for=tilda"); code != http.StatusGone {
		t.Errorf("the cup of a removed person: %d", code)
	}
	if code, _ := v.Post("/people/here", "person", "tilda", "back", "/"); code != http.StatusNotFound {
		t.Errorf("choosing a removed person: %d", code)
	}
}

// Two tablets rename a person at once: the second one gets a message and keeps its text. Mutation caught: the last one wins.
func TestRenamingAtOnce(t *testing.T) {
	t.Parallel()
	v := webtest.VisitPeople(t)
	_, page := v.Get("/people/ivo")
	form := webtest.Fields(page)
	form.Set("name", "Ivo K")
	if code, _, _ := v.Send("POST", "/people/ivo", form); code != http.StatusSeeOther {
		t.Fatalf("the first: %d", code)
	}
	form.Set("name", "Ivo the pot")
	code, page, _ := v.Send("POST", "/people/ivo", form)
	if code != http.StatusConflict || !strings.Contains(page, "Ivo K, I, pot") || !strings.Contains(page, `value="Ivo the pot"`) {
		t.Errorf("the second: %d", code)
	}
	if code, _, _ := v.Send("POST", "/people/ivo", webtest.Fields(page)); code != http.StatusSeeOther {
		t.Errorf("saving again: %d", code)
	}
}

// Who brewed and who tasted can be changed. Mutation caught: a tasting moved onto another's.
func TestWhoBrewedAndTastedCanBeChanged(t *testing.T) {
	t.Parallel()
	v := webtest.VisitPeople(t)
	path := "/brews/slate-terrace-4/people"
	if code, _ := v.Post(path, "brewed_by", "bruno", "back", "/brews/slate-terrace-4"); code != http.StatusSeeOther {
		t.Errorf("brewed by: %d", code)
	}
	if code, _ := v.Post(path, "from", "marta", "taster", "tilda", "back", "/brews/slate-terrace-4"); code != http.StatusSeeOther {
		t.Errorf("tasted by: %d", code)
	}
	if code, page := v.Post(path, "from", "tilda", "taster", "ivo", "back", "/"); code != http.StatusConflict ||
		!strings.Contains(page, "Ivo has tasted this brew too") {
		t.Errorf("onto another tasting: %d", code)
	}
	b, err := v.Store.Brew(t.Context(), "slate-terrace-4")
	if err != nil || b.BrewedBy != "bruno" || b.For("tilda").Cup.Overall != 8 || b.For("tilda").Advice == nil || b.For("marta").Advice != nil {
		t.Errorf("brewed by %q, tastings %+v, %v", b.BrewedBy, b.Tastings, err)
	}
	if code, _ := v.Post(path, "brewed_by", "nobody", "back", "/"); code != http.StatusNotFound {
		t.Errorf("brewed by an unknown person: %d", code)
	}
}

// A person's data are a file and can be erased. Mutations caught: tastings of others in the file, a removal that
// leaves marks.
func TestPersonIsExportedAndRemoved(t *testing.T) {
	t.Parallel()
	v := webtest.VisitPeople(t)
	code, body, header := v.Send("GET", "/people/ivo/file", nil)
	var file struct {
		Format, Name string
		Tastings     []struct {
			Brew, Coffee, Notes string
			Mark                int
			Taste               map[string]string
		}
		Brews []struct{ Brew string }
	}
	if err := json.Unmarshal([]byte(body), &file); err != nil || code != http.StatusOK || !strings.Contains(header.Get("Content-Disposition"), ".json") {
		t.Fatalf("the file: %d, %v", code, err)
	}
	marks := map[string]int{}
	for _, x := range file.Tastings {
		marks[x.Brew] = x.Mark
	}
	if file.Format != "yardbloom-person" || file.Name != "Ivo" || len(file.Tastings) != 21 || marks["slate-terrace-4"] != 5 || len(file.Brews) != 17 {
		t.Errorf("the file has %q, %d tastings (%v), %d brews", file.Name, len(file.Tastings), marks, len(file.Brews))
	}
	if _, page := v.Get("/people/ivo/remove"); !strings.Contains(page, "17 brews, 21 tastings") {
		t.Error("the page does not say what is erased")
	}
	if code, _ := v.Post("/people/ivo/remove", "sure", "yes"); code != http.StatusSeeOther {
		t.Fatalf("remove: %d", code)
	}
	for _, path := range []string{"/brews/orchard-wall-3", "/brews/orchard-wall-3/next", "/brews/orchard-wall-1/next",
		"/brews/slate-terrace-4/next", "/log", "/people", "/"} {
		if code, page := v.Get(path); code >= 500 || strings.Contains(page, "Ivo") || strings.Contains(page, "Heavy and drying") {
			t.Errorf("%s after the removal: %d", path, code)
		}
	}
}
