package web

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"
)

// A term is one of the trade's words.
type term struct {
	ID   string
	Word string
	Says string
	// As are other names under which pages show it.
	As []string
}

// terms are the trade's words as the product uses them, in their order in the book of words.
var terms = []term{
	{"aim", "Aim", "When the last steady stream is wanted. It is set by the style and moves with the pours; the window around it counts as on time.", nil},
	{"alkalinity", "Alkalinity", "What the water takes of an acid before it turns sour itself. Much of it makes bright coffee flat.", nil},
	{"bed", "Bed", "The grounds in the brewer, with the water between them.", nil},
	{"beverage-weight", "Beverage weight", "What is in the carafe at the end, weighed: with melted ice and with the water of a dilution.", []string{"In the carafe"}},
	{"bloom", "Bloom", "The first, small pour. It wets the grounds and lets their gas out, so that what follows finds its way in.", nil},
	{"bypass", "Bypass", "Water that runs past the bed at the wall and takes nothing along. Water that is added to the cup afterwards is called dilution here.", nil},
	{"channelling", "Channelling", "Most of the water takes the same few ways through the bed: the grounds beside them give too much, the rest too little.", nil},
	{"dilution", "Dilution", "Water that the cup gets after the brew. The yield stays, the strength falls.", []string{"TDS before"}},
	{"dose", "Dose", "The dry coffee, in grams. What to weigh out is more by what the grinder keeps.", nil},
	{"drawdown", "Drawdown", "The time from the first water to the last steady stream.", nil},
	{"ey", "Extraction yield (EY)", "How much of the dry coffee ended up in the liquid, in % of the dose: TDS × beverage weight / dose. A steep counts what stays in the grounds too.", []string{"EY", "Yield"}},
	{"fines", "Fines", "The dust among the grounds. It gives itself up at once, and clogs the bed.", nil},
	{"grind", "Grind", "How fine the coffee is ground: the median size of the grains, in thousandths of a millimetre (µm).", []string{"Grind size"}},
	{"hardness", "Hardness", "The calcium and magnesium in the water. Some of it takes sweetness and body along; much of it dulls the cup and scales the kettle.", nil},
	{"level", "Level", "How high the water stands in the brewer, against its rim.", nil},
	{"pour", "Pour", "Water from the kettle in one go: how much, when, how fast, from what height, along which path.", []string{"Pours"}},
	{"ratio", "Ratio", "All water to the dose: 1 : 16.5 is 16.5 parts of water to one of coffee, by weight.", nil},
	{"retained-water", "Retained water", "Liquid that stays in the grounds, about twice the weight of the dose. It is why the cup is less than what was poured.", []string{"Stays in the grounds"}},
	{"slurry", "Slurry", "Water and grounds above the bed, mixed. Its temperature is what extracts, some degrees below the kettle’s.", []string{"Slurry on average", "Slurry at its hottest"}},
	{"stall", "Stall", "The bed clogs, and the water stands.", nil},
	{"tds", "TDS (strength)", "Total dissolved solids: how much of the cup is coffee, in % of its weight. Thin or heavy is strength; sour or bitter is extraction.", []string{"TDS"}},
	{"window", "Window", "The span of drawdowns that is wanted: the style’s around its aim, or the one that a coffee has taught.", nil},
}

// termOf finds the term of a name.
var termOf = func() map[string]term {
	out := map[string]term{}
	for _, t := range terms {
		out[strings.ToLower(t.Word)] = t
		for _, name := range t.As {
			out[strings.ToLower(name)] = t
		}
	}
	return out
}()

// explained is a name, linked to what it means where that is one of the trade's words.
func explained(name string) template.HTML {
	shown := template.HTMLEscapeString(name)
	t, known := termOf[strings.ToLower(name)]
	if !known {
		return template.HTML(shown)
	}
	return template.HTML(fmt.Sprintf(`<a class="term" href="/glossary#%s">%s</a>`, t.ID, shown))
}

// glossary is the book of words.
func (s *Server) glossary(w http.ResponseWriter, r *http.Request) error {
	s.render(w, r, http.StatusOK, "glossary", page{Title: "Glossary", Side: "glossary", Line: emptyLine(""), Body: terms})
	return nil
}
