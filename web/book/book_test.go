package book_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/exchange"
	"yardbloom/web/webtest"
)

// keep keeps a recipe under a name and returns its id.
func keep(v *webtest.Visitor, brew, name string) string {
	v.T.Helper()
	_, _, header := v.Send("POST", "/brews/"+brew+"/keep", url.Values{"name": {name}})
	_, kept, _ := strings.Cut(header.Get("Location"), "#")
	if kept == "" {
		v.T.Fatalf("keeping %s as %q leads to %q", brew, name, header.Get("Location"))
	}
	return kept
}

// A recipe that is kept again under its name becomes its next version, with the difference in words.
func TestRecipeInTheBookHasVersions(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	first := keep(v, webtest.Planned, "Sunday")
	v.Recipe("setting", "20", "bloom", "3")
	if again := keep(v, webtest.Planned, "Sunday"); again != first {
		t.Errorf("under the same name it is %s, was %s", again, first)
	}
	keep(v, webtest.Planned, "Sunday") // nothing changed: no version
	_, book := v.Get("/book")
	for _, want := range []string{"version 2", "2 clicks finer", "a smaller bloom", "after version 1"} {
		if !strings.Contains(book, want) {
			t.Errorf("the book does not say %q", want)
		}
	}
	if strings.Contains(book, "version 3") {
		t.Error("a recipe that did not change has a version more")
	}
	// A copy shows the name of its original, and a favourite is the first recipe of its coffee.
	v.Post("/book/" + first + "/favour")
	_, _, header := v.Send("POST", "/bags/evening-seed/brew", url.Values{"go": {"on"}})
	if at := header.Get("Location"); !strings.Contains(at, "/recipe") {
		t.Fatalf("brewing leads to %q", at)
	}
	v.Post("/book/" + first + "/archive")
	if _, book := v.Get("/book?archived=" + first); strings.Contains(book, "2 clicks finer") ||
		!strings.Contains(book, "/book/"+first+"/restore") {
		t.Error("an archived recipe is still in the book, or cannot be taken back")
	}
	v.Post("/book/" + first + "/restore")
	if _, book := v.Get("/book"); !strings.Contains(book, "version 2") || !strings.Contains(book, "favourite") {
		t.Error("taken back it lost its versions, or the favour")
	}
}

// Exporting and importing the whole book gives the same book. Existing recipes are not added twice, and
// another recipe of the same name gets a number.
func TestBookFileRoundTrip(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	keep(v, webtest.Planned, "Sunday")
	keep(v, "slate-terrace-4", "Terrace")
	keep(v, "long-meadow-2", "Meadow")
	_, file := v.Get("/book.json")
	if code, _ := v.Paste(file); code != http.StatusSeeOther {
		t.Errorf("its own file: status %d", code)
	}
	_, again := v.Get("/book.json")
	if asSet(t, again) != asSet(t, file) {
		t.Errorf("after its own file was added it has\n%s\nwas\n%s", asSet(t, again), asSet(t, file))
	}
	other := webtest.Visit(t)
	if code, body := other.Paste(file); code != http.StatusSeeOther {
		t.Fatalf("into another yard: status %d, %v", code, webtest.ErrorsIn(body))
	}
	_, there := other.Get("/book.json")
	if asSet(t, there) != asSet(t, file) {
		t.Errorf("another yard has\n%s\nwas\n%s", asSet(t, there), asSet(t, file))
	}
	changed := strings.Replace(file, `"grind_um": 654`, `"grind_um": 600`, 1)
	if changed == file {
		t.Fatal("no recipe of the book is ground at 654 µm")
	}
	v.Paste(changed)
	if _, book := v.Get("/book"); !strings.Contains(book, "Sunday (2)") {
		t.Error("another recipe of the same name did not get a number")
	}
}

// asSet returns a book's recipes without what differs between yards: their order, and the names of the
// gear.
func asSet(t *testing.T, file string) string {
	t.Helper()
	docs, err := exchange.ReadAny(strings.NewReader(file))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, d := range docs {
		d.Grinder, d.Kettle, d.GrindUM = exchange.Grinder{}, nil, 0
		b, _ := json.Marshal(d)
		out[d.Name] = string(b)
	}
	b, _ := json.Marshal(out)
	return string(b)
}

// A file that cannot be added is refused with a reason, keeps its text, and can be corrected if possible.
func TestInvalidFileIsRefusedWithASentence(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	keep(v, webtest.Planned, "Sunday")
	_, file := v.Get("/book.json")
	short := strings.Replace(file, `"water_g": 297`, `"water_g": 290`, 1)
	for name, c := range map[string]struct{ text, says string }{
		"nothing":         {" ", "Choose a file, or paste a recipe."},
		"not json":        {"once upon a time", "This is not a recipe file"},
		"another version": {strings.Replace(file, `"version": 3`, `"version": 99`, 1), "not a known version"},
		"hostile":         {strings.Replace(file, `"Sunday"`, `"<script>alert(1)</script>"`, 1), ""},
		"sums":            {short, "do not add up"},
		"ice": {strings.Replace(file, `"pours": [`, `"ice": {"mass_g": 900, "temperature_c": -18}, "pours": [`, 1),
			"more ice than poured water"},
		"empty": {`{"format": "yardbloom-book", "version": 1, "recipes": []}`, "recipes: it is 0"},
	} {
		code, body := v.Paste(c.text)
		if c.says == "" {
			if _, book := v.Get("/book"); code != http.StatusSeeOther || strings.Contains(book, "<script>alert") {
				t.Errorf("%s: status %d", name, code)
			}
			continue
		}
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s: status %d, %v; want %q", name, code, webtest.ErrorsIn(body), c.says)
		}
		if strings.Contains(body, "Fix the totals") != (name == "sums") {
			t.Errorf("%s: offers to fix", name)
		}
	}
	if code, body := v.Paste(short, "mend", "yes"); code != http.StatusSeeOther {
		t.Errorf("fixed: status %d, %v", code, webtest.ErrorsIn(body))
	}
	if code, _ := v.Paste(`{"format": "yardbloom-recipe", "name": "` + strings.Repeat("x", 1<<20) +
		`"}`); code != http.StatusUnprocessableEntity {
		t.Errorf("over a megabyte: status %d", code)
	}
}

// A card is complete, also as a single file. Its short address leads to the recipe, and is no QR code if
// only this machine could open it.
func TestRecipeCard(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	id := keep(v, webtest.Planned, "Sunday")
	code, card := v.Get("/brews/" + id + "/card")
	for _, want := range []string{"Sunday", "Evening Seed", `class="flower"`, "ribbon-plan", "22 clicks", "Bloom", "141 g", "297 g",
		"Last steady stream", "boiling water and steam", `class="qr"`, "yard.test/r/"} {
		if code != http.StatusOK || !strings.Contains(card, want) {
			t.Errorf("status %d; the card has no %q", code, want)
		}
	}
	_, four := v.Get("/brews/" + id + "/card?sheet=a4")
	if n := strings.Count(four, `<article class="card-paper">`); n != 4 {
		t.Errorf("%d cards on A4", n)
	}
	_, file, header := v.Send("GET", "/brews/"+id+"/card.html", nil)
	if !strings.Contains(header.Get("Content-Disposition"), "attachment") || strings.Contains(file, "<link") ||
		strings.Contains(file, "<script") || !strings.Contains(file, "105mm") {
		t.Error("the file is not whole in itself")
	}
	short := card[strings.Index(card, "/r/"):]
	_, _, header = v.Send("GET", short[:len("/r/")+6], nil)
	if header.Get("Location") != "/brews/"+id+"/recipe" {
		t.Errorf("the short address leads to %q", header.Get("Location"))
	}
	if code, _ := v.Get("/r/zzzzzz"); code != http.StatusNotFound {
		t.Errorf("an unknown short address: status %d", code)
	}
	w := httptest.NewRecorder()
	v.Server.ServeHTTP(w, httptest.NewRequest("GET", "http://localhost:8417/brews/"+id+"/card", nil))
	if local := w.Body.String(); strings.Contains(local, "QR code of http") || !strings.Contains(local, "QR code of YARD2:") ||
		!strings.Contains(local, "Only this machine can open this address") {
		t.Error("a card of a yard that only this machine can reach does not say so")
	}
	// A draft has a card too, without an address.
	if _, plain := v.Get("/brews/" + webtest.Planned + "/card"); strings.Contains(plain, "/r/") ||
		!strings.Contains(plain, "Keep the recipe under a name") {
		t.Error("the card of a draft")
	}
}

// A large book is added in one step and with a few statements for each recipe, or not at all. Mutations caught: the book read
// again for each recipe, recipes that stay from a file that was refused, equal recipes added twice.
func TestLargeBookIsAddedAtOnce(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	keep(v, webtest.Planned, "Sunday")
	_, text := v.Get("/book.json")
	var book map[string]any
	if err := json.Unmarshal([]byte(text), &book); err != nil {
		t.Fatal(err)
	}
	one := book["recipes"].([]any)[0].(map[string]any)
	const many = 600
	var all []any
	for i := range many {
		next := map[string]any{}
		for k, value := range one {
			next[k] = value
		}
		next["name"] = fmt.Sprint("Recipe ", i/2) // each name twice
		next["grind_um"] = 600 + i%2*50
		all = append(all, next)
	}
	book["recipes"] = all
	file := func(broken bool) string {
		last := all[many-1].(map[string]any)
		last["brewer"] = one["brewer"]
		if broken {
			last["brewer"] = map[string]any{"kind": "valve-steeper", "name": "None such", "holds_g": 300}
		}
		text, err := json.Marshal(book)
		if err != nil {
			t.Fatal(err)
		}
		return string(text)
	}
	kept := func() (n int) {
		if _, err := v.Store.AddRecipes(t.Context(), v.Now(), func(all []brew.Draft) []brew.Draft { n = len(all); return nil }); err != nil {
			t.Fatal(err)
		}
		return n
	}
	before := kept()
	if code, page := v.Paste(file(true), "bag", "evening-seed"); code != http.StatusUnprocessableEntity || kept() != before {
		t.Errorf("a file with a wrong recipe: status %d, %d added, %v", code, kept()-before, webtest.ErrorsIn(page))
	}
	statements := v.Store.Stats().Statements
	code, _ := v.Paste(file(false), "bag", "evening-seed")
	if n := v.Store.Stats().Statements - statements; code != http.StatusSeeOther || n > 3*many {
		t.Errorf("status %d with %d statements for %d recipes", code, n, many)
	}
	for range 2 { // the second time nothing is new
		if n := kept() - before; n != many {
			t.Errorf("%d of %d recipes were added", n, many)
		}
		if code, page := v.Paste(file(false), "bag", "evening-seed"); code != http.StatusSeeOther {
			t.Errorf("again: status %d, %v", code, webtest.ErrorsIn(page))
		}
	}
	if _, page := v.Get("/book?added=0&same=600"); !strings.Contains(page, "0 added. 600 already in the book.") {
		t.Error("nothing is said of recipes that the book has")
	}
}
