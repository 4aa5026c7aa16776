package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

var now = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

func sheet(kind gear.BrewerKind) brew.Sheet {
	brewers, grinders, kettles := gear.Starter()
	s := brew.Sheet{Bag: coffee.Bag{Name: "Slate Terrace", Roast: coffee.Light, Process: coffee.Washed, RoastedOn: "2026-04-20"},
		Gear: gear.Set{Grinder: grinders[0], Kettle: kettles[0], Boiling: gear.Boiling(0)}}
	for _, b := range brewers {
		if b.Kind == kind {
			s.Gear.Brewer = b
		}
	}
	s.Recipe = recipe.Suggest("", s.Question(now).Situation())
	return s
}

// A recipe that is written and read is the same recipe, and the same brew for the model.
func TestRecipeFileRoundTrip(t *testing.T) {
	t.Parallel()
	for _, form := range gear.BrewerForms() {
		s := sheet(form.Kind)
		s.Recipe = s.Recipe.With(recipe.Address{Knob: recipe.Temperature, Pour: 1}, 91.5).With(recipe.AddressOf(recipe.Wait), 1)
		s.Recipe.Ice, s.Recipe.Dilution = recipe.Ice{Mass: 80, Temperature: -18, Wet: 0.1}, recipe.Dilution{Water: 30, Temperature: 20}
		var file bytes.Buffer
		if err := FromSheet(s, now).Write(&file); err != nil {
			t.Fatal(err)
		}
		doc, err := ReadRecipe(&file)
		if err != nil {
			t.Fatal(err)
		}
		back := doc.Sheet(now)
		if !reflect.DeepEqual(back.Recipe, s.Recipe) {
			t.Errorf("%s: came back as %+v, went out as %+v", form.Name, back.Recipe, s.Recipe)
		}
		if back.Gear.Grinder.Dial != s.Gear.Grinder.Dial || back.Gear.Brewer.Holds != s.Gear.Brewer.Holds ||
			back.Bag.RoastedOn != s.Bag.RoastedOn {
			t.Errorf("%s: gear %+v, bag %+v", form.Name, back.Gear, back.Bag)
		}
		want, err := forecast.Predict(s.Question(now))
		if err != nil {
			t.Fatal(err)
		}
		if got, err := forecast.Predict(doc.Question(now)); err != nil || got.Drawdown != want.Drawdown || got.EY != want.EY {
			t.Errorf("%s: %v, EY %.3f from the file; %v, EY %.3f from the recipe (%v)", form.Name, got.Drawdown, got.EY, want.Drawdown,
				want.EY, err)
		}
	}
}

// example returns the document in docs/formats.md, which people copy.
func example(t testing.TB) string {
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
	t.Parallel()
	text := strings.Replace(example(t), `"format"`, `"mood": {"sky": "grey"}, "format"`, 1)
	text = strings.Replace(text, `"bloom": true`, `"song": 3, "bloom": true`, 1)
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
	first := back["pours"].([]any)[0].(map[string]any)
	if back["mood"].(map[string]any)["sky"] != "grey" || first["song"] != 3.0 || back["dose_g"] != 20.0 {
		t.Errorf("came back as %s", out.String())
	}
}

func TestInvalidDocumentNamesItsField(t *testing.T) {
	t.Parallel()
	good := example(t)
	many := strings.Repeat(`{"water_g": 1, "start_s": 95, "rate_g_s": 5, "temperature_c": 94}, `, 200)
	for _, c := range []struct {
		from, to, at string
		kind         error
	}{
		{`"yardbloom-recipe"`, `"somebody-elses"`, "format", ErrFormat}, {`"version": 3`, `"version": 4`, "version", ErrVersion},
		{`"version": 3`, `"version": "new"`, "version", ErrVersion},
		{`"medium-light"`, `"charcoal"`, "coffee.roast", units.ErrUnknown}, {`"washed"`, `"magic"`, "coffee.process", units.ErrUnknown},
		{`"age_days": 18`, `"age_days": -400`, "coffee.age_days", units.ErrRange},
		{`"open-cone"`, `"sock"`, "brewer.kind", units.ErrUnknown}, {`"hand mill"`, `"teeth"`, "grinder.burrs", units.ErrUnknown},
		{`"dose_g": 18`, `"dose_g": "eighteen"`, "dose_g", units.ErrSyntax},
		{`"dose_g": 18`, `"dose_g": 2`, "dose_g", units.ErrRange}, {`"grind_um": 650`, `"grind_um": 90`, "grind_um", units.ErrRange},
		{`"dose_g": 18,`, ``, "dose_g", units.ErrMissing},
		{`"then": "swirl"`, `"then": "shout"`, "pours[0].then", units.ErrUnknown},
		{`"spiral"`, `"zigzag"`, "pours[1].pattern", units.ErrUnknown},
		{`"start_s": 45`, `"when": "later", "start_s": 45`, "pours[1].when", units.ErrUnknown},
		{`"rate_g_s": 5, "temperature_c": 94, "height": "low"`, `"rate_g_s": 90, "temperature_c": 94, "height": "low"`, "pours[2].rate_g_s",
			units.ErrRange},
		{`"temperature_c": 94, "height": "low"`, `"temperature_c": 120, "height": "low"`, "pours[2].temperature_c", units.ErrRange},
		{`"temperature_c": 94, "height": "low"`, `"height": "low"`, "pours[2].temperature_c", units.ErrMissing},
		{`{"thermostat": true, "holds_g": 900}`, `{"thermostat": false}`, "kettle.holds_g", units.ErrMissing},
		{`"thermostat": true, "holds_g": 900`, `"thermostat": false, "holds_g": 900, "readings": {"water_g": 500, "first_c": 80,
			"second_c": 90, "apart_s": 60}`, "kettle.readings", gear.ErrNotCooler},
		{`"rinse": true`, `"carafe": {"material": "paper"}`, "carafe.material", units.ErrUnknown},
		{`"holds_g": 480`, `"holds_g": 20`, "brewer.holds_g", units.ErrRange}, {`"rinse": true`, `"bed": 3`, "bed", units.ErrRange},
		{`"rinse": true`, `"ice": {"mass_g": 90, "temperature_c": 5}`, "ice.temperature_c", units.ErrRange},
		{`"start_s": 90`, `"start_s": 30`, "pours[2].start_s", ErrOrder}, {`"water_g": 121`, `"water_g": 180`, "water_g", ErrTotal},
		{`"pours": [`, `"pours": [` + many, "pours.length", units.ErrRange},
		{`"Base case"`, `"` + strings.Repeat("<script>", 100) + `"`, "name.length", units.ErrRange},
		{`"step_um": 27`, `"step_um": 0`, "grinder.dial.step_um", ErrValue},
		{`"step_um": 27`, `"step_um": 1e-31`, "grinder.dial.step_um", ErrValue},
		{`"water_g": 297`, `"water_g": 1e-308`, "water_g", units.ErrRange}, {`"dose_g": 18`, `"dose_g": 1e308`, "dose_g", units.ErrRange},
		{"{", "", "document", ErrNotJSON},
	} {
		_, err := ReadRecipe(strings.NewReader(strings.Replace(good, c.from, c.to, 1)))
		var wrong *units.ValueError
		if !errors.As(err, &wrong) || wrong.At.String() != c.at || !errors.Is(err, c.kind) || len(err.Error()) > 300 {
			t.Errorf("%s → %s: %v, want %v on %s", c.from, c.to[:min(60, len(c.to))], err, c.kind, c.at)
		}
	}
	for name, text := range map[string]string{"empty": "", "null": "null", "list": "[]", "deep": strings.Repeat("[", 1e5),
		"cut off": good[:len(good)/2]} {
		if _, err := ReadRecipe(strings.NewReader(text)); err == nil {
			t.Errorf("%s was read", name)
		}
	}
}

// Values that only the model refuses are reported at their place in the file too.
func TestModelErrorsNameTheFilesField(t *testing.T) {
	t.Parallel()
	for at, want := range map[fmt.Stringer]string{recipe.Address{Knob: recipe.Rate, Pour: 2}: "pours[1].rate_g_s",
		recipe.AddressOf(recipe.Dose): "dose_g", units.Place{Name: "ambient"}: "room_c",
		units.Place{Name: "below.ice.celsius"}: "ice.temperature_c", units.Place{Name: "brewer.rim"}: "brewer.rim"} {
		var wrong *units.ValueError
		if !errors.As(WithPath(&units.ValueError{At: at, Err: units.ErrRange}), &wrong) || wrong.At.String() != want {
			t.Errorf("%s is called %s in a file, want %s", at, wrong.At, want)
		}
	}
	doc, err := ReadRecipe(strings.NewReader(strings.Replace(example(t), `"rate_g_s": 5, "temperature_c": 94, "height": "low"`,
		`"rate_g_s": 25, "temperature_c": 94, "height": "low"`, 1)))
	if err != nil {
		t.Fatal(err)
	}
	doc.Pours[2].RateGS = 26 // accepted by the schema, refused by the model
	_, err = forecast.Predict(doc.Question(now))
	var wrong *units.ValueError
	if !errors.As(WithPath(err), &wrong) || wrong.At.String() != "pours[2].rate_g_s" || wrong.Value != 26 || wrong.Range.Hi != 25 {
		t.Errorf("%v", err)
	}
}

// 0 °C is a temperature, not a missing value.
func TestRoomAtZeroDegrees(t *testing.T) {
	t.Parallel()
	slurry := func(room string) float64 {
		doc, err := ReadRecipe(strings.NewReader(strings.Replace(example(t), `"rinse": true`, `"rinse": true`+room, 1)))
		if err != nil {
			t.Fatal(err)
		}
		f, err := forecast.Predict(doc.Question(now))
		if err != nil {
			t.Fatal(err)
		}
		return float64(f.SlurryMean)
	}
	if usual, cold := slurry(""), slurry(`, "room_c": 0`); cold >= usual || slurry(`, "room_c": 21`) != usual {
		t.Errorf("the slurry has %.2f °C in a usual room, %.2f °C in one at 0 °C", usual, cold)
	}
}

// Mutation caught: a document of an unknown version that is read anyway.
// Mutation caught: a file that an editor saved with a byte order mark is refused as no JSON.
func TestByteOrderMarkIsAccepted(t *testing.T) {
	all, err := ReadAny(strings.NewReader("\ufeff" + example(t)))
	if err != nil || len(all) != 1 {
		t.Errorf("%d recipes, %v", len(all), err)
	}
}

func TestOtherVersionsAreRefused(t *testing.T) {
	t.Parallel()
	for _, version := range []string{"2", "4", "3.5", `"3"`} {
		_, err := ReadRecipe(strings.NewReader(strings.Replace(example(t), `"version": 3`, `"version": `+version, 1)))
		var wrong *units.ValueError
		if !errors.As(err, &wrong) || wrong.At.String() != "version" || !errors.Is(err, ErrVersion) {
			t.Errorf("version %s: %v", version, err)
		}
	}
}

// The schema and the program have the same lists of words.
func TestSchemaAndProgramHaveTheSameWords(t *testing.T) {
	t.Parallel()
	schema, err := os.ReadFile("schema/recipe.v3.schema.json")
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
	for _, k := range gear.DialKinds() {
		words = append(words, string(k))
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

var anyNumber = regexp.MustCompile(`: -?[0-9.]+`)

// The fuzzer changes one number or text of a valid document, so that most inputs pass the parser. A
// document that is read is consistent, can be predicted or is refused at a place in the file, and is the
// same after writing and reading. A book gives recipes or an error with a path; mended, its sums are right.
// Mutations caught: no check of the sum, no ranges in the schema.
func FuzzReadAny(f *testing.F) {
	valid := example(f)
	book := `{"format": "yardbloom-book", "version": 1, "recipes": [` + valid + "," + valid + "]}"
	tokens := regexp.MustCompile(`"[^"]*"|[0-9.]+`).FindAllStringIndex(book, -1)
	for i := range 60 {
		f.Add(uint8(i), "290")
		f.Add(uint8(i), `"recipes"`)
	}
	f.Fuzz(func(t *testing.T, which uint8, is string) { // replaces one word or number of a valid book
		at := tokens[int(which)%len(tokens)]
		text := book[:at[0]] + is + book[at[1]:]
		for _, s := range []string{text, string(FixTotals([]byte(text)))} {
			docs, err := ReadAny(strings.NewReader(s))
			var wrong *units.ValueError
			if err != nil && (!errors.As(err, &wrong) || wrong.At == nil || wrong.At.String() == "") {
				t.Fatalf("refused without a place: %v", err)
			}
			if err == nil {
				var out bytes.Buffer
				if err := (Book{Recipes: docs}).Write(&out); err != nil {
					t.Fatal(err)
				}
				if again, err := ReadAny(&out); err != nil || len(again) != len(docs) {
					t.Fatalf("%d recipes come back as %d: %v", len(docs), len(again), err)
				}
			}
		}
		if docs, err := ReadAny(strings.NewReader(string(FixTotals([]byte(text))))); errors.Is(err, ErrTotal) {
			t.Fatalf("fixed, it still does not add up: %v, %v", docs, err)
		}
	})
}

func FuzzReadRecipe(f *testing.F) {
	valid := example(f)
	for i := range 40 {
		f.Add(uint8(i), 1e-308, "")
		f.Add(uint8(i), float64(i), "drained")
	}
	f.Add(uint8(0), 0.0, valid)
	f.Fuzz(func(t *testing.T, which uint8, number float64, text string) {
		places := anyNumber.FindAllStringIndex(valid, -1)
		at := places[int(which)%len(places)]
		changed := valid[:at[0]+2] + strconv.FormatFloat(number, 'g', -1, 64) + valid[at[1]:]
		quoted, _ := json.Marshal(text)
		for _, s := range []string{changed, strings.Replace(valid, `"spiral"`, string(quoted), 1),
			strings.Replace(valid, `"Base case"`, string(quoted), 1), text} {
			doc, err := ReadRecipe(strings.NewReader(s))
			if err != nil {
				var wrong *units.ValueError
				if !errors.As(err, &wrong) || wrong.At == nil || wrong.At.String() == "" {
					t.Fatalf("refused without a place: %v", err)
				}
				continue
			}
			sum := 0.0
			for i, p := range doc.Pours {
				if sum += p.WaterG; i > 0 && p.StartS < doc.Pours[i-1].StartS {
					t.Fatal("the pours are out of order")
				}
			}
			if math.Abs(sum-doc.WaterG) > 0.5 {
				t.Fatalf("%v g in the pours, %v g in all", sum, doc.WaterG)
			}
			var out bytes.Buffer
			if err := doc.Write(&out); err != nil {
				t.Fatal(err)
			}
			again, err := ReadRecipe(&out)
			if err != nil || again.DoseG != doc.DoseG || !reflect.DeepEqual(again.Pours, doc.Pours) {
				t.Fatalf("written and read again: %v", err)
			}
			cup, err := forecast.Predict(doc.Question(now))
			if err == nil && (math.IsNaN(cup.EY) || cup.EY < 0 || cup.EY > 40) {
				t.Fatalf("a yield of %v %%", cup.EY)
			}
		}
	})
}
