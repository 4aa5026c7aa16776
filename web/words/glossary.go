package words

import "strings"

// A Term is a trade term.
type Term struct {
	ID   string
	Word string
	Says string
	// As lists other forms of the term as a name of a field or a figure.
	As []string
	// In lists the forms of the term in sentences. Words that have an everyday meaning too, such as level or mark, are left out.
	In []string
	// Picture names the picture of the term in the glossary; empty for none.
	Picture Picture
}

// A Picture is one of the pictures of the glossary.
type Picture string

// The pictures.
const (
	GrindSizes   Picture = "grind sizes"
	PourHeights  Picture = "pour heights"
	PourPatterns Picture = "pour patterns"
	BedShapes    Picture = "bed shapes"
)

// glossary holds the terms in alphabetical order.
var glossary = []Term{
	{ID: "aim", Word: "Aim", Says: "The target time of the last steady stream. The style sets it, and it moves with the pours."},
	{ID: "alkalinity", Word: "Alkalinity", Says: "The capacity of water to neutralise acid. High alkalinity makes bright coffee taste flat.",
		In: []string{"alkalinity"}},
	{ID: "bed", Word: "Bed", Says: "The grounds in the brewer, with the water between them. Its shape after the brew shows how even the pour was.",
		Picture: BedShapes,
		In:      []string{"the bed"}},
	{ID: "beverage-weight", Word: "Beverage weight", Says: "The weight of the coffee in the carafe, including melted ice and dilution.",
		As: []string{"In the carafe"},
		In: []string{"beverage weight", "weight of the beverage"}},
	{ID: "blind", Word: "Blind", Says: "Tasted without knowing which cup is which. Codes keep expectations out of the marks.",
		In: []string{"blind"}},
	{ID: "bloom", Word: "Bloom", Says: "The first, small pour. It wets the grounds and releases their gas, so that later water flows evenly.",
		As: []string{"Bloom for"},
		In: []string{"bloom", "blooms"}},
	{ID: "bypass", Word: "Bypass", Says: "Water that flows past the bed at the wall and extracts nothing. Water added to the cup is called dilution.",
		In: []string{"bypass"}},
	{ID: "channelling", Word: "Channelling", Says: "Water flows through a few paths in the bed: the grounds along them over-extract, the rest under-extract.",
		As: []string{"Channel"},
		In: []string{"channelling", "channel", "channels"}},
	{ID: "crust", Word: "Crust", Says: "The layer of grounds that floats on a steep. Breaking it lets the grounds sink and extract.",
		In: []string{"crust"}},
	{ID: "dial-in", Word: "Dial in", Says: "To find the recipe of a new coffee, brew by brew, one change at a time.",
		In: []string{"dial in", "dials in", "dialled in", "dialling in"}},
	{ID: "dilution", Word: "Dilution", Says: "Water that is added to the cup after the brew. The yield stays, the strength falls.", As: []string{"TDS before"},
		In: []string{"dilution"}},
	{ID: "dose", Word: "Dose", Says: "The dry coffee, in grams. Weigh out more by the grinder's retention.",
		In: []string{"dose", "doses"}},
	{ID: "drawdown", Word: "Drawdown", Says: "The time from the first water to the last steady stream.",
		In: []string{"drawdown", "drawdowns"}},
	{ID: "ey", Word: "Extraction yield (EY)", Says: "The share of the dose that dissolved, in %: TDS × beverage weight / dose. For a steep, the liquid " +
		"in the grounds counts too.", As: []string{"EY", "Yield"},
		In: []string{"extraction yield", "yield", "EY"}},
	{ID: "fines", Word: "Fines", Says: "The smallest particles of the grounds. They extract at once and can clog the bed.",
		In: []string{"fines"}},
	{ID: "freshness", Word: "Freshness",
		Says: "The days since the roast. Very fresh coffee is full of gas and blooms long; old coffee hardly rises and tastes flat.",
		As:   []string{"Age"},
		In:   []string{"freshness"}},
	{ID: "grind", Word: "Grind", Says: "The median size of the grounds, in thousandths of a millimetre (µm). Finer extracts more and drains more slowly.",
		As: []string{"Grind size"}, Picture: GrindSizes,
		In: []string{"the grind", "grind size"}},
	{ID: "hardness", Word: "Hardness",
		Says: "Calcium and magnesium in the water. Some of it adds sweetness and body; much of it dulls the cup and scales the kettle.",
		In:   []string{"hardness"}},
	{ID: "level", Word: "Level", Says: "The height of the water in the brewer, relative to its rim."},
	{ID: "mark", Word: "Mark", Says: "The rating of a cup, from 1 to 10. From 8 on a cup counts as good, unless they set another mark."},
	{ID: "over-extracted", Word: "Over-extracted", Says: "Too much dissolved: bitter, dry, harsh. Grind coarser, or use cooler water.",
		In: []string{"over-extracted", "over-extracts", "over-extraction"}},
	{ID: "pattern", Word: "Pattern", Says: "The way of the stream over the bed. Spirals wet all of it; the centre alone digs a hole.", Picture: PourPatterns,
		In: []string{"pattern", "patterns"}},
	{ID: "pour", Word: "Pour", Says: "Water poured in one go, with its amount, time, rate, height and pattern.", As: []string{"Pours",
		"Pours after the bloom"}},
	{ID: "pour-height", Word: "Pour height", Says: "The distance from the spout to the bed. A high stream stirs the bed up, a low one keeps it calm.",
		As: []string{"Height"}, Picture: PourHeights,
		In: []string{"pour height"}},
	{ID: "rate", Word: "Pour rate", Says: "Water poured per second. Fast pours stir more and fill the brewer higher.", As: []string{"Rate"},
		In: []string{"pour rate"}},
	{ID: "ratio", Word: "Ratio", Says: "Dose to total water by weight: 1 : 16.5 means 16.5 times as much water as coffee. Lower is stronger.",
		In: []string{"ratio", "ratios"}},
	{ID: "refractometer", Word: "Refractometer", Says: "An instrument that measures TDS from a few drops. Stir the cup first and let the sample cool.",
		In: []string{"refractometer"}},
	{ID: "retained-water", Word: "Retained water", Says: "Liquid that stays in the grounds, about twice the weight of the dose. It is why the beverage " +
		"weighs less than the water poured.", As: []string{"Stays in the grounds"},
		In: []string{"retained water"}},
	{ID: "retention", Word: "Retention", Says: "Ground coffee that stays in the grinder. Weigh out that much more.",
		In: []string{"retention"}},
	{ID: "rinse", Word: "Rinse", Says: "Hot water through the paper before the coffee goes in. It removes paper taste, seals the filter and warms the brewer.",
		In: []string{"rinse", "rinsed", "rinsing"}},
	{ID: "school", Word: "School", Says: "A way to pour that a group of brewers swears by. Here each is a style with its reasons.", As: []string{"Style"},
		In: []string{"school", "schools"}},
	{ID: "slurry", Word: "Slurry", Says: "The mix of water and grounds in the brewer. Its temperature drives extraction; it is some degrees below the " +
		"kettle’s.", As: []string{"Slurry on average", "Slurry at its hottest"},
		In: []string{"slurry"}},
	{ID: "spread", Word: "Standard error",
		Says: "The likely error of a figure: about two in three true values are within it. Two cups whose errors overlap are not " +
			"called different.", As: []string{"Error"},
		In: []string{"standard error", "standard errors"}},
	{ID: "stall", Word: "Stall", Says: "The bed clogs and the water stops draining.",
		In: []string{"stall", "stalls", "stalled"}},
	{ID: "swirl", Word: "Swirl", Says: "Turning the brewer so that the slurry spins. It wets dry spots and leaves a flat bed.",
		In: []string{"swirl", "swirls", "swirled"}},
	{ID: "tare", Word: "Tare", Says: "Setting the scale to zero with the brewer and the coffee on it, so that it shows the water alone.",
		In: []string{"tare", "tared"}},
	{ID: "tds", Word: "TDS (strength)", Says: "Total dissolved solids, in % of the beverage. Thin or heavy is a matter of strength; sour or bitter of " +
		"extraction.", As: []string{"TDS"},
		In: []string{"TDS", "strength"}},
	{ID: "under-extracted", Word: "Under-extracted", Says: "Too little dissolved: sour, sharp, salty, over at once. Grind finer, or use hotter water.",
		In: []string{"under-extracted", "under-extracts", "under-extraction"}},
	{ID: "window", Word: "Window", Says: "The target range of drawdowns: the style’s, or the one set for a coffee."},
}

// byName finds terms by their name in lower case.
var byName = func() map[string]Term {
	out := map[string]Term{}
	for _, t := range glossary {
		out[strings.ToLower(t.Word)] = t
		for _, name := range t.As {
			out[strings.ToLower(name)] = t
		}
	}
	return out
}()

// Glossary returns the terms of the trade in alphabetical order. It must not be modified.
func Glossary() []Term { return glossary }

// TermOf returns the term with a name; false if the name is not a trade term.
func TermOf(name string) (Term, bool) {
	t, ok := byName[strings.ToLower(name)]
	return t, ok
}

// TermByID returns the term with an ID; false for an unknown one.
func TermByID(id string) (Term, bool) {
	for _, t := range glossary {
		if t.ID == id {
			return t, true
		}
	}
	return Term{}, false
}

// Search returns the terms whose name, other forms or explanation contain a text, those by name first; all terms for an empty text.
func Search(text string) (out []Term) {
	text = strings.ToLower(strings.TrimSpace(text))
	var explained []Term
	for _, t := range glossary {
		switch {
		case strings.Contains(strings.ToLower(t.Word+" "+strings.Join(t.As, " ")), text):
			out = append(out, t)
		case strings.Contains(strings.ToLower(t.Says), text):
			explained = append(explained, t)
		}
	}
	return append(out, explained...)
}
