package page

// A Stop is one station of the line as the navigation shows it.
type Stop struct {
	Name, Href string
	Fact       string // a known fact about the station
	State      string // here, passed, open or ahead
}

var stations = [...]string{"Coffee", "Recipe", "Set-up", "Brew", "Cup", "Next"}

// Line returns the line without a brew: only the shelf is open. here is the station that is
// shown; empty for none.
func Line(here string) []Stop {
	out := make([]Stop, len(stations))
	for i, name := range stations {
		out[i] = Stop{Name: name, State: "ahead"}
	}
	out[0].Href, out[0].State = "/", "open"
	return MarkHere(out, here)
}

// MarkHere marks the station that is shown.
func MarkHere(line []Stop, here string) []Stop {
	for i := range line {
		if line[i].Name == here {
			line[i].State = "here"
		}
	}
	return line
}
