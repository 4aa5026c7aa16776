package exchange

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
)

// The lists of words in the schemas are those of the code. Mutation caught: a new style that no other yard could import.
func TestSchemasKnowTheWordsOfTheCode(t *testing.T) {
	t.Parallel()
	var styles, kinds []string
	for _, s := range recipe.Schools() {
		styles = append(styles, string(s.ID))
	}
	for _, f := range gear.BrewerForms() {
		kinds = append(kinds, string(f.Kind))
	}
	for _, c := range []struct {
		kind, path string
		want       any
	}{
		{"brew", "style", styles}, {"brew", "recipe.style", styles}, {"recipe", "recipe.style", styles}, {"brewer", "shape", kinds},
		{"brew", "gear.brewer.kind", kinds}, {"brewer", "material", gear.Materials()}, {"brewer", "filter", gear.Filters()},
		{"brewer", "ribs", gear.RibKinds()}, {"brewer", "outlets", gear.OutletKinds()}, {"grinder", "burrs", gear.BurrKinds()},
		{"grinder", "dial", gear.DialKinds()}, {"bag", "process", append([]coffee.Process{coffee.ProcessUnknown}, coffee.Processes()...)},
		{"person", "mark", person.Marks()},
	} {
		file, err := schemaFiles.ReadFile("schema/record-" + c.kind + ".v1.schema.json")
		if err != nil {
			t.Fatal(err)
		}
		var at any
		if err := json.Unmarshal(file, &at); err != nil {
			t.Fatal(err)
		}
		for _, name := range strings.Split(c.path, ".") {
			properties, _ := at.(map[string]any)["properties"].(map[string]any)
			at = properties[name]
		}
		got, _ := at.(map[string]any)
		words, _ := json.Marshal(c.want)
		if known, _ := json.Marshal(got["enum"]); string(known) != string(words) {
			t.Errorf("%s, %s: %s, want %s", c.kind, c.path, known, words)
		}
	}
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
