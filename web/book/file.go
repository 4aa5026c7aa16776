package book

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"yardbloom/exchange"
	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// bookFile serves the whole book in the open format.
func (s *Screens) bookFile(w http.ResponseWriter, r *http.Request) error {
	kept, err := s.yard.Store.Book(r.Context())
	if err != nil {
		return err
	}
	var book exchange.Book
	for _, k := range kept {
		d, _, err := s.yard.Store.Draft(r.Context(), k.ID)
		if err != nil {
			return err
		}
		doc := exchange.FromSheet(d.Sheet, s.yard.Now())
		doc.Name = d.Name
		book.Recipes = append(book.Recipes, doc)
	}
	page.Attach(w, "application/json", "recipes.json")
	return book.Write(w)
}

// importBook adds recipes from a file or from pasted text to the book, all or none: each to the coffee with its name if
// that is on the shelf, otherwise to the chosen one.
func (s *Screens) importBook(w http.ResponseWriter, r *http.Request) error {
	text := r.FormValue("text")
	if file, _, err := r.FormFile("file"); err == nil {
		defer file.Close()
		b, err := io.ReadAll(file)
		if err != nil {
			return err
		}
		text = string(b)
	}
	if strings.TrimSpace(text) == "" {
		return s.showBook(w, r, http.StatusUnprocessableEntity, bookBody{Error: "Choose a file, or paste a recipe."})
	}
	if r.FormValue("mend") != "" {
		text = string(exchange.FixTotals([]byte(text)))
	}
	docs, err := exchange.ReadAny(bytes.NewReader([]byte(text)))
	if say := words.RefusedFile(err); say != "" {
		return s.showBook(w, r, http.StatusUnprocessableEntity,
			bookBody{Error: say, Text: text, Mend: errors.Is(err, exchange.ErrTotal), Bag: r.FormValue("bag")})
	}
	if err != nil {
		return err
	}
	bags, err := s.shelfByName(r)
	if err != nil {
		return err
	}
	recipes := make([]yard.ForBag, len(docs))
	for i, doc := range docs {
		recipes[i] = yard.ForBag{Recipe: doc, BagID: cmp.Or(bags[strings.ToLower(doc.Coffee.Name)], r.FormValue("bag"))}
		if !store.ValidID(recipes[i].BagID) {
			return s.showBook(w, r, http.StatusUnprocessableEntity, bookBody{Error: "Choose which coffee the recipe is for.", Text: text})
		}
	}
	added, err := s.yard.AddToBook(r.Context(), recipes, page.Settings(r))
	var one yard.RecipeError
	if errors.As(err, &one) {
		if say := words.RefusedFile(one.Err); say != "" {
			if len(docs) > 1 {
				say = fmt.Sprintf("Recipe %d of %d: %s None were added.", one.Index+1, len(docs), say)
			}
			return s.showBook(w, r, http.StatusUnprocessableEntity, bookBody{Error: say, Text: text, Bag: r.FormValue("bag")})
		}
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/book?added=%d&same=%d", added, len(docs)-added)
}
