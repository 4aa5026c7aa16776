package demo

import (
	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A chapter is a bag with its brews. Days count back from the day on which the demo begins.
type chapter struct {
	bag     coffee.Bag
	roasted int // days ago
	opened  int // days ago; 0: closed
	truth   truth
	lines   []line
}

// A line is a sequence of brews of a bag on one set of gear. The first one is brewed as the product suggests; each later one follows the
// advice on the cup before it, or repeats a recipe that needs no change.
type line struct {
	id                             string // the brews are id-1, id-2, …
	brewer, grinder, kettle, water int
	style                          recipe.StyleID
	hour, minute                   int
	palate                         string   // who tastes; an id of the staff
	by                             []string // who pour, in turn
	days                           []int
	untasted                       []int // untasted brews, from 1
	uneven                         []int // brews, from 1, with an uneven bed
	start                          func(recipe.Recipe) recipe.Recipe
	careful                        bool // an advised grind is approached by one mark of the dial at a time
	planned                        bool // the next recipe is planned, with the advised change
}

// startGrind sets another first grind than the suggested one.
func startGrind(size units.Micrometres) func(recipe.Recipe) recipe.Recipe {
	return func(r recipe.Recipe) recipe.Recipe { r.Grind = size; return r }
}

// startRatio sets another first ratio than the suggested one.
func startRatio(ratio float64) func(recipe.Recipe) recipe.Recipe {
	return func(r recipe.Recipe) recipe.Recipe { return r.With(recipe.AddressOf(recipe.Ratio), ratio) }
}

// A tasting is a second person’s tasting of a brew.
type tasting struct{ brew, by string }

var secondTastings = []tasting{
	{"slate-terrace-3", "ivo"}, {"slate-terrace-4", "ivo"}, {"slate-terrace-5", "tilda"}, {"slate-terrace-10", "ivo"}, {"orchard-wall-2", "tilda"},
	{"orchard-wall-5", "bruno"}, {"winter-stores-5", "bruno"},
}

// lastBrewed is the bag whose brews are added last.
const lastBrewed = "evening-seed"

var story = []chapter{
	{
		bag: coffee.Bag{ID: "winter-stores", Name: "Winter Stores", Roaster: "Kilnfield Roast", Process: coffee.Washed, Roast: coffee.MediumDark,
			Altitude: 1150, Weight: 500, Price: 1840, Currency: "EUR", Notes: "dark chocolate, walnut"},
		roasted: 41, opened: 34, truth: truth{rate: 1.1, fines: 1, flow: 0.03},
		lines: []line{{id: "winter-stores", brewer: windowCone, grinder: apronMill, kettle: stoveKettle, water: springWater, style: recipe.OneLongPour,
			hour: 9, minute: 4, palate: "ivo", by: []string{"ivo", "ivo", "marta"},
			days: []int{34, 33, 32, 31, 29, 27, 25, 23, 21, 19, 17, 14, 7, 4, 2}, untasted: []int{6, 7, 8, 9, 10, 11, 12, 13, 14}}},
	},
	{
		bag: coffee.Bag{ID: "orchard-wall", Name: "Orchard Wall", Roaster: "Marl and Moss", Process: coffee.Natural, Roast: coffee.MediumLight,
			Altitude: 1620, Variety: "mixed field lot", Weight: 450, Price: 2230, Currency: "EUR", Notes: "strawberry, cocoa, apricot"},
		roasted: 36, opened: 28, truth: truth{rate: 1.12, fines: 1.1, flow: -0.05},
		lines: []line{
			{id: "orchard-wall", brewer: benchFlat, grinder: benchGrinder, kettle: spoutKettle, water: filterJug, style: recipe.ThreeRounds,
				hour: 10, minute: 31, palate: "ivo", by: []string{"ivo", "bruno"}, start: startGrind(530),
				days: []int{28, 27, 26, 24, 22, 20, 18, 16, 14, 12, 8, 7, 5, 3}, untasted: []int{7, 8}},
			{id: "orchard-carafe", brewer: carafeCone, grinder: apronMill, kettle: stoveKettle, water: filterJug, style: recipe.ThreeRounds,
				hour: 13, minute: 18, palate: "bruno", by: []string{"bruno"}, days: []int{19, 15, 11, 6}},
		},
	},
	{
		bag: coffee.Bag{ID: "slate-terrace", Name: "Slate Terrace", Roaster: "Three Sheds", Process: coffee.Washed, Roast: coffee.Light,
			Altitude: 1950, Variety: "a local landrace", Density: 405, WhenFast: "lemon pith, over at once", WhenSlow: "black tea, dry",
			Weight: 500, Price: 2790, Currency: "EUR", Notes: "redcurrant, bergamot, cane sugar"},
		roasted: 31, opened: 21, truth: truth{rate: 0.78, fines: 1, flow: 0.06},
		lines: []line{{id: "slate-terrace", brewer: windowCone, grinder: benchGrinder, kettle: spoutKettle, water: mixedWater,
			style: recipe.ThreeRounds, hour: 8, minute: 5, palate: "marta", by: []string{"marta", "marta", "tilda"}, start: startGrind(722), careful: true,
			days: []int{21, 20, 19, 18, 17, 15, 13, 12, 11, 9, 8, 6, 5, 3, 1}, untasted: []int{7}}},
	},
	{
		bag: coffee.Bag{ID: "long-meadow", Name: "Long Meadow", Roaster: "Three Sheds", Process: coffee.Honey, Roast: coffee.Medium,
			Altitude: 1480, WhenSlow: "woody", Weight: 350, Price: 1580, Currency: "EUR", Notes: "honey, hazelnut, red apple"},
		roasted: 22, opened: 13, truth: truth{rate: 0.95, fines: 1, flow: 0},
		lines: []line{
			{id: "meadow-cloth", brewer: clothCone, grinder: apronMill, kettle: spoutKettle, water: filterJug, style: recipe.Pulses, hour: 11, minute: 40,
				palate: "tilda", by: []string{"tilda"}, days: []int{13, 12, 10, 8}},
			{id: "meadow-mesh", brewer: meshCone, grinder: oldBlade, kettle: pickUpKettle, water: shedTap, style: recipe.TwoCentredPours, hour: 17,
				minute: 2, palate: "bruno", by: []string{"bruno"}, days: []int{9, 7, 4}},
			{id: "long-meadow", brewer: shedSteeper, grinder: apronMill, kettle: stoveKettle, water: filterJug, style: recipe.SteepAndRelease, hour: 7,
				minute: 48, palate: "tilda", by: []string{"bruno"}, start: startRatio(18), days: []int{6, 3, 0}, untasted: []int{3}},
		},
	},
	{
		bag: coffee.Bag{ID: "evening-seed", Name: "Evening Seed", Roaster: "Marl and Moss", Process: coffee.Decaf, Roast: coffee.Medium,
			Altitude: 1400, Weight: 200, Price: 1120, Currency: "EUR", Notes: "malt, orange peel"},
		roasted: 12, opened: 2, truth: truth{rate: 1, fines: 1, flow: -0.03},
		lines: []line{{id: "evening-seed", brewer: windowCone, grinder: apronMill, kettle: spoutKettle, water: filterJug, style: recipe.ThreeRounds,
			hour: 16, minute: 30, palate: "tilda", by: []string{"tilda"}, start: startGrind(654), days: []int{2}, uneven: []int{1}, planned: true}},
	},
	{
		bag: coffee.Bag{ID: "first-frost", Name: "First Frost", Roaster: "Kilnfield Roast", Process: coffee.Washed, Roast: coffee.Light,
			Altitude: 2050, Weight: 250, Price: 1640, Currency: "EUR", Notes: "jasmine, white peach"},
		roasted: 3,
	},
}
