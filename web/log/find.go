package log

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

// The search and the filters of the log, as they are in its address.

// maxSearch is the maximum length of a search, in characters.
const maxSearch = 200

// filterNames lists the parameters of a filter, without the search, the order and the place.
var filterNames = []string{"bag", "brewer", "grinder", "style", "person", "from", "to", "low", "top", "fault", "tasted", "traced", "tried"}

// sortNames holds the label of each order.
var sortNames = map[store.Sort]string{store.ByStart: "latest first", store.ByMark: "best mark first", store.ByYield: "highest yield first",
	store.ByDrawdown: "slowest first"}

// readFilter parses a filter from the address of the log. A value that cannot be read gets a sentence in the form.
func readFilter(r *http.Request, zone *time.Location) (store.Filter, *form.Form, error) {
	q, f := r.URL.Query(), form.New()
	for name := range q {
		f.Values[name] = q.Get(name)
	}
	out := store.Filter{Words: strings.TrimSpace(q.Get("q")), Bag: q.Get("bag"), Brewer: q.Get("brewer"), Grinder: q.Get("grinder"),
		Style: recipe.StyleID(q.Get("style")).Current(), Person: q.Get("person"), Fault: cup.Fault(q.Get("fault")), Traced: q.Get("traced") != "",
		Tried: q.Get("tried") != "", For: page.PersonID(r)}
	for _, id := range []string{out.Bag, out.Brewer, out.Grinder, out.Person} {
		if id != "" && !store.ValidID(id) {
			return out, f, store.ErrNotFound
		}
	}
	if len([]rune(out.Words)) > maxSearch {
		f.Fail("q", "A search has at most %d characters.", maxSearch)
		out.Words = ""
	}
	if answer := store.Answer(q.Get("tasted")); answer == store.Yes || answer == store.No {
		out.Tasted = answer
	}
	if sort := store.Sort(q.Get("sort")); slices.Contains(store.Sorts(), sort) {
		out.Sort = sort
	}
	marks := units.Range{Lo: 1, Hi: 10}
	out.Lowest = int(f.Quantity("low", "The mark", form.Count, marks, false))
	out.Topmost = int(f.Quantity("top", "The mark", form.Count, marks, false))
	day := func(name, label string, more int) time.Time {
		if typed := f.Day(name, label, false); typed != "" {
			at, _ := time.ParseInLocation(coffee.Day, typed, zone)
			return at.AddDate(0, 0, more)
		}
		return time.Time{}
	}
	out.From, out.To = day("from", "The first day", 0), day("to", "The last day", 1)
	var err error
	out.After, err = readPlace(q.Get("after"))
	return out, f, err
}

// readPlace parses the place after which a page begins.
func readPlace(after string) (store.Place, error) {
	if after == "" {
		return store.Place{}, nil
	}
	value, n, ok := strings.Cut(after, "~")
	v, err := strconv.ParseFloat(value, 64)
	place, err2 := strconv.ParseInt(n, 10, 64)
	if !ok || err != nil || err2 != nil {
		return store.Place{}, store.ErrNotFound
	}
	return store.Place{Value: v, N: place}, nil
}

// placeText formats a place for an address.
func placeText(p store.Place) string {
	return strconv.FormatFloat(p.Value, 'g', -1, 64) + "~" + strconv.FormatInt(p.N, 10)
}

// address returns the address of the log with the filter of a request, without empty parameters and the place.
func address(q url.Values) url.Values {
	out := url.Values{}
	for _, name := range append([]string{"q", "sort"}, filterNames...) {
		if v := q.Get(name); v != "" {
			out.Set(name, v)
		}
	}
	return out
}

// filterFields returns the fields of the filters.
func (s *Screens) filterFields(r *http.Request, f *form.Form) ([]form.Field, error) {
	things, err := s.yard.Store.Things(r.Context())
	if err != nil {
		return nil, err
	}
	bags, err := s.yard.Store.BagNames(r.Context(), logCoffees)
	if err != nil {
		return nil, err
	}
	every := func(name, label, all string, listed []form.Option, missing func(id string) string) form.Field {
		e := f.Entry(name, label)
		e.Options = append([]form.Option{{Label: all}}, listed...)
		there := e.Value == ""
		for i := range e.Options {
			e.Options[i].Selected = e.Options[i].Value == e.Value
			there = there || e.Options[i].Selected
		}
		if !there { // no longer listed: the filter still holds
			e.Options = append(e.Options, form.Option{Value: e.Value, Label: missing(e.Value), Selected: true})
		}
		return e
	}
	of := func(kind string) (out []form.Option) {
		for _, t := range things {
			if t.Kind == kind {
				out = append(out, form.Option{Value: t.ID, Label: t.Name})
			}
		}
		return out
	}
	var coffees, styles, people, faults []form.Option
	for _, b := range bags {
		coffees = append(coffees, form.Option{Value: b.ID, Label: b.Name})
	}
	for _, style := range recipe.Schools() {
		styles = append(styles, form.Option{Value: string(style.ID), Label: style.Name})
	}
	if set := page.Settings(r); set.ByName() {
		for _, p := range set.People() {
			people = append(people, form.Option{Value: p.ID, Label: p.Name})
		}
	}
	for _, fault := range cup.Faults() {
		faults = append(faults, form.Option{Value: string(fault), Label: string(fault)})
	}
	retired := func(string) string { return "retired" }
	bagName := func(id string) string {
		if b, err := s.yard.Store.Bag(r.Context(), id); err == nil {
			return b.Name
		}
		return "unknown"
	}
	brewerName := func(id string) string {
		if b, err := s.yard.Store.Brewer(r.Context(), id); err == nil {
			return b.Name + ", retired"
		}
		return "unknown"
	}
	grinderName := func(id string) string {
		if g, err := s.yard.Store.Grinder(r.Context(), id); err == nil {
			return g.Name + ", retired"
		}
		return "unknown"
	}
	out := []form.Field{every("bag", "Coffee", "all", coffees, bagName), every("brewer", "Brewer", "all", of("brewers"), brewerName),
		every("grinder", "Grinder", "all", of("grinders"), grinderName), every("style", "Style", "all", styles, func(id string) string { return id })}
	if len(people) > 0 {
		out = append(out, every("person", "Brewed by", "anybody", people, retired))
	}
	from, to := f.Entry("from", "From"), f.Entry("to", "To")
	from.Kind, to.Kind = "date", "date"
	yes := []form.Option{{Value: "yes", Label: "only these"}}
	return append(out, from, to, f.Stepper("low", "Mark from", form.Count), f.Stepper("top", "Mark to", form.Count),
		every("fault", "Fault", "any or none", faults, retired),
		every("tasted", "Tasted or measured", "either", []form.Option{{Value: "yes", Label: "yes"}, {Value: "no", Label: "no"}}, retired),
		every("traced", "With scale readings", "either", yes, retired), every("tried", "Run of a trial", "either", yes, retired)), nil
}

// saveFilter keeps the filter of an address under a name.
func (s *Screens) saveFilter(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	q, err := url.ParseQuery(f.Values["query"])
	if err != nil || len(f.Values["query"]) > 2000 {
		return form.ErrMalformed
	}
	query := address(q).Encode()
	name := f.Text("name", "The name", 40, true)
	saved, err := s.yard.Store.SavedFilters(r.Context(), page.PersonID(r))
	if err != nil {
		return err
	}
	if len(saved) >= store.MaxSavedFilters {
		f.Fail("name", "At most %d filters can be kept: remove one first.", store.MaxSavedFilters)
	}
	if !f.OK() {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "The filter was not kept", Text: f.Errors["name"]}
	}
	if err := s.yard.Store.SaveFilter(r.Context(), store.SavedFilter{Name: name, Query: query}, page.PersonID(r), s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/log?%s", query)
}

// dropFilter removes a saved filter.
func (s *Screens) dropFilter(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	if err := s.yard.Store.DropFilter(r.Context(), f.Values["id"], page.PersonID(r)); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/log")
}

// describeNone returns the sentence for a log without rows.
func describeNone(f store.Filter, filtered bool) string {
	switch {
	case f.Words != "":
		return fmt.Sprintf("No brew has the words “%s”%s.", units.Shorten(f.Words), map[bool]string{true: " and fits the filters"}[filtered])
	case filtered:
		return "No brew fits the filters."
	}
	return "No brew yet."
}
