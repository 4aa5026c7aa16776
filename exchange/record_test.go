package exchange

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
)

// wordsOf holds the words of the code by the place of their list in a schema; "*" stands for any file or place.
var wordsOf = map[string]any{
	"*.style": styleIDs(), "*.process": append([]coffee.Process{coffee.ProcessUnknown}, coffee.Processes()...),
	"*.shape": kinds(), "*.kind": kinds(), "*.material": gear.Materials(), "*.filter": gear.Filters(),
	"*.ribs": gear.RibKinds(), "*.outlets": gear.OutletKinds(), "*.burrs": gear.BurrKinds(), "*.dial": gear.DialKinds(),
	"*.dial.kind": gear.DialKinds(), "*.mark": person.Marks(), "*.marks[]": cup.Marks(), "*.bed": cup.Beds(), "*.seen[]": cup.Sights(),
	"*.faults[]": cup.Faults(), "*.wants[]": cup.Wants(), "*.roast": roastNames(), "*.height": []recipe.Height{recipe.Low, recipe.Mid, recipe.High},
	"*.pattern": recipe.Patterns(), "*.then": recipe.Hands(), "*.when": []string{ByClock, ByDrained, ByDrips}, "*.pours[].kettle": []int{1, 2},
	"*.first": []string{"coffee", waterFirst}, "*.parameters[].name": forecast.Names,
	"*.turns_first":          []recipe.LeverOrder{"bed", recipe.GrindFirst, recipe.HeatFirst},
	"*.defaults.turns_first": []recipe.LeverOrder{recipe.GrindFirst, recipe.HeatFirst},
	"*.defaults.rinse":       []recipe.Rinsing{recipe.Always, recipe.Never}, "*.defaults.keeps": []recipe.Keep{recipe.KeepStrength, recipe.KeepYield},
	"*.likes*": []string{"yes", "no"}, "*.would_serve": []string{"yes", "no"}, "*.verdict": []string{"out", "in"},
	"*.status": []brew.Status{brew.Poured, brew.Done, brew.Abandoned}, "*.units.mass": []string{"g", "oz"}, "*.units.temperature": []string{"°C", "°F"},
	"*.theme": []string{"", "auto", "day", "night"}, "*.sound": []string{"", "tones", "voice", "off"},
	"*.of": []string{"brew", "flight", "trial", "script", "person"},
}

func styleIDs() (out []recipe.StyleID) {
	for _, s := range recipe.Schools() {
		out = append(out, s.ID)
	}
	return out
}

func kinds() (out []gear.BrewerKind) {
	for _, f := range gear.BrewerForms() {
		out = append(out, f.Kind)
	}
	return out
}

func roastNames() (out []string) {
	for _, r := range coffee.Roasts() {
		out = append(out, r.String())
	}
	return out
}

// Every list of words in every schema is that of the code; the empty word and the order do not count. Mutations caught: a new style,
// mark or sight that no other yard could import, a sight that a file has under another word, a list that no code is compared with.
func TestSchemasKnowTheWordsOfTheCode(t *testing.T) {
	t.Parallel()
	files, err := schemaFiles.ReadDir("schema")
	if err != nil {
		t.Fatal(err)
	}
	lists := 0
	for _, file := range files {
		text, err := schemaFiles.ReadFile("schema/" + file.Name())
		if err != nil {
			t.Fatal(err)
		}
		var doc any
		if err := json.Unmarshal(text, &doc); err != nil {
			t.Fatal(err)
		}
		eachEnum(doc, "", func(at string, words []any) {
			lists++
			rule := ""
			for pattern := range wordsOf {
				suffix := strings.Trim(pattern, "*")
				if (strings.HasSuffix(at, suffix) || strings.HasSuffix(pattern, "*") && strings.Contains(at, suffix)) && len(pattern) > len(rule) {
					rule = pattern
				}
			}
			if known, read := wordSet(wordsOf[rule]), wordSet(words); rule == "" || !maps.Equal(known, read) {
				t.Errorf("%s%s: %v, in the code %v (%s)", file.Name(), at, read, known, rule)
			}
		})
	}
	if lists < 50 {
		t.Errorf("only %d lists were found", lists)
	}
}

// eachEnum calls each with the place and the words of every list in a schema.
func eachEnum(schema any, at string, each func(at string, words []any)) {
	switch s := schema.(type) {
	case map[string]any:
		if words, ok := s["enum"].([]any); ok {
			each(at, words)
		}
		for name, inner := range s {
			switch name {
			case "items":
				eachEnum(inner, at+"[]", each)
			case "properties", "anyOf", "oneOf", "allOf":
				eachEnum(inner, at, each)
			default:
				eachEnum(inner, at+"."+name, each)
			}
		}
	case []any:
		for _, inner := range s {
			eachEnum(inner, at, each)
		}
	}
}

// wordSet returns the words of a list as they are in JSON, without the empty one.
func wordSet(list any) map[string]bool {
	out := map[string]bool{}
	v := reflect.ValueOf(list)
	if !v.IsValid() {
		return out
	}
	for i := range v.Len() {
		if word := fmt.Sprint(v.Index(i).Interface()); word != "" && word != "nothing" {
			out[word] = true
		}
	}
	return out
}

// Mutations caught: a date that is not compared with now, a limit by unit that is not applied inside a list, an unknown kind that panics.
func TestRecordsAreChecked(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)
	const good = `{"format":"yardbloom-record","kind":"bag","version":1,"id":"b1","revision":1,"name":"Slate","process":"washed","roast":2,` +
		`"roasted_on":"2026-05-01","weight_g":250.0,"counted_at":null}`
	if head, err := CheckRecord([]byte(good), now); err != nil || head.ID != "b1" || head.Kind != "bag" {
		t.Fatalf("%+v, %v", head, err)
	}
	for _, c := range []struct{ old, with, says string }{
		{`"bag"`, `"../person"`, "not a kind"}, {`"bag"`, `"kingdom"`, "not a kind"}, {`"version":1`, `"version":2`, "newer"},
		{`"b1"`, `"b 1"`, "id"}, {`"roast":2`, `"roast":9`, "roast"}, {`"washed"`, `"boiled"`, "process"}, {`250.0`, `-1`, "weight_g"},
		{`"counted_at":null`, `"counted_at":"2026-06-01T00:00:00.000Z"`, "in the future"}, {`"counted_at":null`, `"counted_at":"soon"`, "counted_at"},
		{`"name":"Slate"`, fmt.Sprintf(`"name":%q`, strings.Repeat("x", 500)), "name"}, {`,"name":"Slate"`, ``, "name"},
		{`"roasted_on"`, `"burnt_on"`, ""}, {`{`, `[`, "not JSON"},
	} {
		if _, err := CheckRecord([]byte(strings.Replace(good, c.old, c.with, 1)), now); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s for %s: %v, want %q", c.with, c.old, err, c.says)
		}
	}
	if err := plausible(map[string]any{"steps": []any{map[string]any{"start_s": json.Number("1e9")}}}, "", now); err == nil {
		t.Error("a step of 30 years")
	}
}
