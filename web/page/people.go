package page

import (
	"cmp"
	"net/http"

	"yardbloom/core/person"
)

// A Badge shows a person by their mark and initials.
type Badge struct {
	person.Person
	Here bool // the person at the screen
}

// outlines holds the shape of each mark as an SVG path in a box of 40 by 40.
var outlines = map[person.Mark]string{
	person.Leaf: "M3 3H23A14 14 0 0 1 37 17V37H17A14 14 0 0 1 3 23Z",
	person.Drop: "M20 1C26 11 34 16 34 25A14 14 0 0 1 6 25C6 16 14 11 20 1Z",
	person.Sun: "M20 1 25 8 33.4 6.6 32 15 39 20 32 25 33.4 33.4 25 32 20 39 15 32 6.6 33.4 8 25 1 20 8 15 6.6 6.6 " +
		"15 8Z",
	person.Pot:  "M2 5H38V12H35L31 37H9L5 12H2Z",
	person.Gate: "M4 38V18A16 16 0 0 1 36 18V38Z",
	person.Moon: "M5 3H18A17 17 0 0 1 18 37H5Z",
	person.Kite: "M20 1 38 20 20 39 2 20Z",
	person.Hive: "M11 4H29L38 20 29 36H11L2 20Z",
}

// outline returns the shape of a mark as an SVG path.
func outline(m string) string { return cmp.Or(outlines[person.Mark(m)], outlines[person.Leaf]) }

// BadgeOf returns the badge of a person by id, or nil: for the yard, for a person who was removed, and in a yard
// of one person, which shows no names.
func BadgeOf(r *http.Request, id string) *Badge {
	set := Settings(r)
	if p := set.Named(id); set.ByName() && !p.IsYard() {
		return &Badge{p, id == set.PersonID}
	}
	return nil
}

// NameOf returns the name of a person by id, or "the yard".
func NameOf(r *http.Request, id string) string { return cmp.Or(Settings(r).Named(id).Name, "the yard") }

// chips is the number of people that the header shows beside each other.
const chips = 4

// badges returns the people to choose from in the header: beside each other, with the person at the screen among
// them, and the others. Both are empty in a yard of one person.
func badges(r *http.Request) (shown, others []Badge) {
	set := Settings(r)
	if !set.ByName() {
		return nil, nil
	}
	for _, p := range set.People() {
		b := Badge{p, p.ID == set.PersonID}
		if len(shown) < chips {
			shown = append(shown, b)
		} else {
			others = append(others, b)
		}
	}
	for i := range others {
		if others[i].Here {
			others[i], shown[chips-1] = shown[chips-1], others[i]
		}
	}
	return shown, others
}

// Whose returns the name of the person at the screen, or "the yard" if none is chosen; empty in a yard of one
// person.
func Whose(r *http.Request) string {
	if !Settings(r).ByName() {
		return ""
	}
	return NameOf(r, PersonID(r))
}

// SamePerson returns a problem if a form was shown to another person than the one now at the screen.
func SamePerson(r *http.Request, form map[string]string) error {
	if was, sent := form["person"]; sent && was != PersonID(r) {
		return Problem{Status: http.StatusConflict, Title: "Another person is here now",
			Text: "This page showed the settings of " + NameOf(r, was) + ". Nothing was saved. Open it again, or choose who is here."}
	}
	return nil
}
