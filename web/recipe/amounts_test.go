package recipe_test

import (
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"testing"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/webtest"
)

// amountModes are the servings and units in which amounts are typed. Any two values of different
// amounts give a valid recipe.
var amountModes = []struct {
	name   string
	prefs  units.Prefs
	set    []string // fields of the Recipe station
	values map[recipe.Knob][2]string
}{
	{"hot", units.Prefs{}, nil, metricAmounts},
	{"over ice", units.Prefs{}, []string{"serving", "over ice"}, metricAmounts},
	{"diluted", units.Prefs{}, []string{"serving", "diluted"}, metricAmounts},
	{"steeped", units.Prefs{}, []string{"brewer", "shed-steeper"}, metricAmounts},
	{"ounces", units.Prefs{Ounces: true}, nil, map[recipe.Knob][2]string{recipe.Dose: {"0.65", "0.7"}, recipe.Water: {"10.5", "11"},
		recipe.Ratio: {"14", "16"}, recipe.Cup: {"8.7", "9"}}},
}

var metricAmounts = map[recipe.Knob][2]string{recipe.Dose: {"18.5", "20"}, recipe.Water: {"297", "312"}, recipe.Ratio: {"14", "16"},
	recipe.Cup: {"255", "262"}}

// everyOrder returns a sequence of amounts that contains every order of three typed amounts,
// including one typed again after another (an Eulerian circuit over pairs; Hierholzer 1873).
func everyOrder() []recipe.Knob {
	type pair [2]recipe.Knob
	left := map[pair][]recipe.Knob{}
	for _, a := range recipe.FourAmounts() {
		for _, b := range recipe.FourAmounts() {
			for _, c := range recipe.FourAmounts() {
				if a != b && b != c {
					left[pair{a, b}] = append(left[pair{a, b}], c)
				}
			}
		}
	}
	var walk []recipe.Knob
	var visit func(at pair)
	visit = func(at pair) {
		for len(left[at]) > 0 {
			next := left[at][0]
			left[at] = left[at][1:]
			visit(pair{at[1], next})
		}
		walk = append([]recipe.Knob{at[1]}, walk...)
	}
	visit(pair{recipe.Dose, recipe.Water})
	return append([]recipe.Knob{recipe.Dose}, walk...)
}

// The two amounts typed last keep their values, and the others follow from recipe.Solve.
// Mutations caught: a stale ratio that overwrites the dose, a held amount that is forgotten, a
// typed cup that is rounded.
func TestLastTwoTypedAmountsAreHeld(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	order := everyOrder()
	if len(order) != 38 {
		t.Fatalf("the walk has %d steps, want 38", len(order))
	}
	for _, mode := range amountModes {
		t.Run(mode.name, func(t *testing.T) {
			t.Parallel()
			v := webtest.Visit(t)
			if mode.prefs.Ounces {
				v.Post("/settings", "mass", "oz", "heat", "°C", "altitude", "0")
			}
			v.Recipe(mode.set...)
			path := fmt.Sprintf("/brews/%s/recipe", webtest.Planned)
			_, page := v.Get(path)
			draft, _, err := v.Store.Draft(t.Context(), webtest.Planned)
			if err != nil {
				t.Fatal(err)
			}
			retained := draft.Gear.Brewer.Retained
			typed, turn := map[recipe.Knob]string{}, map[recipe.Knob]int{}
			for i, k := range order {
				typed[k] = mode.values[k][turn[k]%2]
				turn[k]++
				form := webtest.Fields(page)
				form.Set(string(k), typed[k])
				form.Set("changed", string(k))
				code, body, _ := v.Send("POST", path, form)
				page = body
				if code != http.StatusOK {
					t.Fatalf("step %d, %s %s: status %d, %v", i, k, typed[k], code, webtest.ErrorsIn(body))
				}
				if i == 0 {
					continue
				}
				checkAmounts(t, fmt.Sprintf("step %d, %s %s then %s %s", i, order[i-1], typed[order[i-1]], k, typed[k]),
					webtest.Fields(body), typed, [2]recipe.Knob{k, order[i-1]}, retained, mode.prefs)
			}
		})
	}
}

// checkAmounts compares the amounts on a page with recipe.Solve for the held two, within the
// resolution of a scale.
func checkAmounts(t *testing.T, when string, page url.Values, typed map[recipe.Knob]string, held [2]recipe.Knob, retained float64,
	prefs units.Prefs) {
	t.Helper()
	var a recipe.Amounts
	for _, k := range held {
		v, err := prefs.Unit(k.Kind()).Parse(typed[k])
		if err != nil {
			t.Fatal(err)
		}
		a = a.Set(k, v)
		if got := page.Get(string(k)); got != typed[k] {
			t.Errorf("%s: %s reads %s", when, k, got)
		}
	}
	want, err := recipe.Solve(a, held, retained)
	if err != nil {
		t.Fatalf("%s: %v", when, err)
	}
	slack := map[recipe.Knob]float64{recipe.Dose: 0.06, recipe.Water: 0.7, recipe.Ratio: 0.1, recipe.Cup: 0.7}
	for _, k := range recipe.FourAmounts() {
		u := prefs.Unit(k.Kind())
		got, err := strconv.ParseFloat(page.Get(string(k)), 64)
		within := slack[k]*u.Scale + 0.5*math.Pow10(-u.Decimals)
		if err != nil || math.Abs(got-u.Shown(want.Get(k))) > within {
			t.Errorf("%s: %s reads %s, want %s", when, k, page.Get(string(k)), u.Number(want.Get(k)))
		}
	}
}

// Without scripts the server compares the form with the values that the page showed.
func TestPlainFormAmounts(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		typed             []string
		dose, water, says string
	}{
		{[]string{"dose", "26", "water", "300"}, "26", "300", ""},
		{[]string{"water", "320", "ratio", "16"}, "20", "320", ""},
		{[]string{"dose", "19", "ratio", "16", "water", ""}, "19", "304", ""},
		{[]string{"dose", "20", "water", "320", "ratio", "16"}, "20", "320", ""}, // they agree
		{[]string{"dose", "19", "ratio", "16", "water", "320"}, "19", "320", "contradict each other"},
		{[]string{"dose", "6", "water", "1900"}, "6", "1900", "do not fit together"},
		{[]string{"ratio", "sixteen", "water", "320"}, "19.4", "320", "is not a number"},
	} {
		v := webtest.Visit(t)
		code, got, body := v.Recipe(c.typed...)
		if (code != http.StatusOK) != (c.says != "") || !strings.Contains(body, c.says) || got.Get("dose") != c.dose ||
			got.Get("water") != c.water {
			t.Errorf("%q: status %d, dose %s, water %s, %v; want %s, %s, %q", c.typed, code, got.Get("dose"), got.Get("water"),
				webtest.ErrorsIn(body), c.dose, c.water, c.says)
		}
	}
	// Clearing one amount resolves the contradiction.
	v := webtest.Visit(t)
	v.Recipe("dose", "19", "ratio", "16", "water", "320")
	if code, got, body := v.Recipe("water", ""); code != http.StatusOK || got.Get("dose") != "19" || got.Get("water") != "304" {
		t.Errorf("cleared: status %d, dose %s, water %s, %v", code, got.Get("dose"), got.Get("water"), webtest.ErrorsIn(body))
	}
}

// Mutations caught: a unit that is ignored, a spoon that weighs too little, a texture that is
// refused.
func TestFieldsAcceptEveryNotation(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, c := range []struct{ name, typed, shows, want string }{
		{"dose", "4 tbsp", "dose", "24"},
		{"dose", "0.85 oz", "dose", "24.1"},
		{"ratio", "60 g/l", "ratio", "16.7"},
		{"ratio", "1:16", "ratio", "16"},
		{"cup", "2 mugs", "cup", "500"},
		{"cup", "12 fl oz", "cup", "355"},
		{"temperature", "201 F", "temperature", "94"},
		{"temperature", "94C", "temperature", "94"},
		{"setting", "24 clicks", "grind", "708"},
		{"setting", "table salt", "setting", "21"},
		{"grind", "0.65 mm", "setting", "22"},
		{"bloom_time", "3/4 min", "bloom_time", "45"},
		{"pours.2.start", "50s", "pours.2.start", "0:50"},
		{"rate", "5 ml/s", "rate", "5"},
	} {
		code, got, body := v.Recipe(c.name, c.typed)
		if code != http.StatusOK || got.Get(c.shows) != c.want {
			t.Errorf("%s %q: status %d, %s reads %q, want %q; %v", c.name, c.typed, code, c.shows, got.Get(c.shows), c.want,
				webtest.ErrorsIn(body))
		}
	}
	if code, got, body := v.Recipe("dose", "94 C"); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "is a temperature, which is not valid here") || got.Get("dose") != "94 C" {
		t.Errorf("94 C as a dose: status %d, %v", code, webtest.ErrorsIn(body))
	}
}
