package web_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"yardbloom/core/recipe"
	"yardbloom/store"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

var mutations = flag.Int("mutations", 10, "random changes for each kind of record; use more than the default by hand")

// pagesOf returns the pages that can show a record.
func pagesOf(kind store.Kind, id string) []string {
	own := map[store.Kind][]string{
		store.Brews: {"/brews/" + id, "/brews/" + id + "/cup", "/brews/" + id + "/next", "/brews/" + id + "/card", "/brews/" + id + "/record",
			"/log/compare?id=" + id + "&id=slate-terrace-3", "/learned", "/yard", "/log"},
		store.Recipes: {"/brews/" + id + "/recipe", "/brews/" + id + "/setup", "/brews/" + id + "/brew", "/brews/" + id + "/card", "/book", "/rush"},
		store.Trials:  {"/trials/" + id, "/trials"}, store.Flights: {"/side/" + id, "/side"}, store.Scripts: {"/stage/" + id, "/stage"},
		store.Rushes: {"/rush/" + id, "/rush"}, store.Tries: {"/practice"}, store.Bags: {"/bags/" + id, "/"},
		store.Grinders: {"/gear/grinders/" + id, "/gear"}, store.Brewers: {"/gear"}, store.Kettles: {"/gear"}, store.Waters: {"/gear"},
		store.Persons: {"/people", "/"},
	}
	return own[kind]
}

// mutate changes one value of a document at random: nothing, an empty or repeated list, a number at an edge, another word.
func mutate(doc any, rng *rand.Rand) any {
	switch v := doc.(type) {
	case map[string]any:
		names := slices.DeleteFunc(slices.Sorted(maps.Keys(v)), func(name string) bool {
			return slices.Contains([]string{"format", "kind", "version", "id", "revision", "v"}, name)
		})
		if len(names) == 0 {
			return v
		}
		name := names[rng.IntN(len(names))]
		if rng.IntN(8) == 0 {
			delete(v, name)
			return v
		}
		v[name] = mutate(v[name], rng)
		return v
	case []any:
		switch {
		case len(v) == 0 || rng.IntN(6) == 0:
			return []any{nil, []any{}, append(v, v...)}[rng.IntN(3)]
		default:
			i := rng.IntN(len(v))
			v[i] = mutate(v[i], rng)
			return v
		}
	case json.Number:
		return json.Number([]string{"0", "-0.0", "-1", "1", "1e-300", "7", "99999", "3.5"}[rng.IntN(8)])
	case string:
		return []any{"", nil, "x", v + v, "none"}[rng.IntN(5)]
	}
	return []any{nil, true, "x", json.Number("0")}[rng.IntN(4)]
}

// Whatever an import accepts, every page that can show it shows: records of every kind are changed at random and imported over the
// originals. Mutations caught: a flight without cups, a trial without levels, an order without tasks, a rate of −0, a null for a list.
func TestImportedRecordsCanBeShown(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("nothing here runs concurrently")
	}
	v := webtest.Visit(t)
	rng := rand.New(rand.NewPCG(1, 2))
	accepted := map[store.Kind]int{}
	for _, kind := range store.RecordKinds() {
		var originals []store.Document
		if err := v.Store.EachRecord(t.Context(), kind, time.Time{}, time.Time{}, func(d store.Document) error {
			if len(originals) < 4 {
				originals = append(originals, d)
			}
			return nil
		}); err != nil {
			t.Fatal(err)
		}
		if len(originals) == 0 || kind == store.Deleted {
			continue
		}
		for n := range *mutations {
			text := changed(t, originals[rng.IntN(len(originals))], int64(1000+n), rng)
			id, taken := importOne(t, v, text)
			if !taken {
				continue
			}
			accepted[kind]++
			for _, page := range pagesOf(kind, id) {
				if code, _ := v.Get(page); code >= http.StatusInternalServerError {
					t.Errorf("%s answers %d for\n%s\n%.600s", page, code, text, lastLines(v.Log.String()))
				}
			}
			if kind == store.Recipes {
				if code, _ := v.Post("/brews/" + id + "/start"); code >= http.StatusInternalServerError {
					t.Errorf("%s cannot begin: %d\n%s", id, code, text)
				}
			}
			if t.Failed() {
				return
			}
		}
	}
	for _, kind := range []store.Kind{store.Brews, store.Recipes, store.Trials, store.Flights, store.Scripts, store.Rushes} {
		if accepted[kind] == 0 {
			t.Errorf("no changed %s was accepted", kind)
		}
	}
}

func lastLines(log string) string { return log[max(0, len(log)-3000):] }

// changed returns a document with a new revision and one value changed.
func changed(t *testing.T, d store.Document, revision int64, rng *rand.Rand) string {
	t.Helper()
	read := json.NewDecoder(strings.NewReader(d.Text))
	read.UseNumber()
	var doc map[string]any
	if err := read.Decode(&doc); err != nil {
		t.Fatal(err)
	}
	mutate(doc, rng)
	doc["revision"] = revision
	text, err := json.Marshal(doc)
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}

// importOne imports one record and returns its id; false if it is refused.
func importOne(t *testing.T, v *webtest.Visitor, text string) (id string, taken bool) {
	t.Helper()
	in, err := yard.ReadImport(t.Context(), v.Store, bytes.NewReader([]byte(text)), int64(len(text)), v.Now())
	if err != nil {
		return "", false
	}
	taken = in.Changes()
	if err := errors.Join(in.Apply(t.Context(), "changed", "", v.Now(), func(int, int) {}), in.Close()); err != nil {
		t.Errorf("%v: %s", err, text)
	}
	var head struct{ ID string }
	if err := json.Unmarshal([]byte(text), &head); err != nil {
		t.Fatal(err)
	}
	return head.ID, taken
}

// Records that no use case makes are refused with the reason. Mutations caught: each check of Valid.
func TestImpossibleRecordsAreRefused(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	first := func(kind store.Kind) (text string) {
		t.Helper()
		if err := v.Store.EachRecord(t.Context(), kind, time.Time{}, time.Time{}, func(d store.Document) error {
			text = d.Text
			return nil
		}); err != nil {
			t.Fatal(err)
		}
		return text
	}
	for _, c := range []struct {
		kind  store.Kind
		spoil func(map[string]any)
		says  string
	}{
		{store.Flights, func(d map[string]any) { d["cups"] = nil }, "two to six cups"},
		{store.Flights, func(d map[string]any) { d["order"] = []any{0, 7} }, "order"},
		{store.Trials, func(d map[string]any) { d["levels"] = []any{} }, "two to six levels"},
		{store.Trials, func(d map[string]any) { d["runs"].([]any)[0].(map[string]any)["level"] = 9 }, "not those of its levels"},
		{store.Rushes, func(d map[string]any) { d["orders"].([]any)[0].(map[string]any)["tasks"] = []any{} }, "no tasks"},
	} {
		var doc map[string]any
		if err := json.Unmarshal([]byte(first(c.kind)), &doc); err != nil {
			t.Fatal(err)
		}
		c.spoil(doc["doc"].(map[string]any))
		doc["revision"], doc["id"] = 999, "spoiled"
		text, _ := json.Marshal(doc)
		in, err := yard.ReadImport(t.Context(), v.Store, bytes.NewReader(text), int64(len(text)), v.Now())
		if err != nil {
			t.Fatal(err)
		}
		if len(in.Refused) != 1 || !strings.Contains(in.Refused[0].Why, c.says) {
			t.Errorf("%s: %+v, want %q", c.kind, in.Refused, c.says)
		}
		if err := in.Close(); err != nil {
			t.Fatal(err)
		}
	}
	if err := (recipe.Recipe{Dose: 17, Pours: []recipe.Pour{{Water: 50, Rate: 0}}}).Valid(); !errors.Is(err, recipe.ErrPour) {
		t.Error(fmt.Sprint("a rate of 0: ", err))
	}
}
