package help

import (
	"net/http"

	"yardbloom/web/page"
	"yardbloom/web/words"
)

// glossary lists the terms of the trade.
func (s *Screens) glossary(w http.ResponseWriter, r *http.Request) error {
	s.Render(w, r, http.StatusOK, "glossary", page.Page{Title: "Glossary", Side: "glossary", Line: page.Line(""), Body: words.Glossary()})
	return nil
}

// keys lists the shortcuts.
func (s *Screens) keys(w http.ResponseWriter, r *http.Request) error {
	s.Render(w, r, http.StatusOK, "keys", page.Page{Title: "Keys", Side: "keys", Line: page.Line("")})
	return nil
}
