package brew

import (
	"fmt"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func (j Setup) kind(k gear.BrewerKind) bool { return j.Brewer.Kind == k }
func (j Setup) steeper() bool               { return j.kind(gear.ValveSteeper) }
func (j Setup) paper() bool                 { return j.Brewer.Filter != gear.Cloth && j.Brewer.Filter != gear.Mesh }
func (j Setup) iced() bool                  { return j.Serving() == recipe.OverIce }
func (j Setup) blade() bool                 { return !j.Grinder.Repeatable() }
func (j Setup) grinds() bool                { return j.Grinder.Adjustable() }
func (j Setup) scaled() bool                { return j.Spoon == 0 }
func (j Setup) well() bool                  { return j.kind(gear.OpenCone) && !j.Level && !j.WaterFirst }
func (j Setup) show(k units.Kind, v float64) string {
	return j.Unit(k).Format(v)
}

// An entry is a possible line of the checklist, with its condition and texts.
type entry struct {
	id   string
	when func(Setup) bool // nil: always
	do   string
	why  string
	// reason returns the reason if it depends on the brew.
	reason func(Setup) string
	value  func(Setup) string
	wait   func(Setup) units.Seconds
}

func not(f func(Setup) bool) func(Setup) bool { return func(j Setup) bool { return !f(j) } }

func both(a, b func(Setup) bool) func(Setup) bool { return func(j Setup) bool { return a(j) && b(j) } }

// purgeItem is the line whose tick counts coffee in the bag.
const purgeItem = "purge"

var checklist = []entry{
	{id: "kettle", when: func(j Setup) bool { return j.Kettle.Thermostat }, do: "Set the kettle and fill it",
		why: "Enough for the rinse and the brew.", value: func(j Setup) string {
			return j.show(units.Temperature,
				float64(j.Temperature()))
		}},
	{id: "fill", when: func(j Setup) bool { return !j.Kettle.Thermostat && j.Kettle.Capacity > 0 }, do: "Fill the kettle",
		reason: func(j Setup) string {
			if !j.scaled() {
				return "Measure it with the mug. All of it is poured, so that the kettle is empty at the end; the rinse takes hot tap water."
			}
			return "For the rinse and the brew. The schedule assumes this amount, since it sets the cooling rate."
		},
		value: func(j Setup) string {
			if !j.scaled() {
				return j.show(units.Water, float64(j.fill()))
			}
			return j.show(units.Water, units.Round(float64(j.fill()), -1))
		}},
	{id: "mugs", when: both(not(Setup.scaled), func(j Setup) bool { return j.Kettle.Thermostat }), do: "Measure the water with the mug",
		why:   "All of it is poured, so that the kettle is empty at the end; the rinse takes hot tap water.",
		value: func(j Setup) string { return j.show(units.Water, float64(j.fill())) }},
	{id: "second", when: func(j Setup) bool { return j.second() > 0 }, do: "Fill the second kettle and bring it to its temperature",
		reason: func(j Setup) string {
			return fmt.Sprintf("%s, for the pours that name it. Keep the two apart, so that they are not mixed up.", j.Set.Second.Name)
		},
		value: func(j Setup) string {
			return fmt.Sprintf("%s, %s", j.show(units.Water, units.Round(float64(j.Set.Second.Fill(j.second())), -1)),
				j.show(units.Temperature, float64(j.secondTemperature())))
		}},
	{id: "ice", when: Setup.iced, do: "Weigh the ice into the carafe", reason: whyIce,
		value: func(j Setup) string { return j.show(units.Water, float64(j.Ice.Mass)) }},
	{id: "cold", when: Setup.iced, do: "Leave the carafe cold", why: "A warm carafe melts ice that the coffee needs."},
	{id: "boil", when: func(j Setup) bool { return !j.Kettle.Thermostat },
		do:     "Boil the kettle, then leave it off the boil with the lid open",
		reason: whyWait, value: offBoil, wait: func(j Setup) units.Seconds {
			return j.Kettle.OffBoilWait(j.fill(), j.Boiling, j.Temperature())
		}},
	{id: "ridges", when: func(j Setup) bool { return j.Brewer.Filter == gear.CorrugatedPaper }, do: "Seat the corrugated paper and check its ridges",
		why: "A ridge that has collapsed blocks one side: open it with a finger, or take another paper."},
	{id: "filter", when: func(j Setup) bool { return j.paper() && j.Brewer.Filter != gear.CorrugatedPaper },
		do:    "Fold the filter and seat it against the wall",
		value: func(j Setup) string { return j.Brewer.FilterSize() },
		why:   "Gaps between filter and wall cause bypass. A paper with a flat bottom is folded at the side and at the bottom, in opposite directions."},
	{id: "mesh", when: not(Setup.paper), do: "Seat the clean filter", reason: whyClean},
	{id: "rinse", when: func(j Setup) bool { return j.Rinse }, do: "Rinse the filter with hot water", reason: whyRinse},
	{id: "dry", when: func(j Setup) bool { return !j.Rinse && j.Brewer.Filter == gear.CorrugatedPaper },
		do:  "Leave the corrugated paper dry",
		why: "Wet ridges collapse and block one side. This paper has little taste; if in doubt, taste its rinse water once."},
	{id: "unrinsed", when: func(j Setup) bool { return !j.Rinse && j.paper() && j.Brewer.Filter != gear.CorrugatedPaper },
		do:  "Do not rinse the paper",
		why: "As in the recipe. Taste the rinse water of this paper once: if it has no taste, the rinse is not needed."},
	{id: "warm", when: func(j Setup) bool { return j.Brewer.Material.Heavy() }, do: "Preheat the brewer with a cup of hot water",
		why: "Glass and ceramic cool the first pour by several degrees.", wait: func(Setup) units.Seconds { return warmUp }},
	{id: "valve", when: both(Setup.steeper, func(j Setup) bool { return j.Rinse }),
		do:  "Open the valve, let the rinse water and the first drops in the outlet go, then tip out the rest",
		why: "What stays in the outlet tastes of paper. With the valve shut, the filter falls out too."},
	{id: "tip", when: both(not(Setup.steeper), func(j Setup) bool { return j.Rinse }), do: "Tip the rinse water out of the carafe",
		reason: whyTip},
	{id: purgeItem, when: func(j Setup) bool { return !j.blade() && j.grinds() && j.Grinder.Purge() > 0 },
		do:    "After another coffee or setting, grind a little and throw it away",
		why:   "What stays in the grinder is of the other coffee or size. Ticked, it is counted in the bag.",
		value: func(j Setup) string { return j.show(units.Dose, float64(j.Grinder.Purge())) }},
	{id: "running", when: func(j Setup) bool { return !j.blade() && j.grinds() && j.Grinder.Burrs != gear.HandMill },
		do:  "Turn to a finer setting only while the grinder runs, if its maker asks for that",
		why: "Grounds between standing burrs block them. Empty the chute afterwards."},
	{id: "spoons", when: not(Setup.scaled), do: "Measure the coffee in level tablespoons",
		why: "Strike each spoon off with a knife. A level spoon differs by about 15 %, and so does the strength.", value: func(j Setup) string {
			return j.show(units.Dose, float64(j.Dose))
		}},
	{id: "weigh", when: Setup.scaled, do: "Weigh out the coffee",
		why:   "Includes the retention of the grinder. Or weigh a gram more, and take the excess off after grinding.",
		value: func(j Setup) string { return j.show(units.Dose, float64(j.Dose+j.Grinder.Loss)) }},
	{id: "grind", when: both(not(Setup.blade), Setup.grinds), do: "Grind last", why: "Ground coffee goes flat within minutes.",
		value: func(j Setup) string { return j.Grinder.Setting(j.Grind) }},
	{id: "chop", when: Setup.blade, do: "Grind in short pulses and shake between them", reason: func(j Setup) string {
		return fmt.Sprintf("Until it looks %s. A blade cannot repeat a grind: use the seconds as a start.", gear.Texture(j.Grind))
	}, value: func(j Setup) string {
		return fmt.Sprintf("about %s", units.Prefs{}.Unit(units.Span).Format(gear.GrindSeconds(j.Grind)))
	}},
	{id: "shut", when: both(Setup.steeper, Setup.steeps), do: "Shut the valve",
		why: "Otherwise the first water runs through."},
	{id: "open", when: both(Setup.steeper, not(Setup.steeps)), do: "Leave the valve open, the brewer on its carafe",
		why: "This recipe drains at once, as in a cone."},
	{id: "well", when: Setup.well, do: "Add the coffee and make a small well in the middle",
		why: "The bloom reaches the deepest grounds."},
	{id: "level", when: func(j Setup) bool { return !j.well() && !j.WaterFirst }, do: "Add the coffee and shake it level",
		why: "Water prefers the shallow side."},
	{id: "aside", when: func(j Setup) bool { return j.WaterFirst }, do: "Keep the coffee ready: water goes in first",
		why: "When the water is in, add the coffee at once and wet all of it."},
	{id: "screen", when: func(j Setup) bool { return j.Screen }, do: "Lay the dispersing screen on the bed",
		why: "All water passes it."},
	{id: "discard", when: func(j Setup) bool { return j.Discard > 0 }, do: "Keep a second glass ready for the first part",
		why: "It does not go into the cup.", value: func(j Setup) string { return j.show(units.Water, float64(j.Discard)) }},
	{id: "keep", when: func(j Setup) bool { return j.Serving() == recipe.Diluted }, do: "Set water aside for dilution",
		why:   "Add it when the brew has drained.",
		value: func(j Setup) string { return j.show(units.Water, float64(j.Dilution.Water)) }},
	{id: "glass", when: func(j Setup) bool { return j.iced() && j.GlassIce > 0 }, do: "Put one large piece of ice into the glass",
		why:   "Small ice chills in the carafe; one large piece melts slowly and dilutes little while you drink.",
		value: func(j Setup) string { return j.show(units.Water, float64(j.GlassIce)) }},
	{id: "carafe", when: func(j Setup) bool { return !j.iced() && !j.Rinse }, do: "Warm the carafe with hot water, and tip it out",
		why: "A cold carafe takes several degrees. With a rinse, the rinse water does it."},
	{id: "cup", when: not(Setup.iced), do: "Warm the cup", why: "Cold ceramic cools the coffee."},
	{id: "stand", when: not(Setup.scaled), do: "Level the brewer on its carafe", why: "Water prefers the lower side."},
	{id: "tare", when: Setup.scaled, do: "Level the brewer and tare the scale", reason: func(j Setup) string {
		if j.iced() {
			return "With the ice in the carafe. From now on the scale shows the poured water."
		}
		return "From now on the scale shows the running total."
	}},
}

// warmUp is the time for which hot water preheats a heavy brewer, s.
const warmUp units.Seconds = 45

func (j Setup) steeps() bool { return j.Steeps() }

// fill returns the water in the kettle for the rinse and the brew, g.
func (j Setup) fill() units.Grams {
	const rinse = 150 // g
	water, _ := j.Sources(j.Set)
	if !j.scaled() {
		return water
	}
	if j.Rinse || j.Brewer.Material.Heavy() {
		water += rinse
	}
	if j.Serving() == recipe.Diluted && j.Dilution.Temperature > j.Boiling/2 { // hot dilution water
		water += j.Dilution.Water
	}
	return j.Kettle.Fill(water)
}

// second returns the water that is poured from the second kettle, g.
func (j Setup) second() units.Grams {
	_, water := j.Sources(j.Set)
	return water
}

// secondTemperature returns the temperature of the first pour from the second kettle.
func (j Setup) secondTemperature() units.Celsius {
	for _, p := range j.Pours {
		if p.Second {
			return p.Temperature
		}
	}
	return 0
}

func whyIce(j Setup) string {
	if j.Ice.Wet > 0 {
		return "Drain it first: melted ice counts as water."
	}
	return "Straight from the freezer. The recipe assumes its temperature and that it is dry."
}

func whyClean(j Setup) string {
	if j.Brewer.Filter == gear.Cloth {
		return "Old oils taste rancid. A disposable cloth is used once."
	}
	return "Old oils taste rancid."
}

func whyRinse(j Setup) string {
	why := "Removes the paper taste, seals the filter and warms the brewer."
	switch {
	case j.Brewer.Filter == gear.Cloth:
		return "Warms it. A new cloth is boiled first; a disposable one only needs a rinse."
	case !j.paper():
		return "Warms it and rinses out old residue."
	}
	return why + " Pour along the wall until it sticks without bubbles, and hold it with a spoon if it floats. Brown paper needs more water than bleached."
}

func whyTip(j Setup) string {
	if j.iced() {
		return "Rinse over the sink, not over the ice."
	}
	return "Otherwise it ends up in the cup and on the scale."
}

func whyWait(j Setup) string {
	if j.Kettle.Taken() {
		return "Without a thermostat the wait sets the temperature: by this kettle’s own two readings."
	}
	return "Without a thermostat the wait sets the temperature. A rule of thumb, until two readings of the kettle are kept under Gear."
}

func offBoil(j Setup) string {
	wait := j.Kettle.OffBoilWait(j.fill(), j.Boiling, j.Temperature())
	if wait < 5 {
		return "no wait"
	}
	fives := func(s float64) int { return int(s/5+0.5) * 5 }
	return fmt.Sprintf("about %s, ± %d s", units.Seconds(fives(float64(wait))), max(5, fives(float64(wait)*j.Kettle.WaitError())))
}

var cautions = []struct {
	when func(Setup) bool
	text string
}{
	{nil, "Boiling water and steam burn. Keep the spout low, and the cord out of the way."},
	{func(j Setup) bool { return j.grinds() && j.Grinder.Burrs != gear.HandMill }, "Unplug the grinder before you reach into it."},
	{both(Setup.steeper, Setup.steeps), "The valve opens when the steeper is set on a cup: hold it, and check that the cup takes all of it."},
	{not(Setup.steeper), "A tall brewer on a small glass tips. Check that it stands."},
	{Setup.iced, "Hot coffee on ice can crack a glass: heat-proof glass only, and not straight out of the cold."},
	{func(j Setup) bool { return !j.iced() && j.Brewer.Material == gear.Glass },
		"Cold water in hot glass can crack it. Use heat-proof glass only."},
	{Setup.iced, "Iced coffee that is kept or served to others: the local food rules decide for how long, and how cold."},
	{not(Setup.iced), "Coffee above about {60 °C} scalds. Let it cool before you drink."},
	{nil, "The makers’ instructions and your local rules come before all of this."},
}
