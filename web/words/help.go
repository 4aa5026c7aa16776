package words

// A Help explains a screen: its purpose, the next action, three terms of the glossary, and keys.
type Help struct {
	Name  string
	For   string
	Do    string
	Terms [3]string // ids
	Keys  []Key
}

// A Key is a key with its effect.
type Key struct{ Key, Does string }

var stepKeys = []Key{{"↑ ↓", "one step more or less"}, {"Shift ↑ ↓", "a fine step"}}

// helps explains the stations by name, and the side tools by the name of their address.
var helps = map[string]Help{
	"Coffee": {"Coffee", "The bags that you have, with their age and stock.", "Choose a bag to brew, or add one. Name and roast are enough to begin.",
		[3]string{"freshness", "dial-in", "retention"}, []Key{{"Alt 1 … 6", "the stations of the line"}}},
	"Recipe": {"Recipe", "The amounts, the grind, the temperature and the pours of the next brew, with the cup that the model expects.",
		"Change one value and watch the prediction. Of dose, water, ratio and cup, the two typed last are kept. Then press Set up.",
		[3]string{"ratio", "grind", "drawdown"}, append([]Key{{"Ctrl Z", "undo"}, {"Ctrl Y", "redo"}, {"Alt Enter", "set up"}}, stepKeys...)},
	"Set-up": {"Set-up", "All that happens before the first water, for this recipe and this gear.",
		"Work down the list; ticks are optional. If the ground dose differs, type it under After grinding.",
		[3]string{"rinse", "tare", "retention"}, []Key{{"Alt Enter", "to the brew"}}},
	"Brew": {"Brew", "The pour, second by second: the present action, its end, and the next action.",
		"Tap with the first water. The clock leads; a tap tells it that you are earlier or later. Mark what you see on the bed.",
		[3]string{"bloom", "pour-height", "channelling"}, []Key{{"Space", "start, next step, finish"}, {"L", "5 s later"}, {"U",
			"undo the last tap"}, {"M", "sound"},
			{"D C S", "mark a dry spot, a channel, a stall"}}},
	"Cup": {"Cup", "Measure and taste the cup. Every figure is optional.",
		"Weigh the beverage, look at the bed, taste hot, warm and cool. One mark and two words are enough for advice.",
		[3]string{"beverage-weight", "tds", "bed"}, append([]Key{{"Alt Enter", "save"}}, stepKeys...)},
	"Next": {"Next", "What most likely went wrong, how sure that is, and one change with its size.",
		"Brew with the change, or choose another option. If the pour went wrong, say so: then the recipe stays.",
		[3]string{"under-extracted", "over-extracted", "spread"}, []Key{{"Alt Enter", "brew with the change"}}},
	"log": {"Log", "Every brew, found by any word and by filters.", "Search, mark two to six brews, and compare them. A brew opens its record.",
		[3]string{"drawdown", "ey", "mark"}, []Key{{"/", "search"}, {"↑ ↓ Enter", "move, open"}, {"C", "mark for comparison"}}},
	"book": {"Recipes", "Kept recipes with their versions, to brew, print, share and export.",
		"Open one to brew from it. Keeping a changed recipe under its name makes the next version.",
		[3]string{"ratio", "school", "aim"}, nil},
	"gear": {"Gear", "Brewers, grinders, kettles, waters and devices.",
		"Enter your own. Two readings of a kettle, and weighed cups, make the predictions better.",
		[3]string{"retention", "retained-water", "hardness"}, stepKeys},
	"rush": {"Rush", "Several brews with one pair of hands.", "Choose the orders; the board shows the next action and replans after each.",
		[3]string{"pour", "drawdown", "aim"}, []Key{{"Space", "the next action"}, {"1 … 6", "the action of one brewer"}}},
	"practice": {"Practice", "Pour at a steady rate, height and pattern, and get a score.", "Choose a lesson. With a scale the pour is drawn while you pour.",
		[3]string{"rate", "pour-height", "pattern"}, []Key{{"Space", "begin, end"}}},
	"stage": {"Stage", "A presentation with its script, timed against the brews.", "Write the lines, rehearse, and open the prompt on a second screen.",
		[3]string{"bloom", "aim", "slurry"}, []Key{{"Space", "next line"}}},
	"side": {"Side by side", "Cups beside each other, with names or blind.", "Rank them hot and again cooled. Reveal the codes at the end.",
		[3]string{"blind", "spread", "mark"}, nil},
	"trials": {"Trials", "One thing, or two, over several levels, with an answer and its error.",
		"Choose what to vary and how often. Brew the runs in the given order.",
		[3]string{"spread", "blind", "ey"}, nil},
	"learned": {"Learned", "The knowledge of the model from your measured brews, and the errors of its predictions.",
		"Look at the brews that are far off, and decide whether they count. A grinder that has changed is named at the top.",
		[3]string{"spread", "fines", "drawdown"}, nil},
	"schools": {"Schools", "The styles of pouring, where practitioners disagree, and your own defaults.",
		"Read the reasons, compare two styles on your gear, and set how new coffees start.",
		[3]string{"school", "bloom", "pattern"}, stepKeys},
	"glossary": {"Glossary", "The terms of the trade, as they are used here.", "Search a word. On every page a dotted word opens its entry in place.",
		[3]string{"ey", "tds", "grind"}, nil},
	"people": {"People", "Who brews and tastes here, each with their taste, units and defaults.", "Add a name. Then tap yourself in the header on each device.",
		[3]string{"mark", "aim", "blind"}, nil},
	"settings": {"Settings", "Units, altitude, backups, files and devices of this yard.", "Each field has its effect below it.",
		[3]string{"tds", "dose", "hardness"}, stepKeys},
	"keys": {"Keys", "Every shortcut.", "The main button of each page is Alt Enter.", [3]string{"tare", "stall", "crust"}, nil},
}

// HelpOf returns the help for a station or a side tool; false if neither has help.
func HelpOf(station, side string) (Help, bool) {
	if h, ok := helps[station]; ok {
		return h, true
	}
	h, ok := helps[side]
	return h, ok
}
