package words

import "strings"

// A Term is a trade term.
type Term struct {
	ID   string
	Word string
	Says string
	// As lists other forms of the term on pages.
	As []string
}

// glossary holds the terms in alphabetical order.
var glossary = []Term{
	{"aim", "Aim", "The target time of the last steady stream. The style sets it, and it moves with the pours.", nil},
	{"alkalinity", "Alkalinity", "The capacity of water to neutralise acid. High alkalinity makes bright coffee taste flat.", nil},
	{"bed", "Bed", "The grounds in the brewer, with the water between them.", nil},
	{"beverage-weight", "Beverage weight", "The weight of the coffee in the carafe, including melted ice and dilution.",
		[]string{"In the carafe"}},
	{"bloom", "Bloom", "The first, small pour. It wets the grounds and releases their gas, so that later water flows evenly.", nil},
	{"bypass", "Bypass", "Water that flows past the bed at the wall and extracts nothing. Water added to the cup is called dilution.", nil},
	{"channelling", "Channelling",
		"Water flows through a few paths in the bed: the grounds along them over-extract, the rest under-extract.", nil},
	{"dilution", "Dilution", "Water that is added to the cup after the brew. The yield stays, the strength falls.", []string{"TDS before"}},
	{"dose", "Dose", "The dry coffee, in grams. Weigh out more by the grinder's retention.", nil},
	{"drawdown", "Drawdown", "The time from the first water to the last steady stream.", nil},
	{"ey", "Extraction yield (EY)", "The share of the dose that dissolved, in %: TDS × beverage weight / dose. For a steep, the liquid " +
		"in the grounds counts too.", []string{"EY", "Yield"}},
	{"fines", "Fines", "The smallest particles of the grounds. They extract at once and can clog the bed.", nil},
	{"grind", "Grind", "The median size of the grounds, in thousandths of a millimetre (µm).", []string{"Grind size"}},
	{"hardness", "Hardness", "Calcium and magnesium in the water. Some of it adds sweetness and body; much of it dulls the cup and " +
		"scales the kettle.", nil},
	{"level", "Level", "The height of the water in the brewer, relative to its rim.", nil},
	{"pour", "Pour", "Water poured in one go, with its amount, time, rate, height and pattern.", []string{"Pours"}},
	{"ratio", "Ratio", "Dose to total water by weight: 1 : 16.5 means 16.5 times as much water as coffee.", nil},
	{"retained-water", "Retained water", "Liquid that stays in the grounds, about twice the weight of the dose. It is why the beverage " +
		"weighs less than the water poured.", []string{"Stays in the grounds"}},
	{"slurry", "Slurry", "The mix of water and grounds in the brewer. Its temperature drives extraction; it is some degrees below the " +
		"kettle’s.", []string{"Slurry on average", "Slurry at its hottest"}},
	{"stall", "Stall", "The bed clogs and the water stops draining.", nil},
	{"tds", "TDS (strength)", "Total dissolved solids, in % of the beverage. Thin or heavy is a matter of strength; sour or bitter of " +
		"extraction.", []string{"TDS"}},
	{"window", "Window", "The target range of drawdowns: the style’s, or the one set for a coffee.", nil},
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
