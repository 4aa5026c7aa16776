package recipe_test

import (
	"context"
	"net/http"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// A recipe in words is read, shown with what was not understood, and used only if nothing in it contradicts. Mutations caught: a text that
// is lost on an error, a contradiction that is used anyway, a recipe that cannot be undone.
func TestRecipeInWords(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	draft := func() string {
		_, _, header := v.Send("POST", "/bags/first-frost/brew", map[string][]string{"go": {"on"}})
		return strings.TrimSuffix(header.Get("Location"), "/recipe")
	}
	path := draft()
	id := strings.TrimPrefix(path, "/brews/")
	before, _, err := v.Store.Draft(context.Background(), id)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ text, do, says string }{
		{"milk, eggs, two lemons", "use", "does not read like a recipe"},
		{"23 g, 380 ml at 94, bloom 65 for 50 s, then 150 at 0:50, 1:45", "use", "add up to 365 g"},
		{"17 g, 281 g of water and 272 g of water in total", "use", "Two totals are written"},
		{strings.Repeat("17 g coffee, ", 900), "use", "longer than 4000 characters"},
	} {
		code, page := v.Post(path+"/text", "text", c.text, "do", c.do)
		if code != http.StatusUnprocessableEntity || !strings.Contains(page, c.says) || !strings.Contains(page, c.text[:20]) {
			t.Errorf("%.40q: status %d, %.2000s", c.text, code, page)
		}
	}
	if now, _, _ := v.Store.Draft(context.Background(), id); now.Version != before.Version {
		t.Error("a text with a contradiction changed the recipe")
	}
	const text = "17 g, 281 g at 92, bloom 58 g for 50 s, 111 g at 0:50, 112 g at 1:40 with love"
	if code, page := v.Post(path+"/text", "text", text, "do", "read"); code != http.StatusOK || !strings.Contains(page, `<mark class="unread">love`) ||
		!strings.Contains(page, "Not said, and assumed") {
		t.Errorf("status %d, %.3000s", code, page)
	}
	if code, _ := v.Post(path+"/text", "text", text, "do", "use"); code != http.StatusSeeOther {
		t.Errorf("status %d", code)
	}
	after, _, err := v.Store.Draft(context.Background(), id)
	if r := after.Recipe; err != nil || r.Dose != 17 || r.Water() != 281 || len(r.Pours) != 3 || r.Pours[2].Start != 100 || r.Temperature() != 92 {
		t.Errorf("%+v", r)
	}
	if len(after.UndoSteps) != len(before.UndoSteps)+1 {
		t.Error("it cannot be undone")
	}
}
