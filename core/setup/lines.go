package setup

import (
	"fmt"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func (j Job) kind(k gear.BrewerKind) bool { return j.Brewer.Kind == k }
func (j Job) steeper() bool               { return j.kind(gear.ValveSteeper) }
func (j Job) paper() bool                 { return j.Brewer.Filter != gear.Cloth && j.Brewer.Filter != gear.Mesh }
func (j Job) iced() bool                  { return j.Serving() == recipe.OverIce }
func (j Job) blade() bool                 { return !j.Grinder.Repeatable() }
func (j Job) well() bool                  { return j.kind(gear.OpenCone) && !j.Level && !j.WaterFirst }
func (j Job) show(k units.Kind, v float64) string {
	return j.Unit(k).Format(v)
}

// An entry is one possible line: it says when it applies and how it reads.
type entry struct {
	id   string
	when func(Job) bool // nil: always
	do   string
	why  string
	// reason makes the why where it depends on the job.
	reason func(Job) string
	value  func(Job) string
	wait   func(Job) units.Seconds
}

func not(f func(Job) bool) func(Job) bool { return func(j Job) bool { return !f(j) } }

func both(a, b func(Job) bool) func(Job) bool { return func(j Job) bool { return a(j) && b(j) } }

var checklist = []entry{
	{id: "kettle", when: func(j Job) bool { return j.Kettle.Thermostat }, do: "Set the kettle and fill it",
		why: "Enough for the rinse and the brew.", value: func(j Job) string { return j.show(units.Temperature, float64(j.Temperature())) }},
	{id: "fill", when: func(j Job) bool { return !j.Kettle.Thermostat && j.Kettle.Capacity > 0 }, do: "Fill the kettle",
		why: "For the rinse and the brew. What is in it sets how fast it cools: the schedule counts on this much.", value: func(j Job) string { return j.show(units.Water, units.Round(float64(j.fill()), -1)) }},
	{id: "ice", when: Job.iced, do: "Weigh the ice into the carafe", reason: whyIce, value: func(j Job) string { return j.show(units.Water, float64(j.Ice.Mass)) }},
	{id: "cold", when: Job.iced, do: "Leave the carafe cold", why: "A warm one melts ice that the coffee needs."},
	{id: "boil", when: func(j Job) bool { return !j.Kettle.Thermostat }, do: "Boil the kettle, then leave it off the boil with the lid open",
		reason: whyWait, value: offBoil, wait: func(j Job) units.Seconds {
			return j.Kettle.OffBoilWait(j.fill(), j.Boiling, j.Temperature())
		}},
	{id: "filter", when: Job.paper, do: "Fold the filter and seat it against the wall",
		why: "A filter that stands off the wall lets water slip past."},
	{id: "mesh", when: not(Job.paper), do: "Seat the clean filter", why: "Old oils in a cloth or a mesh taste rancid."},
	{id: "rinse", when: func(j Job) bool { return j.Rinse }, do: "Rinse the filter with hot water", reason: whyRinse},
	{id: "dry", when: func(j Job) bool { return !j.Rinse && j.Brewer.Filter == gear.CorrugatedPaper }, do: "Leave the corrugated paper dry",
		why: "Wet ridges collapse and choke one side; this paper has little taste of its own. In doubt, taste its rinse water once."},
	{id: "unrinsed", when: func(j Job) bool { return !j.Rinse && j.paper() && j.Brewer.Filter != gear.CorrugatedPaper }, do: "Leave the paper as it is",
		why: "It is set so on the recipe. Taste the rinse water of this paper once: if it tastes of nothing, nothing is lost."},
	{id: "warm", when: func(j Job) bool { return j.Brewer.Material.Heavy() }, do: "Warm the brewer well: a cupful of hot water, left in it",
		why: "Glass and ceramic take several degrees out of the first pour.", wait: func(Job) units.Seconds { return warmUp }},
	{id: "valve", when: both(Job.steeper, func(j Job) bool { return j.Rinse }), do: "Open the valve, let the rinse water out, then tip out the rest",
		why: "Tipped with the valve shut, the filter comes out too."},
	{id: "tip", when: both(not(Job.steeper), func(j Job) bool { return j.Rinse }), do: "Tip the rinse water out of the carafe", reason: whyTip},
	{id: "weigh", do: "Weigh out the coffee", why: "With what the grinder keeps for itself.",
		value: func(j Job) string { return j.show(units.Dose, float64(j.Dose+j.Grinder.Loss)) }},
	{id: "grind", when: not(Job.blade), do: "Grind last", why: "Ground coffee goes flat within minutes.",
		value: func(j Job) string { return j.Grinder.Setting(j.Grind) }},
	{id: "chop", when: Job.blade, do: "Grind in short pulses and shake between them", reason: func(j Job) string {
		return fmt.Sprintf("Until it looks %s. A blade cannot repeat a grind: the seconds are where to begin.", gear.Texture(j.Grind))
	}, value: func(j Job) string {
		return fmt.Sprintf("about %s", units.Prefs{}.Unit(units.Span).Format(gear.Chopping(j.Grind)))
	}},
	{id: "shut", when: both(Job.steeper, Job.steeps), do: "Shut the valve",
		why: "Open, it lets the first water through."},
	{id: "open", when: both(Job.steeper, not(Job.steeps)), do: "Leave the valve open, the brewer on its carafe",
		why: "This recipe runs through at once, as in a cone."},
	{id: "well", when: Job.well, do: "Put the coffee in, make a small well in the middle",
		why: "The bloom reaches the deepest grounds."},
	{id: "level", when: func(j Job) bool { return !j.well() && !j.WaterFirst }, do: "Put the coffee in, shake it level",
		why: "Water takes the shallow side."},
	{id: "aside", when: func(j Job) bool { return j.WaterFirst }, do: "Keep the coffee ready: the water goes in first",
		why: "Tip the coffee onto the water at once when it is in, and wet all of it."},
	{id: "keep", when: func(j Job) bool { return j.Serving() == recipe.Diluted }, do: "Keep water for the cup", why: "It goes in when the brew has drained.",
		value: func(j Job) string { return j.show(units.Water, float64(j.Dilution.Water)) }},
	{id: "cup", when: not(Job.iced), do: "Warm the cup", why: "Cold ceramic takes the first heat of the coffee."},
	{id: "tare", do: "Brewer level on its stand, scale at zero", reason: func(j Job) string {
		if j.iced() {
			return "With the ice in the carafe. From here on the scale shows what is poured."
		}
		return "From here on the scale shows the running total."
	}},
}

// warmUp is how long hot water stands in a heavy brewer, s.
const warmUp units.Seconds = 45

func (j Job) steeps() bool { return j.Steeps() }

// fill is the water that goes into the kettle for the rinse and the brew.
func (j Job) fill() units.Grams {
	const rinse = 150 // g
	water := j.Recipe.Water()
	if j.Rinse || j.Brewer.Material.Heavy() {
		water += rinse
	}
	if j.Serving() == recipe.Diluted && j.Dilution.Temperature > j.Boiling/2 { // the cup's water is hot
		water += j.Dilution.Water
	}
	return j.Kettle.Fill(water)
}

func whyIce(j Job) string {
	if j.Ice.Wet > 0 {
		return "Let it drain first: what has melted counts as water, not as ice."
	}
	return "Straight out of the freezer. The recipe counts on how cold and how dry it is."
}

func whyRinse(j Job) string {
	why := "Takes the taste of paper away, seals the paper, warms the brewer."
	if !j.paper() {
		return "Warms it, and rinses out what was left in it."
	}
	return why + " Taste the rinse water once: of paper that tastes of nothing it may be left out."
}

func whyTip(j Job) string {
	if j.iced() {
		return "Rinse over the sink, not over the ice: rinse water is in no cup."
	}
	return "Else it is in the cup and on the scale."
}

func whyWait(j Job) string {
	if j.Kettle.Taken() {
		return "Without a thermostat the wait sets the temperature: by this kettle’s own two readings."
	}
	return "Without a thermostat the wait sets the temperature. A rule of thumb, until two readings of the kettle are kept under Gear."
}

func offBoil(j Job) string {
	wait := j.Kettle.OffBoilWait(j.fill(), j.Boiling, j.Temperature())
	if wait < 5 {
		return "no wait"
	}
	fives := func(s float64) int { return int(s/5+0.5) * 5 }
	return fmt.Sprintf("about %s, ± %d s", units.Seconds(fives(float64(wait))), max(5, fives(float64(wait)*j.Kettle.WaitError())))
}

var cautions = []struct {
	when func(Job) bool
	text string
}{
	{nil, "Boiling water and steam burn. Keep the spout low, and the cord out of the way."},
	{func(j Job) bool { return j.Grinder.Burrs != gear.HandMill }, "Unplug the grinder before you reach into it."},
	{both(Job.steeper, Job.steeps), "The valve opens when the steeper is set on a cup: hold it, and check that the cup takes all of it."},
	{not(Job.steeper), "A tall brewer on a small glass tips. Check that it stands."},
	{Job.iced, "Hot coffee on ice can crack a glass: heat-proof glass only, and not straight out of the cold."},
	{func(j Job) bool { return !j.iced() && j.Brewer.Material == gear.Glass }, "Cold water in hot glass can crack it. Use heat-proof glass only."},
	{Job.iced, "Iced coffee that is kept or served to others: the local food rules decide for how long, and how cold."},
	{not(Job.iced), "Coffee above about {60 °C} scalds. Let it cool before you drink."},
	{nil, "The makers’ instructions and your local rules come before all of this."},
}
