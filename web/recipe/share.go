package recipe

import (
	"html/template"
	"net/http"

	"yardbloom/exchange"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// shareBody is the data of the page that gives a recipe to another yard.
type shareBody struct {
	ID, Name string
	Code     string
	QR       template.HTML // empty if the recipe is too long for a code
}

// share shows a recipe as a code that carries it.
func (s *Screens) share(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	code, picture, err := packedQR(sc)
	if err != nil {
		return err
	}
	body := shareBody{ID: sc.ID, Name: documentOf(sc).Name, Code: code, QR: picture}
	s.Render(w, r, http.StatusOK, "share", page.Page{Title: "Share " + body.Name, Station: "Recipe", Line: station.Line(sc, "Recipe"), Body: body})
	return nil
}

// documentOf returns the document of a recipe under the name that it is kept under, or else of its coffee.
func documentOf(sc *station.Scene) exchange.Recipe {
	doc := exchange.FromSheet(*sc.Sheet, sc.AgedAt())
	if sc.Draft != nil && sc.Draft.Name != "" {
		doc.Name = sc.Draft.Name
	}
	return doc
}

// packedQR returns a recipe as a packed text and as the QR code of it, which is empty if the text is too long.
func packedQR(sc *station.Scene) (code string, picture template.HTML, err error) {
	const most = 900 // characters: more makes modules too small for a printed card
	if code, err = exchange.Pack(documentOf(sc)); err != nil || len(code) > most {
		return code, "", err
	}
	picture, err = figure.QR(code)
	return code, picture, err
}
