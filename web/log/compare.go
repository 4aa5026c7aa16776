package log

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// compareBody is the comparison of some brews.
type compareBody struct {
	Brews   []comparedView
	SameBut string
	Gap     string // whether the largest difference is real
	Overlay []template.HTML
	ByPour  bool
	Other   string // the address with the other alignment
	Photos  bool   // some brew has any
	Traced  bool
	Differ  []comparedRow // fields that differ
	Cups    []comparedRow
	Sorry   string
}

type comparedView struct {
	ID, Letter, Name, When string
	Flower                 template.HTML
	Photos                 []page.Photo
}

// A comparedRow has a value for each brew.
type comparedRow struct {
	Name   string
	Values []string
}

// compare shows two to six brews together.
func (s *Screens) compare(w http.ResponseWriter, r *http.Request) error {
	q := r.URL.Query()
	var ids []string
	for _, id := range q["id"] {
		if !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	body := compareBody{ByPour: q.Get("align") == "pour"}
	var brews []brew.Brew
	for _, id := range ids[:min(len(ids), brew.MaxCompared)] {
		b, err := s.yard.Store.Brew(r.Context(), id)
		if errors.Is(err, store.ErrNotFound) {
			continue // it was deleted since, or never begun
		}
		if err != nil {
			return err
		}
		brews = append(brews, b.Preferring(page.PersonID(r)))
	}
	switch {
	case len(ids) > brew.MaxCompared:
		body.Sorry = fmt.Sprintf("Up to %d brews can be compared: these are the first of them.", brew.MaxCompared)
	case len(brews) < len(ids) && len(brews) >= 2:
		body.Sorry = "Some of the marked brews are no longer in the log."
	}
	if len(brews) < 2 {
		body.Sorry = "Mark two to six brews in the log."
	} else if err := s.fillComparison(r, &body, brews); err != nil {
		return err
	}
	other := url.Values{"id": ids}
	if !body.ByPour {
		other.Set("align", "pour")
	}
	body.Other = "/log/compare?" + other.Encode()
	s.Render(w, r, http.StatusOK, "compare", page.Page{Title: "Compare brews", Side: "log", Line: page.Line(""), Body: body})
	return nil
}

func (s *Screens) fillComparison(r *http.Request, body *compareBody, brews []brew.Brew) error {
	prefs := page.Prefs(r)
	overlay := figure.Overlay{ByPour: body.ByPour, Prefs: prefs}
	ids := make([]string, len(brews))
	for i, b := range brews {
		ids[i] = b.ID
	}
	photos, err := s.yard.Store.Photos(r.Context(), ids...)
	if err != nil {
		return err
	}
	body.Photos = len(photos) > 0
	for i, b := range brews {
		readings, err := s.yard.Store.Readings(r.Context(), b.ID)
		if err != nil {
			return err
		}
		letter := string(rune('A' + i))
		v := comparedView{b.ID, letter, b.Bag.Name, words.Moment(b.Started, s.yard.Now()), figure.Flower(b.Recipe.Dose, b.Plan.Steps, b.Cup.Drawdown),
			station.Thumbnails(photos[b.ID])}
		body.Brews, body.Traced = append(body.Brews, v), body.Traced || len(readings) > 0
		course := courseOf(b)
		course.Name, course.Letter, course.Trace = v.Name+", "+v.When, letter, readings
		overlay.Courses = append(overlay.Courses, course)
	}
	body.Overlay = overlay.Both()
	body.SameBut = brew.SameBut(brews)
	if gap, ok := brew.LargestGap(brews); ok {
		body.Gap = gap.Sentence()
		if len(brews) > 2 {
			body.Gap = fmt.Sprintf("Most apart are %s and %s. %s", body.Brews[gap.Low].Letter, body.Brews[gap.High].Letter, body.Gap)
		}
	} else {
		body.Gap = "Nothing was measured or marked in all of them, so nothing tells whether they differ."
	}
	body.Differ = differing(brews, prefs)
	body.Cups = cupRows(brews, prefs)
	return nil
}

// courseOf returns the pours of a brew as they were made.
func courseOf(b brew.Brew) figure.Course {
	c := figure.Course{Ends: b.Cup.Drawdown}
	for _, st := range b.At(b.Ended).Stages {
		if st.Kind == brew.Pouring && !st.Skipped {
			c.Pours = append(c.Pours, figure.CoursePour{Start: st.Entered, End: st.Left, From: st.From, To: st.Poured()})
		}
	}
	return c
}

// differing returns the facts of coffee, gear and recipe in which the brews differ, in the order of the record of a brew.
func differing(brews []brew.Brew, prefs units.Prefs) []comparedRow {
	var out []comparedRow
	for i, b := range brews {
		facts := append([]page.Fact{{Name: "Bag", Value: b.Bag.Name}, {Name: "Kettle", Value: b.Gear.Kettle.Name},
			{Name: "Brew water", Value: b.Gear.Water.Name}}, recipeFacts(b, prefs)...)
		facts = append(facts, page.Fact{Name: "Bloom", Value: bloomOf(b, prefs)})
		for _, fact := range facts {
			at := slices.IndexFunc(out, func(row comparedRow) bool { return row.Name == fact.Name })
			if at < 0 {
				at = len(out)
				out = append(out, comparedRow{fact.Name, make([]string, len(brews))})
			}
			out[at].Values[i] = fact.Value
		}
	}
	return slices.DeleteFunc(out, func(row comparedRow) bool {
		return !slices.ContainsFunc(row.Values[1:], func(v string) bool { return v != row.Values[0] })
	})
}

// bloomOf describes the bloom of a brew; empty without one.
func bloomOf(b brew.Brew, prefs units.Prefs) string {
	p := b.Recipe.Pours[0]
	if !p.Bloom || len(b.Recipe.Pours) < 2 {
		return ""
	}
	return fmt.Sprintf("%s for %s", prefs.Unit(units.Water).Format(float64(p.Water)), b.Recipe.Pours[1].Start)
}

// cupRows returns the measurements and tastings of the brews side by side.
func cupRows(brews []brew.Brew, prefs units.Prefs) []comparedRow {
	var out []comparedRow
	add := func(name string, of func(brew.Brew) string) {
		row := comparedRow{Name: name}
		for _, b := range brews {
			row.Values = append(row.Values, of(b))
		}
		if slices.ContainsFunc(row.Values, func(v string) bool { return v != "" }) {
			out = append(out, row)
		}
	}
	positive := func(there bool, text string) string {
		if there {
			return text
		}
		return ""
	}
	add("Drawdown", func(b brew.Brew) string { return positive(b.Cup.Drawdown > 0, b.Cup.Drawdown.String()) })
	add("Beverage", func(b brew.Brew) string {
		return positive(b.Cup.Beverage > 0, prefs.Unit(units.Water).Format(float64(b.Cup.Beverage)))
	})
	add("TDS", func(b brew.Brew) string { return positive(b.Cup.TDS > 0, fmt.Sprintf("%.2f %%", b.Cup.TDS)) })
	add("Extraction yield", func(b brew.Brew) string {
		y, ok := b.Yield()
		return positive(ok, y.String()+words.Simulated(b.Cup.Simulated))
	})
	add("Overall", func(b brew.Brew) string { return positive(b.Cup.Overall > 0, fmt.Sprintf("%d of 10", b.Cup.Overall)) })
	for _, scale := range cup.Scales() {
		add(scale.Name, func(b brew.Brew) string { return cup.Word(scale.Sense, b.Cup.Steps[scale.Sense]) })
	}
	add("Flavours", func(b brew.Brew) string { return strings.Join(b.Cup.Flavours, ", ") })
	add("Spent bed", func(b brew.Brew) string { return string(b.Cup.Bed) })
	add("Notes", func(b brew.Brew) string { return b.Cup.Notes })
	return out
}
