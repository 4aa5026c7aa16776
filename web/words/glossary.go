package words

import (
	"slices"
	"strings"

	"yardbloom/core/cup"
)

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
	OpenCone     Picture = "open cone"
	FlatBed      Picture = "flat bed"
	HeavyCone    Picture = "heavy-paper cone"
	ValveSteeper Picture = "valve steeper"
)

// glossary holds the terms in alphabetical order: the senses with their lessons, and all others.
var glossary = func() []Term {
	all := slices.Clone(terms)
	for _, sense := range cup.Scales() {
		all = append(all, Term{ID: string(sense.Sense), Word: sense.Name, Says: sense.Lesson, In: []string{sense.Name}})
	}
	slices.SortFunc(all, func(a, b Term) int { return strings.Compare(strings.ToLower(a.Word), strings.ToLower(b.Word)) })
	return all
}()

// terms lists all terms but the senses.
var terms = []Term{
	{ID: "agitation", Word: "Agitation", In: []string{"agitation", "agitate"},
		Says: "Movement of the slurry by the stream, a swirl or a stir. It evens out and speeds up extraction, but moves fines into the " +
			"paper."},
	{ID: "aim", Word: "Aim",
		Says: "The target time of the last steady stream. The style sets it, and it moves with the pours."},
	{ID: "alkalinity", Word: "Alkalinity", In: []string{"alkalinity"},
		Says: "The capacity of water to neutralise acid. High alkalinity makes bright coffee taste flat."},
	{ID: "bed", Word: "Bed", In: []string{"the bed"}, Picture: BedShapes,
		Says: "The grounds in the brewer, with the water between them. Its shape after the brew shows how even the pour was."},
	{ID: "beverage-weight", Word: "Beverage weight", As: []string{"In the carafe"},
		In:   []string{"beverage weight", "weight of the beverage"},
		Says: "The weight of the coffee in the carafe, including melted ice and dilution."},
	{ID: "blind", Word: "Blind", In: []string{"blind"},
		Says: "Tasted without knowing which cup is which. Codes keep expectations out of the marks."},
	{ID: "bloom", Word: "Bloom", As: []string{"Bloom for"}, In: []string{"bloom", "blooms"},
		Says: "The first, small pour. It wets the grounds and releases their gas, so that later water flows evenly."},
	{ID: "bypass", Word: "Bypass", In: []string{"bypass"},
		Says: "Water that flows past the bed at the wall and extracts nothing. Water added to the cup is called dilution."},
	{ID: "burrs", Word: "Burrs", In: []string{"burr", "burrs"},
		Says: "The two toothed rings that grind the beans. Flat ones make fewer fines than conical ones. A blade chops instead, and " +
			"cannot repeat a size."},
	{ID: "channelling", Word: "Channelling", As: []string{"Channel"}, In: []string{"channelling", "channel", "channels"},
		Says: "Water flows through a few paths in the bed: the grounds along them over-extract, the rest under-extract."},
	{ID: "crust", Word: "Crust", In: []string{"crust"},
		Says: "The layer of grounds that floats on a steep. Breaking it lets the grounds sink and extract."},
	{ID: "density", Word: "Density", As: []string{"Bean density"}, In: []string{"dense", "denser"},
		Says: "The weight of the beans for their volume. Dense beans grew slowly, often high up. They extract slowly: use hotter water " +
			"or a finer grind."},
	{ID: "dial-in", Word: "Dial in", In: []string{"dial in", "dials in", "dialled in", "dialling in"},
		Says: "To find the recipe of a new coffee, brew by brew, one change at a time."},
	{ID: "dome", Word: "Dome", In: []string{"dome", "domes"},
		Says: "The bed rising in the bloom, because gas leaves the coffee. A high dome is a sign of fresh coffee; no dome, of old coffee."},
	{ID: "dilution", Word: "Dilution", As: []string{"TDS before"}, In: []string{"dilution"},
		Says: "Water that is added to the cup after the brew. The yield stays, the strength falls."},
	{ID: "dose", Word: "Dose", In: []string{"dose", "doses"},
		Says: "The dry coffee, in grams. Weigh out more by the grinder's retention."},
	{ID: "drawdown", Word: "Drawdown", In: []string{"drawdown", "drawdowns"},
		Says: "The time from the first water to the last steady stream."},
	{ID: "dry-spot", Word: "Dry spot", In: []string{"dry spot", "dry spots", "dry pocket", "dry pockets"},
		Says: "Grounds that the water has not reached. Wet them in the bloom: use a little more water, or swirl."},
	{ID: "ey", Word: "Extraction yield (EY)", As: []string{"EY", "Yield"}, In: []string{"extraction yield", "yield", "EY"},
		Says: "The share of the dose that dissolved, in %: TDS × beverage weight / dose. For a steep, the liquid in the grounds counts " +
			"too."},
	{ID: "fines", Word: "Fines", In: []string{"fines"},
		Says: "The smallest particles of the grounds. They extract at once and can clog the bed."},
	{ID: "flat-bed", Word: "Flat bed", Picture: FlatBed,
		Says: "A brewer with a flat bottom and small outlets, for corrugated paper. It is even and forgiving."},
	{ID: "flower", Word: "Flower",
		Says: "The sign of a brew in this app. Time runs round once, and each petal is a pour: its angle is when, its width how long, " +
			"its length how much. The centre is the dose, and the ring the drawdown."},
	{ID: "freshness", Word: "Freshness", As: []string{"Age"}, In: []string{"freshness"},
		Says: "The days since the roast. Very fresh coffee is full of gas and blooms long; old coffee hardly rises and tastes flat."},
	{ID: "grind", Word: "Grind", As: []string{"Grind size"}, In: []string{"the grind", "grind size"}, Picture: GrindSizes,
		Says: "The median size of the grounds, in thousandths of a millimetre (µm). Finer extracts more and drains more slowly."},
	{ID: "hardness", Word: "Hardness", In: []string{"hardness"},
		Says: "Calcium and magnesium in the water. Some of it adds sweetness and body; much of it dulls the cup and scales the kettle."},
	{ID: "heavy-paper-cone", Word: "Heavy-paper cone", In: []string{"heavy-paper cone"}, Picture: HeavyCone,
		Says: "A wide cone for thick paper. It drains slowly and makes a clear cup."},
	{ID: "level", Word: "Level",
		Says: "The height of the water in the brewer, relative to its rim."},
	{ID: "mark", Word: "Mark",
		Says: "The rating of a cup, from 1 to 10. From 8 on a cup counts as good, unless the taster set another threshold."},
	{ID: "open-cone", Word: "Open cone", In: []string{"open cone"}, Picture: OpenCone,
		Says: "A cone with a ribbed wall and one large outlet. The grind and the pours set its flow."},
	{ID: "over-extracted", Word: "Over-extracted", In: []string{"over-extracted", "over-extracts", "over-extraction"},
		Says: "Too much dissolved: bitter, dry, harsh. Grind coarser, or use cooler water."},
	{ID: "pattern", Word: "Pattern", In: []string{"pattern", "patterns"}, Picture: PourPatterns,
		Says: "The way of the stream over the bed. Spirals wet all of it; the centre alone digs a hole."},
	{ID: "pour", Word: "Pour", As: []string{"Pours", "Pours after the bloom"},
		Says: "Water poured in one go, with its amount, time, rate, height and pattern."},
	{ID: "pour-height", Word: "Pour height", As: []string{"Height"}, In: []string{"pour height"}, Picture: PourHeights,
		Says: "The distance from the spout to the bed. A high stream stirs the bed up, a low one keeps it calm."},
	{ID: "process", Word: "Process",
		Says: "How the fruit was treated after the harvest. Washed: without the fruit, clear. Natural: dried in the fruit, sweet and " +
			"heavy. Honey: in between. Anaerobic: fermented without air, intense. Decaf: without caffeine, brittle, with many fines."},
	{ID: "rate", Word: "Pour rate", As: []string{"Rate"}, In: []string{"pour rate"},
		Says: "Water poured per second. Fast pours stir more and fill the brewer higher."},
	{ID: "ratio", Word: "Ratio", In: []string{"ratio", "ratios"},
		Says: "Dose to total water by weight: 1 : 16.5 means 16.5 times as much water as coffee. Lower is stronger."},
	{ID: "refractometer", Word: "Refractometer", In: []string{"refractometer"},
		Says: "An instrument that measures TDS from a few drops. Stir the cup first and let the sample cool."},
	{ID: "retained-water", Word: "Retained water", As: []string{"Stays in the grounds"}, In: []string{"retained water"},
		Says: "Liquid that stays in the grounds, about twice the weight of the dose. It is why the beverage weighs less than the water " +
			"poured."},
	{ID: "retention", Word: "Retention", In: []string{"retention"},
		Says: "Ground coffee that stays in the grinder. Weigh out that much more."},
	{ID: "ribbon", Word: "Ribbon",
		Says: "The drawing of a brew over time: the filled line is the poured water, the dotted one the level over the bed, the thin one " +
			"what runs out. Marks on the axis are actions of the hand."},
	{ID: "rinse", Word: "Rinse", In: []string{"rinse", "rinsed", "rinsing"},
		Says: "Hot water through the paper before the coffee goes in. It removes paper taste, seals the filter and warms the brewer."},
	{ID: "roast", Word: "Roast",
		Says: "How dark the beans are. Light roasts are dense and need hotter water and a finer grind. Dark ones extract easily and turn " +
			"bitter sooner."},
	{ID: "school", Word: "School", As: []string{"Style"}, In: []string{"school", "schools"},
		Says: "A way to pour that a group of brewers swears by. Here each is a style with its reasons."},
	{ID: "slurry", Word: "Slurry", As: []string{"Slurry on average", "Slurry at its hottest"}, In: []string{"slurry"},
		Says: "The mix of water and grounds in the brewer. Its temperature drives extraction; it is some degrees below the kettle’s."},
	{ID: "spread", Word: "Standard error", As: []string{"Error"}, In: []string{"standard error", "standard errors"},
		Says: "The likely error of a figure: about two in three true values are within it. Two cups whose errors overlap are not called " +
			"different."},
	{ID: "stall", Word: "Stall", In: []string{"stall", "stalls", "stalled"},
		Says: "The bed clogs and the water stops draining."},
	{ID: "steep", Word: "Steep", As: []string{"Steep for", "Release at"}, In: []string{"steep", "steeps", "immersion"},
		Says: "All grounds stay in all of the water for a time, as in a valve steeper. Everything extracts alike, whatever the pour."},
	{ID: "swirl", Word: "Swirl", In: []string{"swirl", "swirls", "swirled"},
		Says: "Turning the brewer so that the slurry spins. It wets dry spots and leaves a flat bed."},
	{ID: "tare", Word: "Tare", In: []string{"tare", "tared"},
		Says: "Setting the scale to zero with the brewer and the coffee on it, so that it shows the water alone."},
	{ID: "tds", Word: "TDS (strength)", As: []string{"TDS"}, In: []string{"TDS", "strength"},
		Says: "Total dissolved solids, in % of the beverage. Thin or heavy is a matter of strength; sour or bitter of extraction."},
	{ID: "under-extracted", Word: "Under-extracted", In: []string{"under-extracted", "under-extracts", "under-extraction"},
		Says: "Too little dissolved: sour, sharp, salty, over at once. Grind finer, or use hotter water."},
	{ID: "valve-steeper", Word: "Valve steeper", In: []string{"valve steeper"}, Picture: ValveSteeper,
		Says: "A cone with a valve. The coffee steeps until the valve opens, and then drains through the paper."},
	{ID: "window", Word: "Window",
		Says: "The target range of drawdowns: the style’s, or the one set for a coffee."},
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
