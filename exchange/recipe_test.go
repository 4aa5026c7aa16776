package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"math"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

var now = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

func planned(kind gear.BrewerKind) brew.Brew {
	brewers, grinders, kettles := gear.Starter()
	b := brew.Brew{Status: brew.Planned, Bag: coffee.Bag{Name: "Slate Terrace", Roast: coffee.Light, Process: coffee.Washed, RoastedOn: "2026-04-20"},
		Gear: brew.Gear{Grinder: grinders[0], Kettle: kettles[0], Boiling: 100}}
	for _, br := range brewers {
		if br.Kind == kind {
			b.Gear.Brewer = br
		}
	}
	b.Recipe = recipe.Suggest("", recipe.Situation{Bag: b.Bag, Brewer: b.Gear.Brewer, Grinder: b.Gear.Grinder, Boiling: 100, Now: now})
	return b
}

// A recipe that went out and came back is the same brew to the model.
func TestAFileBrewsLikeTheRecipeItCameFrom(t *testing.T) {
	for _, form := range gear.BrewerForms() {
		b := planned(form.Kind)
		var file bytes.Buffer
		if err := FromBrew(b, now).Write(&file); err != nil {
			t.Fatal(err)
		}
		back, err := ReadRecipe(&file)
		if err != nil {
			t.Fatal(err)
		}
		want, err := forecast.Of(forecast.Question{Recipe: b.Recipe, Bag: b.Bag, Gear: b.Gear, Now: now})
		if err != nil {
			t.Fatal(err)
		}
		got, err := forecast.Of(back.Question(now))
		near := func(a, b, by float64) bool { return math.Abs(a-b) <= by } // temperatures go out to a tenth of a degree
		if err != nil || !near(float64(got.Drawdown), float64(want.Drawdown), 0.5) || !near(got.EY, want.EY, 0.02) || !near(float64(got.Beverage), float64(want.Beverage), 0.1) {
			t.Errorf("%s: %v, EY %.3f from the file; %v, EY %.3f from the recipe (%v)", form.Name, got.Drawdown, got.EY, want.Drawdown, want.EY, err)
		}
	}
}

// example is the document in docs/formats.md: what people copy must work.
func example(t *testing.T) string {
	t.Helper()
	page, err := os.ReadFile("../docs/formats.md")
	if err != nil {
		t.Fatal(err)
	}
	m := regexp.MustCompile("(?s)```json\n(.*?)```").FindSubmatch(page)
	if m == nil {
		t.Fatal("docs/formats.md has no example")
	}
	return string(m[1])
}

func TestUnknownFieldsSurviveARoundTrip(t *testing.T) {
	text := strings.Replace(example(t), `"format"`, `"mood": {"sky": "grey"}, "format"`, 1)
	text = strings.Replace(text, `"do": "pour"`, `"song": 3, "do": "pour"`, 1)
	doc, err := ReadRecipe(strings.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	doc.DoseG = 20
	var out bytes.Buffer
	if err := doc.Write(&out); err != nil {
		t.Fatal(err)
	}
	var back map[string]any
	if err := json.Unmarshal(out.Bytes(), &back); err != nil {
		t.Fatal(err)
	}
	first := back["steps"].([]any)[0].(map[string]any)
	if back["mood"].(map[string]any)["sky"] != "grey" || first["song"] != 3.0 || back["dose_g"] != 20.0 {
		t.Errorf("came back as %s", out.String())
	}
}

func TestADocumentThatCannotBeUsedNamesItsField(t *testing.T) {
	good := example(t)
	for _, c := range []struct{ from, to, field string }{
		{`"yardbloom-recipe"`, `"somebody-elses"`, "format"}, {`"version": 1`, `"version": 2`, "version"}, {`"medium-light"`, `"charcoal"`, "coffee.roast"},
		{`"open-cone"`, `"sock"`, "brewer.kind"}, {`"hand mill"`, `"teeth"`, "grinder.burrs"}, {`"dose_g": 18`, `"dose_g": "eighteen"`, "dose_g"},
		{`"do": "pour"`, `"do": "dance"`, "steps[0].do"}, {"{", "", "document"},
	} {
		_, err := ReadRecipe(strings.NewReader(strings.Replace(good, c.from, c.to, 1)))
		var fe *FieldError
		if !errors.As(err, &fe) || fe.Field != c.field || !strings.HasSuffix(fe.Reason, ".") {
			t.Errorf("%s → %s: %v, want an error on %s", c.from, c.to, err, c.field)
		}
	}
	for name, text := range map[string]string{"empty": "", "null": "null", "list": "[]", "deep": strings.Repeat("[", 1e5)} {
		if _, err := ReadRecipe(strings.NewReader(text)); err == nil {
			t.Errorf("%s was read", name)
		}
	}
}

// The schema and the program must know the same words.
func TestTheSchemaListsWhatTheProgramKnows(t *testing.T) {
	schema, err := os.ReadFile("recipe.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	var parsed map[string]any
	if err := json.Unmarshal(schema, &parsed); err != nil {
		t.Fatal(err)
	}
	var words []string
	for _, f := range gear.BrewerForms() {
		words = append(words, string(f.Kind))
	}
	for _, f := range gear.Filters() {
		words = append(words, string(f))
	}
	for _, b := range gear.BurrKinds() {
		words = append(words, string(b))
	}
	for _, r := range coffee.Roasts() {
		words = append(words, r.String())
	}
	for _, p := range coffee.Processes() {
		words = append(words, string(p))
	}
	for _, w := range words {
		if !strings.Contains(string(schema), `"`+w+`"`) {
			t.Errorf("the schema does not know %q", w)
		}
	}
}

func FuzzReadRecipe(f *testing.F) {
	f.Add(`{"format":"yardbloom-recipe","version":1,"steps":[{"do":"pour"}]}`)
	f.Fuzz(func(t *testing.T, s string) {
		if doc, err := ReadRecipe(strings.NewReader(s)); err == nil {
			_, _ = forecast.Of(doc.Question(now)) // may refuse, must not panic
		}
	})
}
