package demo

import (
	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A chapter is a bag with its brews, oldest first. Days count back from the day on which the demo begins.
type chapter struct {
	bag           coffee.Bag
	roasted       int // days ago
	opened        int // days ago; 0: closed
	brewer        int
	grinder       int
	kettle        int
	water         int
	style         recipe.StyleID
	cups          []entry
	plannedChange bool // has a draft with the advised change
}

// entry is one brew: its difference from the one before, and its result. The first of a bag is brewed as
// suggested, with its change applied; a later one without a change follows the advice on the one before.
type entry struct {
	days, hour, minute int
	change             func(recipe.Recipe) recipe.Recipe
	takes              adjustment // the part of the advice that the person followed
	drawdown           units.Seconds
	kept               float64 // liquid in the grounds, g/g
	tds                float64
	taste              [7]int // acidity, sweetness, body, clarity, bitterness, dryness, aftertaste
	overall            int
	serve              string
	bed                cup.Bed
	faults             []cup.Fault
	marks              []brew.Mark
	notes              string
	untasted           bool
}

// An adjustment is a change of one knob.
type adjustment struct {
	knob recipe.Knob
	by   float64
}

func again(r recipe.Recipe) recipe.Recipe { return r }

// grind sets another grind than the suggested one.
func grind(size units.Micrometres) func(recipe.Recipe) recipe.Recipe {
	return func(r recipe.Recipe) recipe.Recipe { r.Grind = size; return r }
}

var story = []chapter{
	{
		bag: coffee.Bag{ID: "slate-terrace", Name: "Slate Terrace", Roaster: "Three Sheds", Process: coffee.Washed, Roast: coffee.Light,
			Altitude: 1950,
			Variety:  "a local landrace", Density: 405, WhenFast: "lemon pith, over at once", WhenSlow: "black tea, dry", Weight: 250,
			Price: 1450, Currency: "EUR", Notes: "redcurrant, bergamot, cane sugar"},
		roasted: 19, opened: 9, brewer: windowCone, grinder: benchGrinder, kettle: spoutKettle, water: mixedWater,
		style: recipe.ThreeRounds,
		cups: []entry{
			{days: 9, hour: 8, minute: 12, drawdown: 176, kept: 2.05, tds: 1.28, taste: [7]int{5, 1, 2, 3, 1, 2, 2}, overall: 4,
				serve: "no", bed: cup.FlatBed, notes: "Sharp and over at once."},
			{days: 8, hour: 8, minute: 5, takes: adjustment{recipe.Grind, -24}, drawdown: 186, kept: 2.02, tds: 1.33,
				taste: [7]int{4, 2, 2, 3, 1, 1, 2}, overall: 5, serve: "no", bed: cup.FlatBed, notes: "Better; lemon still leads."},
			{days: 6, hour: 8, minute: 20, takes: adjustment{recipe.Grind, -24}, drawdown: 198, kept: 2.08, tds: 1.38,
				taste: [7]int{4, 3, 3, 4, 1, 1, 3}, overall: 6, serve: "no", bed: cup.FlatBed, notes: "Sweetness arrives as it cools."},
			{days: 4, hour: 8, minute: 2, takes: adjustment{recipe.Grind, -24}, drawdown: 213, kept: 2.04, tds: 1.45,
				taste: [7]int{3, 4, 3, 4, 1, 1, 4}, overall: 8, serve: "yes", bed: cup.FlatBed,
				notes: "Redcurrant and a long sweet end. This is it."},
			{days: 1, hour: 8, minute: 9, change: again, drawdown: 211, kept: 2.06, tds: 1.44, taste: [7]int{3, 4, 3, 4, 1, 1, 4},
				overall: 8, serve: "yes", bed: cup.FlatBed},
		},
	},
	{
		bag: coffee.Bag{ID: "orchard-wall", Name: "Orchard Wall", Roaster: "Marl and Moss", Process: coffee.Natural,
			Roast: coffee.MediumLight, Altitude: 1620,
			Variety: "mixed field lot", Weight: 250, Price: 1290, Currency: "EUR", Notes: "strawberry, cocoa, apricot"},
		roasted: 24, opened: 12, brewer: benchFlat, grinder: benchGrinder, kettle: spoutKettle, water: filterJug, style: recipe.ThreeRounds,
		cups: []entry{
			{days: 12, hour: 10, minute: 40, change: grind(530), drawdown: 210, kept: 2.2, tds: 1.54, taste: [7]int{2, 2, 4, 2, 5, 4, 3},
				overall: 4, serve: "no", bed: cup.Mud, notes: "Heavy and drying."},
			{days: 10, hour: 10, minute: 31, takes: adjustment{recipe.Grind, 48}, drawdown: 196, kept: 2.18, tds: 1.46,
				taste: [7]int{3, 3, 3, 3, 4, 2, 3}, overall: 6, serve: "no", bed: cup.FlatBed, notes: "Berries now, a bitter edge stays."},
			{days: 7, hour: 10, minute: 36, takes: adjustment{recipe.Temperature, -2}, drawdown: 191, kept: 2.21, tds: 1.41,
				taste: [7]int{3, 4, 3, 3, 2, 1, 4}, overall: 8, serve: "yes", bed: cup.FlatBed, notes: "Strawberry jam, clean end."},
		},
	},
	{
		bag: coffee.Bag{ID: "long-meadow", Name: "Long Meadow", Roaster: "Three Sheds", Process: coffee.Honey, Roast: coffee.Medium,
			Altitude: 1480,
			WhenSlow: "woody", Weight: 350, Price: 1580, Currency: "EUR", Notes: "honey, hazelnut, red apple"},
		roasted: 15, opened: 6, brewer: shedSteeper, grinder: apronMill, kettle: stoveKettle, water: filterJug,
		style: recipe.SteepAndRelease,
		cups: []entry{
			{days: 6, hour: 15, minute: 5, drawdown: 232, kept: 1.9, tds: 1.20, taste: [7]int{3, 3, 1, 3, 2, 1, 2}, overall: 5, serve: "no",
				bed: cup.FlatBed, notes: "Nice but thin."},
			{days: 3, hour: 15, minute: 12, takes: adjustment{recipe.Ratio, -1}, drawdown: 229, kept: 1.93, tds: 1.29,
				taste: [7]int{3, 4, 3, 3, 2, 1, 3}, overall: 8, serve: "yes", bed: cup.FlatBed, notes: "Apple and honey."},
			{days: 0, hour: 7, minute: 48, change: again, drawdown: 231, untasted: true},
		},
	},
	{
		bag: coffee.Bag{ID: "winter-stores", Name: "Winter Stores", Roaster: "Kilnfield Roast", Process: coffee.Washed,
			Roast: coffee.MediumDark, Altitude: 1150,
			Weight: 250, Price: 980, Currency: "EUR", Notes: "dark chocolate, walnut", Window: coffee.Window{From: 165, To: 200}},
		roasted: 41, opened: 34, brewer: windowCone, grinder: apronMill, kettle: stoveKettle, water: springWater, style: recipe.OneLongPour,
		cups: []entry{
			{days: 34, hour: 9, minute: 15, drawdown: 196, kept: 2.07, tds: 1.41, taste: [7]int{2, 3, 4, 3, 4, 2, 3}, overall: 6,
				serve: "no", bed: cup.FlatBed, notes: "Good body, a burnt corner."},
			{days: 31, hour: 9, minute: 4, takes: adjustment{recipe.Temperature, -2}, drawdown: 193, kept: 2.05, tds: 1.37,
				taste: [7]int{2, 4, 4, 3, 2, 1, 3}, overall: 8, serve: "yes", bed: cup.FlatBed, notes: "Chocolate, round."},
			{days: 20, hour: 9, minute: 22, change: again, drawdown: 188, kept: 2.06, tds: 1.35, taste: [7]int{2, 3, 3, 3, 2, 1, 3},
				overall: 7, serve: "yes", bed: cup.FlatBed},
			{days: 2, hour: 9, minute: 18, change: again, drawdown: 180, kept: 2.04, tds: 1.30, taste: [7]int{1, 2, 2, 3, 2, 1, 1},
				overall: 3, serve: "no", bed: cup.FlatBed, faults: []cup.Fault{cup.Flat},
				notes: "Hardly rose in the bloom. Cardboard."},
		},
	},
	{
		bag: coffee.Bag{ID: "evening-seed", Name: "Evening Seed", Roaster: "Marl and Moss", Process: coffee.Decaf, Roast: coffee.Medium,
			Altitude: 1400,
			Weight:   200, Price: 1120, Currency: "EUR", Notes: "malt, orange peel"},
		roasted: 12, opened: 2, brewer: windowCone, grinder: apronMill, kettle: spoutKettle, water: filterJug, style: recipe.ThreeRounds,
		cups: []entry{
			{days: 2, hour: 16, minute: 30, drawdown: 194, kept: 2.1, tds: 1.34, taste: [7]int{4, 1, 2, 2, 4, 3, 2}, overall: 4,
				serve: "no", bed: cup.DryPocket,
				marks: []brew.Mark{{What: cup.DrySpot, At: 9}, {What: cup.Channel, At: 96}}, notes: "Sour and bitter in one sip."},
		},
		plannedChange: true,
	},
	{
		bag: coffee.Bag{ID: "first-frost", Name: "First Frost", Roaster: "Kilnfield Roast", Process: coffee.Washed, Roast: coffee.Light,
			Altitude: 2050,
			Weight:   250, Price: 1640, Currency: "EUR", Notes: "jasmine, white peach"},
		roasted: 3,
	},
}
