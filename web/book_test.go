package web

import (
	"bytes"
	"encoding/json"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"yardbloom/exchange"
)

// keep keeps a recipe under a name and returns its id in the book.
func (v *visitor) keep(brew, name string) string {
	v.t.Helper()
	_, _, header := v.send("POST", "/brews/"+brew+"/keep", url.Values{"name": {name}})
	_, kept, _ := strings.Cut(header.Get("Location"), "#")
	if kept == "" {
		v.t.Fatalf("keeping %s as %q leads to %q", brew, name, header.Get("Location"))
	}
	return kept
}

// paste posts recipes as text.
func (v *visitor) paste(text string, more ...string) (int, string) {
	v.t.Helper()
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	m.WriteField("text", text)
	for i := 0; i+1 < len(more); i += 2 {
		m.WriteField(more[i], more[i+1])
	}
	m.Close()
	code, body, _ := v.sendBody("/book", m.FormDataContentType(), b.String())
	return code, body
}

// A recipe that is kept again under its name becomes its next version, with the difference in words.
func TestARecipeInTheBookHasVersions(t *testing.T) {
	t.Parallel()
	v := visit(t)
	first := v.keep(planned, "Sunday")
	v.recipe("setting", "20", "bloom", "3")
	if again := v.keep(planned, "Sunday"); again != first {
		t.Errorf("kept under the same name it is %s, was %s", again, first)
	}
	v.keep(planned, "Sunday") // nothing changed: no version
	_, book := v.get("/book")
	for _, want := range []string{"version 2", "2 clicks finer", "a smaller bloom", "after version 1"} {
		if !strings.Contains(book, want) {
			t.Errorf("the book does not say %q", want)
		}
	}
	if strings.Contains(book, "version 3") {
		t.Error("a recipe that did not change has a version more")
	}
	// A copy knows what it began as, and its coffee begins with the favourite.
	v.post("/book/" + first + "/favour")
	_, _, header := v.send("POST", "/bags/evening-seed/brew", url.Values{"go": {"on"}})
	if at := header.Get("Location"); !strings.Contains(at, "/recipe") {
		t.Fatalf("brewing leads to %q", at)
	}
	v.post("/book/" + first + "/archive")
	if _, book := v.get("/book?archived=" + first); strings.Contains(book, "2 clicks finer") || !strings.Contains(book, "/book/"+first+"/restore") {
		t.Error("an archived recipe is still in the book, or cannot be taken back")
	}
	v.post("/book/" + first + "/restore")
	if _, book := v.get("/book"); !strings.Contains(book, "version 2") || !strings.Contains(book, "favourite") {
		t.Error("taken back it lost its versions, or the favour")
	}
}

// The whole book goes out and comes back as it was; what is there already is not added twice,
// and another recipe of a taken name gets a number.
func TestTheBookComesBackFromItsFile(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.keep(planned, "Sunday")
	v.keep("slate-terrace-4", "Terrace")
	v.keep("long-meadow-2", "Meadow")
	_, file := v.get("/book.json")
	if code, _ := v.paste(file); code != http.StatusSeeOther {
		t.Errorf("its own file: status %d", code)
	}
	_, again := v.get("/book.json")
	if asSet(t, again) != asSet(t, file) {
		t.Errorf("after its own file was added it has\n%s\nwas\n%s", asSet(t, again), asSet(t, file))
	}
	other := visit(t)
	if code, body := other.paste(file); code != http.StatusSeeOther {
		t.Fatalf("into another yard: status %d, %v", code, errorsIn(body))
	}
	_, there := other.get("/book.json")
	if asSet(t, there) != asSet(t, file) {
		t.Errorf("another yard has\n%s\nwas\n%s", asSet(t, there), asSet(t, file))
	}
	changed := strings.Replace(file, `"grind_um": 654`, `"grind_um": 600`, 1)
	if changed == file {
		t.Fatal("no recipe of the book is ground at 654 µm")
	}
	v.paste(changed)
	if _, book := v.get("/book"); !strings.Contains(book, "Sunday (2)") {
		t.Error("another recipe of the same name did not get a number")
	}
}

// asSet is a book's recipes without what differs from yard to yard: the order, and the gear by name.
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

// What cannot be added says why, keeps the text, and mends what can be mended.
func TestABadFileIsRefusedWithASentence(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.keep(planned, "Sunday")
	_, file := v.get("/book.json")
	short := strings.Replace(file, `"water_g": 297`, `"water_g": 290`, 1)
	for name, c := range map[string]struct{ text, says string }{
		"nothing":         {" ", "Choose a file, or paste a recipe."},
		"not json":        {"once upon a time", "This is not a recipe file"},
		"another version": {strings.Replace(file, `"version": 3`, `"version": 99`, 1), "not known here"},
		"hostile":         {strings.Replace(file, `"Sunday"`, `"<script>alert(1)</script>"`, 1), ""},
		"sums":            {short, "do not add up"},
		"ice":             {strings.Replace(file, `"pours": [`, `"ice": {"mass_g": 900, "temperature_c": -18}, "pours": [`, 1), "more ice than water"},
		"empty":           {`{"format": "yardbloom-book", "version": 1, "recipes": []}`, "recipes: it is 0"},
	} {
		code, body := v.paste(c.text)
		if c.says == "" {
			if _, book := v.get("/book"); code != http.StatusSeeOther || strings.Contains(book, "<script>alert") {
				t.Errorf("%s: status %d", name, code)
			}
			continue
		}
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s: status %d, %v; want %q", name, code, errorsIn(body), c.says)
		}
		if strings.Contains(body, "Mend the totals") != (name == "sums") {
			t.Errorf("%s: offers to mend", name)
		}
	}
	if code, body := v.paste(short, "mend", "yes"); code != http.StatusSeeOther {
		t.Errorf("mended: status %d, %v", code, errorsIn(body))
	}
	if code, _ := v.paste(`{"format": "yardbloom-recipe", "name": "` + strings.Repeat("x", 1<<20) + `"}`); code != http.StatusUnprocessableEntity {
		t.Errorf("over a megabyte: status %d", code)
	}
}

// A card has all that the wall needs, alone in one file too; its short address leads to the
// recipe, and is no picture where only this machine could open it.
func TestACardForTheWall(t *testing.T) {
	t.Parallel()
	v := visit(t)
	id := v.keep(planned, "Sunday")
	code, card := v.get("/brews/" + id + "/card")
	for _, want := range []string{"Sunday", "Evening Seed", `class="flower"`, "ribbon-plan", "22 clicks", "Bloom", "141 g", "297 g", "Last steady stream", "boiling water and steam", `class="qr"`, "yard.test/r/"} {
		if code != http.StatusOK || !strings.Contains(card, want) {
			t.Errorf("status %d; the card has no %q", code, want)
		}
	}
	_, four := v.get("/brews/" + id + "/card?sheet=a4")
	if n := strings.Count(four, `<article class="card-paper">`); n != 4 {
		t.Errorf("%d cards on A4", n)
	}
	_, file, header := v.send("GET", "/brews/"+id+"/card.html", nil)
	if !strings.Contains(header.Get("Content-Disposition"), "attachment") || strings.Contains(file, "<link") || strings.Contains(file, "<script") || !strings.Contains(file, "105mm") {
		t.Error("the file is not whole in itself")
	}
	short := card[strings.Index(card, "/r/"):]
	_, _, header = v.send("GET", short[:len("/r/")+6], nil)
	if header.Get("Location") != "/brews/"+id+"/recipe" {
		t.Errorf("the short address leads to %q", header.Get("Location"))
	}
	if code, _ := v.get("/r/zzzzzz"); code != http.StatusNotFound {
		t.Errorf("an unknown short address: status %d", code)
	}
	w := httptest.NewRecorder()
	v.s.ServeHTTP(w, httptest.NewRequest("GET", "http://localhost:8417/brews/"+id+"/card", nil))
	if local := w.Body.String(); strings.Contains(local, `class="qr"`) || !strings.Contains(local, "Only this machine can open this address") {
		t.Error("a card of a yard that only this machine can reach does not say so")
	}
	// A recipe that is not kept has a card too, without an address.
	if _, plain := v.get("/brews/" + planned + "/card"); strings.Contains(plain, "/r/") || !strings.Contains(plain, "Keep the recipe under a name") {
		t.Error("the card of a recipe in the making")
	}
}
