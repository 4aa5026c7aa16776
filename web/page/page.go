// Package page renders pages: the frame around every screen, the templates inside it, problems
// that are shown to people, and the adapter for handlers that return errors. It knows no screen.
package page

import (
	"net/http"

	"yardbloom/store"
	"yardbloom/web/words"
)

// A Page is the data of a template.
type Page struct {
	Title    string
	Station  string // the station of the line that is shown; empty on side tools
	Line     []Stop
	Side     string // the side tool that is shown
	Notice   *Notice
	Wide     bool // without margins, for screens that are used while pouring
	Practice bool // needs the script of a practice pour
	Body     any
	// Untasted is a poured brew whose cup is not tasted yet.
	Untasted *BrewLink

	frame
}

// frame is what Render adds to every page.
type frame struct {
	Theme  string
	Path   string
	Demo   bool
	SignIn bool
	// Shown and Others are the people to choose from; Nobody is true if none of them is chosen on this screen.
	Shown, Others []Badge
	Nobody        bool
	By            string // id of the person at the screen
	Sound         string // theirs; empty: as the screen says
	// Running is a brew that runs on another page; RunningSays describes its progress.
	Running     *BrewLink
	RunningSays string
	// Armed are the scales that wait for the first water of a draft on another page.
	Armed []store.Armed
	// Waits is true for a page that sends what waits on the device, and says so. Pages with a running clock do it themselves.
	Waits bool
	// Walk is the walk through the demo yard; nil in other yards and after its end.
	Walk *walkView
	// Help explains the screen; nil for none.
	Help *helpView
}

// helpView is the help of a screen with its terms.
type helpView struct {
	words.Help
	Terms []words.Term
}

// walkView is the panel of the walk through the demo yard: a step, or beside it the way to its beginning.
type walkView struct {
	words.WalkStep
	N, Of      int // N is 0 beside the walk
	Back, Next *words.WalkStep
}

// A Notice confirms the last action. Undo is the address that undoes it; empty for none.
type Notice struct{ Text, Undo string }

// A BrewLink names a brew.
type BrewLink struct{ ID, Name string }

// A Fact is a line of a list of figures.
type Fact struct{ Name, Value string }

// A Choice is an option of a list, by its ID.
type Choice struct{ ID, Name string }

// An Entry is a line of a list of documents: flights, trials, rushes or scripts.
type Entry struct {
	Href, Name, Says, When string
	By                     *Badge // nil: there is no name
}

// A Handler answers a request, or returns an error that Site.Fail shows.
type Handler func(w http.ResponseWriter, r *http.Request) error
