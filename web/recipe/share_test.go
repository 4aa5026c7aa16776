package recipe_test

import (
	"html"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

var packedText = regexp.MustCompile(`YARD2:[A-Z2-7]+`)

// A recipe that is shared as text is added by another yard, and a text that was cut off gets a sentence and is kept. Mutations caught: a
// page without the code, a code that the book does not read.
func TestRecipeIsSharedWithAnotherYard(t *testing.T) {
	t.Parallel()
	v, other := webtest.Visit(t), webtest.Visit(t)
	for _, path := range []string{"/brews/evening-seed-next/share", "/brews/slate-terrace-4/share"} {
		_, page := v.Get(path)
		if code := packedText.FindString(page); code == "" || !strings.Contains(page, `class="qr"`) {
			t.Fatalf("%s has no code", path)
		}
	}
	_, page := v.Get("/brews/slate-terrace-4/share")
	code := packedText.FindString(page)
	if status, page := other.Paste(code[:len(code)-9], "bag", "slate-terrace"); status != http.StatusUnprocessableEntity ||
		!strings.Contains(page, "incomplete or damaged") || !strings.Contains(page, code[:40]) {
		t.Errorf("cut off: status %d", status)
	}
	if status, page := other.Paste(code, "bag", "slate-terrace"); status != http.StatusSeeOther {
		t.Fatalf("status %d, %v", status, webtest.ErrorsIn(page))
	}
	_, book := other.Get("/book")
	if !strings.Contains(html.UnescapeString(book), "Slate Terrace") {
		t.Error("the recipe is not in the book")
	}
	_, card := v.Get("/brews/evening-seed-next/card")
	if !strings.Contains(card, `class="qr"`) || !strings.Contains(card, "carries the recipe itself") {
		t.Error("the card of a draft has no code")
	}
}
