package log

import (
	"net/http"
	"net/url"
	"slices"
	"strings"

	"yardbloom/core/person"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// whoOf returns who brewed and who tasted a brew; nil in a yard of one person.
func whoOf(r *http.Request, sc *station.Scene) *whoView {
	set := page.Settings(r)
	if !set.ByName() {
		return nil
	}
	// choice offers the people of the yard, the yard itself and the present one, who may be archived.
	choice := func(name, label, present string) form.Field {
		all := append(set.People(), person.Person{Name: "the yard"})
		f := form.Field{Name: name, Label: label}
		known := false
		for _, p := range all {
			f.Options = append(f.Options, form.Option{Value: p.ID, Label: p.Name, Selected: p.ID == present})
			known = known || p.ID == present
		}
		if !known {
			f.Options = append(f.Options, form.Option{Value: present, Label: page.NameOf(r, present), Selected: true})
		}
		return f
	}
	v := &whoView{Brewed: choice("brewed_by", "Brewed by", sc.Brew.BrewedBy)}
	var others []string
	for _, e := range sc.Brew.Events {
		if name := set.Named(e.By).Name; e.By != sc.Brew.BrewedBy && name != "" && !slices.Contains(others, name) {
			others = append(others, name)
		}
	}
	v.Tapped, v.Measured = strings.Join(others, ", "), set.Named(sc.Brew.MeasuredBy).Name
	for _, t := range sc.Brew.Tastings {
		seen := sc.Brew.For(t.Taster)
		one := tastingView{Badge: page.Badge{Person: station.Named(r, t.Taster)}, Says: words.Taste(seen.Cup.Taste), Notes: seen.Cup.Notes,
			Href: "/brews/" + sc.ID + "/next?" + url.Values{"for": {t.Taster}}.Encode(), Shown: t.Taster == sc.Brew.Taster,
			Taster: choice("taster", "Tasted by", t.Taster)}
		if t.Advice != nil {
			one.Advice = t.Advice.Summary()
		}
		v.Tastings = append(v.Tastings, one)
	}
	return v
}
