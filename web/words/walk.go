package words

// A WalkStep is one step of the walk through the demo yard: a page, and what to see and do there.
type WalkStep struct {
	Path    string // of the page, without a query
	Query   string // of the link to it
	Title   string
	Says    string
	Picture string // file in docs/screenshots
}

// Href returns the address of the step.
func (s WalkStep) Href() string { return s.Path + s.Query }

// walk holds the steps in order. docs/guide.md shows the same ones.
var walk = []WalkStep{
	{"/", "", "The shelf", "Quarry Lane Nursery has six bags. First Frost is very fresh and rests for some more days; Winter Stores is getting flat. " +
		"The bar is the coffee that is left. Press the name of Slate Terrace.", "coffee.png"},
	{"/bags/slate-terrace", "", "A bag and its path",
		"Marta found this recipe in four brews, one change at a time. The path shows the latest brews, each change, " +
			"its effect, and whether the model expected that. The charts below show how the bag ages.", "bag.png"},
	{"/brews/evening-seed-next/recipe", "", "A recipe",
		"The next brew of Evening Seed is planned, with the one change that the coach advised: a larger bloom. " +
			"Change the dose or the grind: the ribbon, the cutaway and the dashed prediction follow at once.", "recipe.png"},
	{"/brews/evening-seed-next/setup", "", "Set-up",
		"The list is made for this recipe and this gear: what to boil, rinse, weigh and grind, with timers. Ticks are optional.",
		"set-up.png"},
	{"/brews/evening-seed-next/brew", "", "The pour", "Tap the large area or press space with the first water, or choose Watch a simulated pour. " +
		"The screen shows the present action, its end, and the next one. If you pour too much or too late, the rest is revised.", "brew-pouring.png"},
	{"/brews/winter-stores-15/cup", "", "The cup", "Weight, TDS, the picture of the bed and the taste as it cools. The yield appears with its error. " +
		"This bag is six weeks old and the cup is flat; its Next station gives the reason.", "cup.png"},
	{"/brews/slate-terrace-4/next", "?for=ivo", "One change",
		"The coach names the most likely cause, how sure it is, and one change with its size. Marta likes this cup; " +
			"Ivo finds it thin, so his advice differs. Show the reasoning lists every sign.", "next.png"},
	{"/log", "", "The log", "All brews, found by any word and by filters. Mark two brews with C or the box, and compare them.", "log.png"},
	{"/log/compare", "?id=slate-terrace-1&id=slate-terrace-4", "Two brews over each other",
		"The pours, the flow and the cups of two brews, what differs, and whether the " +
			"difference is larger than the errors.", "comparison.png"},
	{"/learned", "", "Learned", "The model learns from every measured brew. In the fourth week the bench grinder began to grind finer: " +
		"the notice at the top found it in the drawdowns.", "learned.png"},
	{"/trials/trial-water", "", "A trial",
		"Three waters, brewed in random order, with an answer and its error. Side by side, under More, does the same by taste, blind.", "trial.png"},
	{"/yard", "", "The yard",
		"Brews, marks, coffee and cost over five weeks, how alike repeats are, and what runs out. That was the walk: the rest is yours. " +
			"The shelf is one press away.", "yard.png"},
}

// Walk returns the steps of the walk through the demo yard. It must not be modified.
func Walk() []WalkStep { return walk }

// WalkAt returns the number of the step at a path, from 1; 0 for a path beside the walk.
func WalkAt(path string) int {
	for i, s := range walk {
		if s.Path == path {
			return i + 1
		}
	}
	return 0
}
