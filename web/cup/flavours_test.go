package cup_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// Flavours by stage, the comparison with the last cup, the guest and the two new senses are kept, come back to the form, and are
// on the flavour card. Mutations caught: a flavour that moves to another stage, one that cannot be taken off again, a sense that
// the card does not show, a comparison outside its list.
func TestFlavoursByStage(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	const path = "/brews/slate-terrace-4"
	_, page := v.Get(path + "/cup")
	form := webtest.Fields(page)
	form.Set("hot.flavours", "Pear,  honey")
	form.Set("cool.flavours", "black tea")
	form.Set("cool.aroma", "4")
	form.Set("cool.complexity", "5")
	form.Set("better", "a little better")
	form.Set("served_to", "the judges")
	code, body, _ := v.Send("POST", path+"/cup", form)
	if code != http.StatusSeeOther {
		t.Fatalf("status %d, %v", code, webtest.ErrorsIn(body))
	}
	_, page = v.Get(path + "/cup")
	again := webtest.Fields(page)
	for name, want := range map[string]string{"hot.flavours": "pear, honey", "cool.flavours": "black tea", "served_to": "the judges"} {
		if again.Get(name) != want {
			t.Errorf("%s came back as %q", name, again.Get(name))
		}
	}
	if !strings.Contains(strings.Join(strings.Fields(page), " "), `name="cool.aroma" value="4" checked`) {
		t.Error("the aroma did not come back")
	}
	_, card := v.Get(path + "/flavours")
	hot, cold := strings.Index(card, ">Hot<"), strings.Index(card, ">Cold<")
	for what, ok := range map[string]bool{
		"pear while hot":       strings.Index(card, "pear") > hot && strings.Index(card, "pear") < cold,
		"black tea while cold": strings.Index(card, "black tea") > cold,
		"the senses":           strings.Contains(card, "many-layered") && strings.Contains(card, "Aroma"),
		"the coffee":           strings.Contains(card, "Slate Terrace"),
	} {
		if !ok {
			t.Errorf("the card does not show %s", what)
		}
	}
	if _, report := v.Get(path); !strings.Contains(report, "the judges") || !strings.Contains(report, "a little better") {
		t.Error("the record does not name the guest and the comparison")
	}
	again.Set("hot.flavours", "")
	v.Send("POST", path+"/cup", again)
	if _, card := v.Get(path + "/flavours"); strings.Contains(card, "pear") {
		t.Error("a flavour that was taken off stays on the card")
	}
	again.Set("hot.flavours", strings.Repeat("very ", 12)+"long")
	again.Set("better", "twice as good")
	if code, body, _ := v.Send("POST", path+"/cup", again); code != http.StatusUnprocessableEntity || len(webtest.ErrorsIn(body)) != 2 ||
		!strings.HasPrefix(webtest.Fields(body).Get("hot.flavours"), "very very") {
		t.Errorf("a long flavour and another comparison: status %d, %v", code, webtest.ErrorsIn(body))
	}
	if _, page := v.Get("/brews/slate-terrace-1/cup"); strings.Contains(page, "Against the last one") {
		t.Error("the first cup of a coffee is compared with the last one")
	}
}

// A corrected figure keeps the old one with its time and person, and the yield and the grind follow; a bad one changes nothing.
// Mutations caught: an old value that is lost, a dial setting that the model does not hear, a history of values that did not change.
func TestCorrectionKeepsTheOldValue(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	const path = "/brews/slate-terrace-4"
	before, err := v.Store.Brew(t.Context(), "slate-terrace-4")
	if err != nil {
		t.Fatal(err)
	}
	_, page := v.Get(path + "/cup")
	form := webtest.Fields(page)
	form.Set("grind", "nonsense")
	if code, body, _ := v.Send("POST", path+"/cup", form); code != http.StatusUnprocessableEntity || webtest.Fields(body).Get("grind") != "nonsense" {
		t.Errorf("a wrong setting: status %d, %v", code, webtest.ErrorsIn(body))
	}
	form.Set("grind", "8")
	form.Set("tds", "1.25")
	form.Set("overall", "7")
	if code, body, _ := v.Send("POST", path+"/cup", form); code != http.StatusSeeOther {
		t.Fatalf("status %d, %v", code, webtest.ErrorsIn(body))
	}
	after, err := v.Store.Brew(t.Context(), "slate-terrace-4")
	if err != nil {
		t.Fatal(err)
	}
	was, _ := before.Yield()
	is, _ := after.Yield()
	if is.Value >= was.Value-1 || after.AsBrewed().Grind <= before.AsBrewed().Grind || after.Sample().Question.Recipe.Grind != after.Cup.Grind {
		t.Errorf("yield %.1f after %.1f %%, grind %v after %v µm", is.Value, was.Value, after.AsBrewed().Grind, before.AsBrewed().Grind)
	}
	_, report := v.Get(path)
	for _, says := range []string{"TDS was 1.35 % until", "Mark was 8 of 10 until", "Grind was empty until", "Ground at"} {
		if !strings.Contains(report, says) {
			t.Errorf("the record does not say %q", says)
		}
	}
	if n := strings.Count(report, " until "); n != 3 {
		t.Errorf("%d values were corrected", n)
	}
}
