package trial

import (
	"math"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// A Study is a predefined trial: its variable, and its levels relative to a recipe.
type Study struct {
	ID, Name, About string
	Knob            recipe.Knob
	Levels          func(recipe.Recipe) []float64 // of a knob
	Names           []string                      // of options
	Repeats         int
	Measure         Measure
	For             func(recipe.Recipe) bool // recipes that it suits; nil: all
}

// Studies lists the predefined trials.
func Studies() []Study { return studies }

func choice(k recipe.Knob, name string) float64 { return float64(slices.Index(k.Choices(), name)) }

func levels(v ...float64) func(recipe.Recipe) []float64 {
	return func(recipe.Recipe) []float64 { return v }
}

func iced(r recipe.Recipe) bool  { return r.Serving() == recipe.OverIce }
func drips(r recipe.Recipe) bool { return !r.Steeps() }

var studies = []Study{
	{ID: "water", Name: "How much water is enough", About: "The same dose with increasing water: from where does more add no yield?",
		Knob: recipe.Ratio, Repeats: 3, Measure: ByYield, Levels: levels(12, 14, 16, 18)},
	{ID: "stir", Name: "What stirring does", About: "None, a swirl, and a spoon through the bloom: does stirring matter?",
		Knob: recipe.HandAfter, Repeats: 3, Measure: ByYield,
		Levels: levels(0, choice(recipe.HandAfter, recipe.Swirl.String()), choice(recipe.HandAfter, recipe.StirBed.String()))},
	{ID: "grind", Name: "One step of the grinder", About: "Three settings side by side: how much one step matters to you on this grinder.",
		Knob: recipe.Grind, Repeats: 3, Measure: ByMark,
		Levels: func(r recipe.Recipe) []float64 {
			g := float64(r.Grind)
			return []float64{g - 50, g, g + 50}
		}},
	{ID: "end", Name: "Does the end of the brew belong in the cup", About: "The same brew, lifted off at three moments up to the end.",
		Knob: recipe.CutAt, Repeats: 3, Measure: ByMark, For: drips,
		Levels: func(r recipe.Recipe) []float64 {
			end := math.Round(float64(r.Amounts(gear.DefaultRetained).Cup)/5) * 5
			return []float64{end - 60, end - 30, end}
		}},
	{ID: "paper", Name: "Which paper", About: "The same recipe through two papers: does this one taste clearer, or only drain otherwise?",
		Knob: ByPaper, Repeats: 3, Measure: ByMark, Names: []string{string(gear.StandardPaper), string(gear.ThickPaper)}},
	{ID: "height", Name: "From how high to pour", About: "The spout low, at a hand’s width, and high.", Knob: recipe.PourHeight, Repeats: 3,
		Measure: ByYield, For: drips, Levels: levels(float64(recipe.Low), float64(recipe.Mid), float64(recipe.High))},
	{ID: "first", Name: "Coffee first or water first", About: "A steep begun with the coffee in the brewer, or with the water.",
		Knob: recipe.First, Repeats: 3, Measure: ByMark, For: recipe.Recipe.Steeps, Levels: levels(0, 1)},
	{ID: "crust", Name: "Break the crust or not", About: "The same steep, with its crust left alone and broken 45 s before the end.",
		Knob: recipe.CrustAt, Repeats: 3, Measure: ByMark, For: recipe.Recipe.Steeps,
		Levels: func(r recipe.Recipe) []float64 { return []float64{0, max(30, float64(r.Release)-45)} }},
	{ID: "runnings", Name: "The first runnings in a glass of their own", About: "With and without the first part: is it what tastes rough?",
		Knob: recipe.Discard, Repeats: 3, Measure: ByMark, Levels: levels(0, 20)},
	{ID: "ice", Name: "How cold does the ice make it", About: "Three shares of ice, and the temperature of the drink after a stir.",
		Knob: recipe.IcePart, Repeats: 2, Measure: ByHeat, For: iced, Levels: levels(0.3, 0.38, 0.46)},
}
