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
		{`"yardbloom-recipe"`, `"somebody-elses"`, "format"}, {`"version": 2`, `"version": 3`, "version"}, {`"medium-light"`, `"charcoal"`, "coffee.roast"},
		{`"open-cone"`, `"sock"`, "brewer.kind"}, {`"hand mill"`, `"teeth"`, "grinder.burrs"}, {`"dose_g": 18`, `"dose_g": "eighteen"`, "dose_g"},
		{`"do": "pour"`, `"do": "dance"`, "steps[0].do"},
		{`"then": "swirl"`, `"then": "shout"`, "steps[0].then"}, {`"spiral"`, `"zigzag"`, "steps[1].pattern"}, {`"at_s": 40`, `"when": "later", "at_s": 40`, "steps[1].when"},
		{`{"thermostat": true, "holds_g": 900}`, `{"thermostat": false}`, "kettle.holds_g"},
		{`"thermostat": true, "holds_g": 900`, `"thermostat": false, "holds_g": 900, "readings": {"water_g": 500, "first_c": 80, "second_c": 90, "apart_s": 60}`, "kettle.readings"},
		{`"rinse": true`, `"below": {"carafe": "paper"}`, "below.carafe"}, {`"holds_g": 480`, `"holds_g": 20`, "brewer.holds_g"}, {`"holds_g": 480`, `"holds_g": -5`, "brewer.holds_g"}, {"{", "", "document"},
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

// What the model refuses is said in the file's own terms.
func TestWhatTheModelRefusesNamesTheFilesField(t *testing.T) {
	good := example(t)
	for _, c := range []struct{ from, to, field string }{
		{`"dose_g": 18`, `"dose_g": 2`, "dose_g"}, {`"grind_um": 650`, `"grind_um": 90`, "grind_um"}, {`"rate_g_s": 5, "temperature_c": 94, "height": "low"`, `"rate_g_s": 90, "temperature_c": 94, "height": "low"`, "steps[3].rate_g_s"},
		{`"temperature_c": 94, "height": "low"`, `"temperature_c": 120, "height": "low"`, "steps[3].temperature_c"}, {`"rinse": true`, `"bed": 3`, "bed"},
		{`"rinse": true`, `"below": {"carafe": "glass", "ice_g": 90, "ice_c": 5}`, "below.ice_c"}, {`"water_g": 121`, `"water_g": 1950`, "steps"},
		{`"height": "low", "pattern": "spiral"}`, `"height": "low", "pattern": "spiral"}, {"do": "stir", "at_s": 1300}`, "steps[4].at_s"},
	} {
		// A stir between the pours must not shift what is named.
		text := strings.Replace(strings.Replace(good, c.from, c.to, 1), `{"do": "pour", "at_s": 90`, `{"do": "stir", "at_s": 80}, {"do": "pour", "at_s": 90`, 1)
		doc, err := ReadRecipe(strings.NewReader(text))
		if err != nil {
			t.Fatalf("%s: %v", c.to, err)
		}
		_, err = forecast.Of(doc.Question(now))
		var fe *FieldError
		if !errors.As(doc.Explain(err), &fe) || fe.Field != c.field {
			t.Errorf("%s: %v, want an error on %s", c.to, err, c.field)
		}
	}
}

// Nought is a temperature, not a gap in the file.
func TestARoomAtNoughtIsCold(t *testing.T) {
	slurry := func(room string) float64 {
		doc, err := ReadRecipe(strings.NewReader(strings.Replace(example(t), `"rinse": true`, `"rinse": true`+room, 1)))
		if err != nil {
			t.Fatal(err)
		}
		f, err := forecast.Of(doc.Question(now))
		if err != nil {
			t.Fatal(err)
		}
		return float64(f.SlurryMean)
	}
	if usual, cold := slurry(""), slurry(`, "room_c": 0`); cold >= usual || slurry(`, "room_c": 21`) != usual {
		t.Errorf("the slurry has %.2f °C in a usual room, %.2f °C in one at 0 °C", usual, cold)
	}
}

// A file of version 1 brews as it did, and goes out as version 2.
func TestVersion1IsStillRead(t *testing.T) {
	old := strings.NewReplacer(`"version": 2`, `"version": 1, "song": 7`, `"then": "swirl"`, `"swirl": true`, `"kettle": {"thermostat": true, "holds_g": 900},`, "").Replace(example(t))
	doc, err := ReadRecipe(strings.NewReader(old))
	if err != nil {
		t.Fatal(err)
	}
	new, err := ReadRecipe(strings.NewReader(example(t)))
	if err != nil {
		t.Fatal(err)
	}
	a, errA := forecast.Of(doc.Question(now))
	b, errB := forecast.Of(new.Question(now))
	if errA != nil || errB != nil || a.EY != b.EY || doc.Steps[0].Then != recipe.Swirl {
		t.Errorf("EY %v from version 1, %v from version 2 (%v, %v)", a.EY, b.EY, errA, errB)
	}
	var out bytes.Buffer
	if err := doc.Write(&out); err != nil || strings.Contains(out.String(), `"swirl": true`) || !strings.Contains(out.String(), `"version": 2`) || !strings.Contains(out.String(), `"song": 7`) {
		t.Errorf("goes out as %s (%v)", out.String(), err)
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
	for _, p := range recipe.Patterns() {
		words = append(words, string(p))
	}
	for _, h := range recipe.Hands() {
		if h != recipe.NoHand {
			words = append(words, string(h))
		}
	}
	for _, w := range words {
		if !strings.Contains(string(schema), `"`+w+`"`) {
			t.Errorf("the schema does not know %q", w)
		}
	}
}

func FuzzReadRecipe(f *testing.F) {
	f.Add(`{"format":"yardbloom-recipe","version":1,"steps":[{"do":"pour"}]}`)
	f.Add(`{"format":"yardbloom-recipe","version":2,"below":{"carafe":"glass","ice_g":1},"steps":[{"do":"pour","when":"drained"}]}`)
	f.Fuzz(func(t *testing.T, s string) {
		if doc, err := ReadRecipe(strings.NewReader(s)); err == nil {
			_, _ = forecast.Of(doc.Question(now)) // may refuse, must not panic
		}
	})
}
