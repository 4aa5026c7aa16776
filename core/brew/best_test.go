package brew

import (
	"math"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// The best recipe is that of the highest mean mark, with the probability by hand: 8 against 7, once each, are a difference of 1 ± 0.99,
// so 84 %; 8.5 of two against 7 of two are 1.5 ± 0.7, so 98 %. Mutations caught: the best single mark, a chance that ignores the
// number of brews, one step of the dial as another recipe.
func TestBestRecipeAndItsChance(t *testing.T) {
	t.Parallel()
	marked := func(grind float64, mark int) Brew {
		b := tastedAt(1.4, gear.OpenCone)
		b.Recipe.Grind, b.Cup.Overall = units.Micrometres(grind), mark
		return b
	}
	for name, c := range map[string]struct {
		path   []Brew
		grind  float64
		brews  int
		chance float64
	}{
		"one each":          {[]Brew{marked(600, 7), marked(650, 8)}, 650, 1, 0.844},
		"two each":          {[]Brew{marked(600, 7), marked(650, 8), marked(600, 7), marked(650, 9)}, 650, 2, 0.984},
		"one high mark":     {[]Brew{marked(600, 9), marked(600, 5), marked(650, 8), marked(650, 8)}, 650, 2, 0.923},
		"alone":             {[]Brew{marked(600, 7), marked(604, 8)}, 604, 2, 0},
		"equal":             {[]Brew{marked(600, 7), marked(650, 7)}, 650, 1, 0.5},
		"without some mark": {[]Brew{marked(600, 0), marked(650, 7)}, 650, 1, 0},
	} {
		got, ok := BestOf(c.path)
		if !ok || float64(got.Brew.Recipe.Grind) != c.grind || got.Brews != c.brews || math.Abs(got.Chance-c.chance) > 0.002 {
			t.Errorf("%s: %v µm, %d brews, %.3f", name, got.Brew.Recipe.Grind, got.Brews, got.Chance)
		}
	}
	if _, ok := BestOf([]Brew{marked(600, 0)}); ok {
		t.Error("a best without a mark")
	}
}
