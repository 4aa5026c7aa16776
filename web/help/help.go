package help

import (
	"html/template"
	"net/http"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// pictures draws the pictures of the glossary.
var pictures = map[words.Picture]func(units.Prefs) template.HTML{
	words.GrindSizes:   figure.GrindSizes,
	words.PourHeights:  figure.PourHeights,
	words.PourPatterns: func(units.Prefs) template.HTML { return figure.PourPatterns() },
	words.OpenCone:     section(gear.OpenCone),
	words.FlatBed:      section(gear.FlatBed),
	words.HeavyCone:    section(gear.HeavyCone),
	words.ValveSteeper: section(gear.ValveSteeper),
	words.BedShapes:    func(units.Prefs) template.HTML { return figure.BedShapes() },
}

// section draws a kind of brewer cut open.
func section(k gear.BrewerKind) func(units.Prefs) template.HTML {
	return func(units.Prefs) template.HTML { return figure.Section(k) }
}

type entry struct {
	words.Term
	Drawing template.HTML
}

type glossaryBody struct {
	Search  string
	Entries []entry
}

// maxSearch is the longest text that is searched, in bytes.
const maxSearch = 100

// glossary lists the terms of the trade, or those that match a search.
func (s *Screens) glossary(w http.ResponseWriter, r *http.Request) error {
	body := glossaryBody{Search: r.URL.Query().Get("q")}
	if len(body.Search) <= maxSearch {
		for _, t := range words.Search(body.Search) {
			e := entry{Term: t}
			if draw := pictures[t.Picture]; draw != nil {
				e.Drawing = draw(page.Prefs(r))
			}
			body.Entries = append(body.Entries, e)
		}
	}
	s.Render(w, r, http.StatusOK, "glossary", page.Page{Title: "Glossary", Side: "glossary", Line: page.Line(""), Body: body})
	return nil
}

// keys lists the shortcuts.
func (s *Screens) keys(w http.ResponseWriter, r *http.Request) error {
	s.Render(w, r, http.StatusOK, "keys", page.Page{Title: "Keys", Side: "keys", Line: page.Line("")})
	return nil
}

// endWalk ends the walk through the demo yard on this screen.
func (s *Screens) endWalk(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	page.EndWalk(w)
	return page.SeeOther(w, r, "%s", page.LocalPath(f.Values["back"]))
}
