package station

import (
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/person"
	"yardbloom/web/page"
)

// A Taster is a person to choose from on the Cup and the Next station.
type Taster struct {
	page.Badge
	Href  string
	Shown bool   // their tasting is on the page
	Given string // their mark of the cup, "✓" for a tasting without one, or empty
}

// theYard is shown for tastings without a name.
var theYard = person.Person{Name: "the yard", Initials: "–", Mark: person.Gate}

// SeeTaster shows the brew of a scene as the taster sees it that the address of the request names. If that is
// unknown, it returns a problem.
func (sc *Scene) SeeTaster(r *http.Request) error {
	q := r.URL.Query()
	if !q.Has("for") || sc.Brew == nil {
		return nil
	}
	id := q.Get("for")
	if id != "" && page.Settings(r).Named(id).IsYard() {
		return page.Problem{Status: http.StatusGone, Title: "This person was removed", Text: "Go back and choose who tasted the cup."}
	}
	sc.See(id)
	return nil
}

// As returns the query that names the taster of a scene; empty in a yard of one person.
func (sc *Scene) As(r *http.Request) string {
	if !page.Settings(r).ByName() {
		return ""
	}
	return "?" + url.Values{"for": {sc.Brew.Taster}}.Encode()
}

// Tasters lists who may taste a brew at an address: the people of the yard, and others who have tasted it. It is
// empty in a yard of one person.
func (sc *Scene) Tasters(r *http.Request, at string) (out []Taster) {
	set := page.Settings(r)
	if !set.ByName() {
		return nil
	}
	all := set.People()
	for _, t := range sc.Brew.Tastings {
		if !slices.ContainsFunc(all, func(p person.Person) bool { return p.ID == t.Taster }) {
			all = append(all, Named(r, t.Taster))
		}
	}
	for _, p := range all {
		v := Taster{Badge: page.Badge{Person: p, Here: p.ID == set.PersonID}, Href: at + "?" + url.Values{"for": {p.ID}}.Encode(),
			Shown: p.ID == sc.Brew.Taster}
		if t, ok := sc.Brew.TastingBy(p.ID); ok && t.Cup.IsRecorded() {
			v.Given = "✓"
			if t.Cup.Overall > 0 {
				v.Given = strconv.Itoa(t.Cup.Overall)
			}
		}
		out = append(out, v)
	}
	return out
}

// Named returns a person by id; the yard has a name and a mark too.
func Named(r *http.Request, id string) person.Person {
	if p := page.Settings(r).Named(id); !p.IsYard() {
		return p
	}
	return theYard
}

// Opinions says when people want a coffee changed in different directions, by the latest advice to each on its
// path, such as "stronger for Ada, fine for Ben"; empty if they agree.
func Opinions(r *http.Request, path []brew.Brew) string {
	if !page.Settings(r).ByName() {
		return ""
	}
	var said []string
	heard, directions := map[string]bool{}, map[string]bool{}
	for _, b := range slices.Backward(path) {
		for _, t := range b.Tastings {
			if heard[t.Taster] || t.Advice == nil || !t.Cup.IsRecorded() {
				continue
			}
			heard[t.Taster] = true
			if to := string(t.Advice.Direction()); to != "" {
				directions[to] = true
				said = append(said, to+" for "+Named(r, t.Taster).Name)
			}
		}
	}
	if len(directions) < 2 {
		return ""
	}
	return strings.Join(said, ", ")
}
